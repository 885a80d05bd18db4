/* eslint-disable @typescript-eslint/no-explicit-any -- tests read answers as an outside tool does: by member */
import { firstUnitOf, rightBench, type Paths } from '@bench-wake/demo'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { demoServer, endChildren, pathsOf, seededFolder } from './server.test-support'

/* The two pieces of the demo whose link is data alone, worked over the public paths on their stand-ins. */
endChildren()
let server: Awaited<ReturnType<typeof demoServer>>
let paths: Paths
beforeAll(async () => {
  server = await demoServer(seededFolder())
  paths = pathsOf(server)
})
afterAll(() => server.stop())

describe('a piece of the demo that was taught', () => {
  it.each([
    ['tide-gate-controller', 'tg6-board3-3.5.hex', '3.5', 'text'],
    ['crane-scale', 'cs12-5.2.bin', '5.2', 'list of releases'],
  ])(
    '%s: its bench is right, its steps are told to be untried, and it is written and proved',
    async (familyId, file, version, told) => {
      const jobId = await rightBench(paths, familyId, file)
      const port = `stand-in:${firstUnitOf(familyId).id}`
      const { gates } = await paths.get(`/jobs/${jobId}/ready?port=${port}`)
      const against = gates
        .flatMap((gate: any) => gate.findings)
        .filter(({ level }: any) => level === 'hold' || level === 'stop')
      // On a stand-in it is told and holds nothing.
      expect(against).toEqual([])
      const findings = gates.flatMap((gate: any) => gate.findings)
      expect(findings.find(({ rule }: any) => rule === 'script-tried')).toMatchObject({ level: 'note' })
      const { id } = await paths.send('POST', '/runs', { jobId, port, speed: 0 })
      const state = await server.follow(id)
      expect(state.problem).toBeNull()
      expect(state.outcome).toBe('proved')
      expect(state.facts.image.known).toContain(told)
      const { snapshots } = await paths.get(`/units/${firstUnitOf(familyId).id}`)
      expect(snapshots[0].lines.find(({ field }: any) => field === 'version.main').value).toBe(version)
    },
  )
  it('the gate’s image for another board is refused by what its text says', async () => {
    const images = await paths.get('/images')
    const { id } = images.find(({ names }: any) => names.includes('tg6-board2-3.5.hex'))
    const { verdict, findings } = await paths.send('POST', '/fit', { unitId: 'gate-1', imageId: id })
    expect(verdict).toBe('stop')
    expect(findings.find(({ rule }: any) => rule === 'hardware-major')).toMatchObject({ level: 'stop' })
  })
  it('the scale’s image that no list holds is nobody’s', async () => {
    const images = await paths.get('/images')
    const { id, identity } = images.find(({ names }: any) => names.includes('cs12-new.bin'))
    expect(identity).toBeNull()
    expect((await paths.send('POST', '/fit', { unitId: 'scale-1', imageId: id })).verdict).toBe('stop')
  })
})
