import { LinkScript, type Component } from '@bench-wake/core/family'
import { virtualClock, type Clock } from '@bench-wake/core/kernel'
import {
  encodeFrame,
  frameDialect,
  receiveXmodem,
  scriptDriver,
  scriptLoader,
  type Port,
} from '@bench-wake/core/link'
import { serialLine } from '@bench-wake/standins'
import * as v from 'valibot'
import { generatedWrite } from '../../core/link/generated.test-support'
import type { Bench, Figure } from './figure'

const turn = () => new Promise<void>((done) => setImmediate(done))
const line = { baudRate: 115_200, dataBits: 8, parity: 'none', stopBits: 1 } as const
/** Ten bits a character at 8N1. */
const characterMs = 10_000 / line.baudRate
const image = (bytes: number) => Uint8Array.from({ length: bytes }, (_, at) => (at * 31 + (at >> 8)) & 255)
const component: Component = {
  id: 'main',
  name: 'Main',
  memory: {
    erasedByte: 255,
    regions: [{ name: 'Application', use: 'application', address: 0, length: 0x100000 }],
  },
  version: { scheme: 'dotted', downgrade: 'held' },
}

/** Writes over a script to a unit that answers at once. @returns what it took in the line's own time, ms. */
async function took(script: object, bytes: number, unit: (port: Port) => Promise<void>, on?: Clock) {
  const clock = on ?? virtualClock(turn)
  const wire = serialLine({ name: 'unit', clock, unit: line })
  await wire.host.open(line)
  void unit(wire.unit).catch(() => {})
  const read = v.parse(LinkScript, { speaks: 'script', ...script })
  const driver = scriptDriver(wire.host, clock, read, component, line, () => [])
  const from = clock.now()
  await scriptLoader(driver, 'unit').write(0, image(bytes), () => {}, { raised: false })
  const ms = clock.now() - from
  wire.pull()
  return ms
}

const share = (name: string, ms: number, limit: number, min: number): Figure => ({
  name,
  value: ms,
  unit: 'ms',
  reference: limit,
  ratio: limit / ms,
  wanted: `at least ${min * 100} % of the limit`,
  holds: limit / ms >= min,
})

async function measure(): Promise<Figure[]> {
  const bytes = 262_144
  // Forsberg 1988: head 3, data 1 024, check 2, answer 1; before the first a C, at the end an EOT and its answer.
  const xmodem = await took(
    { operations: { write: { steps: [{ do: 'transfer', by: 'xmodem-1k' }] } } },
    bytes,
    async (port) => void (await receiveXmodem(port, { onBlock: () => {} })),
  )
  const blocks = bytes / 1024

  // Start byte, length, sequence, payload of 133 (command, address, 128 of data), 16-bit sum: 138; the answer 6.
  const frame = {
    layout: 'A5 {length:u8} {sequence:u8} {payload} {checksum:u16be}',
    escape: 'none',
    checksum: 'sum16',
    checksumOver: 'before-it',
    maxPayload: 140,
  }
  const dialect = frameDialect(v.parse(LinkScript, { speaks: 'script', frame, operations: {} }).frame!)
  const framed = await took(
    {
      frame,
      operations: {
        write: {
          steps: [
            {
              do: 'each',
              of: 'chunk',
              bytes: 128,
              steps: [
                {
                  do: 'frame',
                  bytes: '57 {address:u32le} {data}',
                  answer: [{ bytes: '06' }],
                  withinMs: 1000,
                },
              ],
            },
          ],
        },
      },
    },
    65_536,
    async (port) => {
      for (let heard = 0, sequence = 0; ;) {
        heard += (await port.read(4096, Infinity))?.length ?? 0
        if (heard < 138) continue
        heard -= 138
        await port.write(encodeFrame(dialect, Uint8Array.of(6), sequence++ & 255))
      }
    },
  )
  const frames = 65_536 / 128

  // What a step costs by itself: pauses of no time, a hundred thousand of them, on the wall's clock.
  const steps = 64
  const rounds = 1600
  const clock = virtualClock(turn)
  const wire = serialLine({ name: 'unit', clock, unit: line })
  await wire.host.open(line)
  const idle = v.parse(LinkScript, {
    speaks: 'script',
    operations: { unlock: { steps: Array.from({ length: steps }, () => ({ do: 'wait', ms: 0 })) } },
  })
  const driver = scriptDriver(wire.host, clock, idle, component, line, () => [])
  const from = performance.now()
  for (let round = 0; round < rounds; round++) await driver.run('unlock')
  const microseconds = (1000 * (performance.now() - from)) / (steps * rounds)

  return [
    share(
      'XMODEM-1K over a script, 256 KiB at 115 200 baud',
      xmodem,
      (1 + blocks * (1024 + 5 + 1) + 2) * characterMs,
      0.99,
    ),
    share(
      'framed write over a script, 64 KiB in frames of 128 at 115 200 baud',
      framed,
      frames * (138 + 6) * characterMs,
      0.97,
    ),
    {
      name: 'a step of a script',
      value: microseconds,
      unit: 'µs',
      wanted: 'under 20 µs',
      holds: microseconds < 20,
    },
  ]
}

export const scripts: Bench = { name: 'scripts', measure }

/** Ten thousand disturbed writes, each on a kind of equipment that its seed has drawn. */
async function faulted(): Promise<Figure[]> {
  const runs = 10_000
  let [made, proved, refused] = [0, 0, 0]
  for (let seed = 1; seed <= runs; seed++) {
    const outcome = await generatedWrite(seed, { seed, chance: 0.02, max: 6 }, turn)
    made += outcome.made
    if (outcome.ended === 'proved') proved++
    else refused++
  }
  return [
    { name: 'disturbances made', value: made, unit: '' },
    {
      name: 'writes that ended proved, the memory held against the image',
      value: proved,
      unit: `of ${runs}`,
    },
    { name: 'writes that ended with a Problem', value: refused, unit: `of ${runs}` },
    {
      name: 'false proofs and hangs',
      value: 0,
      unit: '',
      wanted: 'none: one of them ends this bench',
      holds: true,
    },
  ]
}

export const faultedScripts: Bench = { name: 'faulted-scripts', measure: faulted }
