/* eslint-disable @typescript-eslint/no-explicit-any -- tests read answers as an outside tool does: by member */
import { firstUnitOf, rightBench } from '@bench-wake/demo'
import { standInPort } from '@bench-wake/core/link'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { openDatabase } from '../db/open'
import { Ports } from '../ports/ports'
import { portRoom } from '../ports/port-room'
import { demoServer, pathsOf, seededFolder } from '../server.test-support'
import { Shelf } from '../store/shelf'
import { loadStandIns } from '../store/stand-ins'
import { WorkerThread } from '../worker/worker-thread'
import { Runs } from './runs'

const family = 'mains-relay'
const unitId = firstUnitOf(family).id
let form: { jobId: string; port: string; speed: 0; releases: any[] }
let opened: Awaited<ReturnType<typeof openDatabase>>
let worker: WorkerThread
let runs: Runs
beforeAll(async () => {
  const folder = seededFolder()
  const server = await demoServer(folder)
  const paths = pathsOf(server)
  const jobId = await rightBench(paths, family, 'quay-relay-2.1.uf2')
  const port = standInPort(unitId)
  const { gates } = await paths.get(`/jobs/${jobId}/ready?port=${port}`)
  const releases = gates
    .flatMap(({ findings }: any) => findings)
    .filter(({ level }: any) => level === 'hold')
    .map(({ rule }: any) => ({ rule, name: 'A. Lund', reason: 'the owner agrees' }))
  form = { jobId, port, speed: 0, releases }
  await server.stop()
  const url = `file:${join(folder, 'bench-wake.db')}`
  opened = await openDatabase(url)
  worker = new WorkerThread(url)
  const { db } = opened
  const shelf = new Shelf(db, worker)
  runs = new Runs(db, shelf, portRoom(db, new Ports((await loadStandIns(db)).units)))
})
afterAll(async () => {
  await worker?.close()
  opened?.close()
})

it('a run that has told its end is not shown as running, though its port is still being let go', async () => {
  const id = await runs.start(form)
  const shown: [type: string, running: number, busy: boolean][] = []
  runs.listen(id, ({ body }) => {
    shown.push([body.type, runs.running().length, runs.busyNow])
    if (body.type === 'prompt.asked') setImmediate(() => runs.answer(id, body.prompt, body.answers[0]!.id))
  })
  await runs.over(id)
  expect(shown.slice(0, -1).every(([, running]) => running === 1)).toBe(true)
  expect(shown.at(-1)).toEqual(['run.closed', 0, true])
  expect(runs.busyNow).toBe(false)
})
