import * as v from 'valibot'
import { isBus, joinsTwoEnds, type Family, type FamilyLink } from '../family'
import { inSentence, verdictOf, type Finding } from '../kernel'
import type { Gate } from './gate'
import { moment } from './moment'

const address = v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(255))

/** What a person, or a scan, says of what else hears the write. */
export const IsolationSay = v.strictObject({
  /** Neighbours that were unplugged, by their id in the profile. */
  unplugged: v.exactOptional(v.pipe(v.array(v.pipe(v.string(), v.maxLength(80))), v.maxLength(256))),
  /** How the levers of the address switch stand, first to last. */
  levers: v.exactOptional(v.pipe(v.array(v.boolean()), v.maxLength(32))),
  /** True where a person looked and nothing else is joined. */
  alone: v.exactOptional(v.boolean()),
  /** Addresses that answered a scan of the bus, and when it was, ms since 1970. */
  scanned: v.exactOptional(
    v.nullable(
      v.strictObject({
        at: moment,
        // Noise at an address counts twice.
        found: v.pipe(v.array(address), v.maxLength(512)),
        silent: v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(256)),
      }),
    ),
  ),
})
export type IsolationSay = v.InferOutput<typeof IsolationSay>

/** A scan older than this says nothing any more: somebody may have plugged a pack back in, ms. */
export const scanHoldsMs = 30 * 60_000
/** Two clocks of one bench differ by less than this, ms. */
export const clockSlackMs = 60_000

/**
 * PRACTICE F4: one unit on the bus, its address switch set. With a second one joined the wrong one is written, or both
 * are destroyed. What the profile does not describe is not known: on a bus it holds until somebody looked.
 * @param link the link that the job goes over.
 * @param now ms since 1970; a scan is good for half an hour.
 */
export function judgeIsolation(
  family: Family,
  say: IsolationSay | undefined,
  now: number,
  link: FamilyLink = family.links[0]!,
): Gate {
  const findings = findingsOf(family, link, say ?? {}, now)
  return {
    id: 'isolation',
    name: 'Isolation',
    verdict: verdictOf(findings),
    findings,
    numbers: numbersOf(say),
  }
}

const numbersOf = (say: IsolationSay | undefined): Record<string, number> =>
  say?.scanned ? { unitsOnBus: say.scanned.found.length } : {}

/** What a profile without a word on isolation leaves open. */
function undescribed(link: FamilyLink, say: IsolationSay): Finding {
  const rule = 'alone-on-bus'
  if (joinsTwoEnds(link)) {
    return {
      rule,
      level: 'go',
      says: 'Nothing else hears this link.',
      because: `${link.name} joins one host and one device.`,
    }
  }
  if (say.alone) {
    return {
      rule,
      level: 'note',
      says: 'Somebody looked: nothing else is joined.',
      because: 'The profile does not say what else may hang there; a look is not a count.',
    }
  }
  const because =
    'The profile says nothing about it. With a second unit joined the wrong one, or both, are written.'
  const remedy = 'Look whether anything else is joined, and say so here; or add it to the profile.'
  return isBus(link)
    ? {
        rule,
        level: 'hold',
        says: `Nobody knows what else hangs on ${inSentence(link.name)}.`,
        because,
        remedy,
      }
    : {
        rule,
        level: 'note',
        says: `Whether anything else is joined to ${inSentence(link.name)} is not described.`,
        because,
        remedy,
      }
}

function findingsOf(family: Family, link: FamilyLink, say: IsolationSay, now: number): Finding[] {
  const { isolation } = family
  if (!isolation) return [undescribed(link, say)]
  const findings: Finding[] = []
  const { neighbours, switch: lever, why } = isolation
  const unplugged = new Set(say.unplugged)
  const left = neighbours.filter(({ id }) => !unplugged.has(id))
  if (left.length > 0) {
    findings.push({
      rule: 'neighbours-off',
      level: 'stop',
      says: `${left.map(({ name }, index) => (index === 0 ? name : inSentence(name))).join(' and ')} still ${left.length === 1 ? 'hangs' : 'hang'} on it.`,
      because: why,
      remedy: left.map(({ unplug }) => unplug).join(' '),
      numbers: { neighboursLeft: left.length },
    })
  } else if (neighbours.length > 0) {
    findings.push({
      rule: 'neighbours-off',
      level: 'go',
      says: 'Every neighbour is unplugged.',
      because: neighbours.map(({ name }) => name).join(', '),
    })
  }
  if (lever) {
    const stands = say.levers
    const wrong = lever.stands.flatMap((on, index) => (stands && stands[index] !== on ? [index + 1] : []))
    findings.push(
      !stands
        ? {
            rule: 'address-switch',
            level: 'hold',
            says: `Nobody looked at the ${lever.name}.`,
            because: lever.says,
            remedy: 'Set it as drawn, and set the same here.',
          }
        : wrong.length > 0
          ? {
              rule: 'address-switch',
              level: 'stop',
              says: `Lever ${wrong.join(', ')} of the ${lever.name} stands wrong.`,
              because: lever.says,
              remedy: `Set it as drawn: ${leversText(lever.stands)}.`,
            }
          : {
              rule: 'address-switch',
              level: 'go',
              says: `The ${lever.name} stands as it must.`,
              because: lever.says,
            },
    )
  }
  findings.push(aloneOf(isolation.scan !== undefined, say, why, now))
  return findings
}

/** "1 on, 2 to 4 off", as people read a switch aloud. */
export function leversText(stands: readonly boolean[]): string {
  return stands.map((on, index) => `${index + 1} ${on ? 'on' : 'off'}`).join(', ')
}

function aloneOf(canScan: boolean, say: IsolationSay, why: string, now: number): Finding {
  const rule = 'alone-on-bus'
  const { scanned } = say
  // A count that bears a time to come was made by a clock that stood ahead: nobody knows how old it is.
  const age = scanned ? now - scanned.at : Infinity
  if (scanned && age >= -clockSlackMs && age <= scanHoldsMs) {
    const { found, silent } = scanned
    const numbers = { unitsOnBus: found.length }
    const because = `${new Set(found).size + silent} addresses asked; answered: ${found.length ? [...found].sort((a, b) => a - b).join(', ') : 'none'}.`
    if (found.length > 1) {
      return {
        rule,
        level: 'stop',
        says: `${found.length} units answer on the bus.`,
        because: `${because} ${why}`,
        remedy: 'Unplug all but the one that is to be written, and scan again.',
        numbers,
      }
    }
    return found.length === 1
      ? { rule, level: 'go', says: `One unit answers, at address ${found[0]}.`, because, numbers }
      : {
          rule,
          level: 'hold',
          says: 'No unit answers on the bus.',
          because,
          remedy: 'Look at power, the data pair and the address switch; then scan again.',
          numbers,
        }
  }
  if (say.alone) {
    return {
      rule,
      level: canScan ? 'note' : 'go',
      says: 'Somebody looked: nothing else is joined.',
      because: canScan ? 'The bus was not scanned; a look is not a count.' : why,
      ...(canScan ? { remedy: 'Scan the bus where a port is at hand.' } : {}),
    }
  }
  return {
    rule,
    level: 'hold',
    says: scanned ? 'The scan of the bus is too old.' : 'Nobody counted the units on the bus.',
    because: why,
    remedy: canScan
      ? 'Scan the bus, or look and say so here.'
      : 'Look whether anything else is joined, and say so here.',
  }
}
