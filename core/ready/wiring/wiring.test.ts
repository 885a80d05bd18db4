import { demoAdapters, demoBenches, demoFamilies, demoFamily } from '@bench-wake/demo'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { adapterRules, joinRules, joinsOfPlug, judgeWiring, linkOfJob, type WiringSay } from '..'
import { readFamily } from '../../family'
import { usualWorkshopRules } from '../../fit'

const family = (id: string) => demoFamily(id)
const adapter = (id: string) => demoAdapters.find((each) => each.id === id)!
const judge = (
  familyId: string,
  say: Partial<WiringSay> & { linkId: string },
  workshopRules = usualWorkshopRules,
) => judgeWiring(family(familyId), demoAdapters, { joins: [], ...say }, workshopRules)
const finding = (gate: ReturnType<typeof judge>, rule: string) =>
  gate.findings.find((each) => each.rule === rule)

/** Each family joined as its manual says. */
const right = Object.fromEntries(
  Object.entries(demoBenches).map(([id, bench]) => [id, bench.wiring!]),
) as Record<string, WiringSay>
const change = (familyId: string, more: Partial<WiringSay>) =>
  judgeWiring(family(familyId), demoAdapters, { ...right[familyId]!, ...more }, usualWorkshopRules)

describe('wiring joined as the papers say', () => {
  it.each(demoFamilies.map(({ id }) => id))('of the %s is go', (id) => {
    const gate = judgeWiring(family(id), demoAdapters, right[id]!, usualWorkshopRules)
    expect(gate.findings.filter(({ level }) => level !== 'go')).toEqual([])
    expect(gate.verdict).toBe('go')
  })
})

describe('wiring joined wrong', () => {
  // Each a fact of the trade: PRACTICE id beside it, common practice.
  it.each([
    [
      'F1, transmit to transmit',
      'fog-signal',
      {
        joins: [
          ['GND', '1'],
          ['TX', '2'],
          ['RX', '3'],
        ],
      },
      'signals-crossed',
      'stop',
      /Swap the two wires/,
    ],
    [
      'C7, ground missing',
      'fog-signal',
      {
        joins: [
          ['TX', '3'],
          ['RX', '2'],
        ],
      },
      'ground-joined',
      'stop',
      /ground first/,
    ],
    [
      'C7, supply pin joined that must stay open',
      'fog-signal',
      {
        joins: [
          ['GND', '1'],
          ['TX', '3'],
          ['RX', '2'],
          ['VCC', '4'],
        ],
      },
      'supply-open',
      'stop',
      /Take this wire off/,
    ],
    [
      'one signal missing',
      'fog-signal',
      {
        joins: [
          ['GND', '1'],
          ['TX', '3'],
        ],
      },
      'pins-joined',
      'stop',
      /Join what is missing/,
    ],
    [
      'D7, 5 V into a 3.3 V part',
      'mains-relay',
      { level: 5 },
      'logic-level',
      'stop',
      /Set its switch to 3\.3 V/,
    ],
    [
      'D7, nobody looked at the switch',
      'mains-relay',
      { level: null },
      'logic-level',
      'hold',
      /Look at the switch/,
    ],
    ['D6, two supplies', 'mains-relay', { unitFed: true }, 'one-supply', 'stop', /Take one away/],
    ['D6, no supply', 'mains-relay', { feeding: false }, 'one-supply', 'hold', /Join the adapter/],
    ['D6, nobody said what feeds it', 'beacon-receiver', { unitFed: null }, 'one-supply', 'hold', /say so/],
    [
      'supply on ground',
      'mains-relay',
      {
        joins: [
          ['VCC', '4'],
          ['TX', '2'],
          ['RX', '3'],
          ['GND', '1'],
        ],
      },
      'no-short',
      'stop',
      /Take this wire off/,
    ],
    [
      'two wires on one signal',
      'mains-relay',
      {
        joins: [
          ['VCC', '1'],
          ['TX', '2'],
          ['RX', '2'],
          ['GND', '4'],
        ],
      },
      'no-short',
      'stop',
      /one wire/,
    ],
    [
      'A on B of RS-485',
      'buoy-battery',
      {
        joins: [
          ['1', '2'],
          ['2', '1'],
          ['7', '7'],
        ],
      },
      'data-pair',
      'stop',
      /Swap the two wires/,
    ],
    [
      'high on low of the vehicle bus',
      'launch-motor',
      {
        joins: [
          ['H', '14'],
          ['L', '6'],
          ['GND', '5'],
        ],
      },
      'data-pair',
      'stop',
      /Swap/,
    ],
    [
      'ISO 11898-2, one terminator: 120 ohm',
      'launch-motor',
      { ohms: 120 },
      'bus-termination',
      'hold',
      /other end/,
    ],
    [
      'ISO 11898-2, three terminators: 40 ohm',
      'launch-motor',
      { ohms: 40 },
      'bus-termination',
      'hold',
      /not at an end/,
    ],
    [
      'the bus not measured',
      'station-inverter',
      { ohms: null },
      'bus-termination',
      'hold',
      /measure between/,
    ],
    [
      'C1, a plain cable where a converter must be',
      'marine-radio',
      { adapterId: 'radio-cable-plain' },
      'cable-form',
      'stop',
      /other cable/,
    ],
    [
      'C1, a plug of another pinout',
      'buoy-battery',
      { adapterId: 'network-lead' },
      'jack-pinout',
      'stop',
      /pinout BP bus/,
    ],
    [
      'a plug of another pinout, serial',
      'boat-davit',
      { adapterId: 'office-cable' },
      'jack-pinout',
      'stop',
      /pinout DV service/,
    ],
    [
      'another kind of adapter',
      'launch-motor',
      { adapterId: 'rs485-screw' },
      'adapter-kind',
      'stop',
      /can adapter/,
    ],
    [
      'C2, an adapter known bad',
      'fog-signal',
      { adapterId: 'serial-green' },
      'adapter-standing',
      'stop',
      /another one/,
    ],
    [
      'a lead without data wires',
      'tide-logger',
      { adapterId: 'usb-charging-lead' },
      'adapter-standing',
      'stop',
      /another one/,
    ],
    [
      'F5, nobody looked how the plug is turned',
      'beacon-receiver',
      { faces: false },
      'plug-faces',
      'hold',
      /fully home/,
    ],
    [
      'F3, wires held in their holes',
      'beacon-receiver',
      { contact: 'held' },
      'firm-contact',
      'hold',
      /Solder a header/,
    ],
    ['D9, chip turned', 'signal-desk', { faces: false }, 'plug-faces', 'hold', /Look/],
    [
      'data in on data in of a chip left out',
      'signal-desk',
      {
        joins: [
          ['1', '1'],
          ['2', '2'],
          ['4', '4'],
          ['6', '6'],
          ['8', '8'],
        ],
      },
      'pins-joined',
      'stop',
      /Join/,
    ],
  ] as [string, string, Partial<WiringSay>, string, string, RegExp][])(
    '%s',
    (_, id, more, rule, level, remedy) => {
      const found = finding(change(id, more), rule)
      expect(found?.level).toBe(level)
      expect(found?.remedy).toMatch(remedy)
    },
  )

  it('an adapter of 5 V only can be no answer for a 3.3 V board: another is asked for', () => {
    const found = finding(change('mains-relay', { adapterId: 'serial-5-v' }), 'logic-level')
    expect(found).toMatchObject({ level: 'stop', remedy: 'Take an adapter for 3.3 V.' })
  })
  it('no adapter chosen is held, and says which to take', () => {
    const gate = judgeWiring(family('marine-radio'), demoAdapters, undefined, usualWorkshopRules)
    expect(gate.verdict).toBe('hold')
    expect(gate.findings[0]!.because).toMatch(/converter inside/)
  })
  it('over a memory card nothing is joined', () => {
    expect(judge('marine-radio', { linkId: 'card' }).verdict).toBe('go')
    expect(linkOfJob(family('marine-radio'), { linkId: 'card', joins: [] }).kind).toBe('media')
  })
})

// PRACTICE C2: people disagree; the workshop says.
describe('the two schools on adapters', () => {
  it('let any decent one pass, or hold all but the maker’s own part', () => {
    const own = { ...usualWorkshopRules, adapters: 'own' as const }
    const say = right['mains-relay']!
    expect(
      finding(judgeWiring(family('mains-relay'), demoAdapters, say, usualWorkshopRules), 'adapter-school')!
        .level,
    ).toBe('go')
    expect(finding(judgeWiring(family('mains-relay'), demoAdapters, say, own), 'adapter-school')!.level).toBe(
      'hold',
    )
    expect(
      finding(judgeWiring(family('fog-signal'), demoAdapters, right['fog-signal'], own), 'adapter-school')!
        .level,
    ).toBe('go')
  })
})

// PRACTICE D6, D8, common practice: exactly one supply, and never with mains connected.
describe('what feeds the unit, in every combination', () => {
  /** @param feeding null where the adapter's supply wire is not joined at all */
  const judgeFed = (fed: 'own' | 'adapter' | 'either', feeding: boolean | null, unitFed: boolean | null) => {
    const relay = structuredClone(family('mains-relay'))
    relay.links[0]!.wiring!.fed = fed
    const supply = new Set(
      relay.links[0]!.wiring!.pins.flatMap(({ id, role }) => (role === 'supply' ? [id] : [])),
    )
    const { joins, ...rest } = right['mains-relay']!
    const say =
      feeding === null
        ? { ...rest, joins: joins.filter(([, target]) => !supply.has(target)), unitFed }
        : { ...rest, joins, feeding, unitFed }
    return finding(judgeWiring(relay, demoAdapters, say, usualWorkshopRules), 'one-supply')!.level
  }
  it.each([
    ['adapter', true, false, 'go'],
    ['adapter', true, true, 'stop'],
    ['adapter', false, true, 'stop'],
    ['adapter', false, false, 'hold'],
    ['adapter', true, null, 'hold'],
    ['own', null, true, 'go'],
    ['own', null, false, 'hold'],
    // A wire that is on feeds back, whatever its switch says.
    ['own', false, true, 'stop'],
    ['own', true, true, 'stop'],
    ['own', true, false, 'stop'],
    ['own', false, false, 'hold'],
    ['own', false, null, 'hold'],
    ['either', true, false, 'go'],
    ['either', null, true, 'go'],
    ['either', false, true, 'stop'],
    ['either', true, true, 'stop'],
    ['either', false, false, 'hold'],
    ['either', true, null, 'hold'],
  ] as const)('fed by %s, adapter gives: %s, own supply on: %s is %s', (fed, feeding, unitFed, level) => {
    expect(judgeFed(fed, feeding, unitFed)).toBe(level)
  })
})

describe('a plug that was made for the jack', () => {
  it('makes its joins by itself, and no other does', () => {
    const { wiring } = family('boat-davit').links[0]!
    expect(joinsOfPlug(adapter('davit-cable'), wiring!)).toEqual([
      ['1', '1'],
      ['2', '2'],
      ['3', '3'],
    ])
    expect(joinsOfPlug(adapter('office-cable'), wiring!)).toBeNull()
  })
})

describe('whatever is joined', () => {
  it('the rules give a judgement and never throw, and a supply on ground never passes', () => {
    const cases = demoFamilies.flatMap((document) => {
      const read = readFamily(document)
      return read.links.flatMap((link) => (link.wiring ? [{ read, link, wiring: link.wiring }] : []))
    })
    fc.assert(
      fc.property(
        fc.constantFrom(...cases),
        fc.constantFrom(...demoAdapters),
        fc.array(fc.tuple(fc.nat(8), fc.nat(8)), { maxLength: 10 }),
        fc.constantFrom(null, 3.3, 5, 12),
        fc.boolean(),
        fc.option(fc.boolean(), { nil: null }),
        ({ read, link, wiring }, one, picks, level, feeding, unitFed) => {
          const joins = picks.map(([a, t]): [string, string] => [
            one.pins[a % one.pins.length]!.id,
            wiring.pins[t % wiring.pins.length]!.id,
          ])
          const gate = judgeWiring(
            read,
            [one],
            { linkId: link.id, adapterId: one.id, joins, level, feeding, unitFed },
            usualWorkshopRules,
          )
          const burns = joins.some(([a, t]) => {
            const roles = [
              one.pins.find(({ id }) => id === a)!.role,
              wiring.pins.find(({ id }) => id === t)!.role,
            ]
            return roles.includes('supply') && roles.includes('ground')
          })
          if (burns) expect(gate.verdict).toBe('stop')
          for (const { says, because, level: weight, remedy } of gate.findings) {
            expect(says.length * because.length).toBeGreaterThan(0)
            // Whatever is not go says what to do about it.
            if (weight !== 'go') expect(remedy).toBeTruthy()
          }
        },
      ),
      { numRuns: 2000 },
    )
  })
  it('every rule is a file of its own, named so', () => {
    const names = [...adapterRules, ...joinRules].map(({ id }) => id)
    expect(new Set(names).size).toBe(names.length)
    expect(names).toHaveLength(17)
  })
})
