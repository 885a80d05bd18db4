import { demoFamily, demoFamilyList } from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import type { EntryAct, EntryScript, EntryWay, Family, FamilyLink } from '../family'
import {
  beginEntry,
  checks,
  causeIds,
  causes,
  diagnose,
  enough,
  exercisesOf,
  faultDrillsOf,
  judgeEntry,
  nextCheck,
  offText,
  passMark,
  priorsOf,
  scoreOf,
  signDueAt,
  signShown,
  spacingDays,
  standingsOf,
  windowBar,
  windowOf,
  type EntryEvent,
  type EntryState,
  type KnownOfBench,
  type Practice,
} from '.'

/* The judge of an entry and the ladder, on the side on which they refuse (PRACTICE E1 to E11, F1 to F4, common practice). */

const act = (id: string, form: Partial<EntryAct>): EntryAct =>
  ({ id, act: 'press', what: id, by: 'left', says: `Do ${id}`, ...form }) as EntryAct
const script = (acts: EntryAct[], form: Partial<EntryScript> = {}): EntryScript =>
  ({
    kind: 'keys-at-power',
    acts,
    signs: [
      { id: 'dark', says: 'Lamp dark', shown: 'dark', tells: 'in', means: 'It is in.' },
      {
        id: 'blinks',
        says: 'Lamp blinks',
        shown: 'blinking',
        tells: 'not-in',
        means: 'It started as usual.',
        do: 'Unplug it.',
      },
      { id: 'odd', says: 'Lamp odd', shown: 'steady', tells: 'not-in', means: 'Nobody knows.' },
    ],
    signWithinMs: 1000,
    ...form,
  }) as EntryScript
// E2: hold the button, then plug in, wait a second, release.
const button = script([
  act('hold', { act: 'hold', what: 'button' }),
  act('plug', { act: 'plug', what: 'jack', by: 'right' }),
  act('release', {
    act: 'release',
    what: 'button',
    within: { minMs: 1000, maxMs: 3000 },
    early: 'Let go too early.',
    late: 'Held too long.',
  }),
])
const did = (at: number, kind: EntryAct['act'], what: string): EntryEvent => ({
  at,
  type: 'did',
  act: kind,
  what,
})
const play = (own: EntryScript, ...events: EntryEvent[]) =>
  events.reduce<EntryState>(judgeEntry, beginEntry(own, 0, { says: 'BOOT' }))
const right = [did(10, 'hold', 'button'), did(500, 'plug', 'jack')]

describe('an entry', () => {
  it('is in its window from the first to the last millisecond of it', () => {
    for (const at of [1500, 3500])
      expect(play(button, ...right, did(at, 'release', 'button')).outcome).toBe('going')
    expect(play(button, ...right, did(1499, 'release', 'button'))).toMatchObject({
      outcome: 'failed',
      failure: { step: 2, offMs: -1, why: 'Let go too early.' },
    })
    expect(play(button, ...right, did(3501, 'release', 'button'))).toMatchObject({
      outcome: 'failed',
      failure: { step: 2, offMs: 1, why: 'Held too long.' },
    })
    expect(play(button, ...right, { at: 3501, type: 'tick' })).toMatchObject({
      outcome: 'failed',
      endedAt: 3501,
    })
    expect(play(button, ...right, { at: 3500, type: 'tick' }).outcome).toBe('going')
  })
  it('without words of its own says what came too early and too late', () => {
    const own = script([act('a', {}), act('b', { within: { minMs: 100, maxMs: 200 } })])
    expect(play(own, did(0, 'press', 'a'), did(50, 'press', 'b')).failure!.why).toBe('“Do b” came too early.')
    expect(play(own, did(0, 'press', 'a'), did(250, 'press', 'b')).failure!.why).toBe('“Do b” came too late.')
  })
  it('measures no window of the first act: nothing stands before it', () => {
    const own = script([act('a', { within: { minMs: 100, maxMs: 200 } })])
    expect(windowOf(beginEntry(own, 0))).toBeNull()
    expect(play(own, did(9000, 'press', 'a')).step).toBe(1)
    expect(windowOf(play(button, ...right))).toEqual({ opensAt: 1500, closesAt: 3500 })
    // Of a window from 1.5 s to 3.5 s after an act at 0 the zone opens at 3/7; at 2.5 s one is at 5/7, with 1 s left.
    const bar = windowBar(play(button, ...right), 2500)!
    expect(bar).toMatchObject({ open: true, leftMs: 1000 })
    expect(bar.at - bar.opens).toBeGreaterThan(0)
    expect(windowBar(play(button, ...right), 1499)).toMatchObject({ open: false, leftMs: 1 })
    expect(windowBar(play(button, ...right), 3501)).toMatchObject({ open: false, leftMs: -1, at: 1 })
    expect(windowBar(play(button, right[0]!), 0)).toBeNull()
    expect(windowOf(play(button, right[0]!))).toBeNull()
  })
  it('keeps what is held, and by which hand', () => {
    expect(play(button, right[0]!).held).toEqual({ button: 'left' })
    expect(play(button, ...right).held).toEqual({ button: 'left' })
    expect(play(button, ...right, did(2000, 'release', 'button')).held).toEqual({})
  })
  it('fails on another act, another thing, or letting go before its time', () => {
    expect(play(button, did(10, 'press', 'button')).failure!.why).toBe('Another thing was due: “Do hold”')
    expect(play(button, did(10, 'hold', 'key')).failure!.why).toBe('Another thing was due: “Do hold”')
    expect(play(button, did(10, 'release', 'button')).failure!.why).toBe('Another thing was due: “Do hold”')
    expect(play(button, right[0]!, did(20, 'release', 'button')).failure).toMatchObject({
      step: 1,
      why: 'Let go too early.',
    })
    expect(play(button, right[0]!, did(20, 'release', 'jack')).failure!.why).toBe(
      'Another thing was due: “Do plug”',
    )
    const loose = script([act('h', { act: 'hold', what: 'key' }), act('b', {}), act('c', {})])
    expect(play(loose, did(0, 'hold', 'key'), did(1, 'release', 'key')).failure!.why).toBe(
      'It was let go before “Do b”.',
    )
    // A release that came before tells nothing of this one.
    const twice = script([
      act('h', { act: 'hold', what: 'key' }),
      act('r', { act: 'release', what: 'key', early: 'First time.' }),
      act('h2', { act: 'hold', what: 'key' }),
      act('b', {}),
    ])
    const first = [did(0, 'hold', 'key'), did(1, 'release', 'key'), did(2, 'hold', 'key')]
    expect(play(twice, ...first, did(3, 'release', 'key')).failure!.why).toBe('It was let go before “Do b”.')
  })
  it('lets go be let go once nothing is left, and nothing else be done', () => {
    const done = [...right, did(2000, 'release', 'button')]
    expect(play(button, ...done, did(2100, 'release', 'other')).outcome).toBe('going')
    expect(play(button, ...done, did(2100, 'press', 'other')).failure!.why).toBe(
      'Nothing was to be done any more.',
    )
  })
  it('waits for its sign as long as usual and four seconds more, and then says what the line said', () => {
    const done = play(button, ...right, did(2000, 'release', 'button'))
    expect(signDueAt(done)).toBe(2000 + 1000 + 4000)
    expect(signDueAt(play(button, ...right))).toBeNull()
    expect(judgeEntry(done, { at: 7000, type: 'tick' }).outcome).toBe('going')
    expect(judgeEntry(done, { at: 7001, type: 'tick' })).toMatchObject({
      outcome: 'failed',
      failure: { step: 3, why: expect.stringMatching(/the line stayed silent/) },
    })
    const noisy = judgeEntry(done, { at: 3000, type: 'heard', text: '  MAIN 2.41 runs \r\n' })
    expect(noisy).toMatchObject({ outcome: 'going', noise: 'MAIN 2.41 runs' })
    expect(judgeEntry(noisy, { at: 7001, type: 'tick' }).failure!.why).toBe(
      'The line said “MAIN 2.41 runs”, and that is not the bootloader.',
    )
    expect(judgeEntry(done, { at: 3000, type: 'heard', text: ' \r\n' })).toBe(done)
  })
  it('is in by the bootloader’s own word, its answer, or its own device, and by nothing else', () => {
    const state = play(button, ...right)
    const after = (event: EntryEvent) => judgeEntry(state, event).outcome
    expect(after({ at: 600, type: 'heard', text: 'x BOOT 1' })).toBe('in')
    expect(after({ at: 600, type: 'heard', text: 'boot' })).toBe('going')
    expect(after({ at: 600, type: 'answered' })).toBe('in')
    const silent = beginEntry(button, 0)
    expect(judgeEntry(silent, { at: 1, type: 'heard', text: 'BOOT' }).outcome).toBe('going')
    expect(judgeEntry(silent, { at: 1, type: 'port-came' }).outcome).toBe('in')
    const own = beginEntry(button, 0, { usb: { vendorId: 1, productId: 2 } })
    const came = (usb?: { vendorId: number; productId: number }) =>
      judgeEntry(own, { at: 1, type: 'port-came', ...(usb ? { usb } : {}) }).outcome
    expect(came({ vendorId: 1, productId: 2 })).toBe('in')
    expect(came({ vendorId: 1, productId: 3 })).toBe('going')
    expect(came({ vendorId: 2, productId: 2 })).toBe('going')
    expect(came()).toBe('going')
  })
  it('is told by its signs, each with what to do', () => {
    const sign = (id: string) => play(button, ...right, { at: 600, type: 'sign', id })
    expect(sign('dark')).toMatchObject({ outcome: 'in', endedAt: 600, sign: { id: 'dark' } })
    expect(sign('blinks')).toMatchObject({
      outcome: 'failed',
      failure: { step: 3, why: 'It started as usual.', do: 'Unplug it.' },
      sign: { id: 'blinks' },
    })
    expect(sign('odd').failure!.do).toBe('Begin again, from power off.')
    expect(sign('nothing known').outcome).toBe('going')
  })
  it('that is over stays as it is, whatever comes', () => {
    const over = play(button, did(0, 'press', 'x'))
    for (const event of [
      { at: 1, type: 'answered' },
      { at: 1, type: 'sign', id: 'dark' },
      { at: 1, type: 'heard', text: 'BOOT' },
      { at: 1, type: 'port-came' },
    ] as EntryEvent[])
      expect(judgeEntry(over, event)).toBe(over)
  })
  it('shows on a stand-in the sign of success when all was done, and another when it failed', () => {
    expect(signShown(play(button, ...right))).toBeNull()
    expect(signShown(play(button, ...right, did(2000, 'release', 'button')))!.id).toBe('dark')
    expect(signShown(play(button, ...right, did(600, 'release', 'button')))!.id).toBe('blinks')
  })
  it('says by how much it was missed', () => {
    const off = (offMs?: number) =>
      offText({ step: 0, why: '', do: '', ...(offMs === undefined ? {} : { offMs }) })
    expect(off()).toBeNull()
    expect(off(-200)).toBe('200 ms too early')
    expect(off(999)).toBe('999 ms too late')
    expect(off(1000)).toBe('1.0 s too late')
    expect(off(-1449)).toBe('1.4 s too early')
    expect(off(0)).toBe('0 ms too late')
  })
})

const link = (form: Record<string, unknown>): FamilyLink =>
  ({ id: 'l', name: 'Link', ...form }) as unknown as FamilyLink
const way = (form: Record<string, unknown> = {}): EntryWay =>
  ({ id: 'w', name: 'Way', kind: 'by-hand', ...form }) as unknown as EntryWay
const bare = { snapshot: [], isolation: { why: '', neighbours: [] } } as unknown as Family
const known = (form: Partial<KnownOfBench> = {}): KnownOfBench => ({
  family: bare,
  link: link({ kind: 'rs485', wiring: { pins: [{ role: 'data-a' }] } }),
  way: way(),
  ...form,
})
/** How much likelier a cause is held with something known than without: odds against a cause that nothing moves. */
const moved = (id: string, form: Partial<KnownOfBench>, base: Partial<KnownOfBench> = {}) => {
  const odds = (more: Partial<KnownOfBench>) => {
    const { beliefs } = priorsOf(known({ ...base, ...more }))
    return beliefs[id]! / beliefs['no-power']!
  }
  return odds(form) / odds({})
}

describe('what is known of a bench', () => {
  it('moves each cause by its own factor, with the reason beside it', () => {
    expect(moved('swapped-pair', { wiringRight: true })).toBeCloseTo(0.3, 9)
    expect(moved('wrong-cable', { wiringRight: true })).toBeCloseTo(0.4, 9)
    expect(moved('wrong-cable', { adapterGood: true })).toBeCloseTo(0.6, 9)
    expect(moved('second-unit', { unitsOnBus: 1 })).toBeCloseTo(0.1, 9)
    expect(moved('second-unit', { unitsOnBus: 2 })).toBeCloseTo(10, 9)
    expect(moved('second-unit', { unitsOnBus: 0 })).toBeCloseTo(1, 9)
    expect(moved('missed-window', { lastTry: 'missed' })).toBeCloseTo(4, 9)
    expect(moved('missed-window', { lastTry: 'in-time' })).toBeCloseTo(0.4, 9)
    expect(moved('bad-contact', { foundBefore: ['bad-contact', 'bad-contact'] })).toBeCloseTo(2.25, 9)
    expect(priorsOf(known({ adapterGood: true, unitsOnBus: 3 })).why).toMatchObject({
      'wrong-cable': ['the adapter is known good'],
      'second-unit': ['a scan counted 3 units'],
    })
  })
  it('rules out what cannot be', () => {
    const has = (id: string, form: Partial<KnownOfBench>) => priorsOf(known(form)).beliefs[id]! > 0
    expect(has('swapped-pair', {})).toBe(true)
    for (const role of ['transmit', 'can-high', 'data-a'])
      expect(has('swapped-pair', { link: link({ kind: 'can', wiring: { pins: [{ role }] } }) }), role).toBe(
        true,
      )
    expect(has('swapped-pair', { link: link({ kind: 'can', wiring: { pins: [{ role: 'line' }] } }) })).toBe(
      false,
    )
    expect(has('swapped-pair', { link: link({ kind: 'can' }) })).toBe(false)
    expect(has('wrong-definition', {})).toBe(false)
    expect(
      has('wrong-definition', { family: { ...bare, snapshot: [{ field: 'layout' }] } as unknown as Family }),
    ).toBe(true)
    for (const kind of ['usb', 'debug', 'chip', 'media'])
      expect(has('second-unit', { link: link({ kind }) }), kind).toBe(false)
    const { isolation: _isolation, ...silent } = bare
    for (const kind of ['rs485', 'can', 'kline', 'serial'])
      expect(has('second-unit', { family: silent as Family, link: link({ kind }) }), kind).toBe(true)
    // A line on which the profile names nothing else: less likely, and not ruled out.
    const serial = { link: link({ kind: 'serial' }) }
    expect(moved('second-unit', { family: silent as Family }, serial)).toBeCloseTo(0.3, 9)
    expect(moved('second-unit', { family: silent as Family })).toBeCloseTo(1, 9)
  })
  it('makes a wrong speed unlikely where the link finds it itself, and a missed window where there is none', () => {
    const share = (id: string, kind: string) => {
      const { beliefs } = priorsOf(known({ link: link({ kind, wiring: { pins: [{ role: 'data-a' }] } }) }))
      return beliefs[id]! / beliefs['no-power']!
    }
    for (const kind of ['usb', 'chip', 'debug'])
      expect(share('wrong-speed', kind) / share('wrong-speed', 'can'), kind).toBeCloseTo(0.2, 9)
    expect(share('wrong-speed', 'serial') / share('wrong-speed', 'can')).toBeCloseTo(1, 9)
    const timed = { acts: [{}, { within: { minMs: 0, maxMs: 9 } }] }
    expect(moved('missed-window', { way: way({ script: { acts: [{}] } }) })).toBeCloseTo(0.3, 9)
    expect(moved('missed-window', { way: way({ script: timed }) })).toBeCloseTo(1, 9)
    expect(moved('missed-window', { way: way({ kind: 'command' }) })).toBeCloseTo(0.3, 9)
    expect(moved('missed-window', { way: way({ kind: 'command', script: timed }) })).toBeCloseTo(1, 9)
  })
  it('shares that add up to one, whatever is known', () => {
    for (const family of demoFamilyList)
      for (const entry of family.entry) {
        const { beliefs } = priorsOf({ family, link: family.links[0]!, way: entry })
        expect(Object.values(beliefs).reduce((sum, share) => sum + share, 0)).toBeCloseTo(1, 9)
      }
  })
})

describe('the ladder', () => {
  const relay = demoFamily('mains-relay')
  const at: KnownOfBench = { family: relay, link: relay.links[0]!, way: relay.entry[0]! }
  it('asks nothing twice, and nothing about a cause that cannot be', () => {
    const answers: Record<string, string> = {}
    const asked: string[] = []
    for (let next = diagnose(at, answers).next; next; next = diagnose(at, answers).next) {
      expect(asked).not.toContain(next.id)
      asked.push(next.id)
      answers[next.id] = next.answers[0]!.id
    }
    expect(asked).not.toContain('layout')
    expect(asked.length).toBeGreaterThan(2)
  })
  it('stops when one cause stands out, and not before', () => {
    const { ranked, found, next } = diagnose(at, {})
    expect(found).toBe(false)
    expect(next).not.toBeNull()
    expect(ranked[0]!.share).toBeLessThan(enough)
    for (let index = 1; index < ranked.length; index++)
      expect(ranked[index]!.share).toBeLessThanOrEqual(ranked[index - 1]!.share)
    const sure = diagnose(at, { pair: 'same', contact: 'firm', sign: 'in' })
    expect(sure.ranked[0]!.share).toBeGreaterThanOrEqual(enough)
    expect(sure).toMatchObject({ found: true, next: null })
  })
  it('passes by an answer that the check does not know', () => {
    expect(diagnose(at, { pair: 'sideways' }).ranked).toEqual(diagnose(at, {}).ranked)
  })
  it('gives for and against, where an answer moves a cause by half or a third', () => {
    const because = (id: string) =>
      diagnose(at, { contact: 'gives' })
        .ranked.find((each) => each.id === id)
        ?.because.join() ?? ''
    expect(because('bad-contact')).toContain('“one gave” speaks for it')
    expect(because('swapped-pair')).toContain('“one gave” speaks against it')
    const firm = diagnose(at, { contact: 'firm' }).ranked
    expect(firm.find(({ id }) => id === 'bad-contact')!.because.join()).toContain(
      '“all are firm” speaks against it',
    )
    expect(firm.find(({ id }) => id === 'swapped-pair')!.because.join()).not.toContain('firm')
  })
  it('tells each cause with what to do, and leaves out what is next to impossible', () => {
    for (const { id, says, do: act, share } of diagnose(at, {}).ranked) {
      expect(says).toBe(causes[id].says)
      expect(act).toBe(causes[id].do)
      expect(share).toBeGreaterThan(0.001)
    }
  })
  it('asks what harms nothing before what switches the unit, unless it tells next to nothing', () => {
    const all = Object.fromEntries(causeIds.map((id) => [id, 1 / causeIds.length]))
    expect(nextCheck(all, {})!.risk).toBe(0)
    // Only power or a window is left: the harmless ones about other causes tell nothing.
    const power = { 'no-power': 0.5, 'missed-window': 0.5 }
    const harmless = Object.fromEntries(
      checks.filter(({ risk }) => risk === 0).map(({ id, answers }) => [id, answers[0]!.id]),
    )
    expect(nextCheck(power, harmless)!.risk).toBe(1)
    const everything = Object.fromEntries(checks.map(({ id, answers }) => [id, answers[0]!.id]))
    expect(nextCheck(power, everything)).toBeNull()
    // One cause alone: nothing tells any more.
    expect(nextCheck({ 'no-power': 1 }, {})).toBeNull()
  })
  // Common practice: whatever is answered, the shares of the answers of one test add up to one under each cause.
  it('rests on tests whose answers add up to one under each cause', () => {
    for (const { id, answers, seconds } of checks) {
      expect(seconds, id).toBeGreaterThan(0)
      for (const cause of ['usual', ...causeIds] as const) {
        const total = answers.reduce((sum, { likelihood }) => {
          const own: Partial<Record<string, number>> = likelihood
          return sum + (own[cause] ?? likelihood.usual)
        }, 0)
        expect(total, `${id}, ${cause}`).toBeCloseTo(1, 9)
      }
    }
    expect(causeIds.reduce((sum, id) => sum + causes[id].usual, 0)).toBeCloseTo(1, 9)
  })
  // PRACTICE C1, C3, C5, C8, E2, F1, F3, F4, common practice: what each test finds speaks for its own cause above all.
  it.each([
    ['port-listed', 'no', 'no-driver'],
    ['port-free', 'held', 'port-held'],
    ['starts', 'no', 'no-power'],
    ['sign', 'normal', 'missed-window'],
    ['sign', 'nothing', 'no-power'],
    ['pair', 'same', 'swapped-pair'],
    ['contact', 'gives', 'bad-contact'],
    ['label', 'other', 'wrong-cable'],
    ['speed', 'other', 'wrong-speed'],
    ['count', 'more', 'second-unit'],
    ['layout', 'differs', 'wrong-definition'],
    ['slow-try', 'in', 'missed-window'],
    ['arrives', 'noise', 'wrong-speed'],
  ] as const)('%s: %s speaks for %s', (id, answer, cause) => {
    const { likelihood } = checks
      .find((check) => check.id === id)!
      .answers.find((each) => each.id === answer)!
    const of = (each: string) => (likelihood as Partial<Record<string, number>>)[each] ?? likelihood.usual
    for (const other of causeIds) if (other !== cause) expect(of(cause), other).toBeGreaterThan(of(other))
  })
})

describe('practice', () => {
  it('is worth its safety first', () => {
    const score = (form: Partial<Parameters<typeof scoreOf>[0]>) =>
      scoreOf({ unsafe: 0, wrong: 0, tookMs: 60_000, usualMs: 60_000, ...form })
    expect(score({})).toBe(100)
    expect(score({ tookMs: 0 })).toBe(100)
    expect(score({ tookMs: 90_000 })).toBe(95)
    expect(score({ tookMs: 120_000 })).toBe(90)
    expect(score({ tookMs: 600_000 })).toBe(90)
    expect(score({ wrong: 1 })).toBe(90)
    expect(score({ wrong: 3 })).toBe(70)
    expect(score({ wrong: 9 })).toBe(70)
    expect(score({ unsafe: 1 })).toBe(40)
    expect(score({ unsafe: 2 })).toBe(40)
    // Nobody passes with one unsafe move, however quick and right.
    expect(score({ unsafe: 1, tookMs: 0 })).toBeLessThan(passMark)
    expect(score({ wrong: 1, tookMs: 200_000 })).toBeGreaterThanOrEqual(passMark)
    expect(score({ wrong: 2, tookMs: 200_000 })).toBeLessThan(passMark)
  })
  const exercise = (id: string) => ({ id, name: id, kind: 'fault' as const, familyId: 'a' })
  const practice = (exerciseId: string, at: number, score: number): Practice => ({
    exerciseId,
    by: 'T. Reader',
    at,
    help: 'full',
    unsafe: 0,
    wrong: 0,
    tookMs: 1,
    score,
  })
  it('is due again after days that grow with the passes in a row, and with less help', () => {
    const day = 86_400_000
    const standing = (scores: number[]) =>
      standingsOf(
        [exercise('a')],
        scores.map((score, index) => practice('a', index * 10, score)),
        777,
      )[0]!
    expect(standing([])).toMatchObject({ practices: 0, best: null, streak: 0, dueAt: 777, help: 'full' })
    expect(standing([79])).toMatchObject({ practices: 1, best: 79, streak: 0, dueAt: 0, help: 'full' })
    expect(standing([80])).toMatchObject({ streak: 1, dueAt: day, help: 'window' })
    expect(standing([80, 90])).toMatchObject({ best: 90, streak: 2, dueAt: 10 + 3 * day, help: 'none' })
    expect(standing([80, 90, 79])).toMatchObject({ best: 90, streak: 0, dueAt: 20, help: 'full' })
    expect(standing(Array.from({ length: 9 }, () => 99))).toMatchObject({
      streak: 9,
      dueAt: 80 + 60 * day,
      help: 'none',
    })
    expect(spacingDays[0]).toBe(0)
    for (let at = 1; at < spacingDays.length; at++)
      expect(spacingDays[at]!).toBeGreaterThan(spacingDays[at - 1]!)
  })
  it('counts in the order of time, and what is due first stands on top', () => {
    const list = [practice('b', 50, 90), practice('a', 20, 10), practice('a', 10, 90)]
    const all = standingsOf([exercise('b'), exercise('a'), exercise('c')], list, 30)
    expect(all.map(({ exercise: { id }, streak }) => [id, streak])).toEqual([
      ['a', 0],
      ['c', 0],
      ['b', 1],
    ])
  })
  it('has an exercise for each way with a script, and for each fault', () => {
    const family = {
      id: 'lamp',
      name: 'Lamp',
      entry: [way({ script: button }), way({ id: 'x' })],
      links: [],
      power: {},
      components: [],
    } as unknown as Family
    const list = exercisesOf([family])
    expect(list.filter(({ kind }) => kind === 'entry')).toEqual([
      { id: 'entry-lamp-w', name: 'Lamp: Way', kind: 'entry', familyId: 'lamp', wayId: 'w' },
    ])
    // No link of it is driven: there is nothing to play a fault on.
    expect(list.filter(({ kind }) => kind === 'fault')).toEqual([])
    const fog = demoFamily('fog-signal')
    expect(exercisesOf([fog]).filter(({ kind }) => kind === 'fault')).toEqual(
      faultDrillsOf(fog).map(({ id, kind, name }) => ({
        id: `fault-${id}`,
        name: `${fog.name}: ${name}`,
        kind: 'fault',
        familyId: 'fog-signal',
        fault: kind,
      })),
    )
  })
  it('counts a practice from before fault drills told their family, whatever family it is', () => {
    const drills = exercisesOf([demoFamily('fog-signal')]).filter(({ fault }) => fault)
    const standings = standingsOf(drills, [practice('fault-sag', 10, 90)], 20)
    expect(
      standings.filter(({ practices }) => practices > 0).map(({ exercise: { fault } }) => fault),
    ).toEqual(['sag'])
  })
  // PRACTICE H7, F1 to F4, D1, D6: the right order is made of moves that harm nothing; every other move says why not.
  it.each(demoFamilyList.flatMap(faultDrillsOf).map((drill) => [drill.id, drill] as const))(
    '%s: its order is safe, and its traps are marked',
    (_, drill) => {
      const moves = new Map(drill.moves.map((each) => [each.id, each]))
      expect(moves.size).toBe(drill.moves.length)
      expect(drill.order.length).toBeGreaterThan(1)
      expect(new Set(drill.order).size).toBe(drill.order.length)
      for (const id of drill.order) expect(moves.get(id), id).toBeDefined()
      for (const { id, harm, says, then } of drill.moves) {
        expect(says.length, id).toBeGreaterThan(3)
        expect(then.length, id).toBeGreaterThan(3)
        expect(harm === undefined, id).toBe(drill.order.includes(id))
        if (harm) expect(['unsafe', 'wrong']).toContain(harm)
      }
      expect(drill.moves.some(({ harm }) => harm)).toBe(true)
    },
  )
})
