import {
  drivenLink,
  linkScriptFaults,
  readFamily,
  type DriveOf,
  type Family,
  type FamilyLink,
} from '@bench-wake/core/family'
import { equalBytes, virtualClock } from '@bench-wake/core/kernel'
import { isEqual, openLink } from '@bench-wake/core/link'
import { demoFamilies } from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import { bilgePump, craneScale, lockMotor, tideGate, waveRecorder } from '@bench-wake/testing/peer-scripts'
import { isPlayable, memoryBytes, placed, standInOf } from '.'

/*
 * A stand-in from the profile: the scripts that drive the Python peers (e2e/peers), played from the unit's side. Its truth
 * is what lies in its memory.
 */
const turn = () => new Promise<void>((done) => setImmediate(done))
const never = { raised: false }
const hex = (value: number) => `0x${value.toString(16).toUpperCase()}`

/** A family with one serial link that is data, and one component where the manual page says it lies. */
function familyOf(script: object, baudRate: number, at: number, length: number, sectorBytes: number): Family {
  const document = structuredClone(
    demoFamilies.find((each) => (each as { id: string }).id === 'fog-signal'),
  ) as Record<string, unknown>
  const [main] = document['components'] as Record<string, unknown>[]
  // What a manual calls the firmware is a line of the page like any other.
  const drive = JSON.parse(JSON.stringify(script).replaceAll('"firmware"', '"version.main"')) as object
  const line = { baudRate, dataBits: 8, parity: 'none', stopBits: 1 }
  const link = {
    id: 'service',
    name: 'Service jack',
    kind: 'serial',
    protocol: 'script',
    bytesPerSecond: 1000,
    line,
    drive,
  }
  const region = {
    name: 'Application',
    use: 'application',
    address: hex(at),
    length: hex(length),
    sectorBytes,
    pageBytes: 64,
    eraseMsPerSector: 20,
    programMsPerPage: 1,
  }
  const identity = { ...(main!['identity'] as object), address: hex(at + 0x100) }
  return readFamily({
    ...document,
    id: 'taught-unit',
    links: [link],
    components: [{ ...main, memory: { erasedByte: 255, regions: [region] }, identity }],
  })
}

const cases = [
  {
    name: 'a prompt without a line end and a buffer',
    script: tideGate,
    baud: 115_200,
    at: 0x8000,
    length: 0x8000,
    sector: 0x1000,
  },
  {
    name: 'record lines with an answer each',
    script: lockMotor,
    baud: 19_200,
    at: 0x2000,
    length: 0x2000,
    sector: 0x400,
  },
  { name: 'SLIP frames', script: craneScale, baud: 57_600, at: 0x10000, length: 0x4000, sector: 0x800 },
  { name: 'four lines ahead', script: waveRecorder, baud: 57_600, at: 0, length: 0x2000, sector: 0x200 },
  { name: 'two speeds and sync bytes', script: bilgePump, baud: 9600, at: 0, length: 0x1000, sector: 0x100 },
]

describe.each(cases)('a stand-in from the profile: $name', ({ script, baud, at, length, sector }) => {
  const family = familyOf(script, baud, at, length, sector)
  const link = drivenLink(family)! as FamilyLink & { drive: DriveOf<'script'> }
  const component = family.components[0]!
  const firmware = (version: string) =>
    placed(family, {
      component: 'main',
      fields: {
        deviceIdentifier: 'FS-20',
        hardwareMajor: 2,
        hardwareMinor: 1,
        release: 'production',
        version,
        buildTime: 1_760_000_000,
      },
      length: 0x0c00,
    })
  const unit = (version?: string) => {
    const clock = virtualClock(turn)
    const flash = new Uint8Array(memoryBytes(family)).fill(0xff)
    if (version) flash.set(firmware(version)[0]!.bytes)
    const own = standInOf({
      id: 'taught-1',
      name: 'Taught unit',
      family,
      hardware: '2.1',
      serial: 'T-1',
      state: { flash, usedAh: 0, inBootloader: false, lines: {} },
    })
    const driver = openLink(own.connect(clock).channel, clock, family, link, component)
    return { clock, flash, own, driver }
  }

  it('is one that a stand-in can play, and has no fault', () => {
    expect(isPlayable(link.drive)).toBe(true)
    expect(linkScriptFaults(link.drive, { bytes: length, sectorBytes: sector, pageBytes: 64 })).toEqual([])
  })
  it('is entered, erased, written, proved and started', async () => {
    const { flash, driver } = unit()
    await driver.open()
    await driver.loader.attach()
    const image = Uint8Array.from({ length: 1500 }, (_, index) => (index * 31 + (index >> 8)) & 255)
    await driver.loader.erase({ address: at, length: image.length }, () => {})
    expect(flash[0]).toBe(0xff)
    const told: number[] = []
    await driver.loader.write(at, image, ({ done }) => void told.push(done), never)
    expect(equalBytes(flash.subarray(0, image.length), image)).toBe(true)
    expect(told.at(-1)).toBe(image.length)
    const proof = await driver.loader.verify(at, image)
    expect(proof.outcome === 'version-only' || isEqual(proof)).toBe(true)
    if (driver.loader.read) {
      expect(
        equalBytes(await driver.loader.read({ address: at, length: 300 }, () => {}), image.subarray(0, 300)),
      ).toBe(true)
      const other = image.slice()
      other[700]! ^= 1
      expect((await driver.loader.verify(at, other)).outcome).toBe('different')
    }
  })
  it('goes from firmware to bootloader and back as its own words do it, and says what is in it', async () => {
    const { flash, driver, clock } = unit('1.3')
    const { operations } = link.drive
    await driver.open()
    if (!operations.page || !operations.enter || !operations.start) return
    expect(await driver.page()).toMatchObject({ inBootloader: false })
    await driver.enter!('boot')
    const { bytes } = firmware('1.4')[0]!
    await driver.loader.erase({ address: at, length: bytes.length }, () => {})
    await driver.loader.write(at, bytes, () => {}, never)
    expect(equalBytes(flash.subarray(0, bytes.length), bytes)).toBe(true)
    expect(isEqual(await driver.loader.verify(at, bytes))).toBe(true)
    await driver.loader.startApplication()
    await clock.sleep(family.restart.readyMs)
    expect((await driver.page()).lines).toContain('main 1.4')
  })
  it('stays in its bootloader when its firmware is gone, and refuses to start it where it can say so', async () => {
    const { driver, own } = unit('1.3')
    const { operations } = link.drive
    await driver.open()
    if (!operations.enter) return
    await driver.enter!('boot')
    await driver.loader.erase({ address: at, length: 0x400 }, () => {})
    own.powerCycle()
    expect(own.state().inBootloader).toBe(true)
  })
})

describe('a way in over the control lines', () => {
  const { operations } = craneScale
  const script = {
    ...craneScale,
    opens: { dtr: false },
    operations: {
      ...operations,
      enter: {
        steps: [
          { do: 'lines', dtr: true, forMs: 50 },
          { do: 'lines', dtr: false, forMs: 100 },
          ...operations.attach.steps,
        ],
      },
    },
  }
  it('resets the unit into its bootloader at their first movement, and not by opening the port', async () => {
    const family = familyOf(script, 57_600, 0x10000, 0x4000, 0x800)
    const link = drivenLink(family)! as FamilyLink & { drive: DriveOf<'script'> }
    const clock = virtualClock(turn)
    const flash = new Uint8Array(memoryBytes(family)).fill(0xff)
    const image = placed(family, {
      component: 'main',
      fields: { deviceIdentifier: 'FS-20', hardwareMajor: 2, version: '1.0' },
      length: 0x0c00,
    })
    flash.set(image[0]!.bytes)
    const state = { flash, usedAh: 0, inBootloader: false, lines: {} }
    const own = standInOf({ id: 'scale-1', name: 'Scale', family, hardware: '2.1', serial: 'S-1', state })
    const driver = openLink(own.connect(clock).channel, clock, family, link, family.components[0]!)
    await driver.open()
    expect(own.state().inBootloader).toBe(false)
    await expect(driver.loader.attach()).rejects.toMatchObject({ facts: { kind: 'no-bootloader' } })
    await driver.enter!('')
    expect(own.state().inBootloader).toBe(true)
    await driver.loader.attach()
  })
})
