import { describe, expect, it } from 'vitest'
import type { Finding } from '../kernel'
import { rehearse } from '../run/rehearsal.test-support'
import { foldWake, jobStations, type RunState } from '../run'
import type { ShelfEntry } from '../fit'
import { demoFamily } from '@bench-wake/demo'
import {
  cameTo,
  judgeWayLeft,
  leftBy,
  meaningOf,
  openable,
  overtaken,
  standing,
  withRelease,
  type KeptRelease,
} from '.'

const fog = demoFamily('fog-signal')

const hold = (rule: string, says: string, level: Finding['level'] = 'hold'): Finding => ({
  rule,
  level,
  says,
  because: '',
})
const release = (rule: string, says: string): KeptRelease => ({
  rule,
  says,
  name: 'M. Tarn',
  reason: 'agreed',
  at: 1,
})

// A person answers for what they read, and for nothing else (common practice).
describe('a release that a job keeps', () => {
  const kept = [release('way-back', 'There is no way back from 4.1.')]
  it('stands while the hold says the same', () => {
    expect(standing(kept, [hold('way-back', 'There is no way back from 4.1.')])).toEqual(kept)
    expect(overtaken(kept, [hold('way-back', 'There is no way back from 4.1.')])).toEqual([])
  })
  it('does not stand for other facts under the same rule; it is asked anew, and shown', () => {
    const now = [hold('way-back', 'There is no way back from 4.2.')]
    expect(standing(kept, now)).toEqual([])
    expect(overtaken(kept, now)).toEqual(kept)
  })
  it('does not stand where one of two holds of its rule says something else', () => {
    const now = [
      hold('way-back', 'There is no way back from 4.1.'),
      hold('way-back', 'There is no way back from 4.2.'),
    ]
    expect(standing(kept, now)).toEqual([])
  })
  it('of a note that may be waived stands the same way', () => {
    const note = [hold('way-back', 'There is no way back from 4.1.', 'note')]
    expect(standing(kept, note)).toEqual(kept)
    expect(standing(kept, [hold('way-back', 'There is no way back from 4.1.', 'go')])).toEqual([])
  })
  it('lets no stop pass, and is of no use where nothing holds', () => {
    const stop = [hold('way-back', 'There is no way back from 4.1.', 'stop')]
    for (const now of [stop, [], [hold('another', 'There is no way back from 4.1.')]]) {
      expect(standing(kept, now)).toEqual([])
      expect(overtaken(kept, now)).toEqual([])
    }
  })
  it('goes when the same hold is released once more', () => {
    const next = release('way-back', 'There is no way back from 4.2.')
    const other = release('version-direction', 'It is older.')
    expect(withRelease([...kept, other], next)).toEqual([other, next])
  })
})

// PRACTICE H7: cut in the middle the application is gone; what the page before said of it is true no more.
describe('the way for a unit in which a write broke off', () => {
  const family = { ...fog, updates: { ...fog.updates, path: 'workshop' as const } }
  const unit = {
    deviceIdentifier: 'FS-20',
    hardware: '3.1',
    hardwareMajor: 3,
    versions: { main: '2.41' },
    digests: { main: '2.41' },
  }
  const entry = (version: string): ShelfEntry => ({
    id: version,
    name: `${version}.hex`,
    segments: [{ address: 0x08008000, length: 0x1000 }],
    identity: {
      familyId: 'fog-signal',
      componentId: 'main',
      deviceIdentifier: 'FS-20',
      hardwareMajor: 3,
      version,
      release: 'production',
    },
    contentSha256: version,
  })
  const shelf = ['2.41', '2.45', '2.48'].map(entry)
  const ask = (
    version: string,
    left: Parameters<typeof judgeWayLeft>[2],
    hops: 'direct' | 'sequential' = 'direct',
  ) =>
    judgeWayLeft(
      {
        family,
        unit,
        shelf,
        wanted: shelf.find(({ id }) => id === version)!,
        workshopRules: { update: 'current', hops, adapters: 'any' },
        hopMs: () => 1,
      },
      'main',
      left,
    )
  const direction = (fit: ReturnType<typeof ask>) =>
    fit.findings.find(({ rule }) => rule === 'version-direction')!
  const left = [{ componentId: 'main', imageId: '2.48' }]

  it('over the image that was being written goes on as it was planned', () => {
    expect(ask('2.48', left)).toEqual(ask('2.48', []))
    const half = [{ componentId: 'main', imageId: '2.45' }]
    expect(ask('2.48', half, 'sequential')).toEqual(ask('2.48', [], 'sequential'))
  })
  it('to the version that was on it before is no "nothing to do": it is not there any more', () => {
    expect(direction(ask('2.41', []))).toMatchObject({ level: 'hold' })
    expect(direction(ask('2.41', left))).toMatchObject({ level: 'note' })
    expect(ask('2.41', left).path.map(({ from, to }) => [from, to])).toEqual([[undefined, '2.41']])
  })
  it('of another component stands as it was', () => {
    expect(direction(ask('2.41', [{ componentId: 'panel', imageId: 'x' }]))).toMatchObject({ level: 'hold' })
  })
  it('is asked of runs that changed something and were not proved', async () => {
    expect(leftBy((await rehearse({ abandonAtByte: 4096 })).state)).toEqual([
      { componentId: 'main', imageId: 'i' },
    ])
    expect(leftBy((await rehearse({ says: () => 'stop' })).state)).toEqual([])
    expect(leftBy((await rehearse()).state)).toEqual([])
    expect(leftBy(null)).toEqual([])
    const { state } = await rehearse({ abandonAtByte: 4096 })
    expect(leftBy({ ...state, outcome: 'running' })).toEqual([])
  })
})

describe('what a job came to (PRACTICE I3, J4)', () => {
  it('is said of every end', async () => {
    const { state: proved } = await rehearse()
    const said = (outcome: RunState['aftercare'][number]['outcome']): RunState => ({
      ...proved,
      aftercare: [{ item: 'horn', does: 'Sound the horn.', outcome, by: 'M. Tarn', at: 1 }],
    })
    expect(cameTo(proved)).toBe('fit-for-use')
    expect(cameTo(said('done'))).toBe('fit-for-use')
    expect(cameTo(said('not-needed'))).toBe('fit-for-use')
    expect(cameTo(said('failed'))).toBe('written-not-fit')
    const stopped = await rehearse({ says: () => 'stop' })
    expect(cameTo(stopped.state)).toBe('not-done')
    const half = await rehearse({ abandonAtByte: 4096 })
    expect(cameTo(half.state)).toBe('half-written')
    const { events, plan } = await rehearse()
    const cutIn = (kind: string) => {
      const step = plan.findIndex((each) => each.kind === kind)
      const end = events.findIndex(({ body }) => body.type === 'step.started' && body.step === step)
      return { ...foldWake(events.slice(0, end + 1))!, outcome: 'cut' as const }
    }
    expect(cameTo(cutIn('restart'))).toBe('written-not-proved')
    expect(cameTo(cutIn('verify'))).toBe('written-not-proved')
    expect(cameTo(cutIn('erase'))).toBe('half-written')
    expect(cameTo(cutIn('enter'))).toBe('not-done')
    expect(cameTo(null)).toBe('not-done')
    expect(cameTo(null, false)).toBe('nothing-to-do')
  })
})

describe('a station opened again', () => {
  const facts = {
    now: 0,
    unitReadAt: 0,
    unitSays: '',
    image: { says: '', verdict: 'go' as const },
    closed: false,
  }
  const free = (run: RunState | null, more: Partial<Parameters<typeof openable>[1]> = {}) =>
    openable(jobStations({ ...facts, run }), { closed: false, run, opened: null, ...more })

  it('is one of the earlier ones, while nothing runs', async () => {
    expect(free(null)).toEqual(['unit', 'image'])
    const { state: cut } = await rehearse({ abandonAtByte: 4096 })
    expect(free(cut)).toEqual(['unit', 'image', 'bench'])
    // With one of them open the way back is the station at which the job stands.
    expect(free(cut, { opened: 'image' })).toEqual(['unit', 'image', 'bench', 'write'])
  })
  it('is none of a closed job, none while a run is under way, and none after a proof', async () => {
    const { state: proved } = await rehearse()
    const { state: cut } = await rehearse({ abandonAtByte: 4096 })
    expect(free(proved)).toEqual([])
    expect(free({ ...cut, outcome: 'running' })).toEqual([])
    expect(free(cut, { closed: true })).toEqual([])
  })
  it('says what a change means for the unit as it is', async () => {
    const { state: cut } = await rehearse({ abandonAtByte: 4096 })
    expect(meaningOf('image', cut)).toContain('holds a part of fs20-main-2.48.hex')
    expect(meaningOf('image', null)).not.toContain('holds a part')
    const { state: stopped } = await rehearse({ says: () => 'stop' })
    expect(meaningOf('image', stopped)).not.toContain('holds a part')
    for (const station of ['unit', 'bench', 'close'] as const) expect(meaningOf(station, cut)).toMatch(/\.$/)
  })
})
