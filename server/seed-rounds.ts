import { dayAt } from '@bench-wake/core/kernel'
import {
  baseImage,
  demoBenches,
  roundsAgreement,
  roundsAnswer,
  roundsDefinition,
  roundsLog,
  roundsPast,
} from '@bench-wake/demo'
import { CaseAgreement } from '@bench-wake/core/rounds'
import { mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import * as v from 'valibot'
import type { Database } from './db/open'
import { workPast } from './seed-past'
import { jobForRound, openCase, takeRevision, tellCase } from './store/case-deeds'
import { takeLog } from './store/case-logs'
import { sendRound } from './store/case-package'
import { addDefinition } from './store/definitions'
import { sayBench } from './store/job-rows'
import type { Shelf } from './store/shelf'
import type { WorkerThread } from './worker/worker-thread'

const dayMs = 86_400_000
const hourMs = 3_600_000

/** The launch's case as it went: every image really written to its stand-in, every log made from what was written. */
export async function seedRounds(
  db: Database,
  shelf: Shelf,
  worker: WorkerThread,
  now: number,
): Promise<void> {
  const { caseId, unitId, definitionId, by, imageDaysAgo, remarks, symptoms, ropeFound, name } = roundsPast
  const agreement = v.parse(CaseAgreement, roundsAgreement)
  await addDefinition(db, roundsDefinition, definitionId)
  await openCase(db, { id: caseId, unitId, agreement, by, at: now - roundsPast.openedDaysAgo * dayMs })
  const folder = await mkdtemp(join(tmpdir(), 'bench-wake-seed-'))
  try {
    let memory = baseImage()
    for (const [index, daysAgo] of imageDaysAgo.entries()) {
      const round = index + 1
      const came = now - daysAgo * dayMs
      const version = `4.1.${round}`
      const { images } = await shelf.add(name(version), memory[0]!.bytes, {
        origin: `${agreement.calibrator}, by mail`,
        address: memory[0]!.address,
      })
      await takeRevision(db, shelf, caseId, {
        imageId: images[0]!.id,
        definitionId,
        remarks: remarks[index]!,
        by,
        at: came,
      })
      if (round === imageDaysAgo.length) break
      const { jobId } = await jobForRound(db, shelf, caseId, {
        by,
        day: dayAt(came, 1),
        at: came + hourMs,
      })
      await sayBench(db, jobId, demoBenches['launch-motor']!)
      const wrote = came + dayMs
      await workPast(db, shelf, jobId, unitId, [{}], wrote, {
        name: by,
        note: `Round ${round} of the launch’s case.`,
      })
      const logs: string[] = []
      for (const [place, { id: kind }] of agreement.kinds.entries()) {
        const log = roundsLog(memory, kind, round)
        logs.push(log)
        const path = join(folder, `${round}-${kind}.csv`)
        await writeFile(path, log, 'latin1')
        const at = wrote + hourMs * (place + 1)
        await takeLog(db, worker, caseId, { path, name: `${kind}-${round}.csv`, logKind: kind, by, at })
      }
      if (round === ropeFound.afterRound)
        await tellCase(db, caseId, { kind: 'machine-changed', by, says: ropeFound.says }, wrote + 4 * hourMs)
      await sendRound(db, shelf, worker, caseId, {
        symptoms: symptoms[index]!,
        by,
        at: wrote + 5 * hourMs,
      })
      memory = roundsAnswer(memory, logs, version, new Date(now - imageDaysAgo[round]! * dayMs).toISOString())
    }
  } finally {
    await rm(folder, { recursive: true, force: true })
  }
}
