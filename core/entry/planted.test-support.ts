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

/** What a person finds at a bench where all is well and the unit does not answer all the same. */
const sound: Readonly<Record<string, string>> = {
  'port-listed': 'yes',
  'port-free': 'free',
  arrives: 'silence',
  starts: 'yes',
  sign: 'in',
  pair: 'crossed',
  contact: 'firm',
  label: 'it-is',
  speed: 'same',
  count: 'one',
  layout: 'agrees',
  'slow-try': 'out',
}
/**
 * What a person finds otherwise where each fault is planted: facts of the trade (PRACTICE C1, C3, C5, C8, E2, E7, F1 to
 * F4; common practice), and not the likelihoods of the table that is under test.
 */
const found: Readonly<Record<string, Readonly<Record<string, string>>>> = {
  'swapped-pair': { pair: 'same' },
  'bad-contact': { contact: 'gives' },
  'missed-window': { sign: 'normal', 'slow-try': 'in' },
  'wrong-definition': { sign: 'normal', layout: 'differs' },
  'port-held': { 'port-free': 'held' },
  'wrong-speed': { arrives: 'noise', speed: 'other' },
  'no-power': { starts: 'no', sign: 'nothing' },
  'second-unit': { arrives: 'noise', count: 'more' },
}

/**
 * Plants each fault in a bench, answers as a person there would, and follows the ladder. What the program itself can see
 * is no question to a person.
 * @param wrongly share of answers that the person gets wrong.
 * @returns questions to the person on average, and the share of benches whose fault was named.
 */
export function plantFaults(
  seeds: number,
  wrongly: number,
): { questions: number; named: number; asked: number } {
  let questions = 0
  let named = 0
  let benches = 0
  for (const [cause, familyId] of plantedFaults) {
    const family = demoFamily(familyId)
    const known: KnownOfBench = { family, link: family.links[0]!, way: family.entry[0]! }
    for (let seed = 0; seed < seeds; seed++) {
      const random = chance(seed * 7919 + plantedFaults.findIndex(([id]) => id === cause))
      const answerOf = (id: string) => {
        const right = found[cause]![id] ?? sound[id]!
        if (random() >= wrongly) return right
        const others = checks
          .find((check) => check.id === id)!
          .answers.filter((answer) => answer.id !== right)
        return others[Math.floor(random() * others.length)]!.id
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
