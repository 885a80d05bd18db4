import { judgeRequest } from '@bench-wake/core/fit'
import { cameTo, endingText, foundOut, type CameTo } from '@bench-wake/core/job'
import { dayAt, verdictAfter, type Finding } from '@bench-wake/core/kernel'
import { judgeKit } from '@bench-wake/core/ready'
import { taskText } from '@bench-wake/core/run'
import type { JobView } from './jobs'

/** What a job came to, as far as it is. */
export const cameToOf = ({ runs, need }: Pick<JobView, 'runs' | 'need'>): CameTo =>
  cameTo(runs[0]?.state ?? null, need.answer !== 'nothing')

/** What a list says of a job in one line. */
export function headlineOf(view: Omit<JobView, 'headline' | 'cameTo'>): JobView['headline'] {
  const { job, fit, need, runs, requests, arrived } = view
  const last = runs[0]?.state.outcome
  if (job.closedAt !== null) {
    const to = cameToOf(view)
    return {
      verdict: ['fit-for-use', 'nothing-to-do', 'looked'].includes(to) ? 'go' : 'note',
      says: `Closed. ${(runs[0] && foundOut(runs[0].state)) ?? `${endingText[to]}.`}`,
    }
  }
  if (last === 'damaged')
    return {
      verdict: 'hold',
      says: 'The record of the last run is damaged.',
      remedy: 'Open it to see where. Read the unit again before you rely on it.',
    }
  if (last === 'running') return { verdict: 'note', says: 'Running now.' }
  if (last === 'done') return { verdict: 'go', says: `${foundOut(runs[0]!.state) ?? 'Done.'} Close the job.` }
  if (arrived) return { verdict: 'go', says: 'Proved. Close the job.' }
  if (last === 'proved') return { verdict: 'note', says: `Proved. ${view.next!.imageName} comes next.` }
  if (last === 'cut' || last === 'failed' || last === 'abandoned') {
    return { verdict: 'hold', says: 'The last run did not reach its end. Go on with it.' }
  }
  if (job.task !== 'write')
    return need.finding.level === 'go'
      ? { verdict: 'go', says: `${taskText[job.task]}: ready for the bench.` }
      : said(need.finding)
  // Whether anything is to be done comes before which image fits.
  const [request] = requests
  // What was asked for and has not come yet is waited for, whatever the shelf holds meanwhile.
  if (need.answer === 'nothing' && (fit || !request)) return said(need.finding)
  if (!fit && request) {
    return said({ rule: 'request-open', ...judgeRequest(request, dayAt(Date.now())) })
  }
  if (!fit && view.came)
    return {
      verdict: 'note',
      says: `${view.came.imageName} has come, asked of ${view.came.of}.`,
      remedy: 'Choose it for the job.',
    }
  if (!fit) return { verdict: 'unknown', says: 'No image is chosen.' }
  const findings = [...fit.findings, ...(need.answer === 'do' ? [] : [need.finding]), ...kitEve(view)]
  const worst = heaviest(findings)
  const verdict = verdictAfter(findings, [])
  if (verdict === 'go' || !worst) return { verdict, says: 'The image fits. Ready for the bench.' }
  // A note holds nothing: it stands beside the answer, not in its place.
  if (verdict === 'note') return { verdict, says: 'The image fits. Ready for the bench.', remedy: worst.says }
  return said(worst)
}

/** PRACTICE C1: what is not packed holds the job on the day before, and not on the quay. */
function kitEve({ job, kit }: Pick<JobView, 'job' | 'kit'>): Finding[] {
  const now = Date.now()
  return job.day === dayAt(now, 1)
    ? judgeKit(kit, job.day, dayAt(now)).findings.filter(({ level }) => level === 'hold')
    : []
}

const said = ({ level, says, remedy }: Finding): JobView['headline'] => ({
  verdict: level,
  says,
  ...(remedy ? { remedy } : {}),
})

function heaviest(findings: readonly Finding[]): Finding | undefined {
  const order = ['stop', 'hold', 'note']
  return order.map((level) => findings.find((finding) => finding.level === level)).find(Boolean)
}
