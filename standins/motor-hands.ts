import { cellOf, isBytes, plainName, type AgreedChannel, type TableValues } from '@bench-wake/core/rounds'
import { pedalFor, runMotor, type MotorRow } from './motor-model'
import type { LiveData } from './stand-in'

/** What the motor's controller calls its channels. */
const figures: Record<string, (row: MotorRow) => number> = {
  motorspeed: ({ speedRpm }) => speedRpm,
  pedal: ({ pedal }) => pedal,
  motorcurrent: ({ amps }) => amps,
  wantedcurrent: ({ wantedAmps }) => wantedAmps,
  tractionbattery: ({ volts }) => volts,
  motortemperature: ({ motorCelsius }) => motorCelsius,
}

/** Rows a second of the model, more often than any link asks. */
const modelHertz = 100

/**
 * A careful helmsman at the pedal of a stand-in, for one kind of log: from the first question on its data identifiers read
 * what the motor does then.
 */
export function motorHands(
  current: TableValues,
  kind: string,
  channels: readonly AgreedChannel[],
  seed: number,
): LiveData {
  const rows = runMotor(current, { ...pedalFor(kind), hertz: modelHertz, celsius: 12, fouled: 0, seed })
  let from: number | undefined
  return (identifier, ms) => {
    const channel = channels.find(({ read }) => read && isBytes(read) && read.identifier === identifier)
    const figure = channel && figures[plainName(channel.name)]
    if (!channel?.read || !isBytes(channel.read) || !figure) return null
    from ??= ms
    const row = rows[Math.min(rows.length - 1, Math.floor(((ms - from) / 1000) * modelHertz))]!
    const bytes = cellOf(Math.max(0, figure(row)), channel.read)
    return bytes && Uint8Array.from([...new Uint8Array(channel.read.at), ...bytes])
  }
}
