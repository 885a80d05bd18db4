import { demoFamilies, demoFamily, demoFamilyList } from '@bench-wake/demo'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  beginEntry,
  expectsOf,
  judgeEntry,
  offText,
  signDueAt,
  signShown,
  windowOf,
  type EntryEvent,
  type EntryExpects,
  type EntryState,
} from '.'
import { actsInOrder, checkFamily, checkScript, type EntryScript } from '../family'

const scripts = demoFamilies.flatMap(({ id }) =>
  demoFamily(id).entry.flatMap((way) =>
    way.script ? [{ name: `${id}, ${way.id}`, script: way.script, family: id }] : [],
  ),
)
const scriptOf = (familyId: string, wayId: string) =>
  demoFamily(familyId).entry.find(({ id }) => id === wayId)!.script!
const run = (script: EntryScript, events: EntryEvent[], at = 0): EntryState =>
  events.reduce(judgeEntry, beginEntry(script, at))

/** Does every act of a script in the middle of its window. */
function done(script: EntryScript, from = 0): EntryEvent[] {
  let at = from
  return actsInOrder(script.acts).map(({ act, what, within }, index) => {
    at += index === 0 || !within ? 600 : (within.minMs + Math.min(within.maxMs, within.minMs + 2000)) / 2
    return { at, type: 'did', act, what }
  })
}

const tide = scriptOf('tide-logger', 'button-plug')
const did = (
  at: number,
  act: 'hold' | 'release' | 'plug' | 'unplug' | 'apply' | 'confirm',
  what: string,
): EntryEvent => ({
  at,
  type: 'did',
  act,
  what,
})

// PRACTICE E, common practice: the kinds of entry, each in a demo family.
describe('the demo families’ ways in', () => {
  it.each(scripts.map(({ name, script, family }) => [name, script, family] as const))(
    '%s is a sound script',
    (_, script, family) => {
      expect(checkScript(script, demoFamily(family).panel)).toEqual([])
    },
  )
  it('hold every kind the trade has', () => {
    expect(new Set(scripts.map(({ script }) => script.kind))).toEqual(
      new Set([
        'keys-at-power', // E1
        'button-then-plug', // E2
        'trims', // E3
        'loader-first', // E4
        'loader-then-off', // E5
        'command', // E6
        'join-and-confirm', // E7, E8: key on, motor off
        'service-page', // E9
        'by-wire', // E10
        'out-of-socket', // E10, on the chip itself
      ]),
    )
    // E11: it often takes several tries.
    for (const { id } of demoFamilies) {
      for (const way of demoFamily(id).entry)
        if (way.script?.kind !== 'out-of-socket') expect(way.tries).toBeGreaterThan(1)
    }
  })
  it.each(scripts.map(({ name, script }) => [name, script] as const))(
    '%s, done in time, is in by its sign',
    (_, script) => {
      const state = run(script, done(script))
      expect(state.failure).toBeUndefined()
      expect(state.step).toBe(state.acts.length)
      const shown = signShown(state)!
      expect(shown.tells).toBe('in')
      expect(judgeEntry(state, { at: state.lastAt + 500, type: 'sign', id: shown.id }).outcome).toBe('in')
    },
  )
  it.each(scripts.map(({ name, script }) => [name, script] as const))(
    '%s, with the sign that tells otherwise, says what to do',
    (_, script) => {
      for (const sign of script.signs.filter(({ tells }) => tells === 'not-in')) {
        const state = judgeEntry(run(script, done(script)), { at: 1e6, type: 'sign', id: sign.id })
        expect(state.outcome).toBe('failed')
        expect(state.failure!.why).toBe(sign.means)
        expect(state.failure!.do).toBe(sign.do)
      }
    },
  )
})

describe('the judge', () => {
  // PRACTICE E2, common practice: hold, then plug, wait a second, release. Dark is success, blinking the normal start.
  it('says how many milliseconds too early the button was let go', () => {
    const state = run(tide, [
      did(0, 'unplug', 'usb'),
      did(500, 'hold', 'button'),
      did(1500, 'plug', 'usb'),
      did(2100, 'release', 'button'),
    ])
    expect(state.outcome).toBe('failed')
    expect(state.failure).toMatchObject({ step: 3, offMs: -200 })
    expect(offText(state.failure!)).toBe('200 ms too early')
    expect(state.failure!.why).toMatch(/too early, or pressed too light/)
    expect(signShown(state)!.id).toBe('blinking')
  })
  it('is exact to the millisecond at both ends of a window', () => {
    const at = (ms: number) =>
      run(tide, [
        did(0, 'unplug', 'usb'),
        did(1, 'hold', 'button'),
        did(2, 'plug', 'usb'),
        did(2 + ms, 'release', 'button'),
      ])
    expect(at(799).failure!.offMs).toBe(-1)
    expect(at(800).failure).toBeUndefined()
    expect(at(6000).failure).toBeUndefined()
    expect(at(6001).failure!.offMs).toBe(1)
    expect(
      windowOf(run(tide, [did(0, 'unplug', 'usb'), did(1, 'hold', 'button'), did(2, 'plug', 'usb')])),
    ).toEqual({
      opensAt: 802,
      closesAt: 6002,
    })
  })
  // PRACTICE E7, common practice: confirm within a second or two; silence is success.
  it('misses the vehicle’s window by the clock alone, without anybody doing anything', () => {
    const script = scriptOf('launch-motor', 'key-and-confirm')
    const state = run(script, [
      { at: 0, type: 'did', act: 'remove', what: 'key' },
      { at: 400, type: 'did', act: 'plug', what: 'service' },
      { at: 900, type: 'did', act: 'apply', what: 'key' },
      { at: 2900, type: 'tick' },
    ])
    expect(state.outcome).toBe('going')
    const missed = judgeEntry(state, { at: 4300, type: 'tick' })
    expect(missed.failure).toMatchObject({ step: 3, offMs: 1400 })
    expect(offText(missed.failure!)).toBe('1.4 s too late')
    expect(judgeEntry(run(script, done(script)), { at: 1e5, type: 'sign', id: 'silence' }).outcome).toBe('in')
  })
  it('says that a key was let go before power came', () => {
    const script = scriptOf('fog-signal', 'two-keys')
    const state = run(script, [
      { at: 0, type: 'did', act: 'remove', what: 'supply' },
      { at: 400, type: 'did', act: 'hold', what: 'key-up' },
      { at: 800, type: 'did', act: 'hold', what: 'key-set' },
      { at: 1000, type: 'did', act: 'release', what: 'key-up' },
    ])
    expect(state.failure!.why).toMatch(/let go before the update page/)
  })
  it('takes the bootloader’s own answer for success, whatever was still to be done', () => {
    expect(run(tide, [did(0, 'unplug', 'usb'), { at: 300, type: 'answered' }]).outcome).toBe('in')
  })
  it('waits for a sign only so long', () => {
    const state = run(tide, done(tide))
    const due = signDueAt(state)!
    expect(judgeEntry(state, { at: due, type: 'tick' }).outcome).toBe('going')
    expect(judgeEntry(state, { at: due + 1, type: 'tick' }).failure!.why).toMatch(/showed nothing/)
  })
  it('never throws and never leaves an end, whatever happens', () => {
    const event = fc.oneof(
      fc.record({ type: fc.constant('did' as const), pick: fc.nat(12) }),
      fc.record({ type: fc.constant('sign' as const), pick: fc.nat(4) }),
      fc.record({ type: fc.constant('tick' as const), pick: fc.nat(1) }),
    )
    fc.assert(
      fc.property(
        fc.constantFrom(...scripts),
        fc.array(fc.tuple(fc.nat(3000), event), { maxLength: 14 }),
        ({ script }, list) => {
          let at = 0
          let state = beginEntry(script, 0)
          for (const [gap, { type, pick }] of list) {
            at += gap
            const before = state
            const act = script.acts[pick % script.acts.length]!
            state = judgeEntry(
              state,
              type === 'did'
                ? { at, type, act: act.act, what: act.what }
                : type === 'sign'
                  ? { at, type, id: script.signs[pick % script.signs.length]!.id }
                  : { at, type },
            )
            if (before.outcome !== 'going') expect(state).toBe(before)
            expect(state.step).toBeGreaterThanOrEqual(before.step)
            if (state.outcome === 'failed') expect(state.failure!.do.length).toBeGreaterThan(0)
          }
        },
      ),
      { numRuns: 1000 },
    )
  })
})

// PRACTICE E1, E8, common practice: key and switch belong to the way in, and each of its acts follows from the one before.
describe('what a way in does to the unit’s switch', () => {
  const onOff = { begins: 'on', ends: 'on' } as const
  const faults = (
    change: (script: EntryScript) => void,
    power: { begins: 'on' | 'off'; ends: 'on' | 'off' } = onOff,
  ) => {
    const script = structuredClone(tide)
    change(script)
    return checkScript(script, undefined, power).map(({ at, says }) => `${at}: ${says}`)
  }
  it('fits together in every demo script', () => {
    for (const { entry } of demoFamilyList)
      for (const { script, power } of entry)
        if (script) expect(checkScript(script, undefined, power)).toEqual([])
  })
  it('refuses to switch on what is on, and off what is off', () => {
    expect(faults((s) => void s.acts.splice(0, 1))).toEqual([
      'acts.1: The unit is on already when this act switches it on',
    ])
    expect(faults(() => {}, { begins: 'off', ends: 'on' })).toEqual([
      'acts.0: The unit is off already when this act switches it off',
    ])
    // `apply` and `remove` switch whatever else is said.
    expect(
      faults((s) => {
        s.acts[2] = { id: 'plug', act: 'apply', what: 'supply', by: 'right', says: 'Supply on.' }
        s.acts.splice(0, 1)
      }),
    ).toEqual(['acts.1: The unit is on already when this act switches it on'])
  })
  it('refuses acts that leave the unit otherwise than the entry says', () => {
    expect(faults(() => {}, { begins: 'on', ends: 'off' })).toEqual([
      'acts.3: The acts leave the unit on; the entry says off',
    ])
    expect(faults((s) => void delete s.acts[2]!.leaves)).toEqual([
      'acts.3: The acts leave the unit off; the entry says on',
    ])
  })
  it('says nothing where the profile says nothing', () => {
    const script = structuredClone(tide)
    delete script.acts[2]!.leaves
    expect(checkScript(script)).toEqual([])
  })
})

describe('a script that cannot be carried out is refused at its act', () => {
  const base = (): EntryScript => structuredClone(tide)
  const faults = (change: (script: EntryScript) => void) => {
    const script = base()
    change(script)
    return checkScript(script).map(({ at, says }) => `${at}: ${says}`)
  }
  it.each([
    ['a loop', (s: EntryScript) => void (s.acts[3]!.then = 'hold'), /acts\.3: It leads back to "hold"/],
    [
      'an act that nothing leads to',
      (s: EntryScript) => void (s.acts[0]!.then = 'plug'),
      /acts\.1: Nothing leads to this act/,
    ],
    [
      'a window of zero',
      (s: EntryScript) => void (s.acts[3]!.within = { minMs: 800, maxMs: 800 }),
      /acts\.3: The window has no width/,
    ],
    [
      'a window that no hand meets',
      (s: EntryScript) => void (s.acts[3]!.within = { minMs: 800, maxMs: 900 }),
      /100 ms wide; a person needs 400 ms/,
    ],
    [
      'a window that closes before anybody can react',
      (s: EntryScript) => void (s.acts[3]!.within = { minMs: 0, maxMs: 450 }),
      /closes after 450 ms/,
    ],
    [
      'one hand with two things',
      (s: EntryScript) => void (s.acts[2]!.by = 'left'),
      /acts\.2: The left holds "button"/,
    ],
    [
      'a release of what is not held',
      (s: EntryScript) => void (s.acts[1]!.act = 'press'),
      /acts\.3: "button" is not held/,
    ],
    [
      'a thing held twice',
      (s: EntryScript) =>
        void s.acts.splice(2, 0, { id: 'again', act: 'hold', what: 'button', by: 'right', says: 'x' }),
      /acts\.2: "button" is held already/,
    ],
    [
      'no sign of success',
      (s: EntryScript) => void s.signs.splice(0, 1),
      /signs: No sign tells that the unit is in/,
    ],
    [
      'no sign of failure',
      (s: EntryScript) => void s.signs.splice(1, 1),
      /No sign tells that the unit is not in/,
    ],
    [
      'two signs that look alike',
      (s: EntryScript) => void (s.signs[1]!.shown = 'dark'),
      /nobody can tell them apart/,
    ],
    [
      'a failure without a way out',
      (s: EntryScript) => void delete s.signs[1]!.do,
      /does not say what to do/,
    ],
  ] as [string, (script: EntryScript) => void, RegExp][])('%s', (_, change, words) =>
    expect(faults(change).join('\n')).toMatch(words),
  )
  it('also in the profile’s own check, with the field', () => {
    const document = structuredClone(demoFamilies.find(({ id }) => id === 'tide-logger')!)
    document.entry[0]!.script!.acts[3]!.within = { minMs: 800, maxMs: 800 }
    expect(checkFamily(document).faults).toEqual([
      { at: 'entry.0.script.acts.3', says: 'The window has no width: it closes before it opens' },
    ])
  })
})

// What the link tells: bytes, silence, a port that was not there (PRACTICE E4, F1, F2; USB DFU 1.1, 4.2: another device at the same plug).
describe('the link as a witness', () => {
  const relay = demoFamily('mains-relay')
  const script = relay.entry.find((way) => way.script)!.script!
  const serial = expectsOf(relay.links.find(({ kind }) => kind === 'serial')!)
  const allDone = (expects: EntryExpects) => done(script).reduce(judgeEntry, beginEntry(script, 0, expects))
  it('knows the bootloader by what it says', () => {
    expect(serial).toEqual({ says: 'loader ready' })
    const state = judgeEntry(allDone(serial), { at: 9000, type: 'heard', text: '\r\nloader ready\r\n' })
    expect(state.outcome).toBe('in')
  })
  it('tells other words from silence when nothing else came', () => {
    const silent = allDone(serial)
    const late = signDueAt(silent)! + 1
    expect(judgeEntry(silent, { at: late, type: 'tick' }).failure!.why).toMatch(/the line stayed silent/)
    const noisy = judgeEntry(silent, { at: late - 500, type: 'heard', text: 'quay relay 2.0' })
    expect(noisy.outcome).toBe('going')
    expect(judgeEntry(noisy, { at: late, type: 'tick' }).failure!.why).toMatch(/“quay relay 2\.0”/)
  })
  it('knows the bootloader’s own device, and takes no other for it', () => {
    const logger = demoFamily('tide-logger')
    const expects = expectsOf(logger.links.find(({ kind }) => kind === 'usb')!)
    const begun = beginEntry(tide, 0, expects)
    const { vendorId, productId } = expects.usb!
    const other = judgeEntry(begun, { at: 5, type: 'port-came', usb: { vendorId, productId: productId + 1 } })
    expect(other.outcome).toBe('going')
    expect(judgeEntry(begun, { at: 5, type: 'port-came' }).outcome).toBe('going')
    expect(judgeEntry(begun, { at: 5, type: 'port-came', usb: { vendorId, productId } }).outcome).toBe('in')
  })
})
