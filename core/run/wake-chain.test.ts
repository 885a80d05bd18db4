import { createHash } from 'node:crypto'
import { describe, expect, it } from 'vitest'
import { virtualClock } from '../kernel'
import {
  brokenAt,
  JournalLost,
  noHash,
  sealEvent,
  wakeWriter,
  type Journal,
  type WakeBody,
  type WakeEvent,
} from '.'
import { checkOf } from './wake'
import { progressRecord } from './progress-record'

/* The record of a run (PRACTICE J4): each event sealed to the one before, kept in order, and never told as kept when it is not. */

const note = (says: string): WakeBody => ({ type: 'note', step: 0, says })
const sealed = (...bodies: WakeBody[]): WakeEvent[] =>
  bodies.reduce<WakeEvent[]>((wake, body, index) => [...wake, sealEvent(body, 1000 + index, wake.at(-1))], [])

describe('an event is sealed', () => {
  // FIPS 180-4 by node:crypto, over the canonical JSON (RFC 8785: members in order, no space) written out by hand.
  it('by SHA-256 over its number, its time, the seal before and what it says', () => {
    const [first, second] = sealed(note('one'), note('two'))
    const sha256 = (text: string) => createHash('sha256').update(text).digest('hex')
    const zeros = '0000000000000000000000000000000000000000000000000000000000000000'
    expect(noHash).toBe(zeros)
    expect(first).toMatchObject({ seq: 1, prev: zeros })
    expect(first!.hash).toBe(sha256(`[1,1000,"${zeros}",{"says":"one","step":0,"type":"note"}]`))
    expect(second).toMatchObject({ seq: 2, prev: first!.hash })
    expect(second!.hash).toBe(sha256(`[2,1001,"${first!.hash}",{"says":"two","step":0,"type":"note"}]`))
  })
  const wake = sealed(note('one'), note('two'), note('three'), note('four'))
  it('holds as it was written, and an empty one does', () => {
    expect(brokenAt(wake)).toBeNull()
    expect(brokenAt(wake.slice(0, 1))).toBeNull()
    expect(brokenAt([])).toBeNull()
  })
  const changed = (index: number, form: Partial<WakeEvent>) =>
    wake.map((event, at) => (at === index ? { ...event, ...form } : event))
  it.each<[string, WakeEvent[], number]>([
    ['a word that was altered', changed(1, { body: note('zwei') }), 2],
    ['the last word altered', changed(3, { body: note('vier') }), 4],
    ['a time that was altered', changed(2, { at: 999 }), 3],
    ['a number', changed(2, { seq: 7 }), 3],
    ['a seal', changed(1, { hash: noHash }), 2],
    ['the seal before', changed(3, { prev: noHash }), 4],
    ['the first left out', wake.slice(1), 1],
    ['one left out', wake.filter((_, at) => at !== 1), 2],
    ['two that changed places', [wake[0]!, wake[2]!, wake[1]!, wake[3]!], 2],
    ['one told twice', [wake[0]!, wake[0]!, ...wake.slice(1)], 2],
    // Altered and sealed anew by itself: the one behind it does not follow any more.
    ['one sealed anew', [wake[0]!, sealEvent(note('zwei'), 1001, wake[0]), ...wake.slice(2)], 3],
  ])('%s is found at its number', (_, broken, at) => {
    expect(brokenAt(broken)).toBe(at)
  })
})

/** A disk that takes what it is told to take, and remembers. */
function disk(answers: ('keeps' | 'loses' | 'keeps and does not say so')[] = []) {
  const kept: WakeEvent[] = []
  const owed: [WakeBody, number][] = []
  const journal: Journal = {
    async append(event) {
      const answer = answers.shift() ?? 'keeps'
      // It takes its time: what comes next must wait.
      await Promise.resolve()
      if (answer !== 'loses') kept.push(event)
      if (answer !== 'keeps') throw new Error('disk full')
    },
  }
  return { kept, owed, journal }
}
const clock = () => virtualClock(() => new Promise((done) => setImmediate(done)), 5000)

describe('a wake is written', () => {
  it('in the order in which it was told, however slow the disk', async () => {
    const { kept, journal } = disk()
    const wake = wakeWriter(journal, clock())
    await Promise.all(['one', 'two', 'three'].map((says) => wake.record(note(says))))
    expect(kept.map(({ seq, body }) => [seq, body])).toEqual(
      ['one', 'two', 'three'].map((says, at) => [at + 1, note(says)]),
    )
    expect(brokenAt(kept)).toBeNull()
  })
  it('goes on from the event that it is given', async () => {
    const before = sealed(note('one'), note('two'))
    const { kept, journal } = disk()
    await wakeWriter(journal, clock(), before.at(-1)).record(note('three'))
    expect(kept[0]).toMatchObject({ seq: 3, prev: before[1]!.hash })
    expect(brokenAt([...before, ...kept])).toBeNull()
  })
  it('says when it happened, and not when the disk had its turn', async () => {
    const time = clock()
    const { kept, journal } = disk()
    let taken = () => {}
    const slow: Journal = {
      append: async (event) => {
        if (event.seq === 1) await new Promise<void>((done) => (taken = done))
        return journal.append(event)
      },
    }
    const wake = wakeWriter(slow, time)
    const told = [wake.record(note('one')), wake.record(note('two'))]
    const at = time.now()
    await time.sleep(400)
    taken()
    await Promise.all(told)
    expect(kept.map((event) => event.at)).toEqual([at, at])
  })
  it('what the disk does not take is told as lost, with its reason, and the next follows the last that was kept', async () => {
    const { kept, journal } = disk(['keeps', 'loses', 'keeps'])
    const wake = wakeWriter(journal, clock())
    await wake.record(note('one'))
    const lost = await wake.record(note('two')).catch((error: unknown) => error)
    expect(lost).toBeInstanceOf(JournalLost)
    expect(lost).toMatchObject({ name: 'JournalLost', message: 'disk full', cause: new Error('disk full') })
    await wake.record(note('three'))
    expect(kept.map(({ seq, body }) => [seq, body])).toEqual([
      [1, note('one')],
      [2, note('three')],
    ])
    expect(brokenAt(kept)).toBeNull()
  })
  it('a reason that is no error is told all the same', () => {
    expect(new JournalLost('gone').message).toBe('gone')
  })
  it('asks the disk what it took where it did not say so, once, and never where it did', async () => {
    const { kept, journal } = disk(['keeps', 'keeps and does not say so', 'keeps', 'keeps'])
    let asked = 0
    const wake = wakeWriter({ ...journal, last: async () => (asked++, kept.at(-1)) }, clock())
    await wake.record(note('one'))
    await expect(wake.record(note('two'))).rejects.toThrow('disk full')
    expect(asked).toBe(0)
    await wake.record(note('three'))
    expect(asked).toBe(1)
    await wake.record(note('four'))
    expect(asked).toBe(1)
    expect(kept.map(({ seq }) => seq)).toEqual([1, 2, 3, 4])
    expect(brokenAt(kept)).toBeNull()
  })
  it('what has happened is owed where it cannot be written, at its time; where nothing is owed it is lost', async () => {
    const owed: [WakeBody, number][] = []
    const time = clock()
    const full: Journal = { ...disk(['loses', 'loses']).journal }
    const at = time.now()
    await wakeWriter({ ...full, owe: (body, when) => void owed.push([body, when]) }, time).owe(note('done'))
    expect(owed).toEqual([[note('done'), at]])
    await expect(wakeWriter(full, time).owe(note('done'))).rejects.toThrow(JournalLost)
    const { kept, journal } = disk()
    await wakeWriter({ ...journal, owe: (body, when) => void owed.push([body, when]) }, time).owe(
      note('well'),
    )
    expect(kept).toHaveLength(1)
    expect(owed).toHaveLength(1)
  })
})

describe('what a check came to', () => {
  const figures = { expected: 'A', found: 'B' }
  it.each([
    [{ outcome: 'equal-read-back' }, 'equal-read-back'],
    [{ outcome: 'not-comparable', how: 'read-back', ok: true }, 'not-comparable'],
    // The older form: never more than it was.
    [{ how: 'read-back', ok: true }, 'equal-read-back'],
    [{ how: 'read-back', ok: false }, 'different'],
    [{ how: 'read-back', same: true }, 'equal-read-back'],
    [{ how: 'read-back', same: false }, 'different'],
    [{ how: 'read-back' }, 'different'],
    [{ how: 'checksum', ok: true }, 'equal-checksum'],
    [{ how: 'checksum', ok: false }, 'different'],
    [{ how: 'checksum', ok: false, same: true }, 'different'],
    [{ how: 'version-only', ok: true }, 'version-only'],
    [{ ok: true }, 'version-only'],
    [{}, 'version-only'],
  ] as const)('%o is %s', (form, outcome) => {
    expect(checkOf({ ...figures, ...form })).toMatchObject({ ...figures, outcome })
  })
  it('by which checksum is kept; an older record knew one', () => {
    expect(checkOf({ ...figures, outcome: 'equal-checksum', by: 'SHA-256' }).by).toBe('SHA-256')
    expect(checkOf({ ...figures, how: 'checksum', ok: true }).by).toBe('CRC-32')
    expect('by' in checkOf({ ...figures, outcome: 'different' })).toBe(false)
  })
})

describe('how far a write has come', () => {
  const told = (done: number) =>
    ({ type: 'progress', step: 1, done, total: 100, unit: 'bytes', retries: 0 }) as const
  /** Records that the test lets through, or breaks, one by one. */
  function held() {
    const waiting: { body: WakeBody; keep: () => void; lose: (error?: Error) => void }[] = []
    const time = clock()
    const wake = {
      record: (body: WakeBody) =>
        new Promise<void>((keep, reject) =>
          waiting.push({
            body,
            keep,
            lose: (error = new JournalLost(new Error('disk full'))) => reject(error),
          }),
        ),
      owe: async () => {},
    }
    return { waiting, time, wake, dones: () => waiting.map(({ body }) => (body as { done: number }).done) }
  }
  const never = () => 'stop' as const
  const turn = () => new Promise((done) => setImmediate(done))

  it('is told one record behind: the link goes on while the disk takes it', async () => {
    const { waiting, time, wake, dones } = held()
    const record = progressRecord({ wake, clock: time }, never)
    await record.say(told(10))
    expect(dones()).toEqual([10])
    expect(record.unsaid()).toEqual(told(10))
    waiting[0]!.keep()
    await record.say(told(20))
    expect(dones()).toEqual([10, 20])
    waiting[1]!.keep()
    await record.settle()
    expect(record.unsaid()).toBeNull()
    expect(record.lost()).toBeNull()
    expect(dones()).toEqual([10, 20])
  })
  it('waits a second for a slow disk and no longer; what lies between is left out, the newest is not', async () => {
    const { waiting, time, wake, dones } = held()
    const record = progressRecord({ wake, clock: time }, never)
    await record.say(told(10))
    const began = time.now()
    await record.say(told(20))
    expect(time.now() - began).toBe(1000)
    await record.say(told(30))
    expect(dones()).toEqual([10])
    const settled = record.settle()
    waiting[0]!.keep()
    await turn()
    expect(dones()).toEqual([10, 30])
    waiting[1]!.keep()
    await settled
    expect(record.unsaid()).toBeNull()
  })
  it('does not wait the second out where the disk is done before', async () => {
    const { waiting, time, wake } = held()
    const record = progressRecord({ wake, clock: time }, never)
    await record.say(told(10))
    const began = time.now()
    time.after(100, () => waiting[0]!.keep())
    await record.say(told(20))
    expect(time.now() - began).toBe(100)
  })
  it('a record that is lost stops the step where it is not to go on without, and says so at the end where it is', async () => {
    const { waiting, time, wake } = held()
    const stops = progressRecord({ wake, clock: time }, never)
    await stops.say(told(10))
    waiting[0]!.lose()
    await expect(stops.say(told(20))).rejects.toThrow(JournalLost)

    const on = held()
    const goes = progressRecord({ wake: on.wake, clock: on.time }, () => 'go-on')
    await goes.say(told(10))
    on.waiting[0]!.lose()
    await goes.say(told(20))
    expect(goes.lost()).toBeInstanceOf(JournalLost)
    on.waiting[1]!.lose()
    await turn()
    await expect(goes.settle()).rejects.toThrow('disk full')
    expect(goes.unsaid()).toEqual(told(20))
    // It is not tried a third time by itself.
    expect(on.dones()).toEqual([10, 20])
  })
  it('is well again with the next record that is kept', async () => {
    const { waiting, time, wake } = held()
    const record = progressRecord({ wake, clock: time }, () => 'go-on')
    await record.say(told(10))
    waiting[0]!.lose(new Error('no such folder'))
    await record.say(told(20))
    expect(record.lost()).toMatchObject({ name: 'JournalLost', message: 'no such folder' })
    waiting[1]!.keep()
    await record.settle()
    expect(record.lost()).toBeNull()
    expect(record.unsaid()).toBeNull()
  })
  it('with nothing told there is nothing to settle', async () => {
    const { time, wake, dones } = held()
    await progressRecord({ wake, clock: time }, never).settle()
    expect(dones()).toEqual([])
  })
})
