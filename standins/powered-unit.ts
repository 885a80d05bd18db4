import { scpiMeterUnit } from './scpi-meter'
import type { StandIn } from './stand-in'
import type { UnitPower } from './unit-power'

/** A stand-in on its supply: with a battery of its own, a meter and a lamp stand at its terminals. */
export function poweredUnit(unit: StandIn, power: UnitPower): StandIn {
  return {
    ...unit,
    hasMeter: power.hasBattery,
    ...(power.hasBattery ? { lamp: power.lamp } : {}),
    connect(clock) {
      power.join(clock, this.state().usedAh, () => unit.powerCycle())
      const { channel } = unit.connect(clock)
      if (!power.hasBattery) return { channel }
      return { channel, meter: scpiMeterUnit(`${unit.name}, meter`, clock, () => power.volts()) }
    },
    powerCycle() {
      power.switched()
      unit.powerCycle()
    },
    ...(unit.enter && {
      enter() {
        power.switched()
        unit.enter!()
      },
    }),
    state() {
      const state = unit.state()
      state.usedAh = power.usedAh ?? state.usedAh
      return state
    },
  }
}
