/* eslint-disable @typescript-eslint/no-explicit-any -- tests read answers as an outside tool does: by member */
import { demoUnits, firstUnitOf } from '@bench-wake/demo'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { demoServer, seededFolder } from './server.test-support'

/* PRACTICE B8, L1, common practice: what was asked for closes itself when it comes, and an image says where it fits. */

let server: Awaited<ReturnType<typeof demoServer>>
beforeAll(async () => {
  server = await demoServer(seededFolder())
})
afterAll(() => server.stop())

const imageNamed = async (name: string): Promise<any> =>
  (await server.get('/images')).body.find(({ names }: any) => names.includes(name))
/** The file of an image on the shelf, dropped once more. */
const dropAgain = async (name: string): Promise<any> => {
  const { id } = await imageNamed(name)
  const bytes = new Uint8Array(
    await (await fetch(`${server.base}/images/${id}/bytes?format=file`)).arrayBuffer(),
  )
  return (await server.upload(name, bytes)).body
}
const askFor = async (unitId: string): Promise<any> =>
  (
    await server.send('POST', '/requests', {
      unitId,
      asked: 'The newest release.',
      of: 'The supplier',
      dueDay: '2026-12-24',
    })
  ).body
const requestOf = async (unitId: string, id: string): Promise<any> =>
  (await server.get(`/requests?unit=${unitId}`)).body.find((each: any) => each.id === id)

describe('an image that comes', () => {
  const unit = firstUnitOf('buoy-battery')
  it('settles what was asked for a unit onto which it may go, and the job says that it has come', async () => {
    const request = await askFor(unit.id)
    const { body: job } = await server.send('POST', '/jobs', {
      unitId: unit.id,
      reason: 'Wait for it.',
      day: '2026-12-24',
    })
    const headline = async () => (await server.get(`/jobs/${job.id}`)).body.headline
    expect((await headline()).says).toContain('still awaited')
    const added = await dropAgain('bp5_update.s19')
    expect(added.settled).toMatchObject([{ id: request.id, unitId: unit.id, imageId: added.id }])
    expect(await requestOf(unit.id, request.id)).toMatchObject({ imageId: added.id })
    expect((await headline()).says).toBe('bp5_update.s19 has come, asked of The supplier.')
    // It was something else: it is awaited again.
    await server.send('POST', `/requests/${request.id}/reopen`, {})
    expect(await requestOf(unit.id, request.id)).toMatchObject({ imageId: null, closedAt: null })
    expect((await headline()).says).toContain('still awaited')
    expect((await server.send('POST', `/requests/${request.id}/reopen`, {})).body.kind).toBe('request-open')
    await server.send('POST', `/requests/${request.id}/close`, { imageId: null })
  })
  it('settles nothing that it does not fit, and nothing for a unit that has it or newer', async () => {
    const other = await askFor(firstUnitOf('fog-signal').id)
    // Of the other hardware: the horn's own generation.
    expect((await dropAgain('horn-main-2.48.hex')).settled).toEqual([])
    // What it has already.
    expect((await dropAgain('fs20-main-2.41.hex')).settled).toEqual([])
    // Of another kind of unit.
    expect((await dropAgain('bp5_update.s19')).settled).toEqual([])
    expect(await requestOf(firstUnitOf('fog-signal').id, other.id)).toMatchObject({ closedAt: null })
    expect((await dropAgain('fs20-main-2.48.hex')).settled).toMatchObject([{ id: other.id }])
  })
  it('says of every unit of its kind whether it may go onto it, what fits first', async () => {
    const { id } = await imageNamed('bp5_update.s19')
    const { body: fits } = await server.get(`/fit/image/${id}`)
    const own = demoUnits.filter(({ familyId }) => familyId === 'buoy-battery')
    expect(fits.map(({ unitId }: any) => unitId).toSorted()).toEqual(own.map((each) => each.id).toSorted())
    const order = ['go', 'note', 'hold', 'unknown', 'stop']
    const ranks = fits.map(({ verdict }: any) => order.indexOf(verdict))
    expect(ranks).toEqual([...ranks].sort((a, b) => a - b))
    for (const fit of fits) {
      const { body: judged } = await server.send('POST', '/fit', { unitId: fit.unitId, imageId: id })
      expect(fit.verdict).toBe(judged.verdict)
    }
  })
})
