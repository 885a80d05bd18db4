import type { Family } from '@bench-wake/core/family'
import type { Clock } from '@bench-wake/core/kernel'
import type { Disturb } from './line'
import { batterySupply, type Supply, type SupplyForm } from './supply'

/** What is made to go wrong at a stand-in. */
export interface StandInFaults {
  /** The supply fails, once, when this many bytes are programmed since the last erase. */
  powerFailsAtByte?: number
  /** What happens to the bytes on its line; units on a serial line alone know it. */
  disturb?: Disturb
}

/** Work lamps at the same battery, W: two of them (made up). */
const lampWatts = 144
/** A unit starts anew below this share of the lowest volts that its profile allows (made up; processors differ). */
const brownOutShare = 0.82
const resetMs = 500
/** Between two pieces the unit still draws what writing takes, ms. */
const writingMs = 1000

/**
 * What feeds a stand-in. With a battery of its own the volts sag as its memory is worked on, and it starts anew below
 * what it bears; without one they stay the nominal ones. Its memory tells it what it does.
 */
export class UnitPower {
  /** Another load at the same battery, which the person switches. */
  readonly lamp = { on: false }
  private supply: Supply | null = null
  private clock: Clock | null = null
  private isOn = true
  private erasing = false
  private writingUntil = -Infinity
  private programmed = 0
  private startAnew: () => void = () => {}
  private lost: () => void = () => {}

  constructor(
    private readonly family: Pick<Family, 'power'>,
    private readonly battery?: SupplyForm,
    private readonly faults: StandInFaults = {},
  ) {}

  get hasBattery(): boolean {
    return this.battery !== undefined
  }

  /** Without it nothing is programmed, and nothing heard or said. */
  get on(): boolean {
    return this.isOn
  }

  /** Ampere-hours taken; null without a battery. */
  get usedAh(): number | null {
    if (!this.supply) return null
    this.volts()
    return this.supply.usedAh
  }

  /** A session begins. @param startAnew what the unit does when its supply comes back by itself. */
  join(clock: Clock, usedAh: number, startAnew: () => void): void {
    this.clock = clock
    this.startAnew = startAnew
    this.isOn = true
    this.lost = () => {}
    this.erasing = false
    this.writingUntil = -Infinity
    this.supply = this.battery ? batterySupply(this.battery, usedAh) : null
  }

  /** Told once the supply fails. */
  whenLost(lost: () => void): void {
    this.lost = lost
  }

  /** The person's hand at the switch: off and on. */
  switched(): void {
    this.isOn = true
    this.erasing = false
  }

  /** Volts at the unit's terminals now. */
  volts(): number {
    if (!this.supply || !this.clock) return this.family.power.nominalVolts
    const now = this.clock.now()
    // What writing drew ended between two looks.
    if (!this.erasing && this.writingUntil > -Infinity && this.writingUntil < now) {
      const ended = this.writingUntil
      this.writingUntil = -Infinity
      this.supply.voltsAt(ended, this.amps(ended))
    }
    return this.supply.voltsAt(now, this.amps(now))
  }

  private amps(now: number): number {
    const { amps, nominalVolts } = this.family.power
    const lamp = this.lamp.on ? lampWatts / nominalVolts : 0
    if (!this.isOn) return lamp
    return lamp + (this.erasing ? amps.erase : now <= this.writingUntil ? amps.write : amps.idle)
  }

  /** Sectors are being erased, or no longer. */
  erases(active: boolean): void {
    this.volts()
    this.erasing = active
    this.programmed = 0
    this.volts()
  }

  /** Bytes went into its memory. */
  programs(count: number): void {
    if (!this.isOn || !this.clock) return
    this.volts()
    this.writingUntil = this.clock.now() + writingMs
    this.programmed += count
    if (this.programmed >= (this.faults.powerFailsAtByte ?? Infinity)) {
      // The fault is spent, so that the next life is a sound one.
      delete this.faults.powerFailsAtByte
      this.fails()
    } else if (this.supply && this.volts() < this.family.power.floorVolts * brownOutShare) {
      this.fails()
      this.clock.after(resetMs, () => {
        if (this.isOn) return
        this.switched()
        this.startAnew()
      })
    }
  }

  private fails(): void {
    this.isOn = false
    this.lost()
  }
}
