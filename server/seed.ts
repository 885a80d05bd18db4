import { standInPort } from '@bench-wake/core/link'
import {
  demoAdapters,
  demoFamilies,
  demoFamily,
  demoHexOf,
  demoImages,
  demoJobs,
  demoRequests,
  demoShelf,
  demoStandIn,
  demoUnits,
  taughtFamilies,
  taughtShelf,
  type DemoJob,
} from '@bench-wake/demo'
import { asciiBytes } from '@bench-wake/core/kernel'
import type { Database } from './db/open'
import { standIns } from './db/schema'
import { Ports } from './ports/ports'
import { portRoom } from './ports/port-room'
import { Runs } from './runs/runs'
import { sayPostUpdateTask } from './store/post-update-tasks'
import { keepAdapter } from './store/adapters'
import { addFamily } from './store/families'
import { closeJob } from './store/job-deeds'
import { addJob, sayBench } from './store/job-rows'
import { openJob } from './store/jobs'
import { pack } from './store/kit'
import { addRequest, answerRequest } from './store/requests'
import type { Shelf } from './store/shelf'
import { loadStandIns } from './store/stand-ins'
import { addSnapshot, addUnit } from './store/units'
import { seedRounds } from './seed-rounds'
import type { WorkerThread } from './worker/worker-thread'

const dayMs = 86_400_000

/**
 * Puts the demo scenario into an empty database (`holdsFamilies`). The past of the logbook is not written by hand: stand-ins
 * are really run, unpaced, and leave their wakes.
 */
export async function seedDemo(db: Database, shelf: Shelf, worker: WorkerThread): Promise<void> {
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

  for (const unit of demoUnits) {
    const { id, familyId, name, place, serial, pages, standIn } = unit
    await addUnit(db, { id, familyId, name, place, serial })
    const family = demoFamily(familyId)
    for (const { source, at, lines } of pages.toSorted((a, b) => a.at.localeCompare(b.at))) {
      await addSnapshot(db, id, {
        at: Date.parse(at),
        source,
        lines: family.snapshot.flatMap(({ field, label }) =>
          lines[field] === undefined ? [] : [{ field, label, value: lines[field] }],
        ),
      })
    }
    if (!standIn) continue
    const { hardware, flash, lines } = demoStandIn(unit)
    await db.insert(standIns).values({
      id,
      familyId,
      name,
      hardware,
      serial,
      flash: Buffer.from(flash),
      usedAh: 0,
      inBootloader: false,
      linkId: standIn.linkId ?? null,
      battery: standIn.battery ?? null,
      lines,
    })
  }

  const now = Date.now()
  const dayOf = (inDays: number) => new Date(now + inDays * dayMs).toISOString().slice(0, 10)
  for (const { unitId, asked, of, askedDaysAgo, dueInDays, answer } of demoRequests) {
    const form = { unitId, asked, of, dueDay: dayOf(dueInDays), askedAt: now - askedDaysAgo * dayMs }
    const { id } = await addRequest(db, form)
    await answerRequest(db, id, { says: answer.says, by: answer.by, at: now - answer.daysAgo * dayMs })
  }
  // The eldest runs come first.
  await seedRounds(db, shelf, worker, workPast, now)
  for (const { image, inDays, past, bench, packed = [], symptoms = [], ...job } of demoJobs) {
    const imageId = image === null ? null : imageIds.get(image)
    if (imageId === undefined) throw new Error(`the scenario has no image ${image}`)
    await addJob(db, shelf, { ...job, symptoms, imageId, day: dayOf(inDays) })
    if (bench) await sayBench(db, job.id, bench)
    for (const item of packed) await pack(db, dayOf(inDays), item, true)
    if (past) await workPast(db, shelf, job.id, job.unitId, past, Date.parse(`${dayOf(inDays)}T09:40:00Z`))
  }
}

/** Who closes a past job, and what they wrote. */
interface Closing {
  name: string
  note: string
  tookDown: string[]
}
const fogClosing: Closing = {
  name: 'M. Ferrow',
  note: 'First leg cut: battery clamp was loose, tightened. Horn heard from the mole, two blasts.',
  tookDown: ['panels-on'],
}

/** A job worked on its stand-in, leg by leg, with the faults of each; then closed. */
async function workPast(
  db: Database,
  shelf: Shelf,
  jobId: string,
  unitId: string,
  legs: NonNullable<DemoJob['past']>,
  from: number,
  closing = fogClosing,
): Promise<void> {
  let at = from
  for (const { powerFailsAtByte, flippedBlocks = [] } of legs) {
    let blocks = 0
    const disturb = (bytes: Uint8Array, to: string) => {
      const isBlock = to === 'unit' && bytes.length > 1000
      if (!isBlock || !flippedBlocks.includes(++blocks)) return bytes
      return bytes.map((byte, index) => (index === 300 ? byte ^ 4 : byte))
    }
    const faults = { disturb, ...(powerFailsAtByte ? { powerFailsAtByte } : {}) }
    const ports = new Ports((await loadStandIns(db, new Map([[unitId, faults]]))).units)
    const runs = new Runs(db, shelf, portRoom(db, ports))
    const runId = await runs.start({ jobId, port: standInPort(unitId), speed: 0 }, at)
    const end = runs.listen(runId, ({ body }) => {
      // Answered a turn later, when the run listens for it.
      if (body.type === 'prompt.asked')
        setImmediate(() => runs.answer(runId, body.prompt, body.answers[0]!.id))
    })
    await runs.over(runId)
    end?.()
    at += 8 * 60_000
  }
  const { runs, family } = await openJob(db, shelf, jobId)
  for (const { id: item } of family.postUpdateTasks ?? []) {
    await sayPostUpdateTask(db, runs[0]!.id, { item, outcome: 'done', by: closing.name })
  }
  await closeJob(db, shelf, jobId, { ...closing, at })
}
