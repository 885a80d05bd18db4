import { fixedText } from '../kernel'
import {
  actsInOrder,
  readyLine,
  type EntryAct,
  type EntryScript,
  type EntrySign,
  type FamilyLink,
} from '../family'

/*
 * The judge of an entry: a pure state machine over a script and what happened when. It says where one is, how long the
 * window still is, and of a failure which act, how far off and why.
 */

/** What happened. Times are ms of one clock, whichever. */
export type EntryEvent =
  /** A person, or the program, did something. */
  | { at: number; type: 'did'; act: EntryAct['act']; what: string }
  /** The person saw or heard a sign, or a stand-in showed it. */
  | { at: number; type: 'sign'; id: string }
  /** The link asked, and the bootloader answered in its own protocol. */
  | { at: number; type: 'answered' }
  /** Something came over the line that is no answer of the protocol: a banner, the firmware, noise. */
  | { at: number; type: 'heard'; text: string }
  /** A port or device was listed that was not there before. */
  | { at: number; type: 'port-came'; usb?: UsbIds }
  /** Nothing but time. */
  | { at: number; type: 'tick' }

/** A USB device by its two numbers. */
export interface UsbIds {
  vendorId: number
  productId: number
}

/** By what the link tells the bootloader from everything else. */
export interface EntryExpects {
  /** What the bootloader says by itself. */
  says?: string
  /** The device that it is. */
  usb?: UsbIds
}

/** What a link of the family expects of its bootloader. */
export function expectsOf(link: FamilyLink): EntryExpects {
  const says = link.drive?.speaks === 'script' ? readyLine(link.drive) : undefined
  if (says !== undefined) return { says }
  return link.usb ? { usb: link.usb } : {}
}

/** Why an entry failed, and what to do. */
export interface EntryFailure {
  /** Index of the act in their order; the number of acts where the sign told it. */
  step: number
  /** Negative: too early; positive: too late; absent where time was not the matter. */
  offMs?: number
  why: string
  do: string
}

/** How far an entry is. */
export interface EntryState {
  script: EntryScript
  expects: EntryExpects
  /** What the line said last that was no bootloader; absent while it stayed silent. */
  noise?: string
  /** The acts in order. */
  acts: readonly EntryAct[]
  /** Index of the act that comes next; the number of acts when only the sign is left. */
  step: number
  /** When the try began, and when the last act was done. */
  startedAt: number
  lastAt: number
  /** What is held, by what holds it. */
  held: Readonly<Record<string, string>>
  outcome: 'going' | 'in' | 'failed'
  endedAt?: number
  failure?: EntryFailure
  sign?: EntrySign
}

/** Time that is waited for a sign beyond the usual, before its absence counts, ms. */
const patienceMs = 4000

/**
 * An entry that begins now.
 * @param at ms of the clock that its acts are judged by.
 */
export function beginEntry(script: EntryScript, at: number, expects: EntryExpects = {}): EntryState {
  return {
    script,
    expects,
    acts: actsInOrder(script.acts),
    step: 0,
    startedAt: at,
    lastAt: at,
    held: {},
    outcome: 'going',
  }
}

/** The state after one more event. An entry that is over stays as it is. */
export function judgeEntry(state: EntryState, event: EntryEvent): EntryState {
  if (state.outcome !== 'going') return state
  switch (event.type) {
    case 'answered':
      return { ...state, outcome: 'in', endedAt: event.at }
    case 'heard': {
      const { says } = state.expects
      if (says !== undefined && event.text.includes(says))
        return { ...state, outcome: 'in', endedAt: event.at }
      return event.text.trim() ? { ...state, noise: event.text.trim() } : state
    }
    case 'port-came': {
      const { usb } = state.expects
      const own = !usb || (event.usb?.vendorId === usb.vendorId && event.usb.productId === usb.productId)
      return own ? { ...state, outcome: 'in', endedAt: event.at } : state
    }
    case 'sign':
      return onSign(state, event.at, event.id)
    case 'did':
      return onAct(onTime(state, event.at), event)
    case 'tick':
      return onTime(state, event.at)
  }
}

/** The window of the next act, ms of the events' clock; null where it is done at leisure, or only the sign is left. */
export function windowOf(state: EntryState): { opensAt: number; closesAt: number } | null {
  const within = state.acts[state.step]?.within
  // The first act has nothing before it to be measured from.
  if (!within || state.step === 0) return null
  return { opensAt: state.lastAt + within.minMs, closesAt: state.lastAt + within.maxMs }
}

/**
 * The window of the next act as a bar from the last act to the window's end: where it opens and where one is, from 0 to
 * 1; whether it is open; and ms until it opens, or until it shuts. Null where there is no window.
 */
export function windowBar(
  state: EntryState,
  now: number,
): { opens: number; at: number; open: boolean; leftMs: number } | null {
  const window = windowOf(state)
  if (!window) return null
  const { opensAt, closesAt } = window
  const span = Math.max(1, closesAt - state.lastAt)
  const share = (at: number) => Math.max(0, Math.min(1, (at - state.lastAt) / span))
  return {
    opens: share(opensAt),
    at: share(now),
    open: now >= opensAt && now <= closesAt,
    leftMs: now < opensAt ? opensAt - now : closesAt - now,
  }
}

/** When the absence of a sign counts as one; null while acts are left. */
export function signDueAt(state: EntryState): number | null {
  return state.step < state.acts.length ? null : state.lastAt + state.script.signWithinMs + patienceMs
}

function onTime(state: EntryState, now: number): EntryState {
  const window = windowOf(state)
  if (window && now > window.closesAt) {
    const act = state.acts[state.step]!
    return fail(state, now, {
      step: state.step,
      offMs: now - window.closesAt,
      why: act.late ?? `“${act.says}” came too late.`,
      do: again,
    })
  }
  const due = signDueAt(state)
  if (due !== null && now > due) {
    return fail(state, now, {
      step: state.acts.length,
      ...(state.noise === undefined
        ? {
            why: 'The unit showed nothing that anybody knows, and the line stayed silent.',
            do: 'Look at its power and its plug, then try again from power off.',
          }
        : {
            why: `The line said “${state.noise.slice(0, 40)}”, and that is not the bootloader.`,
            do: 'Its firmware runs, or the speed is wrong. Try again from power off.',
          }),
    })
  }
  return state
}

function onAct(state: EntryState, event: Extract<EntryEvent, { type: 'did' }>): EntryState {
  if (state.outcome !== 'going') return state
  const due = state.acts[state.step]
  const { at, act, what } = event
  if (!due || due.act !== act || due.what !== what) return astray(state, event, due)
  const window = windowOf(state)
  if (window && at < window.opensAt) {
    return fail(state, at, {
      step: state.step,
      offMs: at - window.opensAt,
      why: due.early ?? `“${due.says}” came too early.`,
      do: again,
    })
  }
  const held = { ...state.held }
  if (act === 'hold') held[what] = due.by
  if (act === 'release') delete held[what]
  return { ...state, step: state.step + 1, lastAt: at, held }
}

/** Something else than the script asks for. */
function astray(
  state: EntryState,
  { at, act, what }: Extract<EntryEvent, { type: 'did' }>,
  due: EntryAct | undefined,
): EntryState {
  // What is held may be let go once nothing is left to do.
  if (!due)
    return act === 'release'
      ? state
      : fail(state, at, { step: state.step, why: `Nothing was to be done any more.`, do: again })
  if (act === 'release' && what in state.held) {
    const release = state.acts.findIndex(
      (each, index) => index >= state.step && each.act === 'release' && each.what === what,
    )
    return fail(state, at, {
      step: state.step,
      why: (release >= 0 ? state.acts[release]!.early : undefined) ?? `It was let go before “${due.says}”.`,
      do: again,
    })
  }
  return fail(state, at, {
    step: state.step,
    why: `Another thing was due: “${due.says}”`,
    do: again,
  })
}

function onSign(state: EntryState, at: number, id: string): EntryState {
  const sign = state.script.signs.find((each) => each.id === id)
  if (!sign) return state
  if (sign.tells === 'in') return { ...state, outcome: 'in', endedAt: at, sign }
  return {
    ...fail(state, at, { step: state.acts.length, why: sign.means, do: sign.do ?? again }),
    sign,
  }
}

const again = 'Begin again, from power off.'

function fail(state: EntryState, endedAt: number, failure: EntryFailure): EntryState {
  return { ...state, outcome: 'failed', endedAt, failure }
}

/** "200 ms too early", "1.4 s too late"; null where time was not the matter. */
export function offText({ offMs }: EntryFailure): string | null {
  if (offMs === undefined) return null
  const off = Math.abs(offMs)
  const amount = off < 1000 ? `${Math.round(off)} ms` : `${fixedText(off / 1000, 1)} s`
  return `${amount} too ${offMs < 0 ? 'early' : 'late'}`
}

/**
 * What a unit shows after the last act, as a stand-in: the sign of success where every act was in its window, else the
 * first sign that tells otherwise. Null while acts are left.
 */
export function signShown(state: EntryState): EntrySign | null {
  const { signs } = state.script
  if (state.outcome === 'failed') return signs.find(({ tells }) => tells === 'not-in') ?? null
  return state.step < state.acts.length ? null : (signs.find(({ tells }) => tells === 'in') ?? null)
}
