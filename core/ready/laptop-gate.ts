import * as v from 'valibot'
import { durationText, verdictOf } from '../kernel'
import type { Gate } from './gate'
import { clockSlackMs } from './isolation'
import { moment } from './moment'
import { bankMinutes, judgeLaptop } from './sums'

/** What a person says of the laptop that the program runs on: it is the same for every job and run. */
export const LaptopSay = v.object({
  onMains: v.boolean(),
  minutesLeft: v.nullable(v.pipe(v.number(), v.minValue(0), v.maxValue(10_000))),
  /** When it was said, ms since 1970; the minutes count down from then. */
  at: v.exactOptional(moment),
  /** A bank joined to it, and what the laptop draws. */
  bank: v.exactOptional(
    v.nullable(
      v.strictObject({
        wattHours: v.pipe(v.number(), v.minValue(0), v.maxValue(100_000)),
        // No laptop that runs draws less than a tenth of a watt; one near zero would last for ever.
        laptopWatts: v.pipe(v.number(), v.minValue(0.1), v.maxValue(1000)),
      }),
    ),
  ),
})
export type LaptopSay = v.InferOutput<typeof LaptopSay>

/** Something the laptop has to last for: a run under way, or the one that is about to start. */
export interface LaptopTask {
  name: string
  leftMs: number
}

/** What was said longer ago than this may be another day's laptop, ms (common practice). */
export const laptopSayForMs = 12 * 3_600_000

/**
 * PRACTICE D3: one laptop carries every run; it has to last for the longest of them.
 * What was said at a time that has not come was said by a clock that stood ahead, and is not known any more.
 * @param ownMs the run that is about to start; null where only those under way are judged.
 * @param others runs under way.
 */
export function judgeLaptopFor(
  told: LaptopSay | undefined,
  ownMs: number | null,
  others: readonly LaptopTask[],
  now: number,
): Gate {
  const say = told?.at !== undefined && told.at > now + clockSlackMs ? undefined : told
  const own = say?.minutesLeft ?? null
  const bank = say?.bank ? bankMinutes(say.bank) : 0
  const left = own === null && !say?.bank ? null : (own ?? 0) + bank
  const passed = say?.at === undefined ? 0 : Math.max(0, (now - say.at) / 60_000)
  const longest = Math.max(ownMs ?? 0, 0, ...others.map(({ leftMs }) => leftMs))
  const finding = judgeLaptop({
    onMains: say?.onMains ?? false,
    minutesLeft: left === null ? null : Math.max(0, left - passed),
    runMs: longest,
  })
  const beside = others.map(({ name, leftMs }) => `${name}, ${durationText(leftMs)}`).join('; ')
  const because = beside ? `${finding.because} Under way: ${beside}.` : finding.because
  // What nobody has said of the laptop is a reminder; what was said is judged.
  const level = say || finding.level === 'go' ? finding.level : ('note' as const)
  const findings = [{ ...finding, level, because }]
  return {
    id: 'laptop',
    name: 'Laptop',
    verdict: verdictOf(findings),
    findings,
    numbers: finding.numbers ?? {},
  }
}
