import type { DrivenLink, Family } from '../family'
import type { WorkshopRules } from '../fit'
import { verdictOf, type Finding } from '../kernel'
import { linkReads, readsWhole } from '../link'
import type { Gate } from './gate'

/** What a named person may leave out for a reason; nothing is held by it (PRACTICE G3, G5). */
export const waivable: ReadonlySet<string> = new Set(['backup-once', 'settings-backup'])

/**
 * Whether a run reads the original out before its first write, where the link can (PRACTICE G1, G4).
 * @param link over which it goes; left out where that makes no difference.
 */
export const wantsOriginal = (
  family: Pick<Family, 'backup'>,
  { backup = 'family' }: Partial<Pick<WorkshopRules, 'backup'>>,
  { inside = null }: Partial<KnownInside> = {},
  link?: DrivenLink,
): boolean =>
  backup === 'always' ||
  ((family.backup?.firmware !== 'universal' || (link !== undefined && readsWhole(link))) && inside === null)

/** What is known of the bytes in a unit, and of those that it came with. */
export interface KnownInside {
  /** Name of the image that this bench wrote and proved, where the unit still says its version; null for anything else. */
  inside: string | null
  /** Name of the read-out of what it came with; null where none is kept. */
  original: string | null
}

const mayBeReadOnce: Finding = {
  rule: 'backup-once',
  level: 'note',
  says: 'It may be read once only, by name and reason.',
  because: 'What was read once may hold a fault of the line that nobody sees.',
}
/** The same of a job that only reads out. */
export const readOnce = (task: string): Finding[] => (task === 'read-out' ? [mayBeReadOnce] : [])

/**
 * PRACTICE G1, G4: whether the original is read out before the first write. Where every unit holds its own and the link
 * cannot read, there is no way back: that is released by name or not done. A profile that does not say which it is, is
 * treated like one whose units each hold their own.
 */
export function judgeOriginal(
  family: Family,
  link: DrivenLink,
  workshopRules: Pick<WorkshopRules, 'backup'>,
  { inside, original }: KnownInside = { inside: null, original: null },
): Gate {
  const own = family.backup?.firmware === 'own'
  const always = workshopRules.backup === 'always'
  const silent = family.backup === undefined
  const reads = linkReads(link)
  const finding = (level: Finding['level'], says: string, because: string, remedy?: string): Finding => ({
    rule: 'backup',
    level,
    says,
    because,
    ...(remedy ? { remedy } : {}),
  })
  const why = own
    ? 'Every unit of this family holds an image of its own.'
    : always
      ? 'Workshop rule: a backup always.'
      : readsWhole(link) && !silent
        ? 'A chip may hold more than its firmware, and nobody else has that.'
        : 'The profile does not say whether the same image can be had again, so it is treated as if it could not.'
  const findings: Finding[] = []
  if (inside !== null && !always) {
    findings.push(
      finding(
        'go',
        'What is in it is on the shelf: nothing is read out.',
        `This bench wrote ${inside} into it and proved it. ${
          original === null ? 'What it came with was not kept.' : `The original is kept: ${original}.`
        }`,
      ),
    )
  } else if (own || always || silent || readsWhole(link)) {
    findings.push(
      reads
        ? finding(
            'go',
            original === null
              ? 'The original is read out before the first write, twice, and kept.'
              : 'What is in it now is read out, twice, and kept beside the original.',
            original === null ? why : `The original is kept: ${original}. ${why}`,
          )
        : finding(
            own || silent ? 'hold' : 'note',
            'This link cannot read the original out of the unit.',
            why,
            own || silent
              ? 'Without it there is no way back. Read it with a programmer first, or answer for it by name.'
              : 'The same image can be had again from its supplier.',
          ),
    )
    if (reads) findings.push(mayBeReadOnce)
  } else {
    findings.push(
      finding(
        'go',
        'No original is read out: the same image can be had again.',
        'The family’s profile says so.',
      ),
    )
  }
  if (family.backup?.settings) {
    findings.push({
      rule: 'settings-backup',
      level: 'note',
      says: 'The update erases settings. The run asks for them before it changes anything.',
      because: family.backup.settings.says,
      remedy: 'It can be waived by name and reason where they are kept elsewhere.',
    })
  }
  return { id: 'original', name: 'Original', verdict: verdictOf(findings), findings, numbers: {} }
}
