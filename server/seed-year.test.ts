/* eslint-disable @typescript-eslint/no-explicit-any -- answers are read as an outside tool does: by member */
import { demoYear } from '@bench-wake/demo'
import { join } from 'node:path'
import { expect, it } from 'vitest'
import { openDatabase } from './db/open'
import { seedYear } from './seed-year'
import { demoServer, seededFolder } from './server.test-support'
import { Shelf } from './store/shelf'
import { WorkerThread } from './worker/worker-thread'

// What the logbook of the demo shows was really run: three of its jobs, one of each kind.
it('the past year is worked on stand-ins: blocks sent again, a cut that was gone on with, one that stayed half-written', async () => {
  const folder = seededFolder()
  const url = `file:${join(folder, 'bench-wake.db')}`
  const year = demoYear()
  const again = year.find(({ legs, image }) => legs[0]!.flippedBlocks && image === 'bp5_update.s19')!
  const cut = year.find(({ legs, image }) => legs.length === 2 && image !== 'fs20-main-2.48.hex')!
  const lost = year.find(({ legs }) => legs.at(-1)!.cutAt !== undefined)!
  const { db, close } = await openDatabase(url)
  const worker = new WorkerThread(url)
  const shelf = new Shelf(db, worker)
  const ids = new Map(
    (await shelf.list()).flatMap(({ id, names }) => names.map((name) => [name, id] as const)),
  )
  await seedYear(db, shelf, ids, Date.now(), [again, cut, lost])
  await worker.close()
  close()

  const server = await demoServer(folder)
  try {
    const { body: all } = await server.get('/logbook')
    const of = ({ id }: { id: string }) => all.find(({ jobId }: any) => jobId === id)
    expect(of(again)).toMatchObject({ outcome: 'proved', legs: 1 })
    expect(of(again).retries).toBeGreaterThan(0)
    expect(of(cut)).toMatchObject({ outcome: 'proved', legs: 2 })
    expect(of(lost)).toMatchObject({ outcome: 'failed', cameTo: 'half-written' })
    for (const job of [again, cut, lost]) {
      expect(Math.abs(Date.now() - of(job).startedAt - job.daysAgo * 86_400_000)).toBeLessThan(2 * 86_400_000)
      const { body: record } = await server.get(`/runs/${of(job).runId}`)
      expect(record.brokenAt).toBeNull()
      const { body: view } = await server.get(`/jobs/${job.id}`)
      expect(view.job).toMatchObject({ closedBy: job.by, closingNote: job.note })
    }
  } finally {
    await server.stop()
  }
})
