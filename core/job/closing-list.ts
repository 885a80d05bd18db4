import type { Family } from '../family'
import { takeDownOf, type BenchInputs } from '../ready'
import { postUpdateTasksLeft, postUpdateTasksOf, type PostUpdateTaskState, type RunState } from '../run'

/** One thing between the proof and the last word: something that comes back, or something that is due after a write. */
export interface ClosingItem {
  /** `back-` before what comes back, so that no two share one. */
  id: string
  does: string
  caution?: string
  expect?: string
  /** Absent for what only has to be put back. */
  task?: PostUpdateTaskState
  done: boolean
  /** Items of the list that have to be done before this one. */
  after: string[]
}

/** What the closing list is made from. */
export interface ClosingAsked {
  said: BenchInputs
  /** What came back already, by the ids of what was taken off. */
  back: readonly string[]
  /** The last run; null where none was started. */
  run: RunState | null
}

const backId = (id: string) => `back-${id}`

/**
 * PRACTICE D8, I2, I3, J1 to J3: one list, in the order the unit needs. What looks alarming shows first; then what was
 * joined for the job goes and what was taken off comes back, power last, in the family's own order; each test comes
 * after all that, or after what the profile says it needs. Built from what was said and done, so that a neighbour's
 * plug is demanded back without being written twice.
 */
export function closingList(family: Family, { said, back, run }: ClosingAsked): ClosingItem[] {
  const proved = run?.outcome === 'proved'
  const tasks = proved ? postUpdateTasksOf(family, run, said) : []
  const real = run !== null && !run.facts.port.standIn
  const due = takeDownOf(family, said, { ran: run !== null, real }).filter(
    // What an item after the proof brings back itself is not asked for twice.
    ({ id }) => !tasks.some(({ undoes }) => undoes === id),
  )
  const undoing = (each: PostUpdateTaskState) => each.undoes !== undefined
  const first = tasks.filter((each) => each.kind === 'scare' && !undoing(each))
  const bringBack = tasks.filter(undoing)
  const last = tasks.filter((each) => each.kind !== 'scare' && !undoing(each))
  const isBack = new Set(back)

  const items: ClosingItem[] = first.map((each) => taskItem(each, []))
  for (const each of bringBack) items.push(taskItem(each, []))
  let before: string[] = []
  for (const { id, does, caution } of due) {
    const own = backId(id)
    items.push({ id: own, does, ...(caution ? { caution } : {}), done: isBack.has(id), after: before })
    before = [own]
  }
  // Power comes last of what comes back, after every plug.
  const ownOrder = items.find(({ id }) => id === backId(family.powerOrder?.off[0]?.id ?? ''))
  if (ownOrder) ownOrder.after = [...ownOrder.after, ...bringBack.map(({ id }) => id)]
  const everything = items.filter(({ id }) => !first.some((each) => each.id === id)).map(({ id }) => id)
  const listed = new Set([...items, ...last].map(({ id }) => id))
  for (const each of last) {
    const needs = each.needs?.map((id) => (tasks.some((one) => one.id === id) ? id : backId(id)))
    items.push(taskItem(each, needs?.filter((id) => listed.has(id)) ?? everything))
  }
  return inOrder(items)
}

function taskItem(task: PostUpdateTaskState, after: string[]): ClosingItem {
  const { id, does, caution, expect } = task
  return {
    id,
    does,
    ...(caution ? { caution } : {}),
    ...(expect ? { expect } : {}),
    task,
    done: postUpdateTasksLeft([task]).length === 0,
    after,
  }
}

/** Each after what it needs, else as listed. */
function inOrder(items: readonly ClosingItem[]): ClosingItem[] {
  const left = [...items]
  const placed: ClosingItem[] = []
  while (left.length > 0) {
    const at = left.findIndex(({ after }) => after.every((id) => placed.some((item) => item.id === id)))
    // Two that wait for each other: the profile is checked against that, and none is lost here.
    placed.push(...left.splice(Math.max(0, at), 1))
  }
  return placed
}

/** Whether it is this one's turn: all that it needs is done. */
export const itsTurn = (list: readonly ClosingItem[], { after }: ClosingItem): boolean =>
  after.every((id) => list.find((item) => item.id === id)?.done ?? true)

/** What still keeps the job from being closed. */
export const closingLeft = (list: readonly ClosingItem[]): ClosingItem[] => list.filter(({ done }) => !done)
