import type { FaultDrill } from './fault-drill'

/** How far a drill is. */
export interface DrillState {
  drill: FaultDrill
  /** Right moves done. */
  done: string[]
  /** Everything that was chosen, in order, with how it was judged. */
  chosen: { move: string; judged: 'right' | 'too-soon' | 'wrong' | 'unsafe' }[]
}

/** A drill of which nothing is done yet. */
export const beginDrill = (drill: FaultDrill): DrillState => ({ drill, done: [], chosen: [] })

/** The state after a move. One that is right but not yet due changes nothing but the record. */
export function judgeMove(state: DrillState, id: string): DrillState {
  const found = state.drill.moves.find((each) => each.id === id)
  if (!found || drillOver(state) || state.done.includes(id)) return state
  const due = state.drill.order[state.done.length]
  const judged = found.harm ?? (id === due ? 'right' : 'too-soon')
  return {
    ...state,
    done: judged === 'right' ? [...state.done, id] : state.done,
    chosen: [...state.chosen, { move: id, judged }],
  }
}

/** Whether every right move is done. */
export const drillOver = ({ drill, done }: DrillState): boolean => done.length === drill.order.length
