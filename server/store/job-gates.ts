import { judgeRequest } from '@bench-wake/core/fit'
import { verdictOf, type Finding } from '@bench-wake/core/kernel'
import {
  judgeDriven,
  judgeFuses,
  judgeOriginal,
  linkOfJob,
  readOnce,
  type Gate,
} from '@bench-wake/core/ready'
import { cameToItsEnd } from '@bench-wake/core/run'
import { cardGate } from './card'
import type { OpenJob } from './jobs'

/**
 * The gates that rest on unit, image and shelf; the bench's own come after them.
 * @param onStandIn the job goes to a stand-in, as far as that is known.
 */
export function fitGates(open: OpenJob, today: string, onStandIn: boolean): Gate[] {
  const { need, fit, family, runs, requests } = open
  const gate = (id: string, name: string, findings: Finding[]): Gate => ({
    id,
    name,
    verdict: verdictOf(findings),
    findings,
    numbers: {},
  })
  // Where nothing is written the task itself is judged, and no need, fit or original.
  if (open.job.task !== 'write')
    return [
      gate('task', 'Task', [need.finding, ...readOnce(open.job.task)]),
      judgeDriven(family, linkOfJob(family, open.bench.wiring).id),
    ]
  const awaited = fit
    ? []
    : requests.map((request): Finding => ({ rule: 'request-open', ...judgeRequest(request, today) }))
  // A unit whose last run was cut has to be brought up again, whatever was said about need before; and a unit that
  // is current is held once, by fit, not twice.
  const fuses = open.link && judgeFuses(open.link, open.fusesNow, open.bench.fuses)
  const card = cardGate(open)
  const begun = runs.some(({ state }) => !cameToItsEnd(state))
  const saidByFit =
    need.answer === 'nothing' &&
    fit?.findings.some(({ rule, level }) => rule === 'version-direction' && level === 'hold')
  return [
    gate('need', 'Need', [need.finding]),
    { ...gate('fit', 'Fit', fit?.findings ?? awaited), ...(fit ? {} : { unjudged: noImage }) },
    judgeDriven(family, linkOfJob(family, open.bench.wiring).id, open.tried ?? undefined, onStandIn),
    ...(fuses ? [fuses] : []),
    ...(card ? [card] : []),
    ...(open.link ? [judgeOriginal(family, open.link, open.workshopRules, open.known)] : []),
  ].filter(({ id }) => id !== 'need' || !(begun || saidByFit))
}

const noImage = { says: 'No image is chosen.', remedy: 'Choose an image for the job first.' }
