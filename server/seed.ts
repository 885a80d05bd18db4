import {
  demoFamilies,
  demoFirmware,
  demoHexOf,
  demoImages,
  demoJobs,
  demoUnits,
  type DemoJob,
} from '@bench-wake/demo'
import { asciiBytes } from '@bench-wake/core/kernel'
import type { Database } from './db/open'
import { families, standIns } from './db/schema'
import { Ports } from './ports/ports'
import { Runner } from './runner'
import { addFamily } from './store/families'
import { addImage } from './store/images'
import { addJob, closeJob } from './store/jobs'
import { loadStandIns } from './store/stand-ins'
import { addSnapshot, addUnit } from './store/units'

const dayMs = 86_400_000

/**
 * Puts the demo scenario into an empty database; one that holds families already is left as it is. The past of the
 * logbook is not written by hand: stand-ins are really run, unpaced, and leave their wakes.
 */
export async function seedDemo(db: Database): Promise<void> {
  const [some] = await db.select({ id: families.id }).from(families).limit(1)
  if (some) return
  for (const document of demoFamilies) await addFamily(db, document)

  const imageIds = new Map<string, string>()
  for (const { name, image } of demoImages) {
    imageIds.set(name, (await addImage(db, name, asciiBytes(demoHexOf(image)))).id)
  }

  for (const unit of demoUnits) {
    const { id, name, place, serial, hardware, firmware } = unit
    await addUnit(db, { id, familyId: 'fog-signal', name, place, serial })
    const line = (field: string, label: string, value: string) => ({ field, label, value })
    if (firmware && unit.readAt) {
      await addSnapshot(db, id, {
        at: Date.parse(unit.readAt),
        source: 'link',
        lines: [
          line('deviceIdentifier', 'Device', 'FS-20'),
          line('hardware', 'Hardware', hardware),
          line('serial', 'Serial', serial),
          line('bootloader', 'Bootloader', '1.3'),
          line('version.main', 'Main firmware', firmware.version),
          line('buildTime.main', 'Built', firmware.built),
          line('horn', 'Horn character', '2 blasts every 60 s'),
        ],
      })
    }
    if (unit.standIn && firmware) {
      const flash = Buffer.alloc(0x40000, 0xff)
      const [major, minor] = hardware.split('.').map(Number)
      flash.set(
        demoFirmware({
          deviceIdentifier: 'FS-20',
          hardware: [major!, minor!],
          version: firmware.version,
          release: 'production',
          built: Date.parse(firmware.built) / 1000,
          length: 0x3c000,
        }),
      )
      await db
        .insert(standIns)
        .values({ id, familyId: 'fog-signal', name, hardware, serial, flash, usedAh: 0, inBootloader: false })
    }
  }

  const dayOf = (inDays: number) => new Date(Date.now() + inDays * dayMs).toISOString().slice(0, 10)
  for (const { image, inDays, past, ...job } of demoJobs) {
    const imageId = image === null ? null : imageIds.get(image)!
    await addJob(db, { ...job, imageId, day: dayOf(inDays) })
    if (past) await workPast(db, job.id, job.unitId, past, Date.parse(`${dayOf(inDays)}T09:40:00Z`))
  }
}

/** A job worked on its stand-in, leg by leg, with the faults of each; then closed. */
async function workPast(
  db: Database,
  jobId: string,
  unitId: string,
  legs: NonNullable<DemoJob['past']>,
  from: number,
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
    const runner = new Runner(db, new Ports(await loadStandIns(db, new Map([[unitId, faults]]))))
    const runId = await runner.start({ jobId, port: `stand-in:${unitId}`, speed: 0 }, at)
    const end = runner.listen(runId, ({ body }) => {
      // Answered a turn later, when the run listens for it.
      if (body.type === 'prompt.asked')
        setImmediate(() => runner.answer(runId, body.prompt, body.answers[0]!.id))
    })
    await runner.over(runId)
    end?.()
    at += 8 * 60_000
  }
  await closeJob(db, jobId, {
    name: 'M. Ferrow',
    note: 'First leg cut: battery clamp was loose, tightened. Horn heard from the mole, two blasts.',
    at,
  })
}
