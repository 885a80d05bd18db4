import { interpolate, type TableValues } from '@bench-wake/core/rounds'
import { seeded } from './disturbances'

/*
 * A launch's drive motor as far as a calibrator looks at it: the table in its image says how much current flows at a
 * speed and a pedal, the propeller brakes by the square of the speed, the battery sags, the windings warm up. What it is
 * worth is that a changed table shows in the next log, and a fouled propeller as well.
 */

/** How it is driven, and in what state. */
export interface MotorDrive {
  seconds: number
  /** Rows a second. */
  hertz: number
  /** Pedal at a time, 0 to 100 %. */
  pedal: (second: number) => number
  celsius: number
  /** Share of the propeller that rope or weed brakes, coming and going. */
  fouled: number
  seed: number
}

export interface MotorRow {
  second: number
  speedRpm: number
  pedal: number
  amps: number
  wantedAmps: number
  volts: number
  motorCelsius: number
}

/** Inner steps a second: ten times as fast as anything in it moves. */
const stepsPerSecond = 100
const restVolts = 51.6
const batteryOhms = 0.022
/** Full current drives the clean propeller at full speed. */
const [fullAmps, fullRpm] = [180, 3000]

/** The current that the calibrator wants: even over the pedal, a little less towards full speed. */
export const wantedAmps = (pedal: number, speedRpm: number): number =>
  fullAmps * (pedal / 100) * (1 - 0.15 * (speedRpm / fullRpm))

/** A drive, row by row. @param current amperes over speed (x, rpm) and pedal (y, %), as the image has it. */
export function runMotor(
  current: TableValues,
  { seconds, hertz, pedal, celsius, fouled, seed }: MotorDrive,
): MotorRow[] {
  const chance = seeded(seed)
  const every = Math.max(1, Math.round(stepsPerSecond / hertz))
  const rows: MotorRow[] = []
  let speedRpm = 0
  let motorCelsius = celsius
  for (let step = 0; step <= seconds * stepsPerSecond; step++) {
    const second = step / stepsPerSecond
    const at = pedal(second)
    // Rope winds on and off about twice in five seconds.
    const drag = 1 + fouled * (1 + Math.sin(second * 2.6)) * 1.5
    const asked = interpolate(current, speedRpm, at)
    const amps = asked * (1 + fouled * 0.12 * Math.sin(second * 2.6))
    if (step % every === 0)
      rows.push({
        second,
        speedRpm: Math.max(0, speedRpm + (chance() - 0.5) * 4),
        pedal: at,
        amps: amps + (chance() - 0.5) * 0.6,
        wantedAmps: wantedAmps(at, speedRpm),
        volts: restVolts - batteryOhms * amps + (chance() - 0.5) * 0.04,
        motorCelsius: motorCelsius + (chance() - 0.5) * 0.1,
      })
    const push = (amps / (fullAmps * 0.85)) * fullRpm
    const brake = (drag * (speedRpm * speedRpm)) / fullRpm
    speedRpm = Math.max(0, speedRpm + (push - brake) / (1.6 * stepsPerSecond))
    motorCelsius += (amps * amps * 4e-5 - (motorCelsius - celsius) * 0.006) / stepsPerSecond
  }
  return rows
}

/** How the pedal goes for each kind of log, as a careful helmsman moves it. */
export function pedalFor(kind: string): { seconds: number; pedal: (second: number) => number } {
  switch (kind) {
    case 'idle':
      return { seconds: 66, pedal: (second) => (second < 30 ? 0 : 4 + (second > 50 ? 2 : 0)) }
    case 'light-load':
      return { seconds: 132, pedal: (second) => 15 + 30 * Math.abs(Math.sin(second / 21)) }
    default:
      return {
        seconds: 24,
        pedal: (second) => (second < 3 ? 20 : Math.min(100, 20 + (second - 3) * 16)),
      }
  }
}

/** The rows as a logger on the launch writes them: semicolons, decimal commas, time of the day. */
export function motorLogCsv(rows: readonly MotorRow[], startOfDaySeconds: number): string {
  const head =
    'Clock;Motor speed [rpm];Pedal [%];Motor current [A];Wanted current [A];Traction battery [V];Motor temperature [°C]'
  const figure = (value: number, decimals: number) => value.toFixed(decimals).replace('.', ',')
  const lines = rows.map((row) =>
    [
      clock(startOfDaySeconds + row.second),
      figure(row.speedRpm, 0),
      figure(row.pedal, 1),
      figure(row.amps, 1),
      figure(row.wantedAmps, 1),
      figure(row.volts, 2),
      figure(row.motorCelsius, 1),
    ].join(';'),
  )
  return [head, ...lines, ''].join('\r\n')
}

function clock(seconds: number): string {
  const two = (value: number) => String(Math.floor(value)).padStart(2, '0')
  // Rounded once, before it is taken apart: 6.9999 s is 07,000 and not 06,1000.
  const ms = Math.round(seconds * 1000)
  const thousandths = String(ms % 1000).padStart(3, '0')
  return `${two((ms / 3_600_000) % 24)}:${two((ms / 60_000) % 60)}:${two((ms / 1000) % 60)},${thousandths}`
}
