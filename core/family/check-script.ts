import type { Fault } from './fault'
import type { EntryAct, EntryScript, Panel } from './entry-script'

/** A fault in a script: the act or sign by its index, and what is wrong with it. */
export interface ScriptFault {
  /** `acts.2`, `signs`. */
  at: string
  says: string
}

/**
 * Shortest window that a person can meet, ms: a simple reaction takes about 200 to 250 ms and the hand's own travel a
 * tenth more (from memory, after the classical reaction-time experiments); twice that leaves room for a beginner.
 */
export const narrowestMs = 400
/** A window that closes earlier than this after the act before cannot be met by a person who has to see it first, ms. */
export const soonestMs = 500

/**
 * What is wrong with a script: acts that nothing leads to, switches that are turned where they stand already, loops, hands that would hold two things, releases of what is
 * not held, windows that nobody can meet, signs that are missing or tell both.
 */
export function checkScript(
  script: EntryScript,
  panel?: Panel,
  power?: { begins: PowerState; ends: PowerState },
): ScriptFault[] {
  const faults: ScriptFault[] = []
  const { acts, signs } = script
  const fault = (at: string, says: string) => faults.push({ at, says })
  acts.forEach(({ id }, index) => {
    if (acts.findIndex((act) => act.id === id) !== index) fault(`acts.${index}`, `"${id}" is used twice`)
  })
  checkOrder(acts, fault)
  checkHands(acts, fault)
  acts.forEach((act, index) => checkWindow(act, index, fault))
  if (power) checkPower(acts, power, fault)
  if (panel) {
    const parts = new Set(panel.parts.map(({ id }) => id))
    acts.forEach(({ act, what }, index) => {
      const onPanel = ['hold', 'release', 'press', 'plug', 'unplug'].includes(act)
      if (onPanel && !parts.has(what)) fault(`acts.${index}`, `The panel has no part "${what}"`)
    })
    signs.forEach(({ part }, index) => {
      if (part !== undefined && !parts.has(part)) fault(`signs.${index}`, `The panel has no part "${part}"`)
    })
  }
  if (!signs.some(({ tells }) => tells === 'in')) fault('signs', 'No sign tells that the unit is in')
  if (!signs.some(({ tells }) => tells === 'not-in')) fault('signs', 'No sign tells that the unit is not in')
  signs.forEach((sign, index) => {
    const twin = signs.findIndex(
      ({ part, shown, text }) => part === sign.part && shown === sign.shown && text === sign.text,
    )
    if (twin !== index)
      fault(`signs.${index}`, `It looks like "${signs[twin]!.says}"; nobody can tell them apart`)
    if (sign.tells === 'not-in' && !sign.do) fault(`signs.${index}`, 'It does not say what to do then')
  })
  return faults
}

/** The acts in the order in which they follow each other; ends at a loop. */
export function actsInOrder(acts: readonly EntryAct[]): EntryAct[] {
  const order: EntryAct[] = []
  for (let index = 0; index >= 0 && index < acts.length;) {
    const act = acts[index]!
    if (order.includes(act)) break
    order.push(act)
    index = act.then === undefined ? index + 1 : acts.findIndex(({ id }) => id === act.then)
  }
  return order
}

function checkOrder(acts: readonly EntryAct[], fault: Fault): void {
  acts.forEach(({ then }, index) => {
    if (then !== undefined && !acts.some(({ id }) => id === then))
      fault(`acts.${index}`, `There is no act "${then}"`)
  })
  const order = actsInOrder(acts)
  const last = order[order.length - 1]!
  const at = acts.indexOf(last)
  const next = last.then === undefined ? acts[at + 1] : acts.find(({ id }) => id === last.then)
  if (next) fault(`acts.${at}`, `It leads back to "${next.id}": the script never ends`)
  acts.forEach((act, index) => {
    if (!order.includes(act)) fault(`acts.${index}`, 'Nothing leads to this act')
  })
}

function checkHands(acts: readonly EntryAct[], fault: Fault): void {
  /** What each holds, by role. */
  const holding = new Map<string, string>()
  for (const act of actsInOrder(acts)) {
    const at = `acts.${acts.indexOf(act)}`
    const busy = holding.get(act.by)
    if (act.by === 'program' && act.act !== 'send') fault(at, 'Only `send` is done by the program')
    if (act.act === 'hold') {
      const holder = [...holding].find(([, what]) => what === act.what)
      if (holder) fault(at, `"${act.what}" is held already, by ${holder[0]}`)
      else if (busy !== undefined) fault(at, `The ${act.by} already holds "${busy}"`)
      holding.set(act.by, act.what)
    } else if (act.act === 'release') {
      const holder = [...holding].find(([, what]) => what === act.what)
      if (!holder) fault(at, `"${act.what}" is not held`)
      else if (holder[0] !== act.by) fault(at, `"${act.what}" is held by ${holder[0]}, not by ${act.by}`)
      if (holder) holding.delete(holder[0])
    } else if (busy !== undefined && act.by !== 'program') {
      fault(at, `The ${act.by} holds "${busy}" and cannot do this too`)
    }
  }
}

/** Whether the unit is switched on. */
export type PowerState = 'on' | 'off'

/** What an act does to the unit's own switch, key or supply; null for one that leaves it alone. */
export const switches = ({ act, leaves }: Pick<EntryAct, 'act' | 'leaves'>): PowerState | null =>
  leaves ?? (act === 'apply' ? 'on' : act === 'remove' ? 'off' : null)

/** PRACTICE E1, E8: nothing is switched on that is on already, and the last act leaves the unit as the entry says. */
function checkPower(
  acts: readonly EntryAct[],
  { begins, ends }: { begins: PowerState; ends: PowerState },
  fault: Fault,
): void {
  let stands: PowerState = begins
  const order = actsInOrder(acts)
  for (const act of order) {
    const to = switches(act)
    if (to === null) continue
    if (to === stands)
      fault(`acts.${acts.indexOf(act)}`, `The unit is ${stands} already when this act switches it ${to}`)
    stands = to
  }
  if (stands !== ends)
    fault(`acts.${acts.indexOf(order.at(-1)!)}`, `The acts leave the unit ${stands}; the entry says ${ends}`)
}

function checkWindow({ within, by }: EntryAct, index: number, fault: Fault): void {
  if (!within) return
  const width = within.maxMs - within.minMs
  if (width <= 0) fault(`acts.${index}`, 'The window has no width: it closes before it opens')
  else if (by !== 'program' && width < narrowestMs) {
    fault(`acts.${index}`, `The window is ${width} ms wide; a person needs ${narrowestMs} ms`)
  } else if (by !== 'program' && within.maxMs < soonestMs) {
    fault(
      `acts.${index}`,
      `The window closes after ${within.maxMs} ms; a person needs ${soonestMs} ms to react`,
    )
  }
}
