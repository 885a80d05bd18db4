import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { demoServer, seededFolder } from './server.test-support'

let server: Awaited<ReturnType<typeof demoServer>>
beforeAll(async () => {
  server = await demoServer(seededFolder())
  for (const serial of ['N-1', 'N-2', 'N-3'])
    await server.send('POST', '/units', { familyId: 'fog-signal', name: 'One name', place: 'Shed', serial })
})
afterAll(() => server.stop())

interface Row {
  id: string
  name: string
  facts: object
}
const list = async (query = '') => (await server.get(`/units${query}`)).body as Row[]

describe('units in stretches', () => {
  it.each([1, 2, 7, 9999])(
    '%i at a time they are the same as all at once, with all that is known of them',
    async (count) => {
      const whole = await list()
      expect(whole.length).toBeGreaterThan(10)
      const pieces: Row[] = []
      for (let came = count; came === count;) {
        const last = pieces.at(-1)
        const some = await list(`?count=${count}${last ? `&after=${encodeURIComponent(last.id)}` : ''}`)
        came = some.length
        expect(came).toBeLessThanOrEqual(count)
        pieces.push(...some)
      }
      expect(pieces).toEqual(whole)
    },
  )
  it('come by name; what is known of one comes with it', async () => {
    const whole = await list()
    const names = whole.map(({ name }) => name)
    expect(names).toEqual(names.toSorted((a, b) => (a < b ? -1 : a > b ? 1 : 0)))
    expect(whole.some(({ facts }) => 'hardware' in facts)).toBe(true)
  })
  it('after the last there is none', async () => {
    const last = (await list()).at(-1)!
    expect(await list(`?after=${last.id}`)).toEqual([])
  })
  it('after one that is not there is refused, and names it', async () => {
    expect(await server.get('/units?after=nowhere&count=5')).toMatchObject({
      status: 404,
      body: { kind: 'not-found', thing: 'unit nowhere' },
    })
  })
  it.each(['0', '-1', '1.5', '10000', 'all', ''])('%j is no number of them', async (count) => {
    expect(await server.get(`/units?count=${count}`)).toMatchObject({
      status: 400,
      body: { kind: 'input', place: { at: 'count' }, remedy: expect.stringMatching(/\.$/) },
    })
  })
})
