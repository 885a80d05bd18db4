import { demoFamily } from '@bench-wake/demo'
import { checks, diagnose, type CauseId, type KnownOfBench } from '.'

/** Eight faults, each planted where it can be. */
export const plantedFaults: readonly (readonly [CauseId, string])[] = [
  ['swapped-pair', 'mains-relay'],
  ['bad-contact', 'beacon-receiver'],
  ['missed-window', 'tide-logger'],
  ['wrong-definition', 'launch-motor'],
  ['port-held', 'marine-radio'],
  ['wrong-speed', 'boat-davit'],
  ['no-power', 'buoy-battery'],
  ['second-unit', 'buoy-battery'],
]

/** A small generator of chance with a seed (mulberry32), so that every run of the tests is the same. */
function chance(seed: number): () => number {
  let state = seed >>> 0
  return () => {
    state = (state + 0x6d2b79f5) >>> 0
    let mixed = Math.imul(state ^ (state >>> 15), state | 1)
    mixed ^= mixed + Math.imul(mixed ^ (mixed >>> 7), mixed | 61)
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 4_294_967_296
  }
}

/**
 * Plants each fault in a bench whose answers come by chance, as likely as the trade has them, and follows the ladder.
 * What the program itself can see is no question to a person.
 * @returns questions to the person on average, and the share of benches whose fault was named.
 */
export function plantFaults(seeds: number): { questions: number; named: number; asked: number } {
  let questions = 0
  let named = 0
  let benches = 0
  for (const [cause, familyId] of plantedFaults) {
    const family = demoFamily(familyId)
    const known: KnownOfBench = { family, link: family.links[0]!, way: family.entry[0]! }
    for (let seed = 0; seed < seeds; seed++) {
      const random = chance(seed * 7919 + plantedFaults.findIndex(([id]) => id === cause))
      const answerOf = (id: string) => {
        const { answers } = checks.find((check) => check.id === id)!
        let left = random()
        for (const answer of answers) {
          left -= answer.likelihood[cause] ?? answer.likelihood.usual
          if (left < 0) return answer.id
        }
        return answers[answers.length - 1]!.id
      }
      const answers: Record<string, string> = {}
      for (const { id, seen } of checks) if (seen) answers[id] = answerOf(id)
      let diagnosis = diagnose(known, answers)
      while (diagnosis.next) {
        questions++
        answers[diagnosis.next.id] = answerOf(diagnosis.next.id)
        diagnosis = diagnose(known, answers)
      }
      benches++
      if (diagnosis.ranked[0]!.id === cause) named++
    }
  }
  return { questions: questions / benches, named: named / benches, asked: benches }
}
