import { Problem, type Clock } from '@bench-wake/core/kernel'
import { meterOver, type BenchMeter, type Meter } from '@bench-wake/core/link'
import type { Database } from '../db/open'
import { getMeter } from '../store/meter'
import type { PortHolds } from './holds'
import { portClock } from './port-clock'
import type { Ports } from './ports'
import { wrongChannel } from './wrong-channel'

/** A meter that is joined for as long as a run goes. */
export interface JoinedMeter {
  meter: Meter
  close(): Promise<void>
}

/** The meter of the bench at its own port, beside the port that a unit is joined to. */
export class MeterRoom {
  constructor(
    private readonly db: Database,
    private readonly ports: Ports,
    private readonly holds: PortHolds,
  ) {}

  /**
   * Asks a meter once.
   * @param form a meter that is tried; the one of the bench where nothing is said.
   * @returns volts; null where it does not answer, and where no meter has the job.
   * @throws Problem `meter-number` for an answer that is no voltage, `port-held`, and whatever its port says.
   */
  async volts(form?: BenchMeter): Promise<number | null> {
    const asked = form ?? (await getMeter(this.db))
    if (!asked) return null
    await this.ports.find(asked.port, this.holds.by)
    return this.holds.reading(asked.port, async () => {
      const joined = await this.open(asked, portClock(1))
      try {
        return await joined.meter.volts()
      } finally {
        await joined.close()
      }
    })
  }

  /**
   * Joins the bench's meter for a run; null where none has the job, or its port is the unit's own.
   * @throws Problem `meter-gone` that says why it cannot be read: nobody is to believe that the supply is watched.
   */
  async join(runId: string, unitPort: string, clock: Clock): Promise<JoinedMeter | null> {
    const form = await getMeter(this.db)
    if (!form || form.port === unitPort) return null
    try {
      await this.ports.find(form.port, this.holds.by)
      this.holds.refuseHeld(form.port)
      this.holds.hold(form.port, runId)
      try {
        await this.holds.quiet(form.port)
        const joined = await this.open(form, clock)
        return {
          meter: joined.meter,
          close: async () => {
            try {
              await joined.close()
            } finally {
              this.holds.free(form.port)
            }
          },
        }
      } catch (error) {
        this.holds.free(form.port)
        throw error
      }
    } catch (error) {
      if (!(error instanceof Problem)) throw error
      throw new Problem({
        kind: 'meter-gone',
        thing: form.name,
        says: `the meter cannot be read: ${error.facts.says}`,
        ...(error.facts.found ? { found: error.facts.found } : {}),
        remedy: 'Plug it in, or take the job of the meter from it under Ports and measure by hand.',
      })
    }
  }

  private async open(form: BenchMeter, clock: Clock): Promise<JoinedMeter> {
    const { channel } = this.ports.connect(form.port, clock)
    if (channel.kind !== 'serial') throw wrongChannel(form.port)
    const { port } = channel
    await port.open(form.line)
    return { meter: meterOver(form, port, clock), close: () => port.close() }
  }
}
