import {
  checkFamily,
  componentOf,
  draftFrom,
  emptyDraft,
  guessMarks,
  LinkScript,
  linkScriptFaults,
  profileOf,
  type Component,
  type PieceId,
  type TeachDraft,
} from '@bench-wake/core/family'
import { asciiBytes, asciiText, equalBytes, isProblem, realClock } from '@bench-wake/core/kernel'
import {
  readExchanges,
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
import { bilgePump, craneScale, lockMotor, tideGate, waveRecorder } from '@bench-wake/testing/peer-scripts'
import { tideGateLog } from '@bench-wake/testing/tide-gate-log'
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
    await loader.startApplication()
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
      // Silence, or its greeting as noise.
      facts: { kind: 'no-answer', place: { at: 'page.1' }, found: expect.not.stringContaining('TG-4') },
    })
  })
})

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
    await loader.startApplication()
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
    await loader.startApplication()
  })
})

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
    await loader.startApplication()
    expect((await driver.run('page')).lines).toEqual(['firmware: 7.2'])
  })
})

describe('a loader with room for several lines', () => {
  it('is written four lines ahead, through a refusal, proved by its CRC; one that is outside ends it', async () => {
    const settings = at(57_600)
    const { port: own, memory } = await join_('wave_recorder', settings)
    const driver = driverOf(waveRecorder, own, componentAt(0, 0x2000, 512, 32), settings)
    const loader = scriptLoader(driver, own.name)
    await loader.attach()
    const image = patterned(1500)
    await loader.erase({ address: 0, length: image.length }, () => {})
    const seen: number[] = []
    let retries = 0
    await loader.write(
      0,
      image,
      (progress) => {
        seen.push(progress.done)
        retries = progress.retries
      },
      never,
    )
    expect(equalBytes(memory().subarray(0, image.length), image)).toBe(true)
    expect(retries).toBe(1)
    expect(seen).toEqual([...seen].sort((a, b) => a - b))
    expect(await loader.verify(0, image)).toMatchObject({ outcome: 'equal-checksum' })
    const other = image.slice()
    other[1400]! ^= 2
    expect(await loader.verify(0, other)).toMatchObject({ outcome: 'different' })
    await expect(loader.write(0x1fe0, image, () => {}, never)).rejects.toMatchObject({
      facts: { kind: 'unit-refused', found: '2000' },
    })
    await loader.startApplication()
  })
})

describe('a unit that was taught from the log of a terminal', () => {
  it('is read, entered, erased, written, compared and read back by what the log said', async () => {
    const firmware = readExchanges(tideGateLog, '=> ').exchanges
    const bootloader = readExchanges(tideGateLog, 'boot> ').exchanges
    const asked = (text: string) =>
      [...bootloader, ...firmware].find(({ sent }) => sent.startsWith(text) && sent !== '')!
    let draft: TeachDraft = {
      ...emptyDraft(),
      about: { name: 'Tide gate', id: 'tide-gate', summary: 'A gate.', deviceIdentifier: 'TG-4' },
      lineKnown: true,
      memory: { address: '0x8000', length: '0x8000', sectorBytes: 0x1000 },
      refused: '?{reason}',
      // The log has no write: its two commands are in the manual.
      write: {
        sends: 'stage {length}',
        announces: 'send',
        by: 'plain',
        then: 'burn {address:hex}',
        pieceBytes: 1024,
      },
      power: { nominalVolts: 12, floorVolts: 11, ceilingVolts: 15 },
    }
    const teach = (piece: PieceId, exchange: { sent: string; heard: string }) => {
      draft = { ...draft, ...draftFrom(draft, piece, exchange) }
    }
    const page = asked('ver')
    teach(
      'page',
      firmware.find(({ sent }) => sent === 'ver')!,
    )
    draft = {
      ...draft,
      page: {
        sends: 'ver',
        facts: guessMarks(page.heard).map(({ field, label, template, value }) => ({
          field,
          label,
          reads: template,
          seen: value,
        })),
      },
    }
    teach('entry', asked('boot'))
    teach('attach', { sent: '', heard: 'boot> ' })
    teach('erase', asked('erase'))
    teach('check', asked('crc'))
    draft = { ...draft, check: { ...draft.check!, checksum: 'CRC-16/IBM-3740' } }
    teach('read', asked('dump'))
    teach('start', asked('go'))
    const document = profileOf(draft)
    expect(checkFamily(document).faults).toEqual([])

    const settings = at(115_200)
    const { port: own, memory } = await join_('prompt_console', settings)
    const { drive } = document.links[0]!
    // It greets when it is switched on, which a page that was asked meanwhile would take for its answer.
    await own.write(asciiBytes('\r'))
    for (let heard = ''; !heard.includes('=> ');) heard += asciiText((await own.read(64, 10_000))!)
    while (await own.read(64, 500));
    const driver = driverOf(drive, own, componentAt(0x8000, 0x8000, 0x1000, 256), settings)
    const loader = scriptLoader(driver, own.name)
    expect((await driver.run('page')).lines).toContain('fw 1.3')
    await driver.run('enter', { slots: { command: 'boot' } })
    await loader.attach()
    const image = patterned(2100)
    await loader.erase({ address: 0x8000, length: image.length }, () => {})
    await loader.write(0x8000, image, () => {}, never)
    expect(equalBytes(memory().subarray(0, image.length), image)).toBe(true)
    expect(await loader.verify(0x8000, image)).toMatchObject({ outcome: 'equal-checksum' })
    const back = await loader.read!({ address: 0x8000, length: 500 }, () => {})
    expect(equalBytes(back, image.subarray(0, 500))).toBe(true)
    await loader.startApplication()
  })
})
