import { demoBenches, demoYear } from '@bench-wake/demo'
import type { Database } from './db/open'
import { addDemoUnit, workPast } from './seed-past'
import { addJob, sayBench } from './store/job-rows'
import { openJob } from './store/jobs'
import { pack } from './store/kit'
import type { Shelf } from './store/shelf'
import { addAnswer } from './store/units'

const dayMs = 86_400_000

/** The past year, job by job, each really worked on its stand-in; what it comes to is in the wakes that the runs leave. */
export async function seedYear(
  db: Database,
  shelf: Shelf,
  imageIds: ReadonlyMap<string, string>,
  now: number,
  jobs = demoYear(),
): Promise<void> {
  const began = Date.now()
  for (const [index, { id, unit, image, kind, reason, daysAgo, legs, by, note, answers }] of jobs.entries()) {
    if (index > 0 && index % 8 === 0) {
      const left = Math.ceil((((Date.now() - began) / index) * (jobs.length - index)) / 1000)
      process.stderr.write(`The past year: ${index} of ${jobs.length} jobs, about ${left} s left.\n`)
    }
    const day = new Date(now - daysAgo * dayMs).toISOString().slice(0, 10)
    const from = Date.parse(`${day}T08:00:00Z`) + (index % 17) * 30 * 60_000
    const readAt = new Date(from - 3_600_000).toISOString()
    await addDemoUnit(db, { ...unit, pages: unit.pages.map((page) => ({ ...page, at: readAt })) })
    if (answers) await addAnswer(db, unit.id, { ...answers, by, at: from - 3_000_000 })
    await addJob(db, shelf, {
      id,
      unitId: unit.id,
      imageId: imageIds.get(image)!,
      kind,
      reason,
      day,
      symptoms: [],
    })
    await sayBench(db, id, demoBenches[unit.familyId]!)
    for (const item of (await openJob(db, shelf, id)).kit) await pack(db, day, item.id, true)
    await workPast(
      db,
      shelf,
      id,
      unit.id,
      legs.map((leg) => ({ ...leg, blockBytes: 100 })),
      from,
      { name: by, note },
    )
  }
}
