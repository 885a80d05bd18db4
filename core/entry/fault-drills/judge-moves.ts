import type { FaultDrill } from './fault-drill'

export interface DrillState {
  drill: FaultDrill
  /** Right moves done. */
  done: string[]
  /** Everything that was chosen, in order, with how it was judged. */
  chosen: { move: string; judged: 'right' | 'too-soon' | 'wrong' | 'unsafe' }[]
}

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

export const drillOver = ({ drill, done }: DrillState): boolean => done.length === drill.order.length
