import type { Medium } from '../image'
import { groupedNumber, sizeText, verdictOf, type Finding } from '../kernel'
import type { Gate } from './gate'
import * as v from 'valibot'
import { moment } from './moment'

/** A file as it must lie on the card. */
export interface WantedFile {
  name: string
  bytes: number
  sha256: string
}

const digest = v.pipe(v.string(), v.regex(/^[0-9a-f]{64}$/))

/** What was read back from the card, in the order of its directory. */
export const CardSay = v.object({
  at: moment,
  /** Files of the card’s top folder, in the order in which the system gives them. */
  files: v.pipe(
    v.array(
      v.object({
        name: v.pipe(v.string(), v.maxLength(255)),
        bytes: v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(1e13)),
        sha256: v.exactOptional(digest),
      }),
    ),
    v.maxLength(2000),
  ),
  /** Size of the card, where somebody said it. */
  mediumBytes: v.exactOptional(v.pipe(v.number(), v.minValue(0), v.maxValue(1e15))),
  /** It is the card of a stand-in. */
  standIn: v.exactOptional(v.literal(true)),
  /** False where the way of reading does not show in which order they lie. */
  ordered: v.boolean(),
})
export type CardSay = v.InferOutput<typeof CardSay>

/**
 * PRACTICE B11: the card as it was read back against what the unit searches for: each file by name and digest, in the order
 * of the directory, nothing else in its way, on a medium that the unit reads.
 */
export function judgeCard(medium: Medium, wanted: readonly WantedFile[], said: CardSay | undefined): Gate {
  const findings = said ? judgeRead(medium, wanted, said) : [notRead(medium)]
  return { id: 'card', name: 'Card', verdict: verdictOf(findings), findings, numbers: {} }
}

const notRead = ({ name }: Medium): Finding => ({
  rule: 'card-files',
  level: 'stop',
  says: `The ${name} has not been read back yet.`,
  because: 'What was copied is proved by reading it from the card again, not by the copy.',
  remedy: `Write the files onto the ${name} here, or check one that is written.`,
})

function judgeRead(medium: Medium, wanted: readonly WantedFile[], said: CardSay): Finding[] {
  const { name: card } = medium
  const findings: Finding[] = []
  const names = wanted.map(({ name }) => name)
  const there = said.files.filter(({ name }) => names.includes(name))
  const missing = names.filter((name) => !there.some((file) => file.name === name))
  if (missing.length > 0) {
    findings.push({
      rule: 'card-files',
      level: 'stop',
      says: `The ${card} lacks ${missing.join(', ')}.`,
      because: `The unit searches for ${names.join(', ')}, by these very names.`,
      remedy: 'Write the files again.',
    })
  }
  for (const want of wanted) {
    const file = there.find(({ name }) => name === want.name)
    if (!file || (file.bytes === want.bytes && file.sha256 === want.sha256)) continue
    findings.push({
      rule: 'card-bytes',
      level: 'stop',
      says: `${want.name} is not on the ${card} as it should be.`,
      because:
        file.bytes === want.bytes
          ? `Digest ${file.sha256?.slice(0, 12) ?? 'not read'}…, wanted ${want.sha256.slice(0, 12)}….`
          : `${groupedNumber(file.bytes)} bytes, wanted ${groupedNumber(want.bytes)}.`,
      remedy: `Write it again, eject the ${card} before you pull it, and check it once more.`,
    })
  }
  if (missing.length === 0) {
    const order = there.map(({ name }) => name)
    if (!said.ordered) {
      findings.push({
        rule: 'card-order',
        level: 'hold',
        says: `In which order the files lie on the ${card} was not seen.`,
        because: `The unit takes them in the order of the directory: ${names.join(', ')}.`,
        remedy: 'Let this program write them in order, or check an image of the card.',
      })
    } else if (order.join('\n') !== names.join('\n')) {
      findings.push({
        rule: 'card-order',
        level: 'stop',
        says: `The files lie on the ${card} in another order: ${order.join(', ')}.`,
        because: `The unit takes them in the order of the directory: ${names.join(', ')}.`,
        remedy: `Empty the ${card}, then write them one by one in this order.`,
      })
    }
  }
  const others = said.files.filter(({ name }) => !names.includes(name)).map(({ name }) => name)
  if (others.length > 0 && !medium.othersAllowed) {
    findings.push({
      rule: 'card-others',
      level: 'stop',
      says: `Other files are in the way: ${others.slice(0, 4).join(', ')}${others.length > 4 ? ` and ${others.length - 4} more` : ''}.`,
      because: `The unit searches the whole ${card}, and takes the first that looks like one of its own.`,
      remedy: `Save them elsewhere and take them off the ${card}.`,
    })
  }
  const size = wanted.reduce((sum, { bytes }) => sum + bytes, 0)
  if (said.mediumBytes !== undefined && said.mediumBytes > medium.maxBytes) {
    findings.push({
      rule: 'card-size',
      level: 'stop',
      says: `The ${card} is too large for this unit: ${sizeText(said.mediumBytes)}.`,
      because: `It reads none above ${sizeText(medium.maxBytes)}.`,
      remedy: 'Take a smaller one.',
    })
  } else if (said.mediumBytes === undefined) {
    findings.push({
      rule: 'card-size',
      level: 'note',
      says: `Nobody said how large the ${card} is.`,
      because: `The unit reads none above ${sizeText(medium.maxBytes)}.`,
    })
  }
  if (size > Math.min(said.mediumBytes ?? Infinity, medium.maxBytes)) {
    findings.push({
      rule: 'card-size',
      level: 'stop',
      says: `The files do not fit on the ${card}: ${sizeText(size)}.`,
      because: `There is room for ${sizeText(Math.min(said.mediumBytes ?? Infinity, medium.maxBytes))}.`,
      remedy: `Take a larger one, up to ${sizeText(medium.maxBytes)}.`,
    })
  }
  if (!findings.some(({ level }) => level === 'stop' || level === 'hold')) {
    findings.unshift({
      rule: 'card-files',
      level: 'go',
      says: `${names.length} ${names.length === 1 ? 'file was' : 'files were'} read back from the ${card}, equal and in order.`,
      because: `${names.join(', ')}; ${sizeText(size)}.`,
    })
  }
  return findings
}
