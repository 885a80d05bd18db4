import { describe, expect, it } from 'vitest'
import type { FamilyLink, Pin, Wiring } from '../../../family'
import { usualWorkshopRules } from '../../../fit'
import type { Level } from '../../../kernel'
import type { Adapter, WiringSay } from '../adapter'
import type { Wired } from '../question'
import { adapterRules, joinRules, wireRules } from '.'

/* Each rule of wiring by itself: PRACTICE C1, C2, C7, D6, D7, F1, F3, F5, common practice. */

const pin = (id: string, role: string, more: Partial<Pin> = {}): Pin =>
  ({ id, name: id, role, ...more }) as Pin
const adapterPins = [
  pin('GND', 'ground'),
  pin('TX', 'transmit'),
  pin('RX', 'receive'),
  pin('V', 'supply'),
  pin('A', 'data-a'),
  pin('B', 'data-b'),
  pin('H', 'can-high'),
  pin('L', 'can-low'),
  pin('RST', 'reset'),
  pin('NC', 'none'),
]
const targetPins = [
  pin('1', 'ground', { needed: true }),
  pin('2', 'transmit', { needed: true, volts: 3.3 }),
  pin('3', 'receive', { needed: true, volts: 3.3 }),
  pin('4', 'supply'),
  pin('5', 'data-a'),
  pin('6', 'data-b'),
  pin('7', 'can-high'),
  pin('8', 'can-low'),
  pin('9', 'none'),
]

interface Form {
  joins?: [string, string][]
  wiring?: Partial<Record<keyof Wiring, unknown>>
  adapter?: Partial<Record<keyof Adapter, unknown>>
  say?: Partial<WiringSay>
  link?: Record<string, unknown>
  workshopRules?: Partial<typeof usualWorkshopRules>
}

function judge(id: string, { joins = [], wiring, adapter, say, link, workshopRules }: Form) {
  const own = { connector: 'Jack J2', form: 'converter', fed: 'own', pins: targetPins, ...wiring } as Wiring
  const cable = {
    id: 'cable',
    name: 'Cable',
    kind: 'serial',
    form: 'converter',
    pins: adapterPins,
    levels: [3.3],
    terminator: false,
    ownPart: false,
    standing: 'good',
    ...adapter,
  } as Adapter
  const wired: Wired = {
    link: { id: 'l', name: 'Service jack', kind: 'serial', ...link } as unknown as FamilyLink,
    wiring: own,
    adapter: cable,
    say: { linkId: 'l', joins, ...say },
    workshopRules: { ...usualWorkshopRules, ...workshopRules },
    pairs: joins.map(([from, to]) => ({
      adapter: cable.pins.find((each) => each.id === from)!,
      target: own.pins.find((each) => each.id === to)!,
    })),
  }
  const found = [...adapterRules, ...joinRules].find((rule) => rule.id === id)!.judge(wired)
  if (found) {
    expect(found.says).toMatch(/\S/)
    expect(found.because).toMatch(/\S/)
    if (found.level === 'hold' || found.level === 'stop') expect(found.remedy, id).toMatch(/\S/)
  }
  return found
}

const crossed: [string, string][] = [
  ['TX', '3'],
  ['RX', '2'],
]
const withGround: [string, string][] = [['GND', '1'], ...crossed]
const clock = { hertz: 1_843_200 }
const settings = { baudRate: 115_200, dataBits: 8, parity: 'none', stopBits: 1 }
const levels = (list: number[]) => ({ levels: list })

const cases: [rule: string, why: string, form: Form, level: Level | null][] = [
  ['adapter-kind', 'the kind of the link', {}, 'go'],
  ['adapter-kind', 'another kind', { adapter: { kind: 'can' } }, 'stop'],
  ['adapter-kind', 'a bus adapter on a bus', { adapter: { kind: 'rs485' }, link: { kind: 'rs485' } }, 'go'],
  ['adapter-standing', 'known good', {}, 'go'],
  ['adapter-standing', 'untried', { adapter: { standing: 'untried' } }, 'note'],
  ['adapter-standing', 'known bad', { adapter: { standing: 'bad' } }, 'stop'],
  ['adapter-school', 'any will do', {}, 'go'],
  [
    'adapter-school',
    'the maker’s own',
    { workshopRules: { adapters: 'own' } as never, adapter: { ownPart: true } },
    'go',
  ],
  ['adapter-school', 'not the maker’s own', { workshopRules: { adapters: 'own' } as never }, 'hold'],
  ['cable-form', 'as it must be', {}, 'go'],
  ['cable-form', 'a converter where a plain one must be', { wiring: { form: 'pass-through' } }, 'stop'],
  ['cable-form', 'a plain one where a converter must be', { adapter: { form: 'pass-through' } }, 'stop'],
  ['jack-pinout', 'no pinout named', {}, null],
  ['jack-pinout', 'named by the adapter alone', { adapter: { jack: 'X' } }, null],
  ['jack-pinout', 'named by the unit alone', { wiring: { jack: 'X' } }, null],
  ['jack-pinout', 'the same', { adapter: { jack: 'X' }, wiring: { jack: 'X' } }, 'go'],
  ['jack-pinout', 'another', { adapter: { jack: 'Y' }, wiring: { jack: 'X' } }, 'stop'],

  ['baud-error', 'no clock known', { link: { line: settings } }, null],
  ['baud-error', 'the unit’s clock alone', { link: { line: settings, clock } }, null],
  ['baud-error', 'the adapter’s clock alone', { link: { line: settings }, adapter: { clock } }, null],
  ['baud-error', 'both divide to the speed', { link: { line: settings, clock }, adapter: { clock } }, 'go'],
  [
    'baud-error',
    '3.7 % apart over ten bits',
    { link: { line: settings, clock: { hertz: 16e6 } }, adapter: { clock } },
    'hold',
  ],
  [
    'baud-error',
    '3.7 % apart over eleven bits',
    { link: { line: { ...settings, parity: 'even' }, clock: { hertz: 16e6 } }, adapter: { clock } },
    'stop',
  ],
  [
    'baud-error',
    'the line of a bus',
    {
      link: { kind: 'rs485', line: { ...settings, parity: 'even' }, clock: { hertz: 16e6 } },
      adapter: { clock },
    },
    'stop',
  ],
  [
    'baud-error',
    'the single line',
    { link: { kind: 'kline', line: settings, clock }, adapter: { clock } },
    'go',
  ],
  [
    'baud-error',
    'behind a bus adapter the line is its own',
    { link: { kind: 'can', line: settings, clock: { hertz: 16e6 } }, adapter: { clock } },
    null,
  ],

  ['no-short', 'nothing joined', {}, null],
  ['no-short', 'each on its own kind', { joins: withGround }, 'go'],
  ['no-short', 'supply on ground', { joins: [['V', '1']] }, 'stop'],
  ['no-short', 'ground on supply', { joins: [['GND', '4']] }, 'stop'],
  ['no-short', 'supply on a signal', { joins: [['V', '3']] }, 'stop'],
  ['no-short', 'a signal on supply', { joins: [['TX', '4']] }, 'stop'],
  ['no-short', 'reset on receive', { joins: [['RST', '3']] }, 'stop'],
  ['no-short', 'a bus wire on the other bus', { joins: [['A', '7']] }, 'stop'],
  [
    'no-short',
    'a pair swapped is another rule’s business',
    {
      joins: [
        ['A', '6'],
        ['B', '5'],
      ],
    },
    'go',
  ],
  [
    'no-short',
    'like to like is another rule’s business',
    {
      joins: [
        ['TX', '2'],
        ['RX', '3'],
      ],
    },
    'go',
  ],
  ['no-short', 'a high wire on the low one', { joins: [['H', '8']] }, 'go'],
  ['no-short', 'on a pin without a use', { joins: [['TX', '9']] }, 'go'],
  [
    'no-short',
    'two wires on one pin',
    {
      joins: [
        ['TX', '3'],
        ['RX', '3'],
      ],
    },
    'stop',
  ],
  [
    'no-short',
    'one wire on two pins',
    {
      joins: [
        ['TX', '3'],
        ['TX', '2'],
      ],
    },
    'stop',
  ],
  ['no-short', 'two grounds on one', { joins: [['GND', '1'], ...crossed] }, 'go'],
  ['no-short', 'supply on supply', { joins: [['V', '4']] }, 'go'],

  ['supply-open', 'nothing has to stay open', { joins: [['V', '4']] }, null],
  ['supply-open', 'it stays open', { wiring: { pins: [pin('4', 'supply', { open: true })] } }, 'go'],
  [
    'supply-open',
    'the unit’s is joined',
    { joins: [['V', '4']], wiring: { pins: [pin('4', 'supply', { open: true })] } },
    'stop',
  ],
  [
    'supply-open',
    'the adapter’s is joined',
    { joins: [['V', '4']], adapter: { pins: [pin('V', 'supply', { open: true })] } },
    'stop',
  ],

  ['logic-level', 'no level told', { joins: [['GND', '1']] }, null],
  ['logic-level', 'levels do not matter to the adapter', { joins: crossed, adapter: levels([]) }, null],
  ['logic-level', 'the same', { joins: crossed }, 'go'],
  ['logic-level', 'ten percent above', { joins: crossed, adapter: levels([3.63]) }, 'go'],
  ['logic-level', 'more than that', { joins: crossed, adapter: levels([3.64]) }, 'stop'],
  ['logic-level', '5 V into 3.3 V', { joins: crossed, adapter: levels([5]) }, 'stop'],
  ['logic-level', 'six tenths', { joins: crossed, adapter: levels([1.98]) }, 'go'],
  ['logic-level', 'below six tenths', { joins: crossed, adapter: levels([1.97]) }, 'hold'],
  ['logic-level', 'a switch that nobody looked at', { joins: crossed, adapter: levels([3.3, 5]) }, 'hold'],
  [
    'logic-level',
    'a switch that stands right',
    { joins: crossed, adapter: levels([3.3, 5]), say: { level: 3.3 } },
    'go',
  ],
  [
    'logic-level',
    'a switch that stands wrong',
    { joins: crossed, adapter: levels([3.3, 5]), say: { level: 5 } },
    'stop',
  ],
  [
    'logic-level',
    'what was said of a switch that is none counts for nothing',
    { joins: crossed, adapter: levels([5]), say: { level: 3.3 } },
    'stop',
  ],
  [
    'logic-level',
    'the lowest of two',
    {
      joins: crossed,
      wiring: { pins: [pin('2', 'transmit', { volts: 5 }), pin('3', 'receive', { volts: 1.8 })] },
    },
    'stop',
  ],
  [
    'logic-level',
    'a supply pin is no signal',
    { joins: [['V', '4']], wiring: { pins: [pin('4', 'supply', { volts: 1.8 })] } },
    null,
  ],

  ['ground-joined', 'joined', { joins: withGround }, 'go'],
  ['ground-joined', 'not joined', { joins: crossed }, 'stop'],
  ['ground-joined', 'ground on a signal is not joined', { joins: [['GND', '3']] }, 'stop'],
  ['ground-joined', 'the unit has none', { wiring: { pins: [pin('2', 'transmit')] } }, null],
  ['ground-joined', 'the adapter has none', { adapter: { pins: [pin('TX', 'transmit')] } }, null],

  ['pins-joined', 'all that is needed', { joins: withGround }, 'go'],
  ['pins-joined', 'ground is another rule’s business', { joins: crossed }, 'go'],
  ['pins-joined', 'one is missing', { joins: [['TX', '3']] }, 'stop'],
  ['pins-joined', 'nothing is needed', { wiring: { pins: [pin('2', 'transmit')] } }, null],
  [
    'pins-joined',
    'supply, where the adapter feeds',
    { wiring: { fed: 'adapter', pins: [pin('4', 'supply', { needed: true })] } },
    'stop',
  ],
  [
    'pins-joined',
    'supply, where the unit feeds itself',
    { wiring: { fed: 'own', pins: [pin('4', 'supply', { needed: true })] } },
    null,
  ],
  [
    'pins-joined',
    'supply, where it was said that the unit is fed',
    { wiring: { fed: 'adapter', pins: [pin('4', 'supply', { needed: true })] }, say: { unitFed: true } },
    null,
  ],

  ['signals-crossed', 'both ways', { joins: crossed }, 'go'],
  ['signals-crossed', 'one way alone', { joins: [['TX', '3']] }, null],
  ['signals-crossed', 'transmit on transmit', { joins: [['TX', '2']] }, 'stop'],
  ['signals-crossed', 'receive on receive', { joins: [['RX', '3']] }, 'stop'],
  ['signals-crossed', 'no signals', { joins: [['GND', '1']] }, null],

  [
    'data-pair',
    'the right way round',
    {
      joins: [
        ['A', '5'],
        ['B', '6'],
      ],
    },
    'go',
  ],
  [
    'data-pair',
    'swapped',
    {
      joins: [
        ['A', '6'],
        ['B', '5'],
      ],
    },
    'stop',
  ],
  ['data-pair', 'one wire swapped', { joins: [['B', '5']] }, 'stop'],
  ['data-pair', 'one wire alone', { joins: [['A', '5']] }, null],
  [
    'data-pair',
    'the vehicle bus, right',
    {
      joins: [
        ['H', '7'],
        ['L', '8'],
      ],
    },
    'go',
  ],
  [
    'data-pair',
    'the vehicle bus, swapped',
    {
      joins: [
        ['H', '8'],
        ['L', '7'],
      ],
    },
    'stop',
  ],
  ['data-pair', 'no bus', { joins: withGround }, null],

  ['bus-termination', 'no bus', {}, null],
  ['bus-termination', 'not measured', { wiring: { terminated: true } }, 'hold'],
  ['bus-termination', 'measured null', { wiring: { terminated: true }, say: { ohms: null } }, 'hold'],
  ['bus-termination', '60 ohm', { wiring: { terminated: true }, say: { ohms: 60 } }, 'go'],
  ['bus-termination', '120 ohm', { wiring: { terminated: true }, say: { ohms: 120 } }, 'hold'],
  ['bus-termination', '2 ohm', { wiring: { terminated: true }, say: { ohms: 2 } }, 'stop'],

  ['plug-faces', 'either way round', {}, null],
  ['plug-faces', 'nobody looked', { wiring: { faces: 'label up' } }, 'hold'],
  [
    'plug-faces',
    'somebody looked and it is not',
    { wiring: { faces: 'label up' }, say: { faces: false } },
    'hold',
  ],
  ['plug-faces', 'as it must be', { wiring: { faces: 'label up' }, say: { faces: true } }, 'go'],
  ['firm-contact', 'a plug', { say: { contact: 'plug' } }, null],
  ['firm-contact', 'nothing said', {}, null],
  ['firm-contact', 'held by hand', { say: { contact: 'held' } }, 'hold'],

  // PRACTICE D6: exactly one supply.
  [
    'one-supply',
    'its own, and the adapter’s joined and on',
    { joins: [['V', '4']], say: { feeding: true, unitFed: true } },
    'stop',
  ],
  [
    'one-supply',
    'its own, where the adapter has to feed',
    { wiring: { fed: 'adapter' }, say: { unitFed: true } },
    'stop',
  ],
  [
    'one-supply',
    'the adapter, where its own has to',
    { joins: [['V', '4']], say: { feeding: true, unitFed: false } },
    'stop',
  ],
  ['one-supply', 'its own alone', { say: { unitFed: true } }, 'go'],
  ['one-supply', 'its own off and no other', { say: { unitFed: false } }, 'hold'],
  ['one-supply', 'nobody said', {}, 'hold'],
  [
    'one-supply',
    'the adapter alone',
    { joins: [['V', '4']], wiring: { fed: 'adapter' }, say: { feeding: true, unitFed: false } },
    'go',
  ],
  [
    'one-supply',
    'the adapter’s pin joined and off',
    { joins: [['V', '4']], wiring: { fed: 'adapter' }, say: { feeding: false, unitFed: false } },
    'hold',
  ],
  [
    'one-supply',
    'the adapter on with its pin not joined',
    { wiring: { fed: 'adapter' }, say: { feeding: true, unitFed: false } },
    'hold',
  ],
  ['one-supply', 'either, its own', { wiring: { fed: 'either' }, say: { unitFed: true } }, 'go'],
  [
    'one-supply',
    'either, the adapter',
    { joins: [['V', '4']], wiring: { fed: 'either' }, say: { feeding: true, unitFed: false } },
    'go',
  ],
  [
    'one-supply',
    'either, both',
    { joins: [['V', '4']], wiring: { fed: 'either' }, say: { feeding: true, unitFed: true } },
    'stop',
  ],
  // A wire on the supply pin feeds back into the adapter, whatever its switch says (PRACTICE D6).
  [
    'one-supply',
    'its own, and the adapter’s wire joined, said to be off',
    { joins: [['V', '4']], say: { feeding: false, unitFed: true } },
    'stop',
  ],
  [
    'one-supply',
    'its own, and the adapter’s wire joined, nobody said',
    { joins: [['V', '4']], say: { unitFed: true } },
    'stop',
  ],
  [
    'one-supply',
    'either, its own, and the adapter’s wire joined',
    { joins: [['V', '4']], wiring: { fed: 'either' }, say: { unitFed: true } },
    'stop',
  ],
  [
    'one-supply',
    'its own off, the adapter’s wire joined, nobody said whether it gives supply',
    { joins: [['V', '4']], wiring: { fed: 'adapter' }, say: { unitFed: false } },
    'hold',
  ],
  ['one-supply', 'either, none', { wiring: { fed: 'either' }, say: { unitFed: false } }, 'hold'],
  ['one-supply', 'either, nobody said', { wiring: { fed: 'either' } }, 'hold'],
]

describe('every rule of wiring', () => {
  it.each(cases)('%s: %s', (rule, _why, form, level) => {
    expect(judge(rule, form)?.level ?? null).toBe(level)
  })
  it('is driven here on the side where it refuses, and on the one where it passes', () => {
    for (const { id } of [...adapterRules, ...joinRules]) {
      const own = cases.filter(([rule]) => rule === id).map(([, , , level]) => level)
      expect(
        own.some((level) => level === 'stop' || level === 'hold'),
        id,
      ).toBe(true)
      if (id !== 'firm-contact') expect(own, id).toContain('go')
    }
  })
  it('names pins, levels and figures', () => {
    expect(judge('no-short', { joins: [['V', '1']] })).toMatchObject({
      says: 'V is joined to 1.',
      because: 'Supply on ground: something burns.',
    })
    expect(judge('no-short', { joins: [['GND', '4']] })!.because).toBe('Supply on ground: something burns.')
    expect(judge('no-short', { joins: [['RST', '3']] })!.because).toBe(
      'reset and receive have nothing to do with each other.',
    )
    expect(
      judge('no-short', {
        joins: [
          ['TX', '3'],
          ['RX', '3'],
        ],
      })!.says,
    ).toBe('3 has two wires.')
    expect(judge('logic-level', { joins: crossed, adapter: levels([5]) })).toMatchObject({
      numbers: { adapterVolts: 5, targetVolts: 3.3 },
      remedy: 'Take an adapter for 3.3 V.',
    })
    expect(
      judge('logic-level', { joins: crossed, adapter: levels([5, 3.3]), say: { level: 5 } })!.remedy,
    ).toBe('Set its switch to 3.3 V before anything is joined.')
    expect(judge('logic-level', { joins: crossed, adapter: levels([3.3, 5]) })!.because).toBe(
      'It offers 3.3 V and 5 V; Jack J2 bears 3.3 V.',
    )
    expect(judge('pins-joined', {})).toMatchObject({
      says: '2, 3 are not joined.',
      numbers: { missingPins: 2 },
    })
    expect(judge('pins-joined', { joins: [['TX', '3']] })!.says).toBe('2 is not joined.')
    expect(
      judge('pins-joined', { wiring: { fed: 'adapter', pins: [pin('4', 'supply', { needed: true })] } })!
        .because,
    ).toBe('The unit is fed through it.')
    expect(judge('signals-crossed', { joins: [['RX', '3']] })!.says).toBe(
      'Receive is joined to receive: RX to 3.',
    )
    expect(
      judge('adapter-standing', { adapter: { standing: 'bad', standingWhy: 'Killed a radio.' } })!.because,
    ).toBe('Killed a radio.')
    expect(judge('adapter-standing', { adapter: { standing: 'bad' } })!.because).toBe(
      'It is marked so in the library.',
    )
    expect(
      judge('supply-open', {
        wiring: { pins: [pin('4', 'supply', { open: true }), pin('5', 'none', { open: true })] },
      })!.says,
    ).toBe('4, 5 stays open.')
    expect(
      judge('bus-termination', { wiring: { terminated: true }, adapter: { terminator: true } })!.because,
    ).toMatch(/carries one of them/)
    expect(judge('bus-termination', { wiring: { terminated: true } })!.because).toMatch(/carries none/)
  })
  it('that tells of one wire alone is among those that judge the whole', () => {
    for (const rule of wireRules) expect(joinRules).toContain(rule)
  })
})
