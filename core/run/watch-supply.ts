import type { RunEnvironment } from './step-context'
import { fewestUnderLoad, voltsAtLastByte } from './supply-trend'

/** Between two readings, ms. */
const everyMs = 1000
/** A change this small is the meter's own noise, V. */
const worthRecording = 0.005
/** Even an unchanged supply is recorded this often, so that the record shows it was watched, ms. */
const atLeastEveryMs = 5000

/** Erase or write under way: since when, and when the last byte is due, ms. */
export interface UnderWay {
  step: number
  since: number
  endsAt: number
  floorVolts: number
}

/**
 * Reads the supply all through a run, beside the link, and records what changes. In erase and write nothing can be held
 * any more: a supply that is below its floor, or on its way there by the last byte, is warned of (PRACTICE D).
 */
export function watchSupply(
  { meter, clock, wake }: Pick<RunEnvironment, 'meter' | 'clock' | 'wake'>,
  underWay: () => UnderWay | null,
) {
  let warned = false
  let state: 'idle' | 'watching' | 'paused' | 'ended' = 'idle'
  let last: { at: number; volts: number | null } | undefined
  let loop: Promise<void> = Promise.resolve()
  let wakeUp: () => void = () => {}
  const readings: { at: number; volts: number }[] = []
  const read = async () => {
    const volts = await meter!.volts().catch(() => null)
    if (volts !== null) readings.push({ at: clock.now(), volts })
    return volts
  }

  const nap = () =>
    new Promise<void>((resolve) => {
      const callOff = clock.after(everyMs, resolve)
      wakeUp = () => {
        callOff()
        resolve()
      }
    })

  async function warn(volts: number): Promise<void> {
    const now = underWay()
    if (!now) {
      warned = false
      return
    }
    const { step, since, endsAt, floorVolts } = now
    const own = readings.filter(({ at }) => at >= since)
    const due = own.length >= fewestUnderLoad ? voltsAtLastByte(own, endsAt) : null
    const low = volts < floorVolts || (due !== null && due < floorVolts)
    if (low === warned) return
    warned = low
    await wake.record({
      type: 'supply-warning',
      step,
      volts: low ? volts : null,
      atLastByte: low && due !== null ? Math.min(due, volts) : null,
    })
  }

  async function watch(): Promise<void> {
    while (state === 'watching') {
      const volts = await read()
      const now = clock.now()
      const changed =
        !last ||
        (volts === null) !== (last.volts === null) ||
        Math.abs((volts ?? 0) - (last.volts ?? 0)) >= worthRecording ||
        now - last.at >= atLeastEveryMs
      if (changed && state === 'watching') {
        last = { at: now, volts }
        await wake.record({ type: 'supply', volts })
      }
      if (volts !== null && state === 'watching') await warn(volts)
      if (state === 'watching') await nap()
    }
  }
  const go = () => {
    state = 'watching'
    // A journal that fails is found by the run itself at its next record.
    loop = loop.then(watch).catch(() => {})
  }

  return {
    start() {
      if (meter && state === 'idle') go()
    },
    /** While a person is waited for, nothing draws on the supply that was not measured before. */
    pause() {
      if (state === 'watching') state = 'paused'
      wakeUp()
    },
    resume() {
      if (state === 'paused') go()
    },
    readings: () => readings,
    async measure(): Promise<number | null> {
      if (!meter) return null
      // One question at a time: the meter's line is the watch's own.
      const before = state
      if (before === 'watching') state = 'paused'
      wakeUp()
      await loop
      const volts = await read()
      if (volts !== null) await wake.record({ type: 'supply', volts })
      if (before === 'watching') go()
      return volts
    },
    async end() {
      state = 'ended'
      wakeUp()
      await loop
    },
  }
}
