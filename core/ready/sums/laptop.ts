import { durationText, type Finding } from '../../kernel'

/** What is known of the laptop’s own supply. */
export interface LaptopForm {
  onMains: boolean
  /** Minutes the system says are left on battery; null when it does not tell. */
  minutesLeft: number | null
  /** Charge, 0 to 1, where only that is known. */
  charge?: number | null
  /** Hours it usually runs on a full battery, for the case that only the charge is known. */
  fullHours?: number | null
  runMs: number
}

/** A bank that feeds the laptop. */
export interface PowerBank {
  /** Printed, Wh; a bank that prints mAh means them at the 3.6 V of its cells. */
  wattHours: number
  /** What the laptop draws, W. */
  laptopWatts: number
  /** Share of what is printed that reaches the laptop. */
  efficiency?: number
}

/** Two converters, up and down, and cells that are not drained to the last (from memory: 80 to 90 %). */
export const usualBankEfficiency = 0.85

/** Minutes a bank carries a laptop; energy over power. */
export function bankMinutes({ wattHours, laptopWatts, efficiency = usualBankEfficiency }: PowerBank): number {
  return laptopWatts > 0 ? (wattHours * efficiency * 60) / laptopWatts : 0
}

/** PRACTICE D3: any stop of the laptop is as bad as one of the unit; twice the run is wanted (common practice). */
export function judgeLaptop({ onMains, minutesLeft, charge, fullHours, runMs }: LaptopForm): Finding {
  const wanted = (2 * runMs) / 60_000
  const left =
    minutesLeft ??
    (typeof charge === 'number' && typeof fullHours === 'number' ? charge * fullHours * 60 : null)
  const because = `The run takes about ${durationText(runMs)}; twice that is wanted.`
  const numbers = { wantedMinutes: wanted, ...(left === null ? {} : { minutesLeft: left }) }
  if (onMains) {
    return { rule: 'laptop-time', level: 'go', says: 'The laptop is on mains.', because, numbers }
  }
  if (left === null) {
    return {
      rule: 'laptop-time',
      level: 'hold',
      says: 'Nobody knows how long the laptop lasts.',
      because,
      remedy: 'Put it on mains, or say how many minutes its battery has left.',
      numbers,
    }
  }
  if (left >= wanted) {
    return {
      rule: 'laptop-time',
      level: 'go',
      says: `The laptop lasts ${Math.round(left)} min.`,
      because,
      numbers,
    }
  }
  return {
    rule: 'laptop-time',
    level: left * 60_000 < runMs ? 'stop' : 'hold',
    says: `The laptop lasts ${Math.round(left)} min; ${Math.ceil(wanted)} min are wanted.`,
    because,
    remedy: 'Put it on mains before you start.',
    numbers,
  }
}

/** What to set so that the system does not stop by itself (PRACTICE D3), by system. */
export const systemReminders = {
  windows: [
    'Settings, System, Power: screen and sleep to Never while plugged in.',
    'Windows Update: pause updates for the day.',
    'Network: flight mode on, unless the run needs it.',
  ],
  mac: [
    'System Settings, Battery, Options: prevent sleeping when the display is off.',
    'Screen saver: never.',
    'Network: Wi-Fi off, unless the run needs it.',
  ],
  linux: [
    'Power: automatic suspend off, screen blank never.',
    'Keep the lid open; a closed lid suspends.',
    'Network: off, unless the run needs it.',
  ],
} as const
