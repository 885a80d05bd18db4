import { eq } from 'drizzle-orm'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { openDatabase } from './db/open'
import { blobs, imageFiles } from './db/schema'
import { demoServer, seededFolder } from './server.test-support'

/* What is refused for the unit's sake is refused, said, and recorded. */

type Server = Awaited<ReturnType<typeof demoServer>>
const folder = seededFolder()
let server: Server
beforeAll(async () => {
  server = await demoServer(folder)
})
afterAll(() => server.stop())

const newest = async () => (await server.get('/logbook/refusals')).body[0]

it('a gate that is not Go, with the gate and the reason', async () => {
  const answer = await server.send('POST', '/runs', { jobId: 'job-launch-2', port: 'stand-in:launch-2' })
  expect(answer).toMatchObject({ status: 409, body: { kind: 'gate-not-go' } })
  expect(await newest()).toMatchObject({
    kind: 'gate-not-go',
    asked: 'POST /api/runs',
    says: answer.body.says,
  })
})

it('an answer to a question that nobody asks', async () => {
  const [run] = (await server.get('/logbook')).body
  const answer = await server.send('POST', `/runs/${run.runId}/answers`, { prompt: 'enter', answer: 'done' })
  expect(answer.status).toBe(409)
  expect(await newest()).toMatchObject({ kind: 'prompt-not-open', thing: run.runId })
})

it('an image whose bytes were altered on disk, and nothing is written with it', async () => {
  const { job } = (await server.get('/jobs/job-fog-07')).body
  // While the program does not look: what it holds in memory is still whole.
  await server.stop()
  const { db, close } = await openDatabase(server.databaseUrl)
  const files = await db.select().from(imageFiles).where(eq(imageFiles.imageId, job.imageId))
  for (const { sha256 } of files) {
    const [blob] = await db.select().from(blobs).where(eq(blobs.sha256, sha256))
    const bytes = Buffer.from(blob!.bytes)
    bytes[bytes.length >> 1]! ^= 1
    await db.update(blobs).set({ bytes }).where(eq(blobs.sha256, sha256))
  }
  close()
  server = await demoServer(folder)
  const answer = await server.send('POST', '/runs', { jobId: 'job-fog-07', port: 'stand-in:fog-07' })
  expect(answer.body).toMatchObject({
    kind: 'gate-not-go',
    place: { at: 'image-intact' },
    says: expect.stringContaining('are damaged'),
  })
  expect(await newest()).toMatchObject({ kind: 'gate-not-go' })
})

it('a mistyped field is said, and is no part of the record', async () => {
  const before = (await server.get('/logbook/refusals')).body.length
  expect((await server.send('POST', '/runs', { jobId: '' })).status).toBe(400)
  expect((await server.get('/logbook/refusals')).body).toHaveLength(before)
})
