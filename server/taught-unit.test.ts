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
})
