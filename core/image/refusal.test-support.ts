import { isProblem, type ProblemFacts } from '../kernel'

/** What an act is refused with. @throws what is no problem, and where it was not refused. */
export function refusal(act: () => unknown): ProblemFacts {
  try {
    act()
  } catch (error) {
    if (isProblem(error)) return error.facts
    throw error
  }
  throw new Error('it was not refused')
}
