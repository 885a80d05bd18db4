import { Problem, verdictAfter, type Release } from '@bench-wake/core/kernel'
import type { Gate } from '@bench-wake/core/ready'
import type { OpenJob } from '../store/jobs'

/* Why a run is not started, each in a sentence with its way out. */

export function noPort(jobId: string): Problem {
  return new Problem({
    kind: 'input',
    thing: jobId,
    place: { at: 'port' },
    says: 'no port is chosen',
    remedy: 'Choose the port that the unit or its adapter is plugged into.',
  })
}

/** @throws Problem `wake-altered`: on a record that was changed nothing more is written. */
export function refuseAltered(id: string, at: number | null): void {
  if (at === null) return
  throw new Problem({
    kind: 'wake-altered',
    thing: id,
    place: { at: `event ${at}` },
    says: 'the record of this run was altered on disk',
    expected: 'an unbroken chain of events',
    remedy: 'Keep the file as it is and open a new job for the unit; its record begins anew.',
  })
}

/** @throws Problem `gate-not-go` that names the first gate which is not open. */
export function refuseShut(gates: readonly Gate[], releases: readonly Release[]): void {
  for (const gate of gates) {
    const verdict = verdictAfter(gate.findings, releases)
    if (verdict === 'go' || verdict === 'note') continue
    const finding = gate.findings.find(({ level, rule }) =>
      verdict === 'hold'
        ? level === 'hold' && !releases.some((release) => release.rule === rule)
        : level === verdict,
    )
    throw new Problem({
      kind: 'gate-not-go',
      thing: gate.name,
      ...(finding ? { place: { at: finding.rule } } : {}),
      says: (finding?.says ?? gate.unjudged?.says ?? 'this gate has nothing to judge by').replace(/\.$/, ''),
      ...(finding ? { found: finding.because } : {}),
      remedy:
        verdict === 'hold'
          ? `${finding?.remedy ?? ''} Or release the hold with your name and a reason.`.trim()
          : (finding?.remedy ?? gate.unjudged?.remedy ?? 'Look at what the profile says about it.'),
    })
  }
}

/** Every gate is open and yet nothing is to be written: it says why, and never that no image is chosen when one is. */
export function noWrite({ job, image, fit }: OpenJob): Problem {
  if (!image) {
    return new Problem({
      kind: 'gate-not-go',
      thing: job.id,
      says: 'no image is chosen',
      remedy: 'Choose an image for the job first.',
    })
  }
  const path = fit?.findings.find(({ rule }) => rule === 'path')
  return new Problem({
    kind: 'gate-not-go',
    thing: image.name,
    says: (path?.says ?? 'nothing is left to be written').replace(/\.$/, ''),
    ...(path ? { found: path.because } : {}),
    remedy: path?.remedy ?? 'Close the job, or choose another image.',
  })
}
