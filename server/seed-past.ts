import { standInPort } from '@bench-wake/core/link'
import { takeDownOf } from '@bench-wake/core/ready'
import { demoFamily, demoStandIn, type DemoJob, type DemoUnit } from '@bench-wake/demo'
import type { Database } from './db/open'
import { standIns } from './db/schema'
import { portRoom } from './ports/port-room'
import { Ports } from './ports/ports'
import { Runs } from './runs/runs'
import { closeJob } from './store/job-deeds'
import { openJob } from './store/jobs'
import { sayPostUpdateTask } from './store/post-update-tasks'
import type { Shelf } from './store/shelf'
import { loadStandIns, newStandInRow } from './store/stand-ins'
import { addSnapshot, addUnit } from './store/units'

/** A unit of the scenario with its pages, and its stand-in where one is on the bench. */
export async function addDemoUnit(db: Database, unit: DemoUnit): Promise<void> {
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
  if (!standIn) return
  const { hardware, flash, lines } = demoStandIn(unit)
  const { linkId = null, battery = null } = standIn
  await db
    .insert(standIns)
    .values(newStandInRow({ id, familyId, name, hardware, serial, linkId, battery, lines }, flash))
}

/** Who closes a past job, and what they wrote. */
export interface Closing {
  name: string
  note: string
}
const fogClosing: Closing = {
  name: 'M. Ferrow',
  note: 'First leg cut: battery clamp was loose, tightened. Horn heard from the mole, two blasts.',
}

/** A try: its faults; where the plug comes out, as a part of the image; more bytes than this are a block of it. */
type PastLeg = NonNullable<DemoJob['past']>[number] & { cutAt?: number; blockBytes?: number }

/** A job worked on its stand-in, leg by leg, with the faults of each; then closed, all that was taken out being back. */
export async function workPast(
  db: Database,
  shelf: Shelf,
  jobId: string,
  unitId: string,
  legs: readonly PastLeg[],
  from: number,
  closing = fogClosing,
): Promise<void> {
  let at = from
  for (const { powerFailsAtByte, flippedBlocks = [], cutAt = Infinity, blockBytes = 1000 } of legs) {
    let blocks = 0
    const disturb = (bytes: Uint8Array, to: string) => {
      const isBlock = to === 'unit' && bytes.length > blockBytes
      if (!isBlock || !flippedBlocks.includes(++blocks)) return bytes
      return bytes.map((byte, index) => (index === bytes.length >> 2 ? byte ^ 4 : byte))
    }
    const faults = { disturb, ...(powerFailsAtByte ? { powerFailsAtByte } : {}) }
    const ports = new Ports((await loadStandIns(db, new Map([[unitId, faults]]))).units)
    const runs = new Runs(db, shelf, portRoom(db, ports))
    const port = standInPort(unitId)
    const runId = await runs.start({ jobId, port, speed: 0 }, at)
    const end = runs.listen(runId, ({ body }) => {
      if (body.type === 'progress' && body.unit === 'bytes' && body.done > cutAt * body.total)
        ports.plug(port, false)
      // Answered a turn later, when the run listens for it.
      if (body.type === 'prompt.asked')
        setImmediate(() => runs.answer(runId, body.prompt, body.answers[0]!.id))
    })
    await runs.over(runId)
    end?.()
    at += 8 * 60_000
    if ((await openJob(db, shelf, jobId)).runs[0]!.state.outcome === 'proved') break
  }
  const { runs, family, bench } = await openJob(db, shelf, jobId)
  const run = runs[0]!
  if (run.state.outcome === 'proved')
    for (const { id: item } of family.postUpdateTasks ?? [])
      await sayPostUpdateTask(db, run.id, { item, outcome: 'done', by: closing.name })
  const tookDown = takeDownOf(family, bench, { ran: true, real: false }).map(({ id }) => id)
  await closeJob(db, shelf, jobId, { ...closing, tookDown, at })
}
