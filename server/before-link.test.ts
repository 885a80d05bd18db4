import { demoFamily, demoFieldsOf, elfOf, placed } from '@bench-wake/demo'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { demoServer, endChildren, seededFolder } from './server.test-support'

endChildren()
let server: Awaited<ReturnType<typeof demoServer>>
beforeAll(async () => {
  server = await demoServer(seededFolder())
})
afterAll(() => server.stop())

const port = 'stand-in:battery-21'
const read = (more: object = {}) => server.send('POST', '/units/battery-21/snapshots', { port, ...more })
const shut = { status: 409, body: { kind: 'link-shut', place: { at: 'neighbours-off' } } }
const jobId = 'job-battery-21'

// PRACTICE F4: with a second pack joined the first reading fails, or the wrong one answers.
describe('a link with neighbours on it', () => {
  it('is not opened to read, to listen or to enter while nobody said that they are off', async () => {
    expect(await read()).toMatchObject(shut)
    expect(await read({ jobId })).toMatchObject(shut)
    expect(await server.send('POST', `/jobs/${jobId}/listen`, { port })).toMatchObject(shut)
    const act = { port, way: 'alone-on-bus', act: 'any' }
    expect(await server.send('POST', `/jobs/${jobId}/entry-act`, act)).toMatchObject(shut)
    const { body } = await server.get('/units/battery-21')
    expect(body.refused).toEqual([])
  })
  it('is opened to count who is there, which is what isolation waits for', async () => {
    expect((await server.send('POST', `/jobs/${jobId}/scan`, { port })).status).toBe(200)
  })
  it('is opened once the job’s bench says so', async () => {
    const isolation = {
      unplugged: ['other-packs', 'buoy-controller'],
      levers: [true, false, false, false],
      alone: true,
    }
    await server.send('PUT', `/jobs/${jobId}/bench`, { isolation })
    expect((await read({ jobId })).status).toBe(201)
  })
  it('is opened without a job where a person answers for each thing that is in the way', async () => {
    expect(await read({ looked: ['alone-on-bus'] })).toMatchObject(shut)
    expect((await read({ looked: ['neighbours-off'] })).status).toBe(201)
  })
  it('another unit’s job says nothing about it', async () => {
    expect((await read({ jobId: 'job-fog-07' })).status).toBe(404)
  })
  it('a word beside a job’s bench counts for nothing: it is said there', async () => {
    await server.send('PUT', `/jobs/${jobId}/bench`, { isolation: { unplugged: ['other-packs'] } })
    expect(await read({ jobId, looked: ['neighbours-off'] })).toMatchObject(shut)
  })
})

// PRACTICE A3, C1, common practice; ISO 14230-2 lines of this kind run at 10 400 baud, ten bits a byte.
describe('the hardware that was read selects the link', () => {
  it('a single-wire generation is planned over its single wire, whatever the family’s first link is', async () => {
    const own = { hardwareMajor: 1, layout: 'L-101', version: '3.6', requiresFrom: '3.0' }
    const memory = placed(demoFamily('launch-motor'), demoFieldsOf('launch-motor', 'drive', own))
    const { body: image } = await server.upload('drive-one.elf', elfOf(memory, false, 20))
    const { body: made } = await server.send('POST', '/jobs', {
      unitId: 'launch-1',
      imageId: image.id,
      kind: 'feature',
      reason: 'Bring it up.',
      day: '2026-12-01',
    })
    const view = (await server.get(`/jobs/${made.id}`)).body
    expect(view.image.segments.length).toBeGreaterThan(0)
    const bytes = view.image.segments.reduce((sum: number, { length }: { length: number }) => sum + length, 0)
    expect(view.time.minMs).toBeGreaterThan(((bytes * 10) / 10_400) * 1000)
    const { gates } = (await server.get(`/jobs/${made.id}/ready?port=stand-in:launch-1`)).body
    const says = gates.flatMap(({ findings }: { findings: { rule: string; says: string }[] }) => findings)
    expect(says.find(({ rule }: { rule: string }) => rule === 'link-driven').says).toContain('single-wire')
    // The battery is judged over that time: long enough to go below the floor (PRACTICE D1).
    expect(says.find(({ rule }: { rule: string }) => rule === 'supply-holds')?.level ?? 'absent').not.toBe(
      'go',
    )
  })
})
