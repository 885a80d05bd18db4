import * as v from 'valibot'
import { AgreedChannel, LogKind, logFigure, positiveFigure, WatchedLimit } from '../quality'
import { BesideDevice } from '../recording'
import { fuels, type Fuel } from '../mixture'

const said = (max: number) => v.pipe(v.string(), v.trim(), v.maxLength(max))
const name = v.pipe(v.string(), v.trim(), v.minLength(1), v.maxLength(120))

/** How far from its aim a unit may be: the measured channel against another one, or against a figure. */
export const Aim = v.strictObject({
  /** What is measured. */
  channel: name,
  /** What it should be: another channel, or one figure for all. */
  target: v.union([v.strictObject({ channel: name }), v.strictObject({ value: logFigure })]),
  /** Edges of the map in which the error is looked at. */
  x: v.strictObject({ channel: name, points: v.pipe(v.array(logFigure), v.minLength(1), v.maxLength(40)) }),
  y: v.strictObject({ channel: name, points: v.pipe(v.array(logFigure), v.minLength(1), v.maxLength(40)) }),
  /** Error that is good enough, in the channel's unit. */
  within: positiveFigure,
  unit: v.optional(said(20), ''),
})
export type Aim = v.InferOutput<typeof Aim>

/** What technician and calibrator agree on before the first round (PRACTICE K3, K6). */
export const CaseAgreement = v.strictObject({
  title: name,
  goal: said(1000),
  calibrator: name,
  drive: v.picklist(['combustion', 'electric']),
  fuel: v.exactOptional(v.picklist(Object.keys(fuels) as [Fuel, ...Fuel[]])),
  /** Parts that are not as the maker fitted them. */
  parts: v.pipe(v.array(name), v.maxLength(60)),
  channels: v.pipe(v.array(AgreedChannel), v.minLength(1), v.maxLength(60)),
  kinds: v.pipe(v.array(LogKind), v.minLength(1), v.maxLength(12)),
  limits: v.pipe(v.array(WatchedLimit), v.maxLength(40)),
  floorVolts: v.nullable(logFigure),
  aim: v.nullable(Aim),
  /** The second device that some channels come from, where the bench records the log itself. */
  beside: v.exactOptional(BesideDevice),
})
export type CaseAgreement = v.InferOutput<typeof CaseAgreement>
/** An agreement as it comes in. */
export type CaseAgreementForm = v.InferInput<typeof CaseAgreement>

/**
 * The usual kinds of log and their order (PRACTICE K2, common practice), for a case that is begun.
 * @param load name of the channel that says how much of the full load there is, in %.
 */
export function usualKinds(load: string): LogKind[] {
  const road =
    'Full load belongs on rollers or on private ground, with a second person at the laptop. Local codes and licensed people come first.'
  return [
    {
      id: 'idle',
      name: 'Idle',
      asks: 'Warm, nothing else switched on, a minute without touching anything.',
      minSeconds: 60,
      minHertz: 5,
      conditions: [{ channel: load, max: 10, seconds: 45 }],
    },
    {
      id: 'light-load',
      name: 'Light load',
      asks: 'Steady, a little load, three minutes through the usual speeds.',
      minSeconds: 120,
      minHertz: 5,
      conditions: [{ channel: load, min: 15, max: 50, seconds: 60 }],
    },
    {
      id: 'full-load',
      name: 'Full load',
      asks: 'One pull from low to full speed, load held all the way.',
      minSeconds: 10,
      minHertz: 10,
      conditions: [{ channel: load, min: 90, seconds: 4 }],
      caution: road,
    },
  ]
}
