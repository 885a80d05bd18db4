import { countedAmps } from './peukert'

/** Ampere-hours and hours of a steady draw from a battery, with Peukert's rate effect. */
export function ampereHours(form: {
  capacityAh: number
  charge: number
  amps: number
  ratedHours: number
  peukert: number
}) {
  const { capacityAh, charge, amps, ratedHours, peukert } = form
  const counted = countedAmps(amps, capacityAh, ratedHours, peukert)
  return {
    countedAmps: counted,
    hours: counted > 0 ? (capacityAh * charge) / counted : null,
    usableAh: counted > 0 ? (capacityAh * charge * amps) / counted : capacityAh * charge,
  }
}
