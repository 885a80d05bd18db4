import { isProblem, type ProblemFacts } from '../kernel'

/** What an act is refused with; null where it was taken. @throws what is no problem. */
export const factsOf = (act: Promise<unknown>): Promise<ProblemFacts | null> =>
  act.then(
    () => null,
    (error: unknown) => {
      if (isProblem(error)) return error.facts
      throw error
    },
  )
