import { demoHexOf, demoImages } from '@bench-wake/demo'
import { asciiBytes } from '@bench-wake/core/kernel'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { openDatabase } from '../db/open'
import { scratchFolder } from '../server.test-support'
import { readSettings } from '../settings'
import { WorkerThread } from '../worker/worker-thread'
import { Shelf } from './shelf'

let opened: Awaited<ReturnType<typeof openDatabase>>
let worker: WorkerThread
beforeAll(async () => {
  const { databaseUrl } = readSettings({ BENCH_WAKE_DATA: scratchFolder() })
  opened = await openDatabase(databaseUrl)
  worker = new WorkerThread(databaseUrl)
})
afterAll(async () => {
  await worker.close()
  opened.close()
})

// A Buffer's slice is a view and no copy (Node's documentation of Buffer.slice): what changed a copy changed the image.
it('a copy of an image’s bytes can be changed without the image', async () => {
  const shelf = new Shelf(opened.db, worker)
  const { images } = await shelf.add('one.hex', asciiBytes(demoHexOf(demoImages[0]!.image)))
  const plain = await shelf.add('one.bin', Uint8Array.of(1, 2, 3, 4), { address: 0 })
  for (const { id } of [...images, ...plain.images]) {
    const { memory } = await shelf.open(id)
    const before = memory[0]!.bytes[0]!
    const copy = memory[0]!.bytes.slice()
    copy[0] = before ^ 0xff
    expect((await shelf.open(id)).memory[0]!.bytes[0]).toBe(before)
  }
})
