/**
 * Of what is asked for again and again, an answer counts where none came that was asked for later: answers overtake each
 * other, and an old one would stand for good.
 * @param take what is done with an answer that counts.
 */
export function newest<T>(ask: () => Promise<T>, take: (answer: T) => void): () => Promise<void> {
  let asked = 0
  let taken = 0
  return async () => {
    const mine = ++asked
    const answer = await ask()
    if (mine < taken) return
    taken = mine
    take(answer)
  }
}
