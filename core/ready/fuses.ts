import type { DrivenLink } from '../family'
import { hexText, verdictOf, type Finding } from '../kernel'
import { fuseChanges, fuseText, wantedFuses, type WantedFuse } from '../link'
import { lineOf, type Snapshot } from '../unit'
import type { Gate } from './gate'

/** Fuse bytes as the unit said them when it was last read. */
export function fusesNow({ drive }: DrivenLink, page: Snapshot | undefined): WantedFuse[] {
  if (drive.speaks !== 'in-system' || !page) return []
  return drive.page.flatMap(({ field, tells }): WantedFuse[] => {
    const value = tells?.startsWith('fuse.') ? parseInt(lineOf(page, field) ?? '', 16) : NaN
    return Number.isNaN(value) ? [] : [{ id: tells!.slice('fuse.'.length), value }]
  })
}

/**
 * Fuse bytes as the job wants them, against what the unit said of them when it was last read: what each bit that changes
 * does, and which would shut the port for good. That one is held by name (common practice: a wrong fuse is what a six-line
 * port does not forgive).
 * @param nowSaid as the unit was last read.
 * @returns null where the link has no fuse bytes.
 */
export function judgeFuses(
  link: DrivenLink,
  nowSaid: readonly WantedFuse[],
  said: readonly WantedFuse[] = [],
): Gate | null {
  const { drive } = link
  if (drive.speaks !== 'in-system' || !drive.fuses) return null
  const findings = wantedFuses(drive, said).flatMap(({ id, value }): Finding[] => {
    const fuse = drive.fuses!.find((each) => each.id === id)!
    const now = nowSaid.find((each) => each.id === id)?.value
    if (now === undefined) {
      return [
        {
          rule: 'fuse-known',
          level: 'note',
          says: `Nobody has read the fuse byte ${fuse.name} yet; the job wants ${hexText(value)}.`,
          because: 'What changes is told, and held where it locks out, once the unit is read.',
          remedy: 'Read the unit first.',
        },
      ]
    }
    return fuseChanges(fuse, now, value).map((change): Finding => {
      const because = `${fuseText(fuse, now)} to ${hexText(value)}, bit ${change.bit} from ${change.from} to ${change.to}.`
      return change.locksOut
        ? {
            rule: 'fuse-locks-out',
            level: 'hold',
            says: `${change.name}: ${change.says}. Nobody gets in over this port again.`,
            because,
            remedy: `Leave bit ${change.bit} at ${change.from}, or have it released by whoever answers for the unit.`,
          }
        : { rule: 'fuse-change', level: 'note', says: `${change.name}: ${change.says}.`, because }
    })
  })
  if (findings.length === 0) {
    findings.push({
      rule: 'fuse-change',
      level: 'go',
      says: 'No fuse changes.',
      because: 'They are what the job wants, or nothing is said of them.',
    })
  }
  return { id: 'fuses', name: 'Fuses', verdict: verdictOf(findings), findings, numbers: {} }
}
