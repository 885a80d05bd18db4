import { realClock } from '@bench-wake/core/kernel'
import {
  flashLoader,
  openSpiPort,
  readExactly,
  type DapAdapter,
  type FlashLoader,
  type Port,
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
 * A chip and an adapter that share no code with this program (e2e/peers/serial_flash.md), written in Python from the published
 * commands of serial flash (JESD216) and packets of adapters (CMSIS-DAP), at the far end of a pseudo-terminal.
 */
endChildren()
const memory = join(scratchFolder(), 'chip')
const size = 0x10000
const before = Uint8Array.from({ length: size }, (_, at) => (at * 7 + (at >> 8)) & 0xff)
const clock = realClock(hostTime)
const silent = () => {}
const never = { raised: false }
const told: string[] = []
let port: Port
let loader: FlashLoader

/** Reports of 64 bytes over the pseudo-terminal, one there, one back. */
function adapterOver(line: Port): DapAdapter {
  return {
    name: 'peer',
    packetBytes: 64,
    async exchange(packet) {
      const report = new Uint8Array(64)
      report.set(packet)
      await line.write(report)
      const answer = await readExactly(line, 64, 5000)
      if (!answer) throw new Error('the peer is silent')
      return answer
    },
  }
}

beforeAll(async () => {
  writeFileSync(memory, before)
  const peer = join(import.meta.dirname, '../../e2e/peers/serial_flash.py')
  // Its blocks are protected when it comes.
  const unit = tended(
    spawn('/usr/bin/python3', [peer, memory, '0C'], { stdio: ['ignore', 'pipe', 'ignore'] }),
  )
  const path = await new Promise<string>((resolve) => createInterface(unit.stdout!).once('line', resolve))
  port = serialPort(path, clock)
  await port.open({ baudRate: 115_200, dataBits: 8, parity: 'none', stopBits: 1 })
  loader = flashLoader(
    'peer',
    () => openSpiPort(adapterOver(port), { hertz: 1_000_000 }),
    clock,
    {
      // What a person wrote down from memory: half the size, and another page.
      bytes: 0x8000,
      pageBytes: 128,
      programMs: 1,
      eraseTypes: [{ bytes: 4096, command: 0x20, usualMs: 50, maxMs: null }],
      believeTable: true,
      base: 0x0800_0000,
      regions: [{ address: 0x0800_0000, length: size }],
      erasedByte: 0xff,
      holdsReset: true,
    },
    async (says) => void told.push(says),
  )
})
afterAll(() => port.close())

describe('a chip that was written by somebody else', () => {
  it('is joined, and its own table believed over what the profile says', async () => {
    await loader.attach()
    expect(loader.chip()).toMatchObject({ identity: '5D4010', bytes: size, pageBytes: 256 })
    expect(told.join(' ')).toMatch(/64.KiB|65.536 bytes/)
    expect(told.join(' ')).toMatch(/believed over it/)
  })
  it('is read out as it lies in its file', async () => {
    const bytes = await loader.read!({ address: 0x0800_1000, length: 5000 }, silent)
    expect(Buffer.compare(Buffer.from(bytes), Buffer.from(before.subarray(0x1000, 0x1000 + 5000)))).toBe(0)
  })
  it('is opened, erased by the blocks that cost least, written and compared, busy or not', async () => {
    const image = Uint8Array.from({ length: 0x9123 }, (_, at) => (at * 31 + (at >> 7)) & 0xff)
    await loader.erase({ address: 0x0800_0000, length: image.length }, silent)
    await loader.write(0x0800_0000, image, silent, never)
    expect(await loader.verify(0x0800_0000, image)).toMatchObject({ outcome: 'equal-read-back' })
    const lies = readFileSync(memory)
    expect(Buffer.compare(lies.subarray(0, image.length), Buffer.from(image))).toBe(0)
    // One block of 32 KiB and two sectors; beyond them nothing was touched.
    expect(lies.subarray(image.length, 0xa000).every((byte) => byte === 0xff)).toBe(true)
    expect(Buffer.compare(lies.subarray(0xa000), Buffer.from(before.subarray(0xa000)))).toBe(0)
  })
  it('is told apart when it holds another byte', async () => {
    const other = Uint8Array.from(before.subarray(0xb000, 0xb100))
    other[0x80]! ^= 4
    expect(await loader.verify(0x0800_b000, other)).toMatchObject({
      outcome: 'different',
      found: expect.stringContaining('0x0800B080') as string,
    })
  })
  it('has its protection back when it is left', async () => {
    await loader.startApplication()
    await loader.attach()
    expect((await loader.chip()!.status()) & 0x1c).toBe(0x0c)
  })
})
