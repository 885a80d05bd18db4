import { componentOf, LinkScript, linkScriptFaults, type Component } from '@bench-wake/core/family'
import { equalBytes, isProblem, realClock } from '@bench-wake/core/kernel'
import {
  scriptDriver,
  scriptLoader,
  type Port,
  type ScriptDriver,
  type SerialSettings,
} from '@bench-wake/core/link'
import { demoFamily } from '@bench-wake/demo'
import { spawn, type ChildProcess } from 'node:child_process'
import { existsSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import * as v from 'valibot'
import { afterEach, describe, expect, it } from 'vitest'
import { hostTime } from '../host-time'
import { scratchFolder } from '../server.test-support'
import { serialPort } from './serial-port'

/*
 * Units that share no code with core, written in Python's standard library from a manual page beside them
 * (e2e/peers/*.md), at the far end of a real pseudo-terminal and the real serialport. Each is driven by a script that was
 * written from the same manual page.
 */
const folder = scratchFolder()
const peers = join(import.meta.dirname, '../../e2e/peers')
const never = { raised: false }
let count = 0
let unit: ChildProcess | undefined
let port: Port | undefined

afterEach(async () => {
  await port?.close().catch(() => {})
  unit?.kill()
})

/** A peer at a port, opened with these settings; what lies in its memory is read from a file that it keeps. */
async function join_(
  name: string,
  settings: SerialSettings,
): Promise<{ port: Port; memory: () => Uint8Array }> {
  const file = join(folder, `memory-${count++}`)
  unit = spawn('python3', [join(peers, `${name}.py`), file], { stdio: ['ignore', 'pipe', 'inherit'] })
  const path = await new Promise<string>((resolve) => createInterface(unit!.stdout!).once('line', resolve))
  port = serialPort(path, realClock(hostTime))
  await port.open(settings)
  return { port, memory: () => (existsSync(file) ? new Uint8Array(readFileSync(file)) : new Uint8Array(0)) }
}

/** A component with one application region: all that a script asks of a profile. */
function componentAt(address: number, length: number, sectorBytes: number, pageBytes: number): Component {
  const component = structuredClone(componentOf(demoFamily('fog-signal'), 'main'))
  const region = { name: 'Application', use: 'application' as const, address, length, sectorBytes, pageBytes }
  return { ...component, memory: { ...component.memory, regions: [region] } }
}

function driverOf(script: unknown, own: Port, component: Component, settings: SerialSettings): ScriptDriver {
  const read = v.parse(LinkScript, script)
  const [region] = component.memory.regions
  expect(
    linkScriptFaults(read, {
      bytes: region!.length,
      sectorBytes: region!.sectorBytes!,
      pageBytes: region!.pageBytes!,
    }),
  ).toEqual([])
  return scriptDriver(own, realClock(hostTime), read, component, settings, (field, value) => [
    `${field}: ${value}`,
  ])
}

const patterned = (length: number) => Uint8Array.from({ length }, (_, at) => (at * 31 + (at >> 7) * 17) & 255)
const at = (baudRate: number): SerialSettings => ({ baudRate, dataBits: 8, parity: 'none', stopBits: 1 })

const prompt = { text: 'boot> ' }
const refusal = { text: '?{reason}\n', means: 'refused' }
const tideGate = {
  speaks: 'script',
  operations: {
    page: {
      steps: [
        { do: 'send', text: 'ver\r' },
        {
          do: 'expect',
          patterns: [{ text: 'TG-4 board {board:dec}\nfw {version}\nserial {serial}\n' }, refusal],
          withinMs: 1000,
        },
        { do: 'tell', field: 'hardware', value: '{board}' },
        { do: 'tell', field: 'firmware', value: '{version}' },
        { do: 'expect', patterns: [{ text: '=> ' }], withinMs: 1000 },
      ],
    },
    enter: {
      steps: [
        { do: 'send', text: 'boot\r' },
        { do: 'expect', patterns: [prompt], withinMs: 2000 },
      ],
    },
    attach: {
      steps: [
        { do: 'send', text: '\r' },
        { do: 'expect', patterns: [prompt], withinMs: 500 },
      ],
    },
    identify: {
      steps: [
        { do: 'send', text: 'ver\r' },
        { do: 'page', until: [prompt], withinMs: 1000 },
      ],
    },
    erase: {
      steps: [
        { do: 'send', text: 'erase {address:hex4} {length:hex}\r' },
        {
          do: 'expect',
          patterns: [{ text: 'ok\n' }, { text: 'erased {done}/{total}\r', means: 'progress' }, refusal],
          withinMs: 20_000,
        },
        { do: 'expect', patterns: [prompt], withinMs: 1000 },
      ],
    },
    write: {
      steps: [
        {
          do: 'each',
          of: 'chunk',
          bytes: 1024,
          steps: [
            { do: 'compute', into: 'sum', checksum: 'sum16', over: 'data' },
            { do: 'send', text: 'stage {length}\r' },
            { do: 'expect', patterns: [{ text: 'send\n' }, refusal], withinMs: 1000 },
            { do: 'transfer', by: 'plain' },
            { do: 'expect', patterns: [{ text: 'sum {given:hex4}' }, refusal], withinMs: 2000 },
            { do: 'send', text: 'burn {address:lhex4}\r' },
            { do: 'expect', patterns: [{ text: 'ok\n' }, refusal], withinMs: 2000 },
            { do: 'expect', patterns: [prompt], withinMs: 1000 },
          ],
        },
      ],
    },
    read: {
      steps: [
        { do: 'send', text: 'dump {address:hex} {length:hex}\r' },
        { do: 'dump', line: '{at:hex6}: {row:bytes}  |', withinMs: 1000 },
        { do: 'expect', patterns: [prompt], withinMs: 1000 },
      ],
    },
    check: {
      steps: [
        { do: 'send', text: 'crc {address:hex} {length:hex}\r' },
        { do: 'expect', patterns: [{ text: '{crc:hex4}\n' }, refusal], withinMs: 1000 },
        {
          do: 'compare',
          slot: 'crc',
          checksum: {
            name: 'CRC-16/IBM-3740',
            width: 16,
            poly: '0x1021',
            init: '0xFFFF',
            refin: false,
            refout: false,
            xorout: '0x0000',
          },
        },
      ],
    },
    start: {
      steps: [
        { do: 'send', text: 'go\r' },
        { do: 'expect', patterns: [{ text: '=> ' }], withinMs: 1000 },
      ],
    },
  },
}

describe('a console with a prompt and no line end, and a buffer that a second command burns', () => {
  it('is read, entered, erased, written, compared, read back and started', async () => {
    const settings = at(115_200)
    const { port: own, memory } = await join_('prompt_console', settings)
    const driver = driverOf(tideGate, own, componentAt(0x8000, 0x8000, 0x1000, 256), settings)
    const loader = scriptLoader(driver, own.name)
    expect((await driver.run('page')).lines).toEqual(['hardware: 2', 'firmware: 1.3'])
    await expect(loader.attach()).rejects.toMatchObject({ facts: { kind: 'no-bootloader' } })
    await driver.run('enter')
    await loader.attach()
    expect(await loader.identify()).toEqual(['TG-4 board 2', 'fw 1.3', 'serial TG4-0117'])
    const image = patterned(5000)
    const sectors: string[] = []
    await loader.erase(
      { address: 0x8000, length: image.length },
      ({ done, total }) => void sectors.push(`${done}/${total}`),
    )
    expect(sectors).toEqual(['1/2', '2/2'])
    const seen: number[] = []
    await loader.write(0x8000, image, ({ done }) => void seen.push(done), never)
    expect(equalBytes(memory().subarray(0, image.length), image)).toBe(true)
    expect(seen.at(-1)).toBe(5000)
    expect(seen).toEqual([...seen].sort((a, b) => a - b))
    expect(await loader.verify(0x8000, image)).toMatchObject({
      outcome: 'equal-checksum',
      by: 'CRC-16/IBM-3740',
    })
    const other = image.slice()
    other[4999]! ^= 1
    expect(await loader.verify(0x8000, other)).toMatchObject({ outcome: 'different' })
    expect(
      equalBytes(await loader.read!({ address: 0x8000, length: 777 }, () => {}), image.subarray(0, 777)),
    ).toBe(true)
    await loader.leave()
    expect((await driver.run('page')).lines).toEqual(['hardware: 2', 'firmware: 1.4'])
  })
  it('says what it refused, at which step, and what was asked', async () => {
    const settings = at(115_200)
    const { port: own } = await join_('prompt_console', settings)
    const driver = driverOf(tideGate, own, componentAt(0x8000, 0x8000, 0x1000, 256), settings)
    await driver.run('enter')
    const error = await scriptLoader(driver, own.name)
      .erase({ address: 0x20, length: 16 }, () => {})
      .catch((problem: unknown) => problem)
    expect(isProblem(error, 'unit-refused') && error.facts).toMatchObject({
      place: { at: 'erase.1' },
      found: 'range',
      says: expect.stringContaining('step 2 of erase, asked "erase 0020 10'),
    })
  })
  it('says what was heard where the speed is wrong', async () => {
    const settings = at(9600)
    const { port: own } = await join_('prompt_console', settings)
    const driver = driverOf(tideGate, own, componentAt(0x8000, 0x8000, 0x1000, 256), settings)
    await expect(driver.run('page')).rejects.toMatchObject({
      facts: { kind: 'no-answer', place: { at: 'page.1' }, found: 'silence' },
    })
  })
})

const taken = { text: '.\n' }
const lockMotor = {
  speaks: 'script',
  operations: {
    attach: {
      steps: [
        { do: 'send', text: 'i\n' },
        { do: 'expect', patterns: [{ text: 'LM2 loader' }], withinMs: 1000 },
      ],
    },
    erase: {
      steps: [
        { do: 'send', text: 'e\n' },
        { do: 'expect', patterns: [{ text: '*\n' }], withinMs: 5000 },
      ],
    },
    write: {
      steps: [
        {
          do: 'transfer',
          by: 'srec-lines',
          lineEnd: '\n',
          recordBytes: 32,
          answer: [
            taken,
            { text: '!b\n', means: 'again' },
            { text: '!c\n', means: 'again' },
            { text: '!{reason}\n', means: 'refused' },
          ],
          withinMs: 1000,
        },
      ],
    },
    start: {
      steps: [
        { do: 'send', text: 'x\n' },
        { do: 'expect', patterns: [{ text: 'bye\n' }], withinMs: 1000 },
      ],
    },
  },
}

describe('record lines with an answer each, and nothing that can be read back', () => {
  it('is written; a line that was refused for now is sent again; nothing is compared', async () => {
    const settings = at(19_200)
    const { port: own, memory } = await join_('record_lines', settings)
    const driver = driverOf(lockMotor, own, componentAt(0x2000, 0x2000, 0x400, 64), settings)
    const loader = scriptLoader(driver, own.name)
    expect(loader.can).toEqual({ read: false, erase: true, verify: 'version-only', resume: false })
    await loader.attach()
    const image = patterned(3001)
    await loader.erase({ address: 0x2000, length: 0x2000 }, () => {})
    let retries = 0
    await loader.write(
      0x2000,
      image,
      (progress) => void (retries = Math.max(retries, progress.retries)),
      never,
    )
    expect(equalBytes(memory().subarray(0, image.length), image)).toBe(true)
    expect(retries).toBe(1)
    expect(await loader.verify(0x2000, image)).toMatchObject({ outcome: 'version-only' })
    await loader.leave()
  })
  it('stops at the first line that is refused for good', async () => {
    const settings = at(19_200)
    const { port: own } = await join_('record_lines', settings)
    const driver = driverOf(lockMotor, own, componentAt(0x2000, 0x2000, 0x400, 64), settings)
    await expect(
      scriptLoader(driver, own.name).write(0x100, patterned(64), () => {}, never),
    ).rejects.toMatchObject({
      facts: { kind: 'unit-refused', found: 'r' },
    })
  })
})

const crcArc = {
  name: 'CRC-16/ARC',
  width: 16,
  poly: '0x8005',
  init: '0x0000',
  refin: true,
  refout: true,
  xorout: '0x0000',
}
const fails = { bytes: 'FF {reason:u8}', means: 'refused' }
const busy = { bytes: 'FE', means: 'again' }
const craneScale = {
  speaks: 'script',
  frame: {
    layout: '{sequence:u8} {payload} {checksum:u16le}',
    escape: 'slip',
    checksum: crcArc,
    checksumOver: 'before-it',
    mostPayload: 72,
    tries: 4,
  },
  operations: {
    attach: {
      steps: [{ do: 'frame', bytes: '01', answer: [{ bytes: '81 {name:text}' }, fails], withinMs: 500 }],
    },
    identify: {
      steps: [
        { do: 'frame', bytes: '01', answer: [{ bytes: '81 {name:text}' }, fails], withinMs: 500 },
        { do: 'tell', field: 'loader', value: '{name}' },
      ],
    },
    erase: {
      steps: [
        {
          do: 'frame',
          bytes: '02 {address:u32le} {length:u32le}',
          answer: [{ bytes: '82' }, fails, busy],
          withinMs: 3000,
        },
      ],
    },
    write: {
      steps: [
        {
          do: 'each',
          of: 'chunk',
          bytes: 64,
          steps: [
            {
              do: 'frame',
              bytes: '03 {address:u32le} {data}',
              answer: [{ bytes: '83' }, fails, busy],
              withinMs: 500,
            },
          ],
        },
      ],
    },
    read: {
      steps: [
        {
          do: 'each',
          of: 'chunk',
          bytes: 64,
          steps: [
            {
              do: 'frame',
              bytes: '04 {address:u32le} {length:u8}',
              answer: [{ bytes: '84 {data}' }, fails],
              withinMs: 500,
            },
          ],
        },
      ],
    },
    start: { steps: [{ do: 'frame', bytes: '06', answer: [{ bytes: '86' }, fails], withinMs: 500 }] },
  },
}

describe('a framed binary bootloader', () => {
  it('is written and read back through SLIP, lost answers and busy ones', async () => {
    const settings = at(57_600)
    const { port: own, memory } = await join_('slip_frames', settings)
    const driver = driverOf(craneScale, own, componentAt(0x10000, 0x4000, 0x800, 64), settings)
    const loader = scriptLoader(driver, own.name)
    await loader.attach()
    expect(await loader.identify()).toEqual(['loader: CS-9 2.0.1'])
    // Every byte that SLIP stuffs, and those beside it.
    const image = Uint8Array.from(
      { length: 2500 },
      (_, index) => [0xc0, 0xdb, 0xdc, 0xdd, index & 255][index % 5]!,
    )
    await loader.erase({ address: 0x10000, length: 0x1000 }, () => {})
    let retries = 0
    await loader.write(
      0x10000,
      image,
      (progress) => void (retries = Math.max(retries, progress.retries)),
      never,
    )
    expect(equalBytes(memory().subarray(0, image.length), image)).toBe(true)
    expect(retries).toBeGreaterThan(0)
    expect(await loader.verify(0x10000, image)).toMatchObject({ outcome: 'equal-read-back' })
    await expect(loader.erase({ address: 0, length: 16 }, () => {})).rejects.toMatchObject({
      facts: { kind: 'unit-refused', found: '2' },
    })
    await loader.leave()
  })
})

const goes = { bytes: '06' }
const isNot = { bytes: '15', means: 'again' }
const bilgePump = {
  speaks: 'script',
  operations: {
    page: {
      steps: [
        { do: 'send', text: '?\r' },
        { do: 'expect', patterns: [{ text: 'BP1 {version}\r' }], withinMs: 500 },
        { do: 'tell', field: 'firmware', value: '{version}' },
      ],
    },
    enter: {
      steps: [
        { do: 'send', text: 'update\r' },
        { do: 'expect', patterns: [{ text: '57600\r' }], withinMs: 500 },
        { do: 'speed', baudRate: 57_600 },
        { do: 'repeat', steps: [{ do: 'send', bytes: '55' }], until: [goes], everyMs: 30, times: 100 },
      ],
    },
    erase: {
      steps: [
        { do: 'send', text: 'E' },
        { do: 'expect', patterns: [goes], withinMs: 3000 },
      ],
    },
    write: {
      steps: [
        {
          do: 'each',
          of: 'chunk',
          bytes: 64,
          steps: [
            { do: 'compute', into: 'sum', checksum: 'minus-sum8', over: 'data' },
            { do: 'send', bytes: '57 {address:u16be} {length:u8} {data} {sum:u8}' },
            { do: 'expect', patterns: [goes, isNot], withinMs: 500 },
          ],
        },
      ],
    },
    read: {
      steps: [
        {
          do: 'each',
          of: 'chunk',
          bytes: 64,
          steps: [
            { do: 'send', bytes: '52 {address:u16be} {length:u8}' },
            { do: 'transfer', by: 'plain', withinMs: 500 },
          ],
        },
      ],
    },
    start: {
      steps: [
        { do: 'send', text: 'G' },
        { do: 'expect', patterns: [goes], withinMs: 500 },
        { do: 'speed', baudRate: 9600 },
      ],
    },
  },
}

describe('a bootloader at another speed than the firmware', () => {
  it('is entered by sync bytes, written, read back and left at the firmware’s speed', async () => {
    const settings = at(9600)
    const { port: own, memory } = await join_('two_speeds', settings)
    const driver = driverOf(bilgePump, own, componentAt(0, 0x1000, 0x100, 64), settings)
    const loader = scriptLoader(driver, own.name)
    expect((await driver.run('page')).lines).toEqual(['firmware: 7.2'])
    await driver.run('enter')
    expect(own.settings.baudRate).toBe(57_600)
    const image = patterned(1000)
    await loader.erase({ address: 0, length: 0x1000 }, () => {})
    await loader.write(0, image, () => {}, never)
    expect(equalBytes(memory().subarray(0, image.length), image)).toBe(true)
    expect(await loader.verify(0, image)).toMatchObject({ outcome: 'equal-read-back' })
    const other = image.slice()
    other[500]! ^= 0x10
    expect(await loader.verify(0, other)).toMatchObject({
      outcome: 'different',
      found: expect.stringContaining('000001F4'),
    })
    await loader.leave()
    expect((await driver.run('page')).lines).toEqual(['firmware: 7.2'])
  })
})
