import { componentOf, type Family } from '@bench-wake/core/family'
import { isProblem, Problem, type Clock } from '@bench-wake/core/kernel'
import {
  adapterFacts,
  dapAdapter,
  scanBus,
  scpiMeter,
  speechOf,
  openLink,
  tryOperation,
  type AdapterFacts,
  type BusScan,
  type SerialSettings,
  type LinkDriver,
  type Trial,
  type Tryable,
} from '@bench-wake/core/link'
import { readUnit } from '@bench-wake/core/run'
import type { Snapshot } from '@bench-wake/core/unit'
import type { Database } from '../db/open'
import { keepStandIn } from '../store/stand-ins'
import { linkOf } from './driven-link'
import { doEntryAct, type EntryActAsked } from './entry-act'
import type { PortHolds } from './holds'
import type { MeterRoom } from './meter-room'
import { portClock } from './port-clock'
import type { Ports } from './ports'
import type { PortTraces } from './traces'
import { wrongChannel } from './wrong-channel'

/** A unit that does not answer within this is not there, ms. */
const scanAnswerMs = 200
export const meterSettings: SerialSettings = { baudRate: 9600, dataBits: 8, parity: 'none', stopBits: 1 }

/** What is asked of a unit outside of a run: a port is opened for one question and closed again. */
export class Readings {
  constructor(
    private readonly db: Database,
    private readonly ports: Ports,
    private readonly holds: PortHolds,
    private readonly traces: PortTraces,
    private readonly meter: MeterRoom,
  ) {}

  /** Reads what a unit says of itself now. */
  async read(portId: string, family: Family, linkId?: string): Promise<Snapshot> {
    // The page bears the time of the person's clock, whatever clock the line runs in.
    return this.talking(
      portId,
      family,
      linkId,
      async (driver) => (await readUnit(driver, family, () => Date.now())).snapshot,
    )
  }

  /**
   * Volts at a unit's terminals with the unit idle: by the stand-in's own meter, else by the meter of the bench. Null when
   * it does not answer, or cannot be read now: then a person measures.
   */
  async volts(portId: string): Promise<number | null> {
    if (!this.ports.standIn(portId)) {
      try {
        return await this.meter.volts()
      } catch (error) {
        if (!isProblem(error)) throw error
        return null
      }
    }
    return this.holds.reading(portId, async () => {
      const clock = portClock(0)
      const { channel, meter } = this.ports.connect(portId, clock)
      if (!meter) return null
      await meter.open(meterSettings)
      try {
        return await scpiMeter(meter).volts()
      } finally {
        await meter.close()
        await channel.port.close()
      }
    })
  }

  /** Counts the units on a family's bus by asking every address who is there (PRACTICE F4). */
  async scan(portId: string, family: Family, unplugged: readonly string[]): Promise<BusScan> {
    const range = family.isolation?.scan
    const link = family.links.find((each) => each.kind === 'rs485' && each.line)
    if (!range || link?.kind !== 'rs485' || !link.line) {
      throw new Problem({
        kind: 'input',
        thing: family.name,
        says: 'this link cannot ask who is there',
        remedy: 'Look whether anything else is joined, and say so.',
      })
    }
    const entry = await this.ports.find(portId, this.holds.by)
    const { line } = link
    return this.holds.reading(portId, async () => {
      this.ports.takeOff(portId, unplugged)
      const clock = portClock(entry.kind === 'stand-in' ? 0 : 1)
      const bare = this.ports.connect(portId, clock).channel
      const channel = this.traces.traced(portId, bare, clock, { speaks: 'modbus' })
      if (channel.kind !== 'serial') throw wrongChannel(portId)
      const { port } = channel
      await port.open(line)
      try {
        return await scanBus(port, range.from, range.to, { answerMs: scanAnswerMs })
      } finally {
        await port.close()
      }
    })
  }

  /** Whether the bootloader answers now; asking changes nothing. False too where the link cannot tell. */
  async hearsBootloader(
    portId: string,
    family: Family,
    linkId?: string,
  ): Promise<{ answered: boolean; heard?: string }> {
    return this.talking(portId, family, linkId, async (driver) => {
      try {
        const { bootloader, text } = await driver.probeBootloader()
        return { answered: bootloader ?? false, ...(text ? { heard: text } : {}) }
      } catch (error) {
        if (isProblem(error)) return { answered: false }
        throw error
      }
    })
  }

  /**
   * Does over the link what an entry asks of the program: the command to the running firmware, the question whether the
   * bootloader is there, the adapter's own halt. Resolves when it was done, and not before.
   * @throws Problem `not-found`, and whatever the link says against it.
   */
  async entryAct(portId: string, family: Family, linkId: string | undefined, asked: EntryActAsked) {
    const way = family.entry.find(({ id }) => id === asked.way)
    const act = way?.script?.acts.find(({ id, by }) => id === asked.act && by === 'program')
    if (!way || !act) {
      throw new Problem({
        kind: 'not-found',
        thing: family.name,
        place: { at: `${asked.way}, ${asked.act}` },
        says: 'this entry asks nothing like that of the program',
        remedy: 'Look at the entry of the profile as it stands now.',
      })
    }
    return this.talking(portId, family, linkId, (driver, clock) => doEntryAct(driver, clock, way))
  }

  /** What an adapter at a port says of itself; nothing at its far end is touched. @throws Problem `dap-not-there`. */
  async adapterFacts(portId: string): Promise<AdapterFacts> {
    const entry = await this.ports.find(portId, this.holds.by)
    return this.holds.reading(portId, async () => {
      const { channel } = this.ports.connect(portId, portClock(entry.kind === 'stand-in' ? 0 : 1))
      if (channel.kind !== 'usb') {
        throw new Problem({
          kind: 'dap-not-there',
          thing: entry.name,
          says: 'a serial line does not say what hangs on it',
          remedy: 'Ask an adapter at a USB port.',
        })
      }
      await channel.port.open()
      try {
        return await adapterFacts(await dapAdapter(channel.port))
      } finally {
        await channel.port.close()
      }
    })
  }

  /** What the person's hands did to the stand-in at this port: its supply off and on, or all that its entry wants. */
  hands(portId: string, did: 'off' | 'entry'): void {
    this.holds.refuseHeld(portId)
    const unit = this.ports.standIn(portId)
    if (did === 'off') unit?.powerCycle()
    else unit?.enter?.()
  }

  /**
   * Tries one operation of a family's scripted link by itself; it writes nothing.
   * @throws Problem `no-script` where the link is none, and whatever the port says against it.
   */
  async tryOperation(portId: string, family: Family, linkId: string, operation: Tryable): Promise<Trial> {
    const link = linkOf(family, linkId)
    if (link.drive.speaks !== 'script' || !link.drive.operations[operation]) {
      throw new Problem({
        kind: 'no-script',
        thing: link.name,
        says: `this link has no operation "${operation}"`,
        remedy: 'Write its steps first.',
      })
    }
    const { drive } = link
    const entry = await this.ports.find(portId, this.holds.by)
    return this.holds.reading(portId, async () => {
      const clock = portClock(entry.kind === 'stand-in' ? 0 : 1)
      const bare = this.ports.connect(portId, clock).channel
      const channel = this.traces.traced(portId, bare, clock, speechOf(link))
      if (channel.kind !== 'serial') throw wrongChannel(portId)
      return tryOperation(channel.port, clock, family, { ...link, drive }, componentOf(family), operation)
    })
  }

  /** Opens a family's link over a port for one reading. */
  private async talking<T>(
    portId: string,
    family: Family,
    linkId: string | undefined,
    act: (driver: LinkDriver, clock: Clock) => Promise<T>,
  ): Promise<T> {
    const entry = await this.ports.find(portId, this.holds.by)
    return this.holds.reading(portId, async () => {
      const clock = portClock(entry.kind === 'stand-in' ? 0 : 1)
      const unit = this.ports.standIn(portId)
      const link = linkOf(family, unit?.familyId === family.id ? unit.linkId : linkId)
      const bare = this.ports.connect(portId, clock).channel
      const channel = this.traces.traced(portId, bare, clock, speechOf(link))
      const driver = openLink(channel, clock, family, link, componentOf(family))
      await driver.open()
      try {
        return await act(driver, clock)
      } finally {
        await driver.close()
        if (unit) await keepStandIn(this.db, unit)
      }
    })
  }
}
