/* eslint-disable @typescript-eslint/no-explicit-any -- tests read answers as an outside tool does: by member */
import { readFamily } from '@bench-wake/core/family'
import { writeIntelHex } from '@bench-wake/core/image'
import { placed } from '@bench-wake/standins'
import { tideGateProfile } from '@bench-wake/testing/tide-gate-profile'
import { spawn } from 'node:child_process'
import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { runProgram } from './program'
import { endChildren, scratchFolder, talker, tended } from './server.test-support'
import { readSettings } from './settings'

/*
 * A unit that nobody here has seen, from an empty data folder to its proof: the tide gate of e2e/peers, written in Python's
 * standard library, at the far end of a real pseudo-terminal. Its profile is data; no code of this program knows it.
 */
endChildren()
const folder = scratchFolder()
const memory = join(folder, 'memory')
const peers = join(import.meta.dirname, '../e2e/peers')
const family = readFamily(tideGateProfile)
const imageOf = (version: string) =>
  placed(family, {
    component: 'main',
    length: 0x2f00,
    fields: { deviceIdentifier: 'TG-4', hardwareMajor: 2, version },
  })
const image = imageOf('1.4')
let server: Awaited<ReturnType<typeof runProgram>> & ReturnType<typeof talker>
let port: string

beforeAll(async () => {
  // What is in it when it comes.
  writeFileSync(memory, imageOf('1.3')[0]!.bytes)
  const unit = tended(
    spawn('python3', [join(peers, 'prompt_console.py'), memory], { stdio: ['ignore', 'pipe', 'inherit'] }),
  )
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

describe('one operation tried by itself, before anything is kept', () => {
  const ask = (form: object) =>
    server.send('POST', '/families/try', {
      document: tideGateProfile,
      linkId: 'console',
      port,
      looked: ['adapter-chosen'],
      ...form,
    })
  it('tells each step with what was sent and heard, and what it gave', async () => {
    const trial = given(await ask({ operation: 'page' }))
    expect(trial.problem).toBeUndefined()
    expect(trial.lines).toEqual(['device TG-4', 'board 2', 'fw 1.3', 'serial TG4-0117'])
    // "ver" and a carriage return.
    expect(trial.events[0]).toMatchObject({ at: 'page.0', sent: '7665720d' })
    expect(Buffer.from(trial.events[1].heard, 'hex').toString()).toContain('fw 1.3')
  })
  it('of one that fails names the step, and what was sent, awaited and heard', async () => {
    const document = structuredClone(tideGateProfile) as any
    document.links[0].drive.operations.page.steps[0].text = 'vers\r'
    const { problem } = given(await ask({ document, operation: 'page' }))
    expect(problem).toMatchObject({ kind: 'unit-refused', place: { at: 'page.1' }, found: 'unknown' })
    expect(problem.says).toContain('"vers\\r"')
  })
  it('writes nothing: what erases, writes or starts is refused, and so is a profile with a fault', async () => {
    for (const operation of ['erase', 'write', 'start', 'unlock', 'check', 'dryRun'])
      expect((await ask({ operation })).status, operation).toBe(400)
    const document = structuredClone(tideGateProfile) as any
    document.links[0].drive.operations.attach.steps[0].text = '{pin}'
    expect(await ask({ document, operation: 'attach' })).toMatchObject({
      status: 422,
      body: { kind: 'family-profile', place: { at: 'links.0.drive.operations.attach.steps.0' } },
    })
    expect(await ask({ operation: 'identify', linkId: 'other' })).toMatchObject({ body: { kind: 'no-link' } })
  })
})

describe('a unit that was taught by data alone', () => {
  it('is read, judged, entered, erased, written, proved and recorded', async () => {
    given(await server.send('POST', '/families', tideGateProfile))
    const unit = given(
      await server.send('POST', '/units', {
        familyId: 'tide-gate',
        name: 'North gate',
        place: 'North sluice',
        serial: 'TG4-0117',
      }),
    )
    const saved = given(
      await server.send('POST', `/units/${unit.id}/snapshots`, { port, looked: ['adapter-chosen'] }),
    )
    expect(JSON.stringify(saved)).toContain('"1.3"')
    const { images } = given(await server.upload('tide-gate-1.4.hex', writeIntelHex(image)))
    const job = given(
      await server.send('POST', '/jobs', {
        unitId: unit.id,
        imageId: images[0].id,
        kind: 'feature',
        reason: 'Shuts a minute earlier.',
        day: new Date().toISOString().slice(0, 10),
      }),
    )
    given(
      await server.send('PUT', `/jobs/${job.id}/bench`, {
        laptop: { onMains: true, minutesLeft: null },
        measured: { volts: 12.6, shed: [], charger: null },
        isolation: { alone: true },
      }),
    )
    const { gates } = given(await server.get(`/jobs/${job.id}/ready?port=${encodeURIComponent(port)}`))
    const findings = gates.flatMap((gate: any) => gate.findings) as any[]
    expect(findings.filter(({ level }) => level === 'stop')).toEqual([])
    // Steps that no unit was ever written by hold the run until somebody answers for them.
    expect(findings.find(({ rule }) => rule === 'script-tried')).toMatchObject({
      level: 'hold',
      says: 'No unit was ever written by the steps of this link.',
    })
    expect((await server.send('POST', '/runs', { jobId: job.id, port })).status).toBe(409)
    const releases = findings
      .filter(({ level }) => level === 'hold')
      .map(({ rule }) => ({ rule, name: 'A. Lund', reason: 'a test' }))
    const run = given(await server.send('POST', '/runs', { jobId: job.id, port, releases }))
    const state = await server.follow(run.id)
    expect(state.problem).toBeNull()
    expect(state.outcome).toBe('proved')
    expect(state.verified).toMatchObject({ outcome: 'equal-checksum', by: 'CRC-16/IBM-3740' })
    // The truth is what lies in the unit, as it keeps it itself.
    const lies = readFileSync(memory)
    for (const { address, bytes } of image)
      expect(Buffer.compare(lies.subarray(address - 0x8000, address - 0x8000 + bytes.length), bytes)).toBe(0)
    const after = given(await server.get(`/units/${unit.id}`))
    expect(JSON.stringify(after.snapshots[0])).toContain('"1.4"')
  })
  it('is practised on a stand-in made from its profile, with no word of it on the unit itself', async () => {
    const [own] = given(await server.get('/units'))
    const before = given(await server.get(`/units/${own.id}`)).snapshots.length
    const { images } = given(await server.upload('tide-gate-1.5.hex', writeIntelHex(imageOf('1.5'))))
    const job = given(
      await server.send('POST', '/jobs', {
        unitId: own.id,
        imageId: images[0].id,
        kind: 'feature',
        reason: 'The next release.',
        day: new Date().toISOString().slice(0, 10),
      }),
    )
    given(
      await server.send('PUT', `/jobs/${job.id}/bench`, {
        laptop: { onMains: true, minutesLeft: null },
        measured: { volts: 12.6, shed: [], charger: null },
        isolation: { alone: true },
      }),
    )
    const practice = given(await server.send('POST', `/units/${own.id}/practice`, { jobId: job.id }))
    const twin = `stand-in:${practice.unitId}`
    const { gates } = given(await server.get(`/jobs/${practice.jobId}/ready?port=${twin}`))
    const releases = gates
      .flatMap((gate: any) => gate.findings)
      .filter(({ level }: any) => level === 'hold')
      .map(({ rule }: any) => ({ rule, name: 'A. Lund', reason: 'practice' }))
    const run = given(
      await server.send('POST', '/runs', { jobId: practice.jobId, port: twin, speed: 0, releases }),
    )
    const state = await server.follow(run.id)
    expect(state.problem).toBeNull()
    expect(state.outcome).toBe('proved')
    expect(given(await server.get(`/units/${own.id}`)).snapshots).toHaveLength(before)
  })
  it('is trusted once a unit was written by its steps, and not any more when they change', async () => {
    const [own] = given(await server.get('/units'))
    const [first] = given(await server.get('/jobs')).filter((view: any) => view.unit.id === own.id)
    const image = first.image.id
    const job = given(
      await server.send('POST', '/jobs', {
        unitId: own.id,
        imageId: image,
        kind: 'feature',
        reason: 'Once more.',
        day: new Date().toISOString().slice(0, 10),
      }),
    )
    const said = async () => {
      const { gates } = given(await server.get(`/jobs/${job.id}/ready?port=${encodeURIComponent(port)}`))
      return gates.flatMap((gate: any) => gate.findings).find(({ rule }: any) => rule === 'script-tried')
    }
    expect(await said()).toMatchObject({ level: 'go', because: expect.stringContaining('TG4-0117') })
    // The same, operation by operation, for whoever looks at the profile: who released it stands by it.
    const trials = given(await server.get(`/families/${tideGateProfile.id}/trials`))
    const write = trials.filter(({ operation, on }: any) => operation === 'write' && on === 'unit')
    expect(write).toEqual([expect.objectContaining({ serial: 'TG4-0117', by: 'A. Lund', revision: 1 })])
    expect(write[0].profile).toMatch(/^[0-9a-f]{64}$/)
    // Another word in a field that is no step: still the same steps.
    given(
      await server.send('POST', '/families', { ...tideGateProfile, revision: 2, summary: 'Opens a gate.' }),
    )
    expect(await said()).toMatchObject({ level: 'go' })
    const changed = structuredClone(tideGateProfile) as any
    changed.links[0].drive.operations.start.steps[0].text = 'run\r'
    given(await server.send('POST', '/families', { ...changed, revision: 3 }))
    expect(await said()).toMatchObject({ level: 'hold', says: expect.stringContaining('were changed') })
  })
})
