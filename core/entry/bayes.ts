/*
 * Bayes' rule over a handful of causes, and how much a test is expected to tell (Shannon's information, bits). Both are
 * in every textbook of probability; the tests work them by hand.
 */

/** Shares by name; they add up to one. */
export type Beliefs = Readonly<Record<string, number>>

/** The shares brought to a sum of one. All zero stays as it is: nothing is known. */
export function normalise(weights: Beliefs): Beliefs {
  const sum = Object.values(weights).reduce((total, weight) => total + weight, 0)
  if (sum <= 0) return weights
  return Object.fromEntries(Object.entries(weights).map(([name, weight]) => [name, weight / sum]))
}

/**
 * Beliefs after an answer (Bayes): each prior times how likely the answer is under it, brought to a sum of one.
 * @param likelihood how likely the answer is under a cause, 0 to 1.
 */
export function posterior(priors: Beliefs, likelihood: (cause: string) => number): Beliefs {
  return normalise(
    Object.fromEntries(Object.entries(priors).map(([cause, prior]) => [cause, prior * likelihood(cause)])),
  )
}

/** How open the question still is, bits: 0 when one cause is certain, 1 for two equal ones. */
export function entropyBits(beliefs: Beliefs): number {
  return Object.values(beliefs).reduce(
    (bits, share) => (share > 0 ? bits - share * Math.log2(share) : bits),
    0,
  )
}

/**
 * Bits that a test is expected to tell: the openness before, less the mean of that after each answer.
 * @param answers each answer's likelihood under a cause.
 */
export function expectedBits(beliefs: Beliefs, answers: readonly ((cause: string) => number)[]): number {
  const after = answers.reduce((bits, likelihood) => {
    const chance = Object.entries(beliefs).reduce((sum, [cause, share]) => sum + share * likelihood(cause), 0)
    return chance > 0 ? bits + chance * entropyBits(posterior(beliefs, likelihood)) : bits
  }, 0)
  return Math.max(0, entropyBits(beliefs) - after)
}
