import { demoFamilies, demoFamily } from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import {
  joinKits,
  judgeIsolation,
  judgeKit,
  judgePort,
  judgePowerOrder,
  kitOf,
  leversText,
  mayTick,
  scanHoldsMs,
  takeDownOf,
  type IsolationSay,
} from '.'
import { checkFamily } from '../family'

const now = Date.UTC(2026, 10, 25, 8)
const pack = demoFamily('buoy-battery')

// PRACTICE F4, common practice: one unit on the bus; address switch set to 1: first switch on, the rest off.
describe('isolation', () => {
  const alone: IsolationSay = {
    unplugged: ['other-packs', 'buoy-controller'],
    levers: [true, false, false, false],
    scanned: { at: now, found: [1], silent: 7 },
  }
  const judge = (say: IsolationSay | undefined, family = pack) => judgeIsolation(family, say, now)
  const level = (say: IsolationSay, rule: string) =>
    judge(say).findings.find((each) => each.rule === rule)?.level
  it('is go with one unit counted, its neighbours off and the switch on 1', () => {
    expect(judge(alone).verdict).toBe('go')
    expect(judge(alone).numbers).toEqual({ unitsOnBus: 1 })
  })
  it('stops on two units, a neighbour left, or a lever that stands wrong', () => {
    expect(level({ ...alone, scanned: { at: now, found: [1, 3], silent: 6 } }, 'alone-on-bus')).toBe('stop')
    const twice = judge({ ...alone, scanned: { at: now, found: [3, 1, 1], silent: 6 } })
    expect(twice.findings.at(-1)!.because).toMatch(/^8 addresses asked; answered: 1, 1, 3\./)
    expect(level({ ...alone, unplugged: ['other-packs'] }, 'neighbours-off')).toBe('stop')
    expect(level({ ...alone, levers: [true, true, false, false] }, 'address-switch')).toBe('stop')
    expect(
      judge({ ...alone, levers: [false, true, false, false] }).findings.find(
        ({ rule }) => rule === 'address-switch',
      )!.says,
    ).toContain('Lever 1, 2')
  })
  it('holds while nobody counted or looked, when nothing answers, and when the count is old', () => {
    expect(judge(undefined).verdict).toBe('stop')
    const { scanned: _scanned, ...unscanned } = alone
    expect(level(unscanned, 'alone-on-bus')).toBe('hold')
    expect(level({ ...alone, scanned: { at: now, found: [], silent: 8 } }, 'alone-on-bus')).toBe('hold')
    expect(
      level({ ...alone, scanned: { at: now - scanHoldsMs - 1, found: [1], silent: 7 } }, 'alone-on-bus'),
    ).toBe('hold')
    const { levers: _levers, ...unlooked } = alone
    expect(level(unlooked, 'address-switch')).toBe('hold')
  })
  it('takes a look for a count only with a note, where a count could be had', () => {
    const { scanned: _scanned, ...unscanned } = alone
    expect(level({ ...unscanned, alone: true }, 'alone-on-bus')).toBe('note')
    expect(
      judgeIsolation(demoFamily('boat-davit'), { unplugged: ['remote-panel'], alone: true }, now).verdict,
    ).toBe('go')
  })
  it('has nothing to ask where a link joins one host and one device', () => {
    expect(judge(undefined, demoFamily('tide-logger')).verdict).toBe('go')
  })
  // Not described is not known: a profile without a word on isolation is never Go on a line or a bus.
  it.each([
    ['launch-motor', undefined, 'hold'],
    ['launch-motor', { alone: true }, 'note'],
    ['launch-motor', { alone: false }, 'hold'],
    ['buoy-battery', undefined, 'hold'],
    ['fog-signal', undefined, 'note'],
    ['fog-signal', { alone: true }, 'note'],
  ] as const)('that a profile of %s does not describe, said %o: %s', (familyId, said, verdict) => {
    const { isolation: _isolation, ...silent } = demoFamily(familyId)
    expect(judge(said, silent).verdict).toBe(verdict)
  })
  it('goes by the link of the job, not by the first one of the profile', () => {
    const { isolation: _isolation, ...silent } = demoFamily('tide-logger')
    const bus = { ...silent.links[0]!, kind: 'can' } as (typeof silent.links)[number]
    expect(judgeIsolation(silent, undefined, now, bus).verdict).toBe('hold')
  })
  it('takes no count that bears a time to come: the clock stood ahead when it was made', () => {
    const ahead = { ...alone, scanned: { at: now + 3_600_000, found: [1], silent: 7 } }
    expect(level(ahead, 'alone-on-bus')).toBe('hold')
    const within = { ...alone, scanned: { at: now + 59_000, found: [1], silent: 7 } }
    expect(level(within, 'alone-on-bus')).toBe('go')
  })
  it('a count holds to the minute, and a clock may differ by one', () => {
    const at = (moment: number) =>
      level({ ...alone, scanned: { at: moment, found: [1], silent: 7 } }, 'alone-on-bus')
    // Half an hour, common practice: somebody may have plugged a pack back in.
    expect(at(now - 30 * 60_000)).toBe('go')
    expect(at(now - 30 * 60_000 - 1)).toBe('hold')
    expect(at(now + 60_000)).toBe('go')
    expect(at(now + 60_001)).toBe('hold')
  })
  it('names each rule once, every neighbour that is left and how each comes off', () => {
    expect(judge(undefined).numbers).toEqual({})
    expect(judge(alone)).toMatchObject({ id: 'isolation', name: 'Isolation' })
    expect(judge(alone).findings.map(({ rule, level: own }) => [rule, own])).toEqual([
      ['neighbours-off', 'go'],
      ['address-switch', 'go'],
      ['alone-on-bus', 'go'],
    ])
    const left = judge({ ...alone, unplugged: [] }).findings[0]!
    expect(left.numbers).toEqual({ neighboursLeft: 2 })
    for (const { name, unplug } of pack.isolation!.neighbours) {
      expect(left.says.toLowerCase()).toContain(name.toLowerCase())
      expect(left.remedy).toContain(unplug)
      expect(judge(alone).findings[0]!.because).toContain(name)
    }
    const { neighbours: _neighbours, ...rest } = pack.isolation!
    const lone = { ...pack, isolation: { ...rest, neighbours: [] } }
    expect(judge({ ...alone, unplugged: [] }, lone).findings.map(({ rule }) => rule)).toEqual([
      'address-switch',
      'alone-on-bus',
    ])
  })
  it('reads a switch aloud', () => expect(leversText([true, false])).toBe('1 on, 2 off'))
})

// PRACTICE D4, D6, D8, E8, common practice.
describe('the order of power', () => {
  it('puts panels off before the battery on, and panels on again last', () => {
    const { on, off } = demoFamily('fog-signal').powerOrder!
    expect(on.map(({ id }) => id)).toEqual(['panels-off', 'battery-on'])
    expect(off.map(({ id }) => id)).toEqual(['panels-on'])
  })
  it('stops at a step that carries a caution, and goes on in order', () => {
    const relay = demoFamily('mains-relay')
    const first = judgePowerOrder(relay, [], false)
    expect(first.verdict).toBe('stop')
    expect(first.findings[0]!.because).toMatch(/Never with mains connected/)
    expect(judgePowerOrder(relay, ['mains-dead'], false).verdict).toBe('hold')
    expect(judgePowerOrder(relay, ['mains-dead', 'relay-out', 'feed-on'], false).verdict).toBe('go')
    expect(mayTick(relay.powerOrder!.on, [], 'relay-out')).toBe(false)
    expect(mayTick(relay.powerOrder!.on, ['mains-dead'], 'relay-out')).toBe(true)
    expect(mayTick(relay.powerOrder!.on, ['mains-dead'], 'mains-dead')).toBe(true)
  })
  it('has mains dead before opening wherever mains is, and says who comes first', () => {
    for (const id of ['mains-relay', 'signal-desk']) {
      const [first] = demoFamily(id).powerOrder!.on
      expect(first!.does).toMatch(/proved dead/)
      expect(first!.caution).toMatch(/Local codes and licensed people come first/)
    }
    expect(demoFamily('launch-motor').powerOrder!.on[1]!.does).toMatch(/Key on, motor off/)
  })
  it('is asked in the run where the program carries it out', () => {
    expect(judgePowerOrder(demoFamily('fog-signal'), [], true).verdict).toBe('go')
  })
  // PRACTICE J3, common practice: a fuse left out is found by the customer.
  it('demands back what was pulled, by its name', () => {
    const back = takeDownOf(demoFamily('launch-motor'), {
      shed: ['headlamps'],
      charger: { amps: 6, volts: 14.4 },
    })
    expect(back.map(({ id }) => id)).toEqual([
      'key-off',
      'adapter-off',
      'service-jumper',
      'load-headlamps',
      'charger',
    ])
    expect(back[3]!.does).toMatch(/fuse F14/)
  })
})

// PRACTICE C1, common practice: looked up before the drive out.
describe('the kit', () => {
  const family = demoFamily('launch-motor')
  const list = (unitName: string, chargerAmps: number | null = null) =>
    kitOf(family, { unitName, adapter: null, imageName: 'drive-4.1.elf', chargerAmps })
  it('names what a job takes along, with the image on the laptop’s own disk', () => {
    const names = list('Launch 2').map(({ id }) => id)
    expect(names).toEqual(expect.arrayContaining(['image-on-disk', 'fuse-puller', 'charger-6-a']))
    expect(list('Launch 2', 10).map(({ id }) => id)).toContain('charger-10-a')
  })
  it('of two jobs is one list, each thing once, wanted by both', () => {
    const day = joinKits([list('Launch 1'), list('Launch 2')], new Set(['fuse-puller']))
    expect(day.filter(({ id }) => id === 'fuse-puller')).toHaveLength(1)
    expect(day.find(({ id }) => id === 'fuse-puller')).toMatchObject({
      for: ['Launch 1', 'Launch 2'],
      packed: true,
    })
  })
  it.each([
    ['2026-11-25', 'hold'],
    ['2026-11-24', 'hold'],
    ['2026-11-23', 'note'],
  ] as const)('not packed, seen on %s for a job of the 25th, is %s', (today, verdict) => {
    const gate = judgeKit(joinKits([list('Launch 2')], new Set()), '2026-11-25', today)
    expect(gate.verdict).toBe(verdict)
    if (today === '2026-11-24') expect(gate.findings[0]!.remedy).toMatch(/not on the quay/)
  })
  it('packed is go; without what is only good to have, a note', () => {
    const entries = joinKits([list('Launch 2')], new Set())
    const all = entries.map((entry) => ({ ...entry, packed: true }))
    expect(judgeKit(all, '2026-11-25', '2026-11-25').verdict).toBe('go')
    const essential = entries.map((entry) => ({ ...entry, packed: entry.essential }))
    expect(judgeKit(essential, '2026-11-25', '2026-11-25').verdict).toBe('note')
  })
})

describe('the port', () => {
  const port = { id: 'serial:COM7', name: 'COM7', standIn: false, present: true }
  // PRACTICE C4, C5, common practice.
  it('with a high number is named where an old tool still has to be used', () => {
    expect(judgePort(port).verdict).toBe('note')
    expect(judgePort({ ...port, name: 'COM3' }).verdict).toBe('go')
  })
  it('that another program holds is a stop, with its name', () => {
    const gate = judgePort({ ...port, name: 'COM3', program: 'terminal (1234)' })
    expect(gate.verdict).toBe('stop')
    expect(gate.findings[0]!.says).toMatch(/terminal \(1234\)/)
  })
})

describe('what a profile says of its bench', () => {
  it('is there for every demo family, and reads', () => {
    for (const document of demoFamilies) {
      const { faults, family } = checkFamily(document)
      expect(faults).toEqual([])
      expect(family!.kit!.length).toBeGreaterThan(0)
      expect(family!.powerOrder!.on.length).toBeGreaterThan(0)
      expect(family!.links.some(({ wiring }) => wiring)).toBe(true)
      expect(family!.power.supply, family!.id).toBeDefined()
    }
  })
  it('is refused where a pin is needed and must stay open, or named twice', () => {
    const document = structuredClone(demoFamilies.find(({ id }) => id === 'fog-signal')!)
    const pins = document.links[0]!.wiring!.pins
    pins[3]!.needed = true
    pins[2]!.id = '2'
    const { faults } = checkFamily(document)
    expect(faults.map(({ at }) => at)).toEqual(
      expect.arrayContaining(['links.0.wiring.pins.3.open', 'links.0.wiring.pins.2.id']),
    )
  })
})
