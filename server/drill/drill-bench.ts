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
import { portLost, talkOver, type Channel, type Port, type Talk } from '@bench-wake/core/link'
import { loadsOf, type Load } from '@bench-wake/core/run'
import { factsOf, knownPage, type UnitFacts } from '@bench-wake/core/unit'
import { demoFamily, demoFieldsOf, demoStandIn, demoUnits, placed, type DemoFirmware } from '@bench-wake/demo'
import { standInOf, unitMemoryOf, type StandIn } from '@bench-wake/standins'
import { nextTurn } from '../host-time'

/** A unit of the demo scenario, the link it stands on, and the image that belongs into it. */
export interface DrillUnit {
  unitId: string
  linkId: string
  component: string
  fields: DemoFirmware['fields']
}

/** A line with nobody at its end: whatever is asked, nothing comes. */
const mostSilenceMs = 60_000

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
  /** What the unit's pages say of it. */
  readonly facts: UnitFacts
  /** The cable is in its jack. */
  cableIn = true
  /** Transmit on transmit: what is sent reaches nobody. */
  swapped = false
  private readonly flash: Uint8Array
  private talk: Talk | null = null

  constructor(readonly form: DrillUnit) {
    const demo = demoUnits.find(({ id }) => id === form.unitId)!
    this.family = demoFamily(demo.familyId)
    this.component = componentOf(this.family, form.component)
    this.link = drivenLink(this.family, form.linkId)!
    this.memory = this.imageWith(form.fields)
    this.loads = loadsOf(this.component, this.memory)
    const page = knownPage(
      demo.pages.map(({ source, at, lines: said }) => ({
        at: Date.parse(at),
        source,
        lines: Object.entries(said).map(([field, value]) => ({ field, label: field, value })),
      })),
    )
    this.facts = page ? factsOf(page, this.family) : { versions: {} }
    const { hardware, flash, lines } = demoStandIn(demo)
    this.flash = flash
    this.unit = standInOf(
      {
        id: `drill-${demo.id}`,
        name: demo.name,
        family: this.family,
        hardware,
        serial: demo.serial,
        state: { flash, usedAh: 0, inBootloader: false, lines },
      },
      form.linkId,
    )
  }

  imageWith(fields: DemoFirmware['fields']): MemoryMap {
    const { serial } = demoUnits.find(({ id }) => id === this.form.unitId)!
    return placed(this.family, demoFieldsOf(this.family.id, this.form.component, { ...fields, serial }))
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
  async joined(): Promise<Talk> {
    if (!this.talk) {
      const channel = this.wired(this.unit.connect(this.clock).channel)
      this.talk = talkOver(channel, this.clock, this.family, this.link, this.component)
      await this.talk.open()
    }
    return this.talk
  }

  async unjoin(): Promise<void> {
    await this.talk?.close().catch(() => {})
    this.talk = null
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
      await loader.leave()
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
      async read(most, timeoutMs) {
        there()
        if (!isSilent()) return port.read(most, timeoutMs)
        await clock.sleep(Math.min(timeoutMs, mostSilenceMs))
        return null
      },
    }
    return { kind: 'serial', port: wrapped }
  }
}
