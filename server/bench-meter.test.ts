/* eslint-disable @typescript-eslint/no-explicit-any -- tests read answers as an outside tool does: by member */
import { readFamily } from '@bench-wake/core/family'
import { writeIntelHex } from '@bench-wake/core/image'
import { askedLineScript } from '@bench-wake/core/link'
import { placed } from '@bench-wake/standins'
import { tideGateProfile } from '@bench-wake/testing/tide-gate-profile'
import { spawn } from 'node:child_process'
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { runProgram } from './program'
import { endChildren, scratchFolder, talker, tended } from './server.test-support'
import { readSettings } from './settings'

/*
 * PRACTICE D: the supply is measured at the unit's terminals, before and all through a write. The meter is one of a person's
 * own, at a port of its own: the Python meter of e2e/peers, beside the Python tide gate, both at real pseudo-terminals.
 */
endChildren()
const folder = scratchFolder()
const peers = join(import.meta.dirname, '../e2e/peers')
const family = readFamily(tideGateProfile)
const imageOf = (version: string) =>
  placed(family, {
    component: 'main',
    length: 0x1f00,
    fields: { deviceIdentifier: 'TG-4', hardwareMajor: 2, version },
  })
let server: Awaited<ReturnType<typeof runProgram>> & ReturnType<typeof talker>
let unitPort: string
let meterPort: string
let dark: string
let jobId: string

const peer = async (name: string, ...args: string[]) => {
  const child = tended(
    spawn('python3', [join(peers, name), ...args], { stdio: ['ignore', 'pipe', 'inherit'] }),
  )
  return new Promise<string>((resolve) => createInterface(child.stdout!).once('line', resolve))
}
const given = ({ status, body }: { status: number; body: any }) => {
  if (status >= 400) throw new Error(JSON.stringify(body))
  return body
}
const line = { baudRate: 9600, dataBits: 8, parity: 'none', stopBits: 1 }
const form = (port: string, answer = 'V={volts}') => ({
  name: 'Bench meter',
  port,
  line,
  speaks: {
    kind: 'script',
    script: askedLineScript({ sends: 'V', lineEnd: '\r', answer, withinMs: 600 }),
  },
})
const ready = async (volts = '') =>
  given(await server.get(`/jobs/${jobId}/ready?port=${encodeURIComponent(unitPort)}${volts}`))
const powerOf = (body: any) => body.gates.find(({ id }: any) => id === 'power')

beforeAll(async () => {
  const memory = join(folder, 'memory')
  writeFileSync(memory, imageOf('1.3')[0]!.bytes)
  const paths = await Promise.all([
    peer('prompt_console.py', memory),
    peer('bench_meter.py', '12.62', '0.001'),
    peer('bench_meter.py', '12', '0', 'mute'),
  ])
  ;[unitPort, meterPort, dark] = paths.map((path) => `serial:${path}`) as [string, string, string]
  const settings = readSettings({
    PORT: '0',
    BENCH_WAKE_DATA: join(folder, 'data'),
    BENCH_WAKE_PORTS: paths.join(','),
  })
  const program = await runProgram(settings, { demo: false })
  server = { ...program, ...talker(`${program.address}/api`) }
  given(await server.send('POST', '/families', tideGateProfile))
  const unit = given(
    await server.send('POST', '/units', {
      familyId: 'tide-gate',
      name: 'North gate',
      place: 'North sluice',
      serial: 'TG4-0117',
    }),
  )
  given(
    await server.send('POST', `/units/${unit.id}/snapshots`, { port: unitPort, looked: ['adapter-chosen'] }),
  )
  const { images } = given(await server.upload('tide-gate-1.4.hex', writeIntelHex(imageOf('1.4'))))
  const job = given(
    await server.send('POST', '/jobs', {
      unitId: unit.id,
      imageId: images[0].id,
      kind: 'feature',
      reason: 'Shuts a minute earlier.',
      day: new Date().toISOString().slice(0, 10),
    }),
  )
  jobId = job.id
  given(
    await server.send('PUT', `/jobs/${jobId}/bench`, {
      laptop: { onMains: true, minutesLeft: null },
      isolation: { alone: true },
      setVolts: 12.7,
    }),
  )
})
afterAll(() => server.stop())

describe('a port that is given the job of the meter', () => {
  it('before it has it, the supply is what a person measured', async () => {
    expect(powerOf(await ready()).numbers.measuredVolts).toBeUndefined()
    expect(powerOf(await ready('&supplyVolts=12.6')).numbers.measuredVolts).toBe(12.6)
    expect((await server.get('/meter')).body).toEqual({ meter: null })
    expect((await server.send('POST', '/meter/read', {})).body).toEqual({ volts: null })
  })
  it('is tried before it is kept; one that is silent, one that answers something else and one that is not there say so', async () => {
    const read = (meter: object) => server.send('POST', '/meter/read', { meter })
    expect(given(await read(form(meterPort))).volts).toBeCloseTo(12.62, 2)
    expect(given(await read(form(dark))).volts).toBeNull()
    const range = form(meterPort, 'R={volts}')
    range.speaks.script = askedLineScript({ sends: 'X', lineEnd: '\r', answer: '{volts}', withinMs: 600 })
    expect(await read(range)).toMatchObject({ status: 422, body: { kind: 'meter-number', found: '?' } })
    expect((await read(form('serial:/dev/no-such-port'))).status).toBe(404)
    expect(await read({ ...form(meterPort), speaks: { kind: 'thought' } })).toMatchObject({
      body: { kind: 'bench-meter', place: { at: 'speaks.kind' } },
    })
    expect((await server.get('/meter')).body).toEqual({ meter: null })
  })
  it('measures for every real port from then on, over what was typed', async () => {
    given(await server.send('PUT', '/meter', form(meterPort)))
    const ports = given(await server.get('/ports'))
    expect(ports.find(({ id }: any) => id === meterPort)).toMatchObject({ isMeter: true, hasMeter: false })
    expect(ports.find(({ id }: any) => id === unitPort)).toMatchObject({ hasMeter: true })
    const { measuredVolts } = powerOf(await ready('&supplyVolts=11.9')).numbers
    expect(measuredVolts).toBeGreaterThan(12.5)
    expect(measuredVolts).toBeLessThan(12.63)
  })
  it('that goes silent leaves it to the person again', async () => {
    given(await server.send('PUT', '/meter', form(dark)))
    expect(powerOf(await ready('&supplyVolts=12.4')).numbers.measuredVolts).toBe(12.4)
    expect(powerOf(await ready()).numbers.measuredVolts).toBeUndefined()
  })
  it('that is gone refuses the run, with the way out: nobody believes that the supply is watched', async () => {
    given(await server.send('PUT', '/meter', form(meterPort)))
    given(await server.send('POST', '/ports/listen', { port: meterPort, settings: line }))
    const holds = powerOf(await ready('&supplyVolts=12.6'))
    expect(holds.numbers.measuredVolts).toBe(12.6)
    const releases = (await ready('&supplyVolts=12.6')).gates
      .flatMap((gate: any) => gate.findings)
      .filter(({ level }: any) => level === 'hold')
      .map(({ rule }: any) => ({ rule, name: 'A. Lund', reason: 'a test' }))
    const refused = await server.send('POST', '/runs', { jobId, port: unitPort, supplyVolts: 12.6, releases })
    expect(refused).toMatchObject({ status: 409, body: { kind: 'meter-gone', thing: 'Bench meter' } })
    expect(refused.body.remedy).toContain('under Ports')
    given(await server.send('POST', '/ports/listen/end', { port: meterPort }))
  })
  it('is read all through a run, held by it, and free again afterwards; the record has the volts', async () => {
    const releases = (await ready()).gates
      .flatMap((gate: any) => gate.findings)
      .filter(({ level }: any) => level === 'hold')
      .map(({ rule }: any) => ({ rule, name: 'A. Lund', reason: 'a test' }))
    const { id } = given(await server.send('POST', '/runs', { jobId, port: unitPort, releases }))
    expect(await server.send('POST', '/meter/read', {})).toMatchObject({
      body: { kind: 'port-held', found: id },
    })
    const state = await server.follow(id)
    expect(state.problem).toBeNull()
    expect(state.outcome).toBe('proved')
    const events = given(await server.get(`/runs/${id}/wake`))
    const volts = events
      .map(({ body }: any) => body)
      .filter(({ type }: any) => type === 'supply')
      .map(({ volts: each }: any) => each)
      // A machine that stands still for a moment makes a meter look silent.
      .filter((each: number | null) => each !== null)
    expect(volts.length).toBeGreaterThan(2)
    // Each reading is lower than the one before, as the battery of the peer sags.
    expect(volts).toEqual([...volts].sort((a, b) => b - a))
    expect(volts.every((each: number) => each > 12.4 && each < 12.63)).toBe(true)
    expect(given(await server.send('POST', '/meter/read', {})).volts).toBeLessThan(volts.at(-1))
  })
  it('gives the job back', async () => {
    expect((await server.send('DELETE', '/meter', {})).body).toEqual({ meter: null })
    expect(given(await server.get('/ports')).some(({ hasMeter }: any) => hasMeter)).toBe(false)
  })
})
