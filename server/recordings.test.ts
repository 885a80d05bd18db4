/* eslint-disable @typescript-eslint/no-explicit-any -- tests read answers as an outside tool does: by member */
import { readFamily } from '@bench-wake/core/family'
import { writeIntelHex } from '@bench-wake/core/image'
import { askedLineScript } from '@bench-wake/core/link'
import { beginAgreement, usualKinds } from '@bench-wake/core/rounds'
import { placed } from '@bench-wake/standins'
import { tideGateProfile } from '@bench-wake/testing/tide-gate-profile'
import { spawn } from 'node:child_process'
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import Papa from 'papaparse'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { runProgram } from './program'
import { endChildren, scratchFolder, talker, tended } from './server.test-support'
import { readSettings } from './settings'

/*
 * PRACTICE K3: a log of what the unit shows and of a second device beside it, both at real pseudo-terminals: the Python tide
 * gate and the Python wideband of e2e/peers, which share no code with us.
 */
endChildren()
const folder = scratchFolder()
const peers = join(import.meta.dirname, '../e2e/peers')
const by = 'R. Lund'
const live = {
  steps: [
    { do: 'send', text: 'level\r' },
    {
      do: 'expect',
      patterns: [{ text: 'level {level} m' }, { text: '?{reason}\n', means: 'refused' }],
      withinMs: 1000,
    },
    { do: 'tell', field: 'level', value: '{level}' },
    { do: 'expect', patterns: [{ text: '=> ' }], withinMs: 1000 },
  ],
}
const profile: any = structuredClone(tideGateProfile)
profile.links[0].drive.operations.live = live
const family = readFamily(profile)
const beside = {
  name: 'Wideband',
  line: { baudRate: 9600, dataBits: 8, parity: 'none', stopBits: 1 },
  script: askedLineScript({ sends: '', lineEnd: '', answer: 'L={lambda} T={celsius}', withinMs: 1000 }),
}
const channels = [
  { name: 'Lambda', unit: 'lambda', role: 'mixture', read: { beside: 'lambda' } },
  { name: 'Level', unit: 'mm', role: 'other', read: { line: 'level', scale: 1000 } },
]
const [idle] = usualKinds('Load')
const agreement = {
  ...beginAgreement('electric'),
  title: 'The gate hunts',
  calibrator: 'Somebody far away',
  channels,
  kinds: [{ ...idle!, minSeconds: 2, minHertz: 2, conditions: [] }],
  limits: [],
  beside,
}

let server: Awaited<ReturnType<typeof runProgram>> & ReturnType<typeof talker>
let unitPort: string
let wideband: string
let cold: string
let caseId: string
const given = ({ status, body }: { status: number; body: any }) => {
  if (status >= 400) throw new Error(JSON.stringify(body))
  return body
}
const post = (path: string, body: unknown) => server.send('POST', path, body)
const peer = async (name: string, ...args: string[]) => {
  const child = tended(
    spawn('python3', [join(peers, name), ...args], { stdio: ['ignore', 'pipe', 'inherit'] }),
  )
  return new Promise<string>((resolve) => createInterface(child.stdout!).once('line', resolve))
}
const record = (more: object = {}) =>
  post(`/cases/${caseId}/recording`, { port: unitPort, logKind: idle!.id, by, looked: true, ...more })
const agree = async (change: object) =>
  given(
    await post(`/cases/${caseId}/agreement`, {
      agreement: { ...agreement, ...change },
      by,
      why: 'for the test',
    }),
  )

/** An image of the gate is written and proved, over the public paths, as the first round of a case. */
beforeAll(async () => {
  const imageOf = (version: string) =>
    placed(family, {
      component: 'main',
      length: 0x1f00,
      fields: { deviceIdentifier: 'TG-4', hardwareMajor: 2, version },
    })
  const memory = join(folder, 'memory')
  writeFileSync(memory, imageOf('1.3')[0]!.bytes)
  const paths = await Promise.all([
    peer('prompt_console.py', memory),
    peer('wideband.py'),
    peer('wideband.py', '0.05', 'mute'),
  ])
  ;[unitPort, wideband, cold] = paths.map((path) => `serial:${path}`) as [string, string, string]
  const settings = readSettings({
    PORT: '0',
    BENCH_WAKE_DATA: join(folder, 'data'),
    BENCH_WAKE_PORTS: paths.join(','),
  })
  const program = await runProgram(settings, { demo: false })
  server = { ...program, ...talker(`${program.address}/api`) }
  given(await post('/families', profile))
  const unit = given(
    await post('/units', { familyId: 'tide-gate', name: 'North gate', place: 'Sluice', serial: 'TG4-0117' }),
  )
  given(await post(`/units/${unit.id}/snapshots`, { port: unitPort, looked: ['adapter-chosen'] }))
  const { images } = given(await server.upload('tide-gate-1.4.hex', writeIntelHex(imageOf('1.4'))))
  caseId = given(await post('/cases', { unitId: unit.id, agreement, by })).id
  given(
    await post(`/cases/${caseId}/revisions`, {
      imageId: images[0].id,
      definitionId: null,
      remarks: '',
      by,
      despite: 'the gate has no tables',
    }),
  )
  const { jobId } = given(
    await post(`/cases/${caseId}/job`, { by, day: new Date().toISOString().slice(0, 10) }),
  )
  given(
    await server.send('PUT', `/jobs/${jobId}/bench`, {
      laptop: { onMains: true, minutesLeft: null },
      isolation: { alone: true },
      setVolts: 12.7,
    }),
  )
  const { gates } = given(
    await server.get(`/jobs/${jobId}/ready?port=${encodeURIComponent(unitPort)}&supplyVolts=12.6`),
  )
  const releases = gates
    .flatMap((gate: any) => gate.findings)
    .filter(({ level }: any) => level === 'hold')
    .map(({ rule }: any) => ({ rule, name: by, reason: 'a test' }))
  const { id } = given(await post('/runs', { jobId, port: unitPort, supplyVolts: 12.6, releases }))
  expect((await server.follow(id)).outcome).toBe('proved')
})
afterAll(() => server.stop())

describe('a log of what a unit shows, with a second device beside it', () => {
  it('does not begin without the device, and says what is wrong with it', async () => {
    expect(await record()).toMatchObject({
      status: 409,
      body: { kind: 'no-beside', thing: 'Wideband', says: 'its port is not chosen' },
    })
    expect(await record({ besidePort: unitPort })).toMatchObject({ body: { kind: 'no-beside' } })
    expect(await record({ besidePort: cold })).toMatchObject({ status: 409, body: { kind: 'no-beside' } })
    expect((await record({ besidePort: 'serial:/dev/no-such-port' })).status).toBe(404)
    // Both ports are free again.
    const ports = given(await server.get('/ports'))
    expect(ports.filter(({ heldBy }: any) => heldBy)).toEqual([])
  })
  it('that shows another line than the list takes is refused with what it shows', async () => {
    await agree({ channels: [{ ...channels[0], read: { beside: 'afr' } }, channels[1]] })
    const answer = await record({ besidePort: wideband })
    expect(answer).toMatchObject({ body: { kind: 'no-beside', says: 'it shows no afr' } })
    expect(answer.body.remedy).toContain('lambda, celsius')
    await agree({})
  })
  it('that is described with a fault is refused by its field, and nothing of the case is changed', async () => {
    const agreed = async (device: object) =>
      post(`/cases/${caseId}/agreement`, { agreement: { ...agreement, beside: device }, by, why: 'a test' })
    expect(await agreed({ ...beside, line: undefined })).toMatchObject({
      status: 422,
      body: { kind: 'beside-device', place: { at: 'agreement.beside.line' }, says: 'it is missing' },
    })
    const start = { ...beside.script.operations, start: { steps: [{ do: 'send', text: 'x' }] } }
    expect(await agreed({ ...beside, script: { ...beside.script, operations: start } })).toMatchObject({
      body: { kind: 'beside-device', says: 'It has one operation: page' },
    })
    expect(given(await server.get(`/cases/${caseId}`)).state.agreement.beside).toEqual(beside)
  })
  it('of a list that the link cannot give is refused before a port is touched', async () => {
    await agree({
      channels: [channels[0], { name: 'Gate', unit: '', role: 'other', read: { identifier: 1, type: 'u8' } }],
    })
    const answer = await record({ besidePort: wideband })
    expect(answer).toMatchObject({ status: 409, body: { kind: 'no-source' } })
    expect(answer.body.says).toContain('has no data identifiers')
    await agree({})
  })
  it('has both at the time of each row, and holds both ports meanwhile', async () => {
    const began = given(await record({ besidePort: wideband }))
    expect(began).toMatchObject({ running: true, rows: 0 })
    expect(await record({ besidePort: wideband })).toMatchObject({ body: { kind: 'port-held' } })
    const held = given(await server.get('/ports')).filter(({ heldBy }: any) => heldBy)
    expect(held.map(({ id }: any) => id).sort()).toEqual([unitPort, wideband].sort())
    /** The log that is being recorded, when it is done. Read by papaparse: nothing of ours. */
    const recorded = async (state: any) => {
      while (state.running) {
        await new Promise((done) => setTimeout(done, 100))
        state = given(await server.get(`/cases/${caseId}/recording`))
      }
      expect(state.problem).toBeNull()
      const file = await fetch(`${server.address}/api/cases/${caseId}/logs/${state.logId}/bytes`)
      const { data } = Papa.parse<Record<string, number>>(await file.text(), {
        header: true,
        dynamicTyping: true,
        skipEmptyLines: true,
      })
      return { data, rows: data.filter((row) => typeof row['Lambda [lambda]'] === 'number') }
    }
    let { data, rows } = await recorded(began)
    // A device that a busy machine lets wait for seconds has no reading of that time: then it is recorded once more.
    for (let again = 0; rows.length <= 20 && again < 12; again++)
      ({ data, rows } = await recorded(given(await record({ besidePort: wideband }))))
    expect(rows.length).toBeGreaterThan(20)
    // The water is a millimetre higher with each question: no row is lost, and none is there twice.
    const levels = data.map((row) => row['Level [mm]']!)
    expect(levels).toEqual(levels.map((_, index) => expect.closeTo(levels[0]! + index, 6)))
    // Its lambda is its own clock: at the time of each row it is that time, but for what its bytes take on the line and a busy
    // machine's turns.
    const ahead = rows.map((row) => row['Lambda [lambda]']! - row['Time [s]']!)
    const middle = [...ahead].sort((a, b) => a - b)[ahead.length >> 1]!
    const near = ahead.filter((each) => Math.abs(each - middle) < 0.1)
    expect(near.length).toBeGreaterThan(0.8 * rows.length)
    expect(given(await server.get('/ports')).filter(({ heldBy }: any) => heldBy)).toEqual([])
  })
})
