import { describe, expect, it } from 'vitest'
import { Problem, type Release } from '../../kernel'
import type { StepContext } from '../step-context'
import type { WakeBody } from '../wake'
import { stepActs } from '.'

/*
 * Each step alone where it must not go on: what is left out, what is asked, and in which order things are done, as the trade
 * does them (common practice; the rows of PRACTICE stand beside each).
 */

const silence = new Problem({ kind: 'no-answer', says: 'nobody answers', remedy: 'Look at the cable.' })
const refusal = new Problem({ kind: 'unit-refused', says: 'it said no', remedy: 'Mend it.' })
const bytes = (length: number, value = 0x5a) => new Uint8Array(length).fill(value)

/** A bench made by hand: `does` lists what was done to the unit and asked of the person, in order. */
function benchOf(own: Record<string, unknown>, answers: Record<string, string> = {}) {
  const events: WakeBody[] = []
  const does: string[] = []
  const asked: { id: string; says: string; caution?: string; answers: { id: string }[] }[] = []
  const reports: { done: number; total: number; unit: string; retries: number }[] = []
  const bench = {
    step: 2,
    pieces: [{}],
    piece: 0,
    left: new Set<number>(),
    changed: false,
    inBootloader: false,
    cameInBootloader: false,
    releases: [],
    loads: [],
    component: { id: 'main', name: 'Main processor' },
    clock: {
      now: () => Date.UTC(2026, 10, 28),
      sleep: async (ms: number) => void does.push(`waits ${ms}`),
    },
    wake: { record: async (body: WakeBody) => void events.push(body) },
    report: async (progress: (typeof reports)[number]) => void reports.push(progress),
    ask: async (prompt: (typeof asked)[number]) => {
      asked.push(prompt)
      does.push(`asks ${prompt.id}`)
      return answers[prompt.id] ?? prompt.answers[0]!.id
    },
    ...own,
  } as unknown as StepContext
  const act = async (kind: keyof typeof stepActs) =>
    stepActs[kind](bench).then(
      () => null,
      (error: unknown) => (error instanceof Problem ? error.facts : error),
    )
  const notes = () => events.flatMap((body) => (body.type === 'note' ? [body.says] : []))
  const retries = () => events.flatMap((body) => (body.type === 'retry' ? [body.why] : []))
  const of = (type: WakeBody['type']) => events.filter((body) => body.type === type)
  return { bench, act, events, of, does, asked, reports, notes, retries }
}

/** Three stretches of an image, with what a loader is asked for. */
const loads = [
  { address: 0x1000, bytes: bytes(100), sectors: 2 },
  { address: 0x3000, bytes: bytes(50), sectors: 1 },
  { address: 0x8000, bytes: bytes(10), sectors: 1 },
]

describe('erase', () => {
  const erase = (own: Record<string, unknown> = {}) => {
    const calls: unknown[][] = []
    const made = benchOf({
      loads,
      loader: {
        erase: async (range: unknown, tell: (p: { done: number }) => void, ...only: unknown[]) => {
          calls.push([range, ...only])
          tell({ done: 1 })
          tell({ done: 5 })
        },
      },
      ...own,
    })
    return { ...made, calls }
  }
  it('takes the sectors of the image, stretch by stretch, and counts them as one', async () => {
    const { act, calls, reports, bench } = erase()
    expect(await act('erase')).toBeNull()
    expect(calls).toEqual([
      [{ address: 0x1000, length: 100 }],
      [{ address: 0x3000, length: 50 }],
      [{ address: 0x8000, length: 10 }],
    ])
    // Never more than all of it, whatever the loader says.
    expect(reports.map(({ done, total, unit }) => `${done} of ${total} ${unit}`)).toEqual([
      '1 of 4 sectors',
      '4 of 4 sectors',
      '3 of 4 sectors',
      '4 of 4 sectors',
      '4 of 4 sectors',
      '4 of 4 sectors',
    ])
    expect(bench.changed).toBe(true)
  })
  it('is told the bytes where only what differs is to go', async () => {
    const { act, calls } = erase({ onlyChanged: true })
    await act('erase')
    expect(calls.map(([, only]) => only)).toEqual(loads.map((load) => load.bytes))
  })
  // PRACTICE H6: a write that goes on must keep what is in the unit already.
  it.each([
    [{ goesOnAt: 1 }, 'Nothing is erased: the write goes on at byte 1.'],
    [{ goesOnAt: 4096, goesOnPiece: 0 }, 'Nothing is erased: the write goes on at byte 4 096.'],
    [{ left: new Set([0]) }, 'Neither erased nor written: the main processor holds its image already.'],
  ])('erases nothing where something is to stay: %j', async (own, says) => {
    const { act, calls, notes, bench } = erase(own)
    expect(await act('erase')).toBeNull()
    expect(calls).toEqual([])
    expect(notes().map((note) => note.replace(/\s/gu, ' '))).toEqual([says])
    expect(bench.changed).toBe(false)
  })
  it.each([{ goesOnAt: 0 }, { goesOnAt: null }, { goesOnAt: 4096, goesOnPiece: 1 }, { left: new Set([1]) }])(
    'erases where that is said of another component, or of none: %j',
    async (own) => {
      const { act, calls } = erase(own)
      await act('erase')
      expect(calls).toHaveLength(3)
    },
  )
})

describe('write', () => {
  const write = (own: Record<string, unknown> = {}) => {
    const calls: unknown[][] = []
    const made = benchOf({
      loads,
      abandon: 'abandon',
      loader: {
        write: async (
          address: number,
          piece: Uint8Array,
          tell: (p: { done: number; retries: number }) => void,
          ...rest: unknown[]
        ) => {
          calls.push([address, piece.length, ...rest])
          tell({ done: piece.length, retries: 2 })
        },
      },
      ...own,
    })
    return { ...made, calls }
  }
  it('sends every stretch, and counts over all of them', async () => {
    const { act, calls, reports, bench } = write()
    expect(await act('write')).toBeNull()
    expect(calls).toEqual([
      [0x1000, 100, 'abandon'],
      [0x3000, 50, 'abandon'],
      [0x8000, 10, 'abandon'],
    ])
    expect(reports).toEqual([100, 150, 160].map((done) => ({ done, total: 160, unit: 'bytes', retries: 2 })))
    expect(bench.changed).toBe(true)
  })
  it.each([
    [
      99,
      [
        [0x1000, 100, 'abandon', 99],
        [0x3000, 50, 'abandon'],
        [0x8000, 10, 'abandon'],
      ],
    ],
    [
      100,
      [
        [0x3000, 50, 'abandon'],
        [0x8000, 10, 'abandon'],
      ],
    ],
    [
      101,
      [
        [0x3000, 50, 'abandon', 1],
        [0x8000, 10, 'abandon'],
      ],
    ],
    [150, [[0x8000, 10, 'abandon']]],
    [159, [[0x8000, 10, 'abandon', 9]]],
    [160, []],
  ])('goes on at byte %i, within the stretch where it lies', async (goesOnAt, expected) => {
    const { act, calls } = write({ goesOnAt })
    await act('write')
    expect(calls).toEqual(expected)
  })
  it('leaves a component alone that holds its image already', async () => {
    const { act, calls, bench } = write({ left: new Set([0]) })
    await act('write')
    expect(calls).toEqual([])
    expect(bench.changed).toBe(false)
  })
})

// PRACTICE H2: a whole dry transmission first, and none of a unit that has no firmware to fall back on.
describe('dry run', () => {
  const dry = (own: Record<string, unknown> = {}) => {
    const calls: unknown[][] = []
    const made = benchOf({
      loads,
      abandon: 'abandon',
      loader: {
        rehearse: async (
          address: number,
          piece: Uint8Array,
          tell: (p: { done: number; retries: number }) => void,
          abandon: unknown,
        ) => {
          calls.push([address, piece.length, abandon])
          tell({ done: 10, retries: 0 })
        },
      },
      ...own,
    })
    return { ...made, calls }
  }
  it('sends all of it and changes nothing', async () => {
    const { act, calls, reports, bench } = dry()
    await act('dry-run')
    expect(calls).toEqual([
      [0x1000, 100, 'abandon'],
      [0x3000, 50, 'abandon'],
      [0x8000, 10, 'abandon'],
    ])
    expect(reports.map(({ done, total }) => [done, total])).toEqual([
      [10, 160],
      [110, 160],
      [160, 160],
    ])
    expect(bench.changed).toBe(false)
  })
  it.each([{ changed: true }, { goesOnAt: 512 }])('is left out, with its reason: %j', async (own) => {
    const { act, calls, notes } = dry(own)
    await act('dry-run')
    expect(calls).toEqual([])
    expect(notes()).toEqual(['No dry run: the unit is already without its firmware.'])
  })
})

// PRACTICE E6, E11, F4: a unit is tried as often as its profile says, and only where it was silent.
describe('enter', () => {
  const command = { kind: 'command', name: 'By command', send: 'boot', settleMs: 200, tries: 3 }
  const byHand = {
    kind: 'by-hand',
    name: 'By hand',
    steps: ['Hold S1.', 'Power on.'],
    settleMs: 50,
    tries: 2,
  }
  const enter = (
    ways: unknown[],
    attaches: (Problem | TypeError | null)[],
    own: Record<string, unknown> = {},
    answers = {},
  ) => {
    const does: string[] = []
    const made = benchOf(
      {
        family: { name: 'Fog signal', entry: ways, stages: { enter: { caution: 'The horn is loud.' } } },
        link: null,
        driver: { enter: async (send: string) => void does.push(`sends ${send}`) },
        loader: {
          attach: async () => {
            does.push('attaches')
            const fault = attaches.shift()
            if (fault) throw fault
          },
        },
        ...own,
      },
      answers,
    )
    return { ...made, sent: does }
  }
  it('tries a silent unit to the last try, saying why each time, and no further', async () => {
    const third = enter([command], [silence, silence, null])
    expect(await third.act('enter')).toBeNull()
    expect(third.sent).toEqual(['sends boot', 'attaches', 'sends boot', 'attaches', 'sends boot', 'attaches'])
    expect(third.does).toEqual(['waits 200', 'waits 200', 'waits 200'])
    expect(third.retries()).toEqual(['nobody answers', 'nobody answers'])
    expect(third.bench.inBootloader).toBe(true)
    const never = enter([command], [silence, silence, silence, null])
    expect(await never.act('enter')).toMatchObject({ kind: 'no-answer' })
    expect(never.retries()).toHaveLength(2)
    expect(never.bench.inBootloader).toBe(false)
  })
  it('does not try again what was refused, or a defect', async () => {
    for (const fault of [refusal, new TypeError('a defect')]) {
      const made = enter([command], [fault, null])
      expect(await made.act('enter')).toBe(fault instanceof Problem ? fault.facts : fault)
      expect(made.sent).toEqual(['sends boot', 'attaches'])
      expect(made.retries()).toEqual([])
    }
  })
  it('sends nothing to a unit that is in its bootloader already', async () => {
    const made = enter([command], [null], { inBootloader: true })
    await made.act('enter')
    expect(made.sent).toEqual(['attaches'])
  })
  it('asks the hands, with the caution, where no command leads in', async () => {
    const made = enter([byHand], [null])
    await made.act('enter')
    expect(made.asked).toMatchObject([
      {
        id: 'enter-by-hand',
        says: 'By hand: Hold S1. Power on.',
        caution: 'The horn is loud.',
        answers: [{ id: 'done', says: 'Done' }],
      },
    ])
    // A driver that cannot send it has the hands do it too.
    const mute = enter([command, byHand], [null], { driver: {} })
    await mute.act('enter')
    expect(mute.asked.map(({ id }) => id)).toEqual(['enter-by-hand'])
  })
  it('says so where the profile knows no way', async () => {
    const made = enter([{ kind: 'other' }], [null])
    expect(await made.act('enter')).toMatchObject({ kind: 'no-entry', thing: 'Fog signal' })
    expect(made.sent).toEqual([])
  })
  // Common practice: read-out protection comes off only with everything else in the unit.
  describe('of a protected unit', () => {
    const open = async (answers: Record<string, string>, own: Record<string, unknown> = {}) => {
      const erased: string[] = []
      const loader = {
        attach: async () => {},
        protected: async () => true,
        eraseAll: async (word: string) => void erased.push(word),
        ...own,
      }
      const made = enter([command], [], { inBootloader: true, loader }, answers)
      return { fault: await made.act('enter'), erased, ...made }
    }
    it('erases only what was agreed to twice', async () => {
      const yes = await open({ unprotect: 'open', 'unprotect-again': 'erase' })
      expect(yes.fault).toBeNull()
      expect(yes.erased).toEqual(['erase the whole unit'])
      expect(yes.bench.changed).toBe(true)
      expect(yes.notes()).toEqual(['The protection was taken away; the unit erased itself.'])
      expect(yes.asked.map(({ answers }) => answers.map(({ id }) => id))).toEqual([
        ['keep', 'open'],
        ['keep', 'erase'],
      ])
    })
    it.each([
      { unprotect: 'keep', 'unprotect-again': 'erase' },
      { unprotect: 'open', 'unprotect-again': 'keep' },
      { unprotect: 'erase' },
      { unprotect: 'open', 'unprotect-again': 'open' },
    ])('leaves it shut otherwise: %j', async (answers) => {
      const no = await open(answers)
      expect(no.fault).toMatchObject({ kind: 'debug-protected' })
      expect(no.erased).toEqual([])
      expect(no.bench.changed).toBe(false)
    })
    it('leaves it shut where its profile knows no way to open it, and asks nothing', async () => {
      const no = await open({ unprotect: 'open', 'unprotect-again': 'erase' }, { eraseAll: undefined })
      expect(no.fault).toMatchObject({ kind: 'debug-protected' })
      expect((no.fault as { says: string }).says).toContain('knows no way')
      expect(no.asked).toEqual([])
    })
    it('asks nothing of one that is open', async () => {
      const free = await open({}, { protected: async () => false })
      expect(free.fault).toBeNull()
      expect(free.asked).toEqual([])
    })
  })
})

// PRACTICE I1: new firmware first, then the power cycle, each with its time to start.
describe('restart', () => {
  const family = {
    restart: { readyMs: 700, powerCycle: 'Off for ten seconds, then on.' },
    stages: { restart: { caution: 'The horn may sound.' } },
  }
  const restart = (own: Record<string, unknown>) => {
    const started: string[] = []
    const made = benchOf({
      family,
      loader: { startApplication: async () => void started.push('starts') },
      ...own,
    })
    return { ...made, started }
  }
  it('starts what is in its bootloader, and has the power cycled with its caution', async () => {
    const made = restart({ inBootloader: true, cameInBootloader: true })
    await made.act('restart')
    expect(made.started).toEqual(['starts'])
    expect(made.does).toEqual(['waits 700', 'asks power-cycle', 'waits 700'])
    expect(made.asked).toMatchObject([
      {
        says: 'Off for ten seconds, then on.',
        caution: 'The horn may sound.',
        answers: [{ id: 'done' }],
      },
    ])
    expect(made.bench.inBootloader).toBe(false)
  })
  it('does not start what runs already', async () => {
    const made = restart({ inBootloader: false })
    await made.act('restart')
    expect(made.started).toEqual([])
    expect(made.asked).toHaveLength(1)
  })
  it('leaves a unit where it was found by a task that only looks', async () => {
    for (const task of ['check', 'read-out'] as const) {
      const made = restart({ inBootloader: true, cameInBootloader: true, task })
      await made.act('restart')
      expect(made.started).toEqual([])
      expect(made.asked).toEqual([])
      expect(made.notes()).toEqual(['It was in its bootloader before, and stays there.'])
      const entered = restart({ inBootloader: true, cameInBootloader: false, task })
      await entered.act('restart')
      expect(entered.started, task).toEqual(['starts'])
    }
  })
})

// PRACTICE J1: codes are read before they are cleared, and again after it.
describe('fault codes', () => {
  const faults = (read: string[], own: Record<string, unknown> = {}, answers = {}) => {
    const done: string[] = []
    const made = benchOf(
      {
        driver: {
          faults: {
            read: async () => {
              done.push('reads')
              return read.shift()!
            },
            clear: async () => void done.push('clears'),
          },
          page: async () => ({ lines: [], inBootloader: false }),
        },
        family: { snapshot: [], components: [] },
        ...own,
      },
      answers,
    )
    return { ...made, done }
  }
  const told = (events: WakeBody[]) => events.filter(({ type }) => type === 'faults')
  it('are read, cleared and read again behind a write; those that come back are told', async () => {
    const made = faults(['P0A10', 'P0A10'])
    await made.act('faults')
    expect(made.done).toEqual(['reads', 'clears', 'reads'])
    expect(told(made.events)).toEqual([{ type: 'faults', step: 2, before: 'P0A10', after: 'P0A10' }])
    expect(made.events.map(({ type }) => type)).toEqual(['faults', 'snapshot'])
    expect(made.asked).toEqual([])
    const none = faults(['none', 'none'])
    await none.act('faults')
    expect(none.events.map(({ type }) => type)).toEqual(['faults'])
  })
  it('stay in a unit of which they were only asked, unless the person says so', async () => {
    for (const answer of ['leave', '', 'done']) {
      const made = faults(['P0A10'], { task: 'codes' }, { 'clear-codes': answer })
      await made.act('faults')
      expect(made.done, answer).toEqual(['reads'])
      expect(told(made.events)).toMatchObject([{ before: 'P0A10', after: 'P0A10', kept: true }])
    }
    const cleared = faults(['P0A10', 'none'], { task: 'codes' }, { 'clear-codes': 'clear' })
    await cleared.act('faults')
    expect(cleared.done).toEqual(['reads', 'clears', 'reads'])
    expect(cleared.asked.map(({ id, answers }) => [id, answers.map((each) => each.id)])).toEqual([
      ['clear-codes', ['leave', 'clear']],
    ])
    expect(cleared.of('snapshot')).toMatchObject([{ when: 'after' }])
    const none = faults(['none'], { task: 'codes' })
    await none.act('faults')
    expect(none.done).toEqual(['reads'])
    expect(none.asked).toEqual([])
  })
  it('of a link that reads none are not asked for', async () => {
    const made = faults([], { driver: {} })
    expect(await made.act('faults')).toBeNull()
    expect(made.events).toEqual([])
  })
})

// PRACTICE B11: a card goes in, the unit says what it found, and each question has its usual answer.
describe('a card', () => {
  const update = {
    insert: 'Put the card in.',
    caution: 'Engine off.',
    searches: 'Searching… 2 files found.',
    prompts: [
      { shows: 'Update?', answer: 'Yes.', caution: 'Do not switch off.' },
      { shows: 'Restart?', answer: 'Yes.' },
    ],
    minutes: 3,
  }
  const card = (own: unknown, found = 'shown') => benchOf({ medium: own }, { 'media.found': found })
  it('is followed question by question, in their order', async () => {
    const made = card({ name: 'card', update })
    expect(await made.act('media')).toBeNull()
    expect(made.asked.map(({ id, says, caution }) => [id, says, caution])).toEqual([
      ['media.in', 'Put the card in.', 'Engine off.'],
      ['media.found', 'Does the unit show: Searching… 2 files found.', undefined],
      ['media.prompt-1', '1 of 2. It shows: Update? Answer: Yes.', 'Do not switch off.'],
      ['media.prompt-2', '2 of 2. It shows: Restart? Answer: Yes.', undefined],
    ])
    expect(made.notes()).toEqual(['The unit took its main processor from the card.'])
    expect(made.asked.map(({ answers }) => answers.map(({ id }) => id))).toEqual([
      ['done'],
      ['shown', 'other'],
      ['done'],
      ['done'],
    ])
  })
  it.each(['other', '', 'done'])('goes no further where the unit shows something else: %j', async (found) => {
    const made = card({ name: 'card', update }, found)
    expect(await made.act('media')).toMatchObject({ kind: 'media-not-found', expected: update.searches })
    expect(made.asked).toHaveLength(2)
    expect(made.notes()).toEqual([])
  })
  it('asks nothing where the unit takes nothing from it', async () => {
    for (const medium of [undefined, { name: 'card' }]) {
      const made = card(medium)
      expect(await made.act('media')).toBeNull()
      expect(made.asked).toEqual([])
    }
  })
})

// Common practice: a chip is changed one thing at a time; one that came programmed is not looked at for blank.
it('a chip’s change asks each thing with its caution, and leaves out what a ready chip does not need', async () => {
  const family = {
    chipReplacement: [
      { id: 'off', does: 'Mains off.', caution: 'Mains.' },
      { id: 'blank', does: 'Check it is blank.', blank: true },
      { id: 'in', does: 'Chip in, pin 1 at the dot.' },
    ],
  }
  const own = benchOf({ family, chip: undefined })
  await own.act('swap')
  expect(own.asked.map(({ id, caution }) => [id, caution])).toEqual([
    ['swap.off', 'Mains.'],
    ['swap.blank', undefined],
    ['swap.in', undefined],
  ])
  const ready = benchOf({ family, chip: { version: '2.0' } })
  await ready.act('swap')
  expect(ready.asked.map(({ id }) => id)).toEqual(['swap.off', 'swap.in'])
  expect(ready.asked.map(({ answers }) => answers)).toEqual([
    [{ id: 'done', says: 'Done' }],
    [{ id: 'done', says: 'Done' }],
  ])
})

// PRACTICE G1: the original is read out twice before the first write, and what reads differently is no backup.
describe('backup', () => {
  const component = {
    id: 'main',
    name: 'Main processor',
    memory: {
      erasedByte: 0xff,
      regions: [{ name: 'application', use: 'application', address: 0x1000, length: 64 }],
    },
  }
  const family = { id: 'f', name: 'Fog signal', components: [component] }
  const code = Uint8Array.from({ length: 64 }, (_, at) => (at * 37 + 11) % 251)
  const backup = async (reads: Uint8Array[] | null, own: Record<string, unknown> = {}) => {
    const ranges: unknown[] = []
    const kept: unknown[] = []
    const made = benchOf({
      family,
      component,
      unit: { id: 'u', serial: 'S-1' },
      before: null,
      link: null,
      loader: reads
        ? {
            read: async (range: unknown, tell: (p: { done: number }) => unknown) => {
              ranges.push(range)
              await tell({ done: 64 })
              return reads.shift()!
            },
          }
        : {},
      keepBackup: async (what: unknown) => {
        kept.push(what)
        return { imageId: 'i', findings: [] }
      },
      ...own,
    })
    return { fault: await made.act('backup'), ranges, kept, ...made }
  }
  const released = (rule: string): Release[] => [
    { rule, name: 'A. Lund', reason: 'none can be made' } as unknown as Release,
  ]
  it('is read twice, kept, and recorded with its digest', async () => {
    const { fault, ranges, kept, events, reports } = await backup([code, Uint8Array.from(code)])
    expect(fault).toBeNull()
    expect(ranges).toEqual([
      { address: 0x1000, length: 64 },
      { address: 0x1000, length: 64 },
    ])
    expect(kept).toMatchObject([{ address: 0x1000, name: 'S-1, main processor, original, 2026-11-28' }])
    expect(events.at(-1)).toMatchObject({ type: 'backup', bytes: 64, reads: 2, imageId: 'i' })
    expect(reports.at(-1)).toMatchObject({ done: 128, total: 128, unit: 'bytes' })
  })
  it('that reads differently a second time stops the run, and is not kept', async () => {
    for (const at of [0, 31, 63]) {
      const other = Uint8Array.from(code)
      other[at] = other[at]! ^ 1
      const { fault, kept, events } = await backup([code, other])
      expect(fault, String(at)).toMatchObject({ kind: 'backup-bad' })
      expect(kept).toEqual([])
      expect(events).toMatchObject([{ type: 'backup', reads: 2 }])
    }
  })
  it('of nothing but erased bytes, or too short, stops the run', async () => {
    for (const read of [bytes(64, 0xff), bytes(64, 0), code.slice(0, 63)]) {
      const { fault, kept } = await backup([read, Uint8Array.from(read)])
      expect(fault).toMatchObject({ kind: 'backup-bad' })
      expect(kept).toEqual([])
    }
  })
  it('is read once only where that was released by name', async () => {
    const once = await backup([code], { releases: released('backup-once') })
    expect(once.fault).toBeNull()
    expect(once.ranges).toHaveLength(1)
    expect(once.notes()).toEqual(['Read once: A. Lund, none can be made.'])
    expect(once.events.at(-1)).toMatchObject({ reads: 1 })
    const other = await backup([code, code], { releases: released('backup-twice') })
    expect(other.ranges).toHaveLength(2)
  })
  it('is left out, with its reason, where it was waived, where the unit is changed, where nothing can read', async () => {
    const waived = await backup([code], { releases: released('backup') })
    expect(waived.notes()).toEqual(['No backup: waived by A. Lund, none can be made.'])
    const changed = await backup([code], { changed: true })
    expect(changed.notes()).toEqual(['No backup: what is in the unit now is not what it came with.'])
    const mute = await backup(null)
    expect(mute.notes()).toEqual(['No backup: this link cannot read the memory.'])
    for (const { fault, ranges, kept } of [waived, changed, mute]) {
      expect([fault, ranges, kept]).toEqual([null, [], []])
    }
  })
  it('that was asked for is no note: what cannot be read is said, a waiver or a change does not keep it away', async () => {
    expect((await backup(null, { task: 'read-out' })).fault).toMatchObject({ kind: 'cannot-read' })
    const asked = await backup([code, code], {
      task: 'read-out',
      changed: true,
      releases: released('backup'),
    })
    expect(asked.ranges).toHaveLength(2)
    expect(asked.kept).toHaveLength(1)
  })
  it('of a chip that told what it is and is blank is told, and not kept; over a link that only dumps it stops', async () => {
    const blank = (own: Record<string, unknown>) =>
      backup([bytes(64, 0xff), bytes(64, 0xff)], { task: 'read-out', ...own })
    const chip = await blank({ link: { drive: { speaks: 'spi-flash' } } })
    expect(chip.fault).toBeNull()
    expect(chip.kept).toEqual([])
    expect(chip.events.at(-1)).toMatchObject({
      type: 'backup',
      findings: expect.arrayContaining([expect.objectContaining({ rule: 'backup-blank', level: 'note' })]),
    })
    expect((await blank({ link: null })).fault).toMatchObject({ kind: 'backup-bad' })
    // Bytes that are all the same and not the erased ones are no blank chip.
    const zeros = await backup([bytes(64, 0), bytes(64, 0)], {
      task: 'read-out',
      link: { drive: { speaks: 'spi-flash' } },
    })
    expect(zeros.fault).toMatchObject({ kind: 'backup-bad' })
  })
  it('is named for its unit, component and version, with its region where there are several, read in order', async () => {
    const twoRegions = {
      ...component,
      memory: {
        erasedByte: 0xff,
        regions: [
          { name: 'Second half', use: 'application', address: 0x3000, length: 64 },
          { name: 'First half', use: 'application', address: 0x1000, length: 64 },
          { name: 'Settings', use: 'settings', address: 0x9000, length: 64 },
        ],
      },
    }
    const { fault, ranges, kept, reports } = await backup([code, code, code, code], {
      component: twoRegions,
      pieces: [{}, {}],
      unit: { id: 'u', serial: 'S-1', name: 'Tide logger 2' },
      before: { at: 1, source: 'link', lines: [{ field: 'version.main', label: 'Main', value: '2.41' }] },
    })
    expect(fault).toBeNull()
    expect(ranges.map((range) => (range as { address: number }).address)).toEqual([
      0x1000, 0x1000, 0x3000, 0x3000,
    ])
    expect(kept.map((each) => (each as { name: string }).name)).toEqual([
      'Tide logger 2, main processor 2.41, First half, original, 2026-11-28',
      'Tide logger 2, main processor 2.41, Second half, original, 2026-11-28',
    ])
    expect(reports.map(({ done, total }) => [done, total])).toEqual([
      [64, 256],
      [128, 256],
      [192, 256],
      [256, 256],
    ])
  })
  it('of what was written here before is named as found, and not as the original', async () => {
    const { kept } = await backup([code, code], { firstHere: false })
    expect(kept).toMatchObject([{ name: 'S-1, main processor, as found, 2026-11-28' }])
  })
})
