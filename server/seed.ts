import {
  demoAdapters,
  demoFamilies,
  demoHexOf,
  demoImages,
  demoJobs,
  demoRequests,
  demoShelf,
  demoUnits,
  taughtFamilies,
  taughtShelf,
} from '@bench-wake/demo'
import { asciiBytes, dayAt } from '@bench-wake/core/kernel'
import type { Database } from './db/open'
import { keepAdapter } from './store/adapters'
import { addFamily } from './store/families'
import { addJob, sayBench } from './store/job-rows'
import { pack } from './store/kit'
import { addRequest, answerRequest } from './store/requests'
import type { Shelf } from './store/shelf'
import { addDemoUnit, workPast } from './seed-past'
import { seedRounds } from './seed-rounds'
import { seedYear } from './seed-year'
import type { WorkerThread } from './worker/worker-thread'

const dayMs = 86_400_000

/**
 * Puts the demo scenario into an empty database (`holdsFamilies`). The past of the logbook is not written by hand: stand-ins
 * are really run, unpaced, and leave their wakes.
 * @param year whether the past year is worked too: more than sixty jobs, a minute or so.
 */
export async function seedDemo(
  db: Database,
  shelf: Shelf,
  worker: WorkerThread,
  { year = false }: { year?: boolean } = {},
): Promise<void> {
  for (const document of [...demoFamilies, ...taughtFamilies]) await addFamily(db, document)
  for (const document of demoAdapters) await keepAdapter(db, document)

  const imageIds = new Map<string, string>()
  const files = [
    ...demoImages.map(({ name, image }) => ({
      name,
      file: asciiBytes(demoHexOf(image)),
      from: 'supplier’s download page',
    })),
    ...demoShelf(),
    ...taughtShelf(),
  ]
  for (const { name, file, from } of files) {
    for (const image of (await shelf.add(name, file, { origin: from })).images) {
      for (const each of image.names) imageIds.set(each, image.id)
    }
  }

  for (const unit of demoUnits) await addDemoUnit(db, unit)

  const now = Date.now()
  const dayOf = (inDays: number) => dayAt(now, inDays)
  for (const { unitId, asked, of, askedDaysAgo, dueInDays, answer } of demoRequests) {
    const form = { unitId, asked, of, dueDay: dayOf(dueInDays), askedAt: now - askedDaysAgo * dayMs }
    const { id } = await addRequest(db, form)
    await answerRequest(db, id, { says: answer.says, by: answer.by, at: now - answer.daysAgo * dayMs })
  }
  // The eldest runs come first.
  await seedRounds(db, shelf, worker, now)
  for (const { image, inDays, past, bench, packed = [], symptoms = [], ...job } of demoJobs) {
    const imageId = image === null ? null : imageIds.get(image)
    if (imageId === undefined) throw new Error(`the scenario has no image ${image}`)
    await addJob(db, shelf, { ...job, symptoms, imageId, day: dayOf(inDays) })
    if (bench) await sayBench(db, job.id, bench)
    for (const item of packed) await pack(db, dayOf(inDays), item, true)
    if (past) await workPast(db, shelf, job.id, job.unitId, past, Date.parse(`${dayOf(inDays)}T09:40:00Z`))
  }
  if (year) await seedYear(db, shelf, imageIds, now)
}
