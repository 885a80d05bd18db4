import type { Finding, Release } from '../kernel'
import { shutLink, type Gate } from '../ready'

/** A release as a job keeps it: with what the hold said when it was given. */
export interface KeptRelease extends Release {
  /** The hold's own sentence then. */
  says: string
  /** ms since 1970 UTC. */
  at: number
}

/**
 * The releases that still stand: their hold (or the note that may be waived) says today what it said when it was released.
 * One whose facts have changed (another version on the unit, another supply) is asked anew; nobody answered for that.
 * @param findings of all gates as they are now.
 */
export function standing(kept: readonly KeptRelease[], findings: readonly Finding[]): KeptRelease[] {
  return kept.filter(({ rule, says }) => {
    const own = findings.filter((finding) => finding.rule === rule && finding.level !== 'go')
    return own.length > 0 && own.every((finding) => finding.says === says && finding.level !== 'stop')
  })
}

/** What still shuts the link of a job, heaviest first: what was let pass and says the same as then does not. */
export function shutLinkOf(gates: readonly Gate[], kept: readonly KeptRelease[]): Finding[] {
  const findings = gates.flatMap((gate) => gate.findings)
  return shutLink(
    gates,
    standing(kept, findings).map(({ rule }) => rule),
  )
}

/** Those that were given and do not stand any more though their rule holds again: they are shown, and asked anew. */
export function overtaken(kept: readonly KeptRelease[], findings: readonly Finding[]): KeptRelease[] {
  const good = new Set(standing(kept, findings))
  return kept.filter(
    (each) => !good.has(each) && findings.some(({ rule, level }) => rule === each.rule && level === 'hold'),
  )
}

/** The list with one more; an earlier one of the same rule goes, for one person answers for a hold. */
export function withRelease(kept: readonly KeptRelease[], release: KeptRelease): KeptRelease[] {
  return [...kept.filter(({ rule }) => rule !== release.rule), release]
}
