import {
  filledMembers,
  howTold,
  memberWords,
  toldByWords,
  type ImageIdentity,
  type ToldBy,
} from './image-identity'

/**
 * One identity from all that is told, best first: a later way fills what an earlier one leaves open, and where two tell
 * different things it says so.
 */
export function mergeIdentities(told: readonly (ImageIdentity | null | undefined)[]): ImageIdentity | null {
  return told.reduce<ImageIdentity | null>(
    (best, next) => (best && next ? merged(best, next) : (best ?? next ?? null)),
    null,
  )
}

function merged(best: ImageIdentity, next: ImageIdentity): ImageIdentity {
  const by: ToldBy = howTold(next)
  const against = [...(best.contradictions ?? []), ...(next.contradictions ?? [])]
  if (best.familyId !== next.familyId || best.componentId !== next.componentId) {
    const [one, other] = [best, next].map((each) => `${each.familyId}, ${each.componentId}`)
    against.push(`${toldByWords[howTold(best)]} says ${one}, ${toldByWords[by]} says ${other}`)
    return { ...best, contradictions: against }
  }
  const whole: ImageIdentity = { ...best }
  const filledBy = { ...best.filledBy }
  for (const member of filledMembers) {
    const [has, says] = [best[member], next[member]]
    if (says === undefined) continue
    if (has === undefined) {
      Object.assign(whole, { [member]: says })
      filledBy[member] = howTold(next, member)
    } else if (has !== says) {
      const first = toldByWords[howTold(best, member)]
      against.push(
        `${memberWords[member]}: ${first} says ${has}, ${toldByWords[howTold(next, member)]} says ${says}`,
      )
    }
  }
  if (Object.keys(filledBy).length > 0) whole.filledBy = filledBy
  if (by !== 'person' && against.length === 0) whole.alsoToldBy = [...(best.alsoToldBy ?? []), by]
  if (against.length > 0) whole.contradictions = against
  const statement =
    best.statement ?? (Object.values(filledBy).includes('person') ? next.statement : undefined)
  if (statement) whole.statement = statement
  return whole
}
