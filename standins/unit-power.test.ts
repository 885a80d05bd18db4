import { applicationRegions, componentOf, drivenLink } from '@bench-wake/core/family'
import { isProblem, virtualClock, type Clock } from '@bench-wake/core/kernel'
import { openLink, scpiMeter } from '@bench-wake/core/link'
import { demoFamily } from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import { batteryOf, memoryBytes, standInOf, UnitPower, type StandInFaults, type SupplyForm } from '.'

const turn = () => new Promise<void>((done) => setImmediate(done))
const image = (bytes: number) => Uint8Array.from({ length: bytes }, (_, at) => (at * 31 + (at >> 8)) & 255)

/** A unit of each protocol that feeds itself, with the largest piece that a write of it is programmed in, bytes. */
const units = [
  ['a script', 'fog-signal', 'service', 1024],
  ['Modbus', 'station-inverter', 'bus', 256],
  ['services on the vehicle bus', 'launch-motor', 'bus', 1024],
  ['services on the single wire', 'launch-motor', 'line', 256],
  ['the USB update mode', 'tide-logger', 'usb', 2048],
  ['a debug port', 'beacon-receiver', 'pads', 1024],
] as const

interface Asked {
  battery?: SupplyForm
  faults?: StandInFaults
}

async function joined(familyId: string, linkId: string, asked: Asked, clock: Clock = virtualClock(turn)) {
  const family = demoFamily(familyId)
  const flash = new Uint8Array(memoryBytes(family)).fill(0xff)
  const state = { flash, usedAh: 0, inBootloader: true, lines: {} }
  const form = { id: 'x', name: 'unit', family, hardware: '2', serial: 'X-1', state, ...asked }
  const unit = standInOf(form, linkId)
  unit.unplug?.(family.isolation?.neighbours.map(({ id }) => id) ?? [])
  const component = componentOf(family)
  const region = applicationRegions(component)[0]!
  const bytes = image(Math.min(region.length, 16_384))
  const plug = async () => {
    const { channel, meter } = unit.connect(clock)
    const driver = openLink(channel, clock, family, drivenLink(family, linkId)!, component)
    await driver.open()
    await driver.loader.attach()
    const write = async (onBytes: () => void = () => {}) => {
      await driver.loader.erase({ address: region.address, length: bytes.length }, () => {}, bytes)
      await driver.loader.write(region.address, bytes, onBytes, { raised: false })
    }
    return { driver, meter, write }
  }
  return { unit, clock, bytes, flash, family, plug, ...(await plug()) }
}

describe.each(units)('a stand-in that speaks over %s', (_, familyId, linkId, piece) => {
  it('whose supply fails in the middle falls silent half written, and is written after the switch', async () => {
    const faults = { powerFailsAtByte: 8192 }
    const { unit, driver, bytes, flash, write, plug } = await joined(familyId, linkId, { faults })
    const failure = await write().catch((error: unknown) => error)
    expect(isProblem(failure)).toBe(true)
    const held = bytes.findIndex((byte, at) => byte !== flash[at])
    expect(held).toBeGreaterThanOrEqual(8192)
    expect(held).toBeLessThanOrEqual(8192 + piece)
    // Nobody touched the switch: it says nothing to whatever is asked.
    await expect(driver.loader.attach()).rejects.toSatisfy(isProblem)
    await driver.close()

    unit.powerCycle()
    unit.enter?.()
    const again = await plug()
    await again.write()
    expect(bytes.every((byte, at) => byte === flash[at])).toBe(true)
  })

  it('without a battery has neither meter nor lamp, with one it has both', async () => {
    const bare = await joined(familyId, linkId, {})
    expect([bare.unit.hasMeter, bare.meter, bare.unit.lamp]).toEqual([false, undefined, undefined])
    const rest = demoFamily(familyId).power.nominalVolts * 1.05
    const battery = { restVolts: rest, voltsPerAh: 0, ohms: 0.1, slowOhms: 0, slowSeconds: 1 }
    const fed = await joined(familyId, linkId, { battery })
    expect(fed.unit.hasMeter).toBe(true)
    await fed.meter!.open({ baudRate: 9600, dataBits: 8, parity: 'none', stopBits: 1 })
    const meter = scpiMeter(fed.meter!)
    const { amps, nominalVolts } = fed.family.power
    // Ohm's law: rest volts less what the current drops on 0.1 ohm.
    expect(await meter.volts()).toBeCloseTo(rest - 0.1 * amps.idle, 2)
    fed.unit.lamp!.on = true
    // Two work lamps of 72 W each (made up).
    expect(await meter.volts()).toBeCloseTo(rest - 0.1 * (amps.idle + 144 / nominalVolts), 2)
    fed.unit.lamp!.on = false
    const seen: number[] = []
    let reading = Promise.resolve()
    await fed.write(() => {
      reading = reading.then(async () => void seen.push((await meter.volts())!))
    })
    await reading
    expect(Math.min(...seen)).toBeCloseTo(rest - 0.1 * amps.write, 2)
    expect(fed.unit.state().usedAh).toBeGreaterThan(0)
  })

  it('starts anew by itself when its volts sag below what it bears', async () => {
    const { power } = demoFamily(familyId)
    // Holds at rest; what a write draws takes a third of it.
    const ohms = (power.nominalVolts * 0.36) / power.amps.write
    const battery = { restVolts: power.nominalVolts * 1.05, voltsPerAh: 0, ohms, slowOhms: 0, slowSeconds: 1 }
    const { driver, bytes, flash, write, clock } = await joined(familyId, linkId, { battery })
    const failure = await write().catch((error: unknown) => error)
    // Where each piece is asked for again the write survives, and then all of it is there.
    if (failure === undefined) expect(bytes.every((byte, at) => byte === flash[at])).toBe(true)
    else expect(isProblem(failure)).toBe(true)
    // Nobody touched the switch.
    await clock.sleep(10_000)
    await driver.loader.attach()
  })
})

it('a battery is as the profile describes it, and none where the unit hangs on something else', () => {
  const { power } = demoFamily('fog-signal')
  // Six cells of 2.117 V full and 2.033 V half (rest-voltage tables of the trade: 12.7 V and 12.2 V); 60 Ah.
  expect(batteryOf({ power })).toMatchObject({
    restVolts: expect.closeTo(12.7, 2),
    voltsPerAh: expect.closeTo(0.5 / 30, 3),
  })
  const { supply, ...bare } = power
  expect(batteryOf({ power: bare })).toBeUndefined()
  expect(batteryOf({ power: { ...power, supply: { ...supply!, chemistry: 'mains' } } })).toBeUndefined()
})

describe('a supply that sags', () => {
  const family = demoFamily('fog-signal')
  const { floorVolts, amps } = family.power
  /** Volts at the terminals while it writes. */
  const atWrite = (volts: number): SupplyForm => {
    const ohms = 1
    return { restVolts: volts + amps.write * ohms, voltsPerAh: 0, ohms, slowOhms: 0, slowSeconds: 1 }
  }
  const begun = (battery: SupplyForm) => {
    const clock = virtualClock(turn)
    let anew = 0
    let lost = 0
    const power = new UnitPower(family, battery)
    power.join(clock, 0, () => void anew++)
    power.whenLost(() => void lost++)
    power.programs(256)
    return { clock, power, counts: () => ({ on: power.on, anew, lost }) }
  }

  // A processor stops below a level of its own; here 82 % of the lowest volts that its profile allows (made up).
  it('below what the unit bears takes it down, and it comes up again by itself', async () => {
    const { clock, counts } = begun(atWrite(floorVolts * 0.82 - 0.01))
    expect(counts()).toEqual({ on: false, anew: 0, lost: 1 })
    await clock.sleep(600)
    expect(counts()).toEqual({ on: true, anew: 1, lost: 1 })
  })
  it('above it leaves it alone', async () => {
    const { clock, counts } = begun(atWrite(floorVolts * 0.82 + 0.01))
    expect(counts()).toEqual({ on: true, anew: 0, lost: 0 })
    await clock.sleep(600)
    expect(counts()).toEqual({ on: true, anew: 0, lost: 0 })
  })
  it('switched by hand meanwhile, starts once', async () => {
    const { clock, power, counts } = begun(atWrite(floorVolts * 0.5))
    power.switched()
    await clock.sleep(600)
    expect(counts()).toEqual({ on: true, anew: 0, lost: 1 })
  })
  it('takes what is drawn from its charge, for as long as it is drawn', async () => {
    const { clock, power } = begun(atWrite(floorVolts))
    // A second of writing after the last piece, then an hour at rest: charge is current by time.
    await clock.sleep(3_600_000)
    expect(power.usedAh).toBeCloseTo((amps.write * 1 + amps.idle * 3599) / 3600, 6)
  })
})
