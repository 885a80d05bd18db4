/* eslint-disable @typescript-eslint/no-explicit-any -- tests read answers as an outside tool does: by member */
import { beginAgreement, usualKinds } from '@bench-wake/core/rounds'
import { unzipSync } from 'fflate'
import { createHash } from 'node:crypto'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { demoServer, endChildren, seededFolder } from './server.test-support'

/*
 * Rounds through the public paths: the launch's case as the demo has it, and one of a unit that is no stand-in, with images
 * made here.
 */
endChildren()
let server: Awaited<ReturnType<typeof demoServer>>
beforeAll(async () => {
  server = await demoServer(seededFolder())
})
afterAll(() => server.stop())

const by = 'R. Lund'
const good = ({ status, body }: { status: number; body: any }) => {
  if (status >= 400) throw new Error(JSON.stringify(body))
  return body
}
const post = (path: string, body: unknown) => server.send('POST', path, body)
const theCase = () => server.get('/cases/case-launch-3').then(good)
async function upload(
  path: string,
  name: string,
  bytes: Uint8Array | string,
  fields: Record<string, string> = {},
) {
  const form = new FormData()
  form.append('file', new File([bytes as string], name))
  for (const [key, value] of Object.entries(fields)) form.append(key, value)
  const answer = await fetch(`${server.address}/api${path}`, { method: 'POST', body: form })
  return { status: answer.status, body: (await answer.json()) as any }
}

describe('the launch’s case as the demo has it', () => {
  it('has four rounds that were answered and one to write, each nearer to its aim', async () => {
    const { state, errors, logs, practice } = await theCase()
    expect(state.rounds.map((round: any) => round.state)).toEqual([
      'answered',
      'answered',
      'answered',
      'answered',
      'to-write',
    ])
    expect(state.next).toEqual({ does: 'write', round: 5 })
    expect(logs).toHaveLength(12)
    expect(practice).toBe(true)
    const rms = errors.map((each: any) => each.rms)
    expect([...rms].sort((a: number, b: number) => b - a)).toEqual(rms)
    // The rope that was found after the second round shows as spread, and is gone in the third.
    expect(errors[1].spread).toBeGreaterThan(errors[2].spread * 1.5)
  })

  it('says what each image changes: cells of one table, and nothing outside of the calibration', async () => {
    const changes = good(await server.get('/cases/case-launch-3/rounds/2/changes'))
    expect(changes.tables.map((table: any) => table.id)).toEqual(['current'])
    expect(changes.findings).toMatchObject([{ rule: 'calibration-only', level: 'go' }])
    expect(good(await server.get('/cases/case-launch-3/rounds/1/changes'))).toBeNull()
    expect((await server.get('/cases/case-launch-3/rounds/9/changes')).status).toBe(404)
  })

  it('gives the package as it went out, with every digest in it right', async () => {
    const { state, logs } = await theCase()
    const { sha256 } = state.rounds[1].sent
    const answer = await fetch(`${server.address}/api/cases/case-launch-3/packages/${sha256}`)
    const zip = new Uint8Array(await answer.arrayBuffer())
    // Node's own digest, and fflate's own reader of ZIP.
    expect(createHash('sha256').update(zip).digest('hex')).toBe(sha256)
    const files = unzipSync(zip)
    const digests = new TextDecoder().decode(files['digests.txt']).trim().split('\n')
    expect(digests).toHaveLength(Object.keys(files).length - 1)
    for (const line of digests) {
      const [digest, name] = line.split('  ') as [string, string]
      expect(createHash('sha256').update(files[name]!).digest('hex')).toBe(digest)
    }
    const own = logs.filter((log: any) => log.round === 2).map((log: any) => log.sha256)
    const inside = Object.keys(files)
      .filter((name) => name.startsWith('logs/'))
      .map((name) => createHash('sha256').update(files[name]!).digest('hex'))
    expect(inside.sort()).toEqual(own.sort())
    const letter = new TextDecoder().decode(files['read-me.txt'])
    expect(letter).toContain('Rope cut off the propeller')
    expect(letter).toContain('Surges less')
    expect((await server.get(`/cases/case-launch-3/packages/${'0'.repeat(64)}`)).status).toBe(404)
  })

  it('its images are offered to no other launch (PRACTICE B8)', async () => {
    const job = good(await server.get('/jobs/job-launch-2'))
    expect(JSON.stringify(job.need)).not.toMatch(/4\.1\.\d/)
    const { state } = await theCase()
    const other = good(
      await post('/jobs', {
        unitId: 'launch-2',
        imageId: state.rounds[4].imageId,
        reason: 'tried on the other launch',
        day: '2026-11-27',
      }),
    )
    const { gates } = good(await server.get(`/jobs/${other.id}/ready`))
    const fit = gates.find((gate: any) => gate.id === 'fit')
    expect(fit.verdict).toBe('stop')
    expect(fit.findings.map((finding: any) => finding.rule)).toContain('other-units-calibration')
  })

  it('takes no log before its image is proved, and sends nothing before the logs are good', async () => {
    const early = await upload('/cases/case-launch-3/logs', 'idle.csv', 'time,a\n0,1\n1,2\n2,3\n', {
      kind: 'idle',
      by,
    })
    expect(early).toMatchObject({ status: 409, body: { kind: 'not-written' } })
    const record = { port: 'stand-in:launch-3', logKind: 'idle', by, speed: 0 }
    expect(await post('/cases/case-launch-3/recording', { ...record, looked: true })).toMatchObject({
      status: 409,
      body: { kind: 'not-written' },
    })
    // Nobody looked at the adapter.
    expect(await post('/cases/case-launch-3/recording', record)).toMatchObject({
      status: 400,
      body: { place: { at: 'looked' } },
    })
    expect(good(await server.get('/cases/case-launch-3/recording'))).toBeNull()
    expect(await post('/cases/case-launch-3/send', { symptoms: '', by })).toMatchObject({
      status: 409,
      body: { kind: 'not-ready' },
    })
    expect(await post('/cases/case-launch-3/stand-in/answer', { by })).toMatchObject({
      body: { kind: 'not-sent' },
    })
  })
})

describe('the job of a round', () => {
  it('stops where its image is exchanged for another, and goes on with its own (PRACTICE B10)', async () => {
    const { state } = await theCase()
    const { jobId } = good(await post('/cases/case-launch-3/job', { by, day: '2026-11-27' }))
    // Asked for once more it is the same job.
    expect(good(await post('/cases/case-launch-3/job', { by, day: '2026-11-28' }))).toEqual({ jobId })
    const rules = async (imageId: string) => {
      good(await server.send('PATCH', `/jobs/${jobId}`, { imageId }))
      const { gates } = good(await server.get(`/jobs/${jobId}/ready`))
      const { findings } = gates.find((gate: any) => gate.id === 'fit')
      return findings.map(({ rule, level }: any) => `${rule} ${level}`)
    }
    expect(await rules(state.rounds[0].imageId)).toContain('calibration-image stop')
    const own = await rules(state.rounds[4].imageId)
    expect(own).toContain('calibration-only go')
    expect(own.filter((each: string) => each.endsWith('stop'))).toEqual([])
  })

  it('a log that nothing holds is not released, and one that is not there is not found', async () => {
    const { logs } = await theCase()
    const word = { why: 'it rests there', by }
    expect(await post(`/cases/case-launch-3/logs/${logs[0].id}/accept`, word)).toMatchObject({
      status: 409,
      body: { kind: 'log-stopped' },
    })
    for (const act of ['accept', 'leave-out'])
      expect((await post(`/cases/case-launch-3/logs/log-none/${act}`, word)).status).toBe(404)
  })
})

describe('a revision that comes', () => {
  let base: Uint8Array
  let definitionId: string
  beforeAll(async () => {
    const { state } = await theCase()
    definitionId = state.rounds[4].definitionId
    const bytes = await fetch(`${server.address}/api/images/${state.rounds[4].imageId}/bytes?format=file`)
    base = new Uint8Array(await bytes.arrayBuffer())
  })
  const look = async (change: (bytes: Uint8Array) => void, definition: string | null = definitionId) => {
    const bytes = base.slice()
    change(bytes)
    const image = good(await upload('/images', 'next.bin', bytes, { address: '0x10000' }))
    return {
      image,
      findings: good(
        await post('/cases/case-launch-3/revisions/look', { imageId: image.id, definitionId: definition }),
      ) as any[],
    }
  }
  const levels = (findings: any[]) => findings.map(({ rule, level }) => `${rule} ${level}`)

  it('may change the calibration', async () => {
    const { findings } = await look((bytes) => (bytes[0x4001]! ^= 1))
    expect(levels(findings)).toEqual([
      'definition-signature go',
      'tables-plausible go',
      'calibration-only go',
    ])
  })
  it('is stopped when it changes one byte of the program, and is not taken in', async () => {
    const { findings, image } = await look((bytes) => (bytes[0x3fff]! ^= 1))
    expect(levels(findings)).toContain('calibration-only stop')
    const taken = await post('/cases/case-launch-3/revisions', {
      imageId: image.id,
      definitionId,
      remarks: '',
      by,
      despite: 'a stop cannot be released',
    })
    expect(taken).toMatchObject({ status: 409, body: { kind: 'revision-stopped' } })
    expect((await theCase()).state.rounds).toHaveLength(5)
  })
  it('is stopped when the definition is not its own', async () => {
    const { findings } = await look((bytes) => (bytes[0x114]! ^= 1))
    expect(levels(findings)).toContain('definition-signature stop')
  })
  it('is held without a definition and with the same bytes, until a person says why', async () => {
    const { findings, image } = await look((bytes) => (bytes[0x4003]! ^= 1), null)
    expect(levels(findings)).toEqual(['no-definition hold'])
    expect(
      await post('/cases/case-launch-3/revisions', {
        imageId: image.id,
        definitionId: null,
        remarks: '',
        by,
      }),
    ).toMatchObject({ status: 409, body: { kind: 'revision-held' } })
    const { state } = await theCase()
    const same = good(
      await post('/cases/case-launch-3/revisions/look', { imageId: state.rounds[4].imageId, definitionId }),
    )
    expect(levels(same)).toContain('revision-same hold')
  })
})

describe('a case of a unit nobody here has seen', () => {
  let id: string
  const agreement = {
    ...beginAgreement('combustion'),
    title: 'Runs rich',
    calibrator: 'Somebody far away',
    kinds: usualKinds('Load').slice(0, 1),
  }
  beforeAll(async () => {
    const unit = good(
      await post('/units', {
        familyId: 'launch-motor',
        name: 'A visitor’s motor',
        place: 'Quay',
        serial: 'V-1',
      }),
    )
    id = good(await post('/cases', { unitId: unit.id, agreement, by })).id
  })
  it('begins with an image, and is no practice', async () => {
    const view = good(await server.get(`/cases/${id}`))
    expect(view.state.next).toEqual({ does: 'receive', after: 'opening' })
    expect(view.practice).toBe(false)
    expect(await post(`/cases/${id}/stand-in/log`, { logKind: 'idle', by })).toMatchObject({
      body: { kind: 'no-stand-in' },
    })
    expect(await post(`/cases/${id}/job`, { by, day: '2026-11-27' })).toMatchObject({
      body: { kind: 'no-revision' },
    })
    expect(await post(`/cases/${id}/machine-changes`, { says: 'x', by })).toMatchObject({
      body: { kind: 'no-revision' },
    })
  })
  it('refuses an agreement with a fault by its field', async () => {
    const answer = await post('/cases', { unitId: 'launch-3', agreement: { ...agreement, channels: [] }, by })
    expect(answer).toMatchObject({ status: 400, body: { place: { at: 'agreement.channels' } } })
    expect((await post('/cases', { unitId: 'nobody', agreement, by })).status).toBe(404)
  })
  it('closes once, and opens again', async () => {
    const close = () => post(`/cases/${id}/close`, { by, outcome: 'mechanical', says: 'an intake leak' })
    good(await close())
    expect(await close()).toMatchObject({ status: 409, body: { kind: 'case-closed' } })
    good(await post(`/cases/${id}/reopen`, { by, why: 'it was not the leak' }))
    expect(await post(`/cases/${id}/reopen`, { by, why: 'twice' })).toMatchObject({
      body: { kind: 'case-open' },
    })
  })
})

describe('definitions', () => {
  it('are refused with the path of the field', async () => {
    expect(await post('/definitions', { format: 'bench-wake/definition', formatVersion: 1 })).toMatchObject({
      status: 422,
      body: { kind: 'definition', place: { at: 'name' } },
    })
  })
  it('come from a list as well, and read the image', async () => {
    const { id } = good(
      await post('/definitions/from-list', {
        name: 'By list',
        signature: { address: '0x00010114', ascii: 'L-204' },
        regions: [{ use: 'calibration', address: '0x00014000', length: '0x1000' }],
        list: 'Name;Address;Type;Byte order;Factor;Unit\nRamp;0x14120;u16;big;1;%/s\n',
      }),
    )
    const { state } = await theCase()
    const tables = good(await server.get(`/definitions/${id}/tables/${state.rounds[0].imageId}`))
    expect(tables).toMatchObject([{ name: 'Ramp', unit: '%/s', cells: [120] }])
    good(await server.send('DELETE', `/definitions/${id}`, {}))
    expect((await server.get(`/definitions/${id}`)).status).toBe(404)
  })
  it('stay where a round rests on them', async () => {
    expect(await server.send('DELETE', '/definitions/definition-lm80-l204', {})).toMatchObject({
      status: 409,
      body: { kind: 'in-use' },
    })
  })
})
