import type { DriveOf } from '@bench-wake/core/family'
import { crc32, realClock } from '@bench-wake/core/kernel'
import {
  isEqual,
  modbusLoader,
  modbusUnit,
  type Loader,
  type Port,
  type SerialSettings,
} from '@bench-wake/core/link'
import { spawn } from 'node:child_process'
import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { hostTime } from '../host-time'
import { endChildren, scratchFolder, tended } from '../server.test-support'
import { serialPort } from './serial-port'

/*
 * A Modbus unit of another shape than the demo's (e2e/peers/modbus_blocks.md): low word first, commands as coils, blocks of
 * plain registers in place of file records, states of its own, and busy every third time. Its frames, answers and exceptions
 * are those of the package pymodbus.
 */
endChildren()
const memory = join(scratchFolder(), 'memory')
const settings: SerialSettings = { baudRate: 19_200, dataBits: 8, parity: 'even', stopBits: 1 }
const drive: DriveOf<'modbus'> = {
  speaks: 'modbus',
  address: 17,
  page: [{ field: 'version.main', register: 104, count: 4, as: 'ascii' }],
  registers: { state: 200, command: 0, address: 202, length: 204, checksum: 206 },
  wordOrder: 'low-first',
  states: { firmware: 10, loader: 20, atWork: 30, fault: 99 },
  commandsAre: 'coils',
  commands: { enter: 1, erase: 2, check: 3, write: 4, start: 5, read: 6 },
  block: { register: 300, words: 64 },
  timing: { answerMs: 800, pauseMs: 2, busyMs: 5000 },
}
const start = 0x4000
const imageOf = (version: string, length = 1500) => {
  const image = Uint8Array.from({ length }, (_, at) => (at * 37 + 11) & 0xff)
  image.set(Buffer.from(`SD-3 fw ${version}\0`.padEnd(16, '\0')))
  return image
}
const never = { raised: false }
const silent = () => {}
const clock = realClock(hostTime)
let port: Port
let loader: Loader

beforeAll(async () => {
  writeFileSync(memory, imageOf('1.0'))
  const peer = join(import.meta.dirname, '../../e2e/peers/modbus_blocks.py')
  const unit = tended(spawn('/usr/bin/python3', [peer, memory], { stdio: ['ignore', 'pipe', 'ignore'] }))
  const path = await new Promise<string>((resolve) => createInterface(unit.stdout!).once('line', resolve))
  port = serialPort(path, clock)
  await port.open(settings)
  loader = modbusLoader(port, clock, drive, { id: 'main' }, start, async () => [])
})
afterAll(() => port.close())

const words = (register: number, count: number) => modbusUnit(port, clock, drive).read(register, count)
const versionNow = async () =>
  Buffer.from((await words(104, 4)).flatMap((word) => [word >> 8, word & 255]))
    .toString()
    .replace(/\0.*$/s, '')

describe('a unit of pymodbus with registers of another shape', () => {
  it('says its version, and can what its profile says', async () => {
    expect(await versionNow()).toBe('1.0')
    expect(loader.can).toEqual({ read: true, erase: true, verify: 'checksum', resume: true })
  })
  it('is entered, read out, erased, written and proved, busy or not', async () => {
    await loader.attach()
    expect(await words(200, 1)).toEqual([20])
    const before = await loader.read!({ address: start, length: 1500 }, silent)
    expect(before).toEqual(imageOf('1.0'))
    const image = imageOf('1.1', 1501)
    await loader.erase({ address: start, length: 2048 }, silent)
    const told: number[] = []
    await loader.write(start, image, ({ done }) => void told.push(done), never)
    expect(told.at(-1)).toBe(1501)
    expect(told).toEqual([...told].sort((a, b) => a - b))
    expect(isEqual(await loader.verify(start, image))).toBe(true)
    // The truth is what lies in the unit, as it keeps it itself; the last byte alone is filled up with ones.
    const lies = readFileSync(memory)
    expect(Buffer.compare(lies.subarray(0, 1501), Buffer.from(image))).toBe(0)
    expect([...lies.subarray(1501, 2048)].every((byte) => byte === 0xff)).toBe(true)
    // Its CRC-32 comes low word first.
    const [low, high] = await words(206, 2)
    expect(high! * 0x10000 + low!).toBe(crc32(image.subarray((image.length >> 1) & ~3)))
  })
  it('that holds other bytes is told apart', async () => {
    const other = imageOf('1.1', 1501)
    other[1400]! ^= 1
    expect((await loader.verify(start, other)).outcome).toBe('different')
  })
  it('goes on in the middle, at the piece that broke off', async () => {
    const image = imageOf('1.2', 1024)
    await loader.erase({ address: start, length: 1024 }, silent)
    const abandon = { raised: false }
    const cut = loader.write(start, image, ({ done }) => void (abandon.raised = done >= 512), abandon)
    await expect(cut).rejects.toMatchObject({ facts: { kind: 'write-abandoned' } })
    expect(isEqual(await loader.verify(start, image))).toBe(false)
    await loader.write(start, image, silent, never, 512)
    expect(isEqual(await loader.verify(start, image))).toBe(true)
  })
  it('refuses what is outside of its memory, and what comes in the wrong state', async () => {
    await expect(loader.erase({ address: 0x9000, length: 1024 }, silent)).rejects.toMatchObject({
      facts: { kind: 'modbus-exception', found: 'exception 3' },
    })
    await loader.startApplication()
    expect(await words(200, 1)).toEqual([10])
    expect(await versionNow()).toBe('1.2')
    await expect(loader.erase({ address: start, length: 1024 }, silent)).rejects.toMatchObject({
      facts: { kind: 'modbus-exception' },
    })
  })
})
