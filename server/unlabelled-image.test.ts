/* eslint-disable @typescript-eslint/no-explicit-any -- tests read answers as an outside tool does: by member */
import { writeIntelHex, type MemoryMap } from '@bench-wake/core/image'
import { tideGateProfile } from '@bench-wake/testing/tide-gate-profile'
import { spawn } from 'node:child_process'
import { createHash } from 'node:crypto'
import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { runProgram } from './program'
import { endChildren, scratchFolder, talker, tended } from './server.test-support'
import { readSettings } from './settings'

/*
 * Images that carry no label at all, for a unit written from a manual page (e2e/peers): what they are is a person's word, a
 * text, or the list of releases. Digests are Node's own.
 */
endChildren()
const folder = scratchFolder()
const memory = join(folder, 'memory')
/** The tide gate's profile without a word on how its images say what they are. */
const profile = structuredClone(tideGateProfile) as any
delete profile.components[0].identity
const plain = (seed: number, text = ''): MemoryMap => {
  const bytes = Uint8Array.from({ length: 0x2000 }, (_, at) => (at * 31 + seed * 7 + (at >> 8)) & 0xff)
  bytes.set(Buffer.from(text), 0x40)
  return [{ address: 0x8000, bytes }]
}
const image = plain(1)
let server: Awaited<ReturnType<typeof runProgram>> & ReturnType<typeof talker>
let port: string

beforeAll(async () => {
  writeFileSync(memory, plain(9)[0]!.bytes)
  const peer = join(import.meta.dirname, '../e2e/peers/prompt_console.py')
  const unit = tended(spawn('python3', [peer, memory], { stdio: ['ignore', 'pipe', 'inherit'] }))
  const path = await new Promise<string>((resolve) => createInterface(unit.stdout!).once('line', resolve))
  port = `serial:${path}`
  const settings = readSettings({ PORT: '0', BENCH_WAKE_DATA: join(folder, 'data'), BENCH_WAKE_PORTS: path })
  const program = await runProgram(settings, { demo: false })
  server = { ...program, ...talker(`${program.address}/api`) }
})
afterAll(() => server.stop())

const given = ({ status, body }: { status: number; body: any }) => {
  if (status >= 400) throw new Error(JSON.stringify(body))
  return body
}
const statement = {
  familyId: 'tide-gate',
  componentId: 'main',
  version: '1.4',
  by: 'A. Lund',
  from: 'The supplier’s letter of March.',
}

describe('an image without a label', () => {
  let imageId: string
  let unitId: string
  let jobId: string
  it('is nobody’s at first, and the shelf says what to do about it', async () => {
    given(await server.send('POST', '/families', profile))
    const { images } = given(await server.upload('gate.hex', writeIntelHex(image)))
    imageId = images[0].id
    expect(images[0].identity).toBeNull()
    expect(images[0].findings[0]).toMatchObject({
      rule: 'image-known',
      level: 'hold',
      remedy: expect.stringMatching(/say what it is/),
    })
    const unit = given(
      await server.send('POST', '/units', {
        familyId: 'tide-gate',
        name: 'North gate',
        place: 'North sluice',
        serial: 'TG4-0117',
      }),
    )
    unitId = unit.id
    given(await server.send('POST', `/units/${unitId}/snapshots`, { port, looked: ['adapter-chosen'] }))
    const { verdict, findings } = given(await server.send('POST', '/fit', { unitId, imageId }))
    expect(verdict).toBe('stop')
    expect(findings[0].remedy).toMatch(/what it is and where you know it from/)
  })
  it('a word about it is refused that names no family, part or hardware there is', async () => {
    const say = (change: object) =>
      server.send('POST', `/images/${imageId}/statement`, { ...statement, ...change })
    expect((await say({ familyId: 'none' })).status).toBe(404)
    expect(await say({ componentId: 'wing' })).toMatchObject({
      status: 400,
      body: { place: { at: 'componentId' }, expected: 'main' },
    })
    expect(await say({ hardwareMajor: 9 })).toMatchObject({
      status: 400,
      body: { place: { at: 'hardwareMajor' } },
    })
    expect((await say({ by: '' })).status).toBe(400)
    expect((await say({ from: '' })).status).toBe(400)
    expect(given(await server.get(`/images/${imageId}`)).identity).toBeNull()
  })
  it('with a person’s word it is held until somebody answers for it, then written and proved', async () => {
    const said = given(await server.send('POST', `/images/${imageId}/statement`, statement))
    expect(said.identity).toMatchObject({ toldBy: 'person', version: '1.4', statement: { by: 'A. Lund' } })
    const job = given(
      await server.send('POST', '/jobs', {
        unitId,
        imageId,
        kind: 'feature',
        reason: 'Shuts a minute earlier.',
        day: new Date().toISOString().slice(0, 10),
      }),
    )
    jobId = job.id
    given(
      await server.send('PUT', `/jobs/${jobId}/bench`, {
        laptop: { onMains: true, minutesLeft: null },
        measured: { volts: 12.6, shed: [], charger: null },
        isolation: { alone: true },
      }),
    )
    const { gates } = given(await server.get(`/jobs/${jobId}/ready?port=${encodeURIComponent(port)}`))
    const findings = gates.flatMap((gate: any) => gate.findings) as any[]
    expect(findings.filter(({ level }) => level === 'stop')).toEqual([])
    expect(findings.find(({ rule }) => rule === 'image-known')).toMatchObject({
      level: 'hold',
      says: expect.stringContaining('A. Lund says'),
      because: expect.stringContaining('letter of March'),
    })
    const releasesBut = (rule: string) =>
      findings
        .filter(({ level, rule: own }) => level === 'hold' && own !== rule)
        .map((finding) => ({ rule: finding.rule, name: 'B. Quill', reason: 'a test' }))
    expect(
      (await server.send('POST', '/runs', { jobId, port, releases: releasesBut('image-known') })).status,
    ).toBe(409)
    const run = given(await server.send('POST', '/runs', { jobId, port, releases: releasesBut('none') }))
    const state = await server.follow(run.id)
    expect(state.problem).toBeNull()
    expect(state.outcome).toBe('proved')
    expect(state.facts.image.known).toMatch(/A\. Lund says so.*letter of March/)
    const { bytes } = image[0]!
    expect(Buffer.compare(readFileSync(memory).subarray(0, bytes.length), bytes)).toBe(0)
  })
  it('is told by its digest once the profile lists it; a word that differs is a stop', async () => {
    const sha256 = createHash('sha256').update(writeIntelHex(image)).digest('hex')
    given(
      await server.send('POST', '/families', {
        ...profile,
        revision: 2,
        releases: [{ sha256, version: '1.4', hardware: 2 }],
      }),
    )
    const listed = given(await server.get(`/images/${imageId}`))
    expect(listed.identity).toMatchObject({ toldBy: 'release', version: '1.4', hardwareMajor: 2 })
    expect(listed.findings[0]).toMatchObject({ rule: 'image-known', level: 'go' })
    given(await server.send('POST', `/images/${imageId}/statement`, { ...statement, version: '1.5' }))
    const { verdict, findings } = given(await server.send('POST', '/fit', { unitId, imageId }))
    expect(verdict).toBe('stop')
    expect(findings.find(({ rule }: any) => rule === 'ways-agree').because).toMatch(/1\.4.*1\.5/)
    given(await server.send('DELETE', `/images/${imageId}/statement`, {}))
    expect(given(await server.get(`/images/${imageId}`)).identity.contradictions).toBeUndefined()
  })
  it('is told by a text around its version, once the profile names it', async () => {
    const texted = plain(2, 'GATE FW v1.6 (north)')
    const { images } = given(await server.upload('gate-b.hex', writeIntelHex(texted)))
    expect(images[0].identity).toBeNull()
    const [component] = profile.components
    given(
      await server.send('POST', '/families', {
        ...profile,
        revision: 3,
        components: [{ ...component, versionText: ['GATE FW v{version} '] }],
      }),
    )
    expect(given(await server.get(`/images/${images[0].id}`)).identity).toMatchObject({
      toldBy: 'text',
      version: '1.6',
    })
  })
})

describe('a list of releases', () => {
  const sha256 = 'ab'.repeat(32)
  const read = (text: string) => server.send('POST', '/families/releases', { text })
  it('is read from a table in the dialects of spreadsheets, and from JSON', async () => {
    const wanted = { releases: [{ sha256, version: '1.4', notes: 'Shuts, "softly"; at last' }], faults: [] }
    // RFC 4180 with commas, and what spreadsheets write where a comma is the decimal sign, with a byte order mark.
    const quoted = '"Shuts, ""softly""; at last"'
    expect(given(await read(`version,sha256,notes\r\n1.4,${sha256},${quoted}\r\n`))).toEqual(wanted)
    expect(
      given(await read(`\ufeffVersion;Checksum;Remarks\n1.4;${sha256.toUpperCase()};${quoted}\n\n`)),
    ).toEqual(wanted)
    expect(given(await read(JSON.stringify(wanted.releases)))).toEqual(wanted)
    expect(given(await read(JSON.stringify({ releases: wanted.releases })))).toEqual(wanted)
  })
  it('names each row that is wrong, and is refused where it is no list at all', async () => {
    expect(given(await read(`version,sha256\n1.4,${sha256}\n1.5,12\n`)).faults).toEqual([
      { row: 2, says: expect.stringContaining('sha256') },
    ])
    for (const text of ['', 'nothing', '{', '{"format":1}', '[1'])
      expect(await read(text), text).toMatchObject({ status: 400, body: { kind: 'input' } })
  })
  it('comes out as a table again', async () => {
    given(
      await server.send('POST', '/families', {
        ...profile,
        revision: 4,
        releases: [{ sha256, version: '=1.4' }],
      }),
    )
    const answer = await fetch(`${server.address}/api/families/tide-gate/releases`)
    expect(answer.headers.get('content-type')).toMatch(/text\/csv/)
    // A cell that begins like a formula is defused for spreadsheets (OWASP, CSV injection).
    expect(await answer.text()).toBe(`version,component,hardware,date,sha256,notes\r\n"'=1.4",,,,${sha256},`)
  })
})
