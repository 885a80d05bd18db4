import type { FaultDrill } from '@bench-wake/core/entry'
import {
  componentOf,
  drivenLink,
  type Component,
  type DrivenLink,
  type Family,
} from '@bench-wake/core/family'
import { identifyImage, type ImageIdentity, type MemoryMap } from '@bench-wake/core/image'
import {
  bytesText,
  equalBytes,
  groupedNumber,
  isProblem,
  virtualClock,
  type VirtualClock,
  asSentence,
} from '@bench-wake/core/kernel'
import { portLost, openLink, type Channel, type Port, type LinkDriver } from '@bench-wake/core/link'
import { loadsOf, type Load } from '@bench-wake/core/run'
import type { UnitFacts } from '@bench-wake/core/unit'
import {
  practiceForm,
  practiceImage,
  standInOf,
  unitMemoryOf,
  type MadeUpFirmware,
  type StandIn,
} from '@bench-wake/standins'
import { nextTurn } from '../host-time'

/** The unit that a drill's stand-in is made after. */
export interface DrillUnit {
  serial: string
  facts: UnitFacts
}

/** A unit of which nothing is known but its kind: the workshop has none of it yet. */
export const unknownUnit: DrillUnit = { serial: '00000', facts: { versions: {} } }

/** A line with nobody at its end: whatever is asked, nothing comes. */
const maxSilenceMs = 60_000

/**
 * The bench of a fault drill: a stand-in made for this one practice, in a time of its own. It is on no list of ports, and no
 * port is opened for it.
 */
export class DrillBench {
  readonly clock: VirtualClock = virtualClock(nextTurn, Date.UTC(2026, 10, 24, 8))
  readonly family: Family
  readonly component: Component
  readonly link: DrivenLink
  readonly memory: MemoryMap
  readonly loads: Load[]
  readonly unit: StandIn
  /** The cable is in its jack. */
  cableIn = true
  /** Transmit on transmit: what is sent reaches nobody. */
  swapped = false
  private readonly flash: Uint8Array
  private driver: LinkDriver | null = null

  /**
   * @param drill of this family.
   * @param unit whose serial, hardware and versions the stand-in has.
   * @param fields what the image says of itself beside what fits the unit: a variant.
   */
  constructor(
    family: Family,
    drill: Pick<FaultDrill, 'id' | 'kind' | 'linkId' | 'componentId'>,
    private readonly after: DrillUnit,
    fields: MadeUpFirmware['fields'] = {},
  ) {
    this.family = family
    this.component = componentOf(family, drill.componentId)
    this.link = drivenLink(family, drill.linkId)!
    this.memory = this.imageWith(fields)
    this.loads = loadsOf(this.component, this.memory)
    const { serial, facts } = after
    const { hardware, flash, lines } = practiceForm(family, serial, facts)
    this.flash = flash
    const state = { flash, usedAh: 0, inBootloader: false, lines }
    const form = { id: `drill-${drill.id}`, name: family.name, family, hardware, serial, state }
    this.unit = standInOf(form, drill.linkId)
    // Alone on its bus, but where the drill is about the others there.
    if (drill.kind !== 'second-unit') this.unplugOthers()
  }

  unplugOthers(): void {
    this.unit.unplug?.((this.family.isolation?.neighbours ?? []).map(({ id }) => id))
  }

  /** What the unit said of itself before. */
  get facts(): UnitFacts {
    return this.after.facts
  }

  imageWith(fields: MadeUpFirmware['fields']): MemoryMap {
    return practiceImage(this.family, this.component, this.after.serial, this.after.facts, fields)
  }

  identify(memory: MemoryMap): ImageIdentity | null {
    return identifyImage(memory, [this.family])
  }

  get bytes(): number {
    return this.loads.reduce((sum, { bytes }) => sum + bytes.length, 0)
  }

  /** The image lies in the unit's memory, byte for byte. */
  holds(memory: MemoryMap = this.memory): boolean {
    const own = unitMemoryOf(this.family, this.flash, this.component.id)
    return memory.every(({ bytes }) => equalBytes(own.subarray(0, bytes.length), bytes))
  }

  /** The talk over whatever is joined now; the same until it is joined anew. */
  async joined(): Promise<LinkDriver> {
    if (!this.driver) {
      const channel = this.wired(this.unit.connect(this.clock).channel)
      this.driver = openLink(channel, this.clock, this.family, this.link, this.component)
      await this.driver.open()
    }
    return this.driver
  }

  async unjoin(): Promise<void> {
    await this.driver?.close().catch(() => {})
    this.driver = null
  }

  /** Asks for the bootloader; what it says, or what is wrong. */
  async hear(): Promise<{ there: boolean; says: string[] }> {
    try {
      const { loader } = await this.joined()
      await loader.attach()
      return { there: true, says: [`The bootloader answers: ${(await loader.identify()).join('; ')}.`] }
    } catch (error) {
      return { there: false, says: [this.wordsOf(error)] }
    }
  }

  /**
   * Erases and writes, byte for byte over the link.
   * @param breaks what happens once this many bytes are acknowledged.
   * @returns bytes the unit acknowledged, and what broke it off.
   */
  async write(
    memory: MemoryMap = this.memory,
    breaks?: { at: number; by: () => void },
  ): Promise<{ acknowledged: number; says: string[] }> {
    let acknowledged = 0
    let broke = false
    try {
      const { loader } = await this.joined()
      await loader.attach()
      for (const { address, bytes } of loadsOf(this.component, memory)) {
        await loader.erase({ address, length: bytes.length }, () => {})
        await loader.write(
          address,
          bytes,
          ({ done }) => {
            acknowledged = done
            if (!breaks || broke || done < breaks.at) return
            broke = true
            breaks.by()
          },
          { raised: false },
        )
        const check = await loader.verify(address, bytes)
        if (check.outcome === 'different' || check.outcome === 'not-comparable')
          return { acknowledged, says: [`Not the image: ${check.found}.`] }
      }
      return {
        acknowledged,
        says: [
          `${groupedNumber(acknowledged)} of ${bytesText(this.bytes)} acknowledged.`,
          this.holds(memory)
            ? 'The stand-in’s memory is the image, byte for byte.'
            : 'The memory is not the image.',
        ],
      }
    } catch (error) {
      return {
        acknowledged,
        says: [
          `At byte ${groupedNumber(acknowledged)} of ${groupedNumber(this.bytes)}: ${this.wordsOf(error)}`,
        ],
      }
    }
  }

  /** Starts the new firmware, takes the power off and on, and reads the unit's own page. */
  async prove(): Promise<string[]> {
    try {
      const { loader } = await this.joined()
      await loader.startApplication()
      await this.clock.sleep(this.family.restart.readyMs)
      this.unit.powerCycle()
      await this.clock.sleep(2 * this.family.restart.readyMs)
      const { lines } = await (await this.joined()).page()
      return [`It says of itself: ${lines.join('; ')}.`]
    } catch (error) {
      return [this.wordsOf(error)]
    }
  }

  wordsOf(error: unknown): string {
    if (!isProblem(error)) throw error
    const { says, found } = error.facts
    return `${asSentence(says)}${found ? ` (${found})` : ''}.`
  }

  /** The cable with its faults. */
  private wired(channel: Channel): Channel {
    if (channel.kind === 'usb') return channel
    const { port } = channel
    const { clock } = this
    const there = () => {
      if (!this.cableIn) throw portLost(port.name)
    }
    const isSilent = () => this.swapped
    const wrapped: Port = {
      name: port.name,
      get settings() {
        return port.settings
      },
      open: (settings) => port.open(settings),
      close: () => port.close(),
      setLines: (lines) => port.setLines(lines),
      async write(bytes) {
        there()
        if (!isSilent()) await port.write(bytes)
      },
      async read(max, timeoutMs) {
        there()
        if (!isSilent()) return port.read(max, timeoutMs)
        await clock.sleep(Math.min(timeoutMs, maxSilenceMs))
        return null
      },
    }
    return { kind: 'serial', port: wrapped }
  }
}
