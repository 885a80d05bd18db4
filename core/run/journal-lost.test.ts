import { describe, expect, it } from 'vitest'
import { equalBytes, virtualClock } from '../kernel'
import {
  brokenAt,
  conditionOf,
  foldWake,
  JournalLost,
  sealEvent,
  wakeWriter,
  type WakeBody,
  type WakeEvent,
} from '.'
import { progressRecord } from './progress-record'
import { rehearse, turn } from './rehearsal.test-support'
import { scenarios } from './scenarios.test-support'
import { simulateRun } from './simulate-run.test-support'

/** A journal on a disk that fills up: at an event of one's choice it takes no more; what it is owed stands apart. */
function fillingDisk(
  fullFrom: (event: WakeEvent) => boolean,
  again: (event: WakeEvent) => boolean = () => false,
) {
  const kept: WakeEvent[] = []
  const owed: WakeBody[] = []
  let full = false
  return {
    kept,
    owed,
    journal: {
      async append(event: WakeEvent) {
        if (!full && fullFrom(event)) full = true
        if (full && again(event)) full = false
        if (full) throw new Error('disk full')
        kept.push(event)
      },
      owe: (body: WakeBody) => void owed.push(body),
    },
  }
}
const bytesFrom = (done: number) => (event: WakeEvent) =>
  event.body.type === 'progress' && event.body.unit === 'bytes' && event.body.done >= done

describe('a journal that cannot be written', () => {
  it('lets a write over a link that cannot go on from the middle reach its last byte, and nothing after it begins', async () => {
    const disk = fillingDisk(bytesFrom(50_000))
    const { outcome, flash, bytes, unit } = await rehearse({ journal: disk.journal })
    expect(outcome).toBe('cut')
    expect(equalBytes(flash.subarray(0, bytes.length), bytes)).toBe(true)
    // Started it would have left its bootloader.
    expect(unit.state().inBootloader).toBe(true)
    expect(brokenAt(disk.kept)).toBeNull()
    expect(disk.kept.some(({ body }) => body.type === 'step.done' && body.step === 6)).toBe(false)
    // Told what it is: written whole, and not a half.
    const told = (owed: readonly WakeBody[]) =>
      conditionOf(
        foldWake(owed.reduce((wake, body) => [...wake, sealEvent(body, 0, wake.at(-1))], disk.kept))!,
      )
    expect(told(disk.owed)).toBe('written-not-verified')
    const [reached, ...cut] = disk.owed
    const short = { ...(reached as Extract<WakeBody, { type: 'progress' }>), done: bytes.length - 1 }
    expect(told([short, ...cut])).toBe('half-written')
    expect(disk.owed).toEqual([
      { type: 'progress', step: 6, done: bytes.length, total: bytes.length, unit: 'bytes', retries: 0 },
      {
        type: 'cut',
        why: expect.stringMatching(
          /^The record could not be written: disk full\. The write went on to its last byte/,
        ),
      },
    ])
  })

  it('is no matter where it takes the next record again: the run reaches its proof', async () => {
    const disk = fillingDisk(bytesFrom(50_000), bytesFrom(90_000))
    const { outcome } = await rehearse({ journal: disk.journal })
    expect(outcome).toBe('proved')
    expect(disk.owed).toEqual([])
    expect(brokenAt(disk.kept)).toBeNull()
    const dones = disk.kept.flatMap(({ body }) =>
      body.type === 'progress' && body.unit === 'bytes' ? [body.done] : [],
    )
    expect(dones.some((done) => done > 50_000 && done < 90_000)).toBe(false)
  })

  it.each([
    ['erase', 5],
    ['write', 6],
    ['restart', 8],
  ])('keeps %s from being begun when its announcement is not on disk', async (kind, step) => {
    const disk = fillingDisk(({ body }) => body.type === 'step.started' && body.step === step)
    const { outcome, plan, flash } = await rehearse({ journal: disk.journal })
    expect(outcome).toBe('cut')
    expect(disk.owed).toEqual([
      {
        type: 'cut',
        why: 'The record could not be written: disk full. Nothing was begun that is not recorded.',
      },
    ])
    const state = foldWake([...disk.kept, sealEvent(disk.owed[0]!, 0, disk.kept.at(-1))])!
    expect(state.steps[step]!.startedAt).toBeUndefined()
    expect(plan[step]!.kind).toBe(kind)
    if (step === 5) {
      expect(conditionOf(state)).toBe('in-bootloader')
      // Nothing was erased: 2.41 is there, which has bytes in its first block.
      expect(flash.subarray(0, 1024).some((byte) => byte !== 0xff)).toBe(true)
    }
  })

  it('owes what went wrong in the meantime as well', async () => {
    const disk = fillingDisk(({ body }) => body.type === 'failed')
    const { outcome } = await rehearse({ journal: disk.journal, serial: 'FS3-99999' })
    expect(outcome).toBe('cut')
    expect(disk.owed).toEqual([
      {
        type: 'cut',
        why: 'The record could not be written: disk full. Before that it had failed: another unit is on the cable.',
      },
    ])
  })

  it('stops a write that can go on from the middle between two blocks, and the next leg goes on there', async () => {
    const scenario = scenarios.find(({ unitId }) => unitId === 'battery-14')!
    const cutWhy: string[] = []
    for (let seed = 1; seed <= 12; seed++) {
      const { proved, holds, events } = await simulateRun(scenario, ['disk full'], seed, turn)
      expect({ seed, proved, holds }).toEqual({ seed, proved: true, holds: true })
      const at = events.findIndex(({ body }) => body.type === 'cut')
      const cut = events[at]?.body
      if (cut?.type !== 'cut' || !cut.why.includes('stopped between two blocks')) continue
      cutWhy.push(cut.why)
      const before = foldWake(events.slice(0, at + 1))!
      const next = events[at + 1]!.body
      expect(next).toMatchObject({ type: 'leg.opened', goesOnAt: before.acknowledged })
      expect(before.acknowledged).toBeGreaterThan(0)
      expect(before.acknowledged).toBeLessThan(before.facts.image!.bytes)
    }
    expect(cutWhy.length).toBeGreaterThan(0)
  })

  it('that is slow keeps no block from the link: the records between are left out', async () => {
    const clock = virtualClock(turn, 0)
    const kept: number[] = []
    const record = progressRecord(
      {
        clock,
        wake: {
          record: async (body) => {
            await clock.sleep(4000)
            if (body.type === 'progress') kept.push(body.done)
          },
          owe: async () => {},
        },
      },
      () => 'stop',
    )
    const say = (done: number) =>
      record.say({ type: 'progress', step: 0, done, total: 10, unit: 'bytes', retries: 0 })
    for (let done = 1; done <= 6; done++) await say(done)
    // The first is begun at once; each of the five after it waits a second, where a record takes four.
    expect(clock.now()).toBe(5000)
    await record.settle()
    expect(kept[0]).toBe(1)
    expect(kept.at(-1)).toBe(6)
    expect(kept.length).toBeLessThan(6)
    expect(record.unsaid()).toBeNull()
  })
})

describe('the writer of a wake', () => {
  const clock = virtualClock(turn, 1000)
  const note = (says: string): WakeBody => ({ type: 'note', step: 0, says })

  it('goes on after the last event that is kept, with no gap and no event twice', async () => {
    const kept: WakeEvent[] = []
    let fail = false
    const wake = wakeWriter(
      {
        async append(event) {
          if (fail) throw new Error('full')
          kept.push(event)
        },
      },
      clock,
    )
    await wake.record(note('one'))
    fail = true
    await expect(wake.record(note('two'))).rejects.toThrow(JournalLost)
    fail = false
    await wake.record(note('three'))
    expect(brokenAt(kept)).toBeNull()
    expect(kept.map(({ seq, body }) => [seq, body.type === 'note' && body.says])).toEqual([
      [1, 'one'],
      [2, 'three'],
    ])
  })

  it('asks what is kept after an append that failed: the disk may have taken it and not said so', async () => {
    const kept: WakeEvent[] = []
    let lies = true
    const wake = wakeWriter(
      {
        async append(event) {
          kept.push(event)
          if (!lies) return
          lies = false
          throw new Error('no answer')
        },
        last: async () => kept.at(-1),
      },
      clock,
    )
    await expect(wake.record(note('one'))).rejects.toThrow('no answer')
    await wake.record(note('two'))
    expect(brokenAt(kept)).toBeNull()
    expect(kept.map(({ seq }) => seq)).toEqual([1, 2])
  })

  it('says no debt was taken where the journal takes none', async () => {
    const wake = wakeWriter({ append: () => Promise.reject(new Error('full')) }, clock)
    await expect(wake.owe(note('one'))).rejects.toThrow(JournalLost)
  })
})
