import { plainName, type Log } from '../log'
import { asLambda, isAirFuelRatio } from '../mixture'
import type { CaseAgreement } from './agreement'

/** A log in the units of the agreement: a mixture that was logged as air over fuel reads as lambda. */
export function agreedLog(log: Log, { channels, fuel }: CaseAgreement): Log {
  if (!fuel) return log
  const mixtures = new Set(
    channels
      .filter(({ role, unit }) => role === 'mixture' && !isAirFuelRatio(unit))
      .map(({ name }) => plainName(name)),
  )
  return {
    ...log,
    channels: log.channels.map((channel) =>
      mixtures.has(plainName(channel.name)) && isAirFuelRatio(channel.unit)
        ? {
            ...channel,
            unit: 'lambda',
            values: channel.values.map((reading) => asLambda(reading, channel.unit, fuel)),
          }
        : channel,
    ),
  }
}
