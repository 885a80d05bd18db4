import { demoFamily, demoFieldsOf, hexOf, placed } from '@bench-wake/demo'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { demoServer, endChildren, seededFolder } from './server.test-support'

endChildren()
let server: Awaited<ReturnType<typeof demoServer>>
beforeAll(async () => {
  server = await demoServer(seededFolder())
})
afterAll(() => server.stop())

// The day itself: on the day before, a kit that is not packed would hold the job.
const day = new Date().toISOString().slice(0, 10)
const jobFor = async (imageId: string | null, reason: string) => {
  const form = { unitId: 'fog-07', imageId, kind: 'feature', reason, day }
  return (await server.get(`/jobs/${(await server.send('POST', '/jobs', form)).body.id}`)).body
}

// PRACTICE B2, K1, common practice: a calibration comes again under the same version, with other bytes.
it('what was written here is known by its digest: the same again is nothing to do, other bytes are a job', async () => {
  const port = 'stand-in:fog-07'
  await server.send('POST', '/units/fog-07/snapshots', { port })
  const run = await server.send('POST', '/runs', { jobId: 'job-fog-07', port, speed: 0 })
  const state = await server.follow(run.body.id, ({ answers }) => answers[0]!.id)
  expect(state.outcome).toBe('proved')
  const wrote = state.facts.image.id

  const again = await jobFor(wrote, 'The same once more.')
  expect(again.fit.findings).toContainEqual(
    expect.objectContaining({
      level: 'hold',
      says: 'Nothing to do: the unit already has 2.48, byte for byte.',
    }),
  )
  expect(again.headline.says).toContain('Nothing to do')

  const form = demoFieldsOf('fog-signal', 'main', { version: '2.48', buildTime: 1_790_000_000 })
  const { body: image } = await server.upload(
    'fs20-second.hex',
    hexOf(placed(demoFamily('fog-signal'), form)),
  )
  // Where images are chosen for a unit, before there is a job, the same is said.
  const fits = (await server.get('/fit/unit/fog-07')).body as { imageId: string; verdict: string }[]
  const of = (id: string) => fits.find(({ imageId }) => imageId === id)?.verdict
  expect([of(wrote), of(image.id)]).toEqual(['hold', 'note'])
  const other = await jobFor(image.id, 'The second calibration.')
  expect(other.need).toMatchObject({
    answer: 'do',
    finding: { says: 'Yes: 2.48 with other bytes is asked for.' },
  })
  expect(other.headline.says).toBe('The image fits. Ready for the bench.')
  expect(other.next).toMatchObject({ imageId: image.id })

  // The run judges the same: what is not held at the bench is not held there.
  const second = await server.send('POST', '/runs', { jobId: other.job.id, port, speed: 0 })
  const home = await server.follow(second.body.id, ({ answers }) => answers[0]!.id)
  expect(home.problem).toBeNull()
  expect(home.outcome).toBe('proved')

  // Asked for and not ordered yet: it is waited for.
  const wanted = await jobFor(null, 'A longer blast.')
  expect(wanted.need).toMatchObject({ answer: 'ask' })
  expect(wanted.headline.says).not.toContain('Nothing to do')
})
