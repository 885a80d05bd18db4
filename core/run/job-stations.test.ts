import { describe, expect, it } from 'vitest'
import { foldWake, jobStations, openStation, stations, type KeelFacts, type RunState, type Task } from '.'
import {
  answered,
  asked,
  cut,
  done,
  failed,
  folded,
  opened,
  progress,
  started,
  step,
} from './fold.test-support'
import { rehearse } from './rehearsal.test-support'
import type { StepKind } from './step'

/* What each station of a job says: its result where it is done, what it is at where it is open, what it waits for before. */

const now = Date.UTC(2026, 10, 24, 9)
const hour = 3_600_000
const facts: KeelFacts = {
  now,
  unitReadAt: now - 60_000,
  unitSays: 'main 2.41',
  image: { says: 'main 2.48', verdict: 'note' },
  run: null,
  closed: false,
}
const told = (more: Partial<KeelFacts>, id: string) =>
  jobStations({ ...facts, ...more }).find((station) => station.id === id)!
const withRun = (run: Partial<RunState>, id: string, more: Partial<KeelFacts> = {}) =>
  told({ ...more, run: { ...folded(opened()), ...run } as RunState }, id)
const proved = { outcome: 'proved', open: null } as const

describe('before a run', () => {
  it('a page is good for half a day, and not a millisecond more', () => {
    expect(openStation({ ...facts, unitReadAt: now - 12 * hour })).toBe('bench')
    expect(openStation({ ...facts, unitReadAt: now - 12 * hour - 1 })).toBe('unit')
  })
  it('an image that must not go in, or of which nothing is known, is still chosen; a hold or a note leads on', () => {
    for (const verdict of ['stop', 'unknown'] as const)
      expect(openStation({ ...facts, image: { says: '', verdict } }), verdict).toBe('image')
    for (const verdict of ['hold', 'note', 'go'] as const)
      expect(openStation({ ...facts, image: { says: '', verdict } }), verdict).toBe('bench')
  })
  it.each<[Task, string, string]>([
    ['write', 'unit', 'image'],
    ['chip', 'unit', 'image'],
    // What writes nothing reads the unit by itself, and some of it needs no image.
    ['read-out', 'bench', 'bench'],
    ['codes', 'bench', 'bench'],
    ['check', 'image', 'image'],
  ])('%s: a unit that was never read leads to %s, no image to %s', (task, unread, without) => {
    expect(openStation({ ...facts, task, unitReadAt: null, image: null })).toBe(unread)
    expect(openStation({ ...facts, task, image: null })).toBe(without)
  })
  it('says what the unit says once it was read, and of the image what was judged of it', () => {
    expect(told({}, 'unit')).toMatchObject({ state: 'done', verdict: 'go', says: 'main 2.41' })
    expect(told({ unitReadAt: null }, 'unit')).toMatchObject({
      state: 'open',
      verdict: 'unknown',
      says: 'main 2.41',
    })
    expect(told({}, 'image')).toMatchObject({ state: 'done', verdict: 'note', says: 'main 2.48' })
    expect(told({ image: null }, 'image')).toMatchObject({
      state: 'open',
      verdict: 'unknown',
      says: 'none chosen',
    })
    expect(told({}, 'bench')).toMatchObject({
      state: 'open',
      verdict: 'unknown',
      says: 'port, supply and plan',
    })
  })
  it('what is to come says what it waits for', () => {
    const waits = jobStations({ ...facts, unitReadAt: null }).map(({ name, says }) => `${name}: ${says}`)
    expect(waits).toEqual([
      'Unit: main 2.41',
      'Image: an image that fits',
      'Bench: port, supply and plan',
      'Entry: into the bootloader',
      'Write: erase, write, compare',
      'Proof: power off and on, then read again',
      'Close: name and last word',
    ])
    for (const { state, verdict } of jobStations({ ...facts, unitReadAt: null }).slice(1))
      expect([state, verdict]).toEqual(['waiting', 'unknown'])
  })
})

describe('the stations of other tasks', () => {
  it.each<[Task, string[]]>([
    ['write', ['Unit', 'Image', 'Bench', 'Entry', 'Write', 'Proof', 'Close']],
    ['read-out', ['Unit', 'Bench', 'Entry', 'Read out: twice, and kept', 'Restart', 'Close']],
    ['check', ['Unit', 'Image', 'Bench', 'Entry', 'Compare: the image with the unit', 'Restart', 'Close']],
    [
      'codes',
      [
        'Unit',
        'Bench',
        'Link: the port, and what the unit says',
        'Codes: read; cleared only if you say so',
        'Close',
      ],
    ],
    ['chip', ['Unit', 'Chip', 'Bench', 'Entry', 'Write', 'Proof', 'Close']],
  ])('%s', (task, expected) => {
    const list = jobStations({ ...facts, task })
    expect(
      list.map(({ name, says }, index) => (expected[index]!.includes(': ') ? `${name}: ${says}` : name)),
    ).toEqual(expected)
    expect(list.filter(({ state }) => state === 'open')).toHaveLength(1)
  })
  it('a restart says that the power goes off and on, for those that look as for those that write', () => {
    for (const task of ['read-out', 'check'] as const)
      expect(told({ task }, 'proof').says, task).toBe('power off and on, then read again')
    expect(told({ task: 'chip', unitReadAt: null }, 'image').says).toBe('its label and its mark')
  })
})

describe('in a run', () => {
  it.each<[StepKind, string]>([
    ...(['power-up', 'connect', 'identify', 'settings', 'enter'] as const).map(
      (kind) => [kind, 'entry'] as [StepKind, string],
    ),
    ...(['swap', 'media', 'backup', 'compare', 'dry-run', 'erase', 'write', 'verify', 'fuses'] as const).map(
      (kind) => [kind, 'write'] as [StepKind, string],
    ),
    ...(['restart', 'prove', 'look', 'faults'] as const).map((kind) => [kind, 'proof'] as [StepKind, string]),
  ])('%s belongs to %s', (kind, station) => {
    const plan = [step('identify', 1000), step(kind, 1000)] as never
    expect(openStation({ ...facts, run: folded(opened({ plan }), started(0), done(0), started(1)) })).toBe(
      station,
    )
    expect(openStation({ ...facts, run: folded(opened({ plan }), started(0), done(0)) })).toBe(station)
    expect(
      openStation({ ...facts, run: folded(opened({ plan }), started(0), done(0), started(1), failed(1)) }),
    ).toBe(station)
  })
  it('says the step that is open, with its share while it moves', () => {
    const write = [started(5), progress(5, 2999)] as const
    const opens = (...more: Parameters<typeof folded>) => told({ run: folded(opened(), ...more) }, 'write')
    expect(opens(...write)).toMatchObject({ state: 'open', verdict: 'unknown', says: 'write, 37 %' })
    expect(opens(started(5))).toMatchObject({ says: 'write' })
    expect(opens(started(5), progress(5, 0, 0))).toMatchObject({ says: 'write' })
    expect(opens(started(5), progress(5, 8000))).toMatchObject({ says: 'write, 100 %' })
  })
  it('between two steps it says what the next one waits for', () => {
    const run = folded(opened(), started(0), done(0))
    expect({ ...run, open: null }).toMatchObject({ open: null })
    expect(told({ run: { ...run, open: null } }, 'write').says).toBe('erase, write, compare')
  })
  it('that was cut stops at its station with what broke', () => {
    const run = folded(opened(), started(5), progress(5, 4000), cut)
    expect(told({ run }, 'write')).toMatchObject({ state: 'open', verdict: 'stop' })
    expect(told({ run }, 'write').says).toMatch(/^Cut in write at byte 4\s000 of 8\s000\.$/)
    expect(told({ run }, 'proof')).toMatchObject({ state: 'waiting', verdict: 'unknown' })
    // One that is proved is at its close, and no stop.
    expect(told({ run: { ...run, ...proved } as RunState }, 'close')).toMatchObject({
      state: 'open',
      verdict: 'unknown',
    })
  })
  it('a question is no end: the run is still at its step', () => {
    const run = folded(opened(), started(5), asked(5), answered(5))
    expect(told({ run }, 'write')).toMatchObject({ state: 'open', verdict: 'unknown' })
  })
})

describe('what is done says its result', () => {
  it('the bench: its port, or who released it', () => {
    expect(withRun(proved, 'bench')).toMatchObject({ verdict: 'go', says: 'First port' })
    const releases = [{ rule: 'version', says: 'older', name: 'A. Lund', reason: 'asked for' }]
    const run = folded(opened({ releases } as never))
    expect(told({ run: { ...run, ...proved } as RunState }, 'bench')).toMatchObject({
      verdict: 'note',
      says: 'go, released by A. Lund',
    })
    expect(told({ run: { ...run, ...proved } as RunState }, 'entry').verdict).toBe('go')
  })
  const retry = (...steps: number[]) => ({ retries: steps.map((at) => ({ at: 0, step: at, why: 'again' })) })
  it('the entry: in the bootloader, there already, or power as ordered for work by hand', () => {
    expect(withRun(proved, 'entry').says).toBe('in the bootloader')
    expect(withRun({ ...proved, notes: [{ at: 0, says: 'It was there.' }] }, 'entry').says).toBe(
      'already in the bootloader',
    )
    for (const kind of ['swap', 'media'] as const) {
      const run = folded(opened({ plan: [step('power-up', 0), step(kind, 0), step('look', 0)] as never }))
      expect(told({ run: { ...run, ...proved } as RunState }, 'entry').says, kind).toBe('power as ordered')
    }
  })
  it('counts retries at the station at which they were made, and marks it', () => {
    expect(withRun({ ...proved, ...retry(2) }, 'entry')).toMatchObject({
      verdict: 'note',
      says: 'in the bootloader, 1 retry',
    })
    expect(withRun({ ...proved, ...retry(5, 6) }, 'write')).toMatchObject({
      verdict: 'note',
      says: 'written, 2 retries',
    })
    expect(withRun({ ...proved, ...retry(5) }, 'entry')).toMatchObject({
      verdict: 'go',
      says: 'in the bootloader',
    })
    expect(withRun({ ...proved, ...retry(2), notes: [{ at: 0, says: 'x' }] }, 'entry').says).toBe(
      'already in the bootloader, 1 retry',
    )
  })
  it('the write: what the check says, never more than that', () => {
    const verified = (outcome: string, by?: string) =>
      ({ ...proved, verified: { outcome, by } }) as unknown as Partial<RunState>
    expect(withRun(verified('equal-checksum', 'CRC-32'), 'write').says).toBe('written, equal by CRC-32')
    expect(withRun(verified('not-comparable'), 'write').says).toBe('written, not compared')
    expect(withRun({ ...verified('equal-read-back'), ...retry(5) }, 'write').says).toBe(
      'written, equal at every byte, read back, 1 retry',
    )
    expect(withRun(proved, 'write').says).toBe('written')
  })
  const ofTask = (task: Task, run: object, id: string) => {
    const state = folded(opened({ task }))
    return told({ task, run: { ...state, outcome: 'done', open: null, ...run } as RunState }, id).says
  }
  it('a reading is kept, a comparison says how it came out', () => {
    const backups = [{ imageId: 'a', name: 'a.bin' }]
    expect(ofTask('read-out', { backups }, 'write')).toBe('kept')
    expect(ofTask('read-out', { backups, ...retry(1) }, 'write')).toBe('kept, 1 retry')
    expect(ofTask('check', { backups, heldAgainst: { outcome: 'different' } }, 'write')).toBe('not the same')
    // An original that was kept on the way is no result of a write.
    expect(withRun({ ...proved, backups } as never, 'write').says).toBe('written')
    expect(withRun({ ...proved, heldAgainst: { outcome: 'different' } } as never, 'write').says).toBe(
      'written',
    )
  })
  it('the proof: what the unit says, or shows, or that it was read again', () => {
    const image = { id: 'i', name: 'gate.hex', sha256: 'ab', bytes: 8000, version: '2.48' }
    const says = (form: object) => {
      const run = folded(opened(form as never))
      return told({ run: { ...run, ...proved } as RunState }, 'proof').says
    }
    expect(says({ image })).toBe('the unit says 2.48')
    expect(says({ image: { ...image, version: undefined } })).toBe('read again')
    expect(says({ image, task: 'check' })).toBe('read again')
    expect(says({ chip: { label: 'BIRCH', mark: 'B', version: '3' }, image })).toBe('the unit shows 3')
    expect(says({ chip: { label: 'BIRCH', mark: 'B' }, image: undefined })).toBe('read again')
    expect(ofTask('codes', { faults: { before: 'C10000' } }, 'proof')).toBe('C10000')
    expect(ofTask('codes', { faults: null }, 'proof')).toBe('not read')
  })
  it('all of them once the job is closed', () => {
    const run = { ...folded(opened()), ...proved } as RunState
    const list = jobStations({ ...facts, run, closed: true })
    expect(list.map(({ state }) => state)).toEqual(stations.map(() => 'done'))
    expect(list.at(-1)).toMatchObject({ id: 'close', verdict: 'go', says: 'done' })
    expect(openStation({ ...facts, run: folded(opened(), started(5)), closed: true })).toBe('close')
  })
})

describe('through a whole run', () => {
  it('never shows a station as go that is not known', () => {
    const waiting = jobStations(facts).filter((station) => station.state === 'waiting')
    expect(waiting.map((station) => station.id)).toEqual(['entry', 'write', 'proof', 'close'])
    expect(waiting.every((station) => station.verdict === 'unknown' && station.says !== '')).toBe(true)
  })
  it('follows a run through entry, write and proof to close', async () => {
    const { events } = await rehearse()
    const visited = events.map((_, at) => openStation({ ...facts, run: foldWake(events.slice(0, at + 1)) }))
    expect([...new Set(visited)]).toEqual(['entry', 'write', 'proof', 'close'])
    const done = jobStations({ ...facts, run: foldWake(events), closed: true })
    expect(done.every((station) => station.state === 'done')).toBe(true)
    expect(done.find((station) => station.id === 'proof')?.says).toBe('the unit says 2.48')
  })
  it('stays where a run was cut, and says at which byte', async () => {
    const { state } = await rehearse({ faults: { powerFailsAtByte: 150_000 } })
    const stations = jobStations({ ...facts, run: state })
    const open = stations.find((station) => station.state === 'open')!
    expect(open.id).toBe('write')
    expect(open.verdict).toBe('stop')
    expect(open.says).toMatch(/at byte 14\d\s\d{3} of 262\s144/)
  })
})
