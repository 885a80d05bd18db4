import { demoFamily } from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import { tideGateProfile } from '@bench-wake/testing/tide-gate-profile'
import { drivenLink, readFamily, type Family } from '../family'
import {
  benchGates,
  joinKits,
  judgeDriven,
  judgeJobPower,
  judgeKit,
  judgeLaptopFor,
  judgeOriginal,
  judgePort,
  judgePowerOrder,
  kitOf,
  mayTick,
  portNumber,
  takeDownOf,
  wantsOriginal,
  type Adapter,
  type BenchInputs,
  type KitEntry,
  scripted,
  trialsOfRuns,
  type KeptTrial,
} from '.'
import { speechText } from '../link'

/* The other gates by themselves, on the side on which they refuse (PRACTICE C1, C3, C4, C5, D3, D4, G1, G4, J3, common practice). */

const family = (form: Record<string, unknown>): Family =>
  ({
    name: 'Lamp',
    power: { amps: { idle: 1, erase: 1, write: 1 } },
    links: [],
    ...form,
  }) as unknown as Family
const order = [
  { id: 'one', does: 'First.' },
  { id: 'two', does: 'Second.', caution: 'Live parts.' },
  { id: 'three', does: 'Third.' },
]
const ordered = family({ powerOrder: { on: order, off: [{ id: 'back', does: 'Back.' }] } })

describe('the order of power', () => {
  const judge = (done: string[], inRun = false) => judgePowerOrder(ordered, done, inRun).findings[0]!
  it('names the next thing and not a later one; with a caution it stops', () => {
    expect(judge([])).toMatchObject({ level: 'hold', says: 'Next: First.', numbers: { left: 3 } })
    expect(judge(['one'])).toMatchObject({
      level: 'stop',
      says: 'Next: Second.',
      because: 'Live parts.',
      numbers: { left: 2 },
    })
    expect(judge(['one', 'two'])).toMatchObject({ level: 'hold', because: '1 of 3 steps of power are left.' })
    expect(judge(['two', 'three'])).toMatchObject({ level: 'hold', says: 'Next: First.' })
    expect(judge(['one', 'two', 'three'])).toMatchObject({ level: 'go', says: 'Power stands as it must.' })
  })
  it('is asked for by the run where the run drives the link', () => {
    expect(judge([], true)).toMatchObject({
      level: 'go',
      says: 'The run asks for 3 steps of power before it opens the port.',
    })
    expect(judgePowerOrder(family({}), [], false).findings[0]).toMatchObject({
      level: 'go',
      says: 'This family asks for no order of power.',
    })
  })
  it('may be ticked in its order alone, and unticked anywhere', () => {
    expect(mayTick(order, [], 'one')).toBe(true)
    expect(mayTick(order, [], 'two')).toBe(false)
    expect(mayTick(order, ['one'], 'two')).toBe(true)
    expect(mayTick(order, ['one'], 'one')).toBe(true)
    expect(mayTick(order, ['one'], 'three')).toBe(false)
    expect(mayTick(order, ['one', 'two', 'three'], 'x')).toBe(false)
  })
})

describe('what is put back', () => {
  const own = family({
    powerOrder: { on: [], off: [{ id: 'back', does: 'Panels on.' }] },
    power: {
      supply: {
        loads: [
          { id: 'f14', name: 'Headlamps', shed: 'pull fuse F14' },
          { id: 'b', name: 'Blower', shed: 'switch it off' },
        ],
      },
    },
  })
  const ids = (said: BenchInputs) => takeDownOf(own, said).map(({ id }) => id)
  it('is every load that was shed, by its name, and the charger', () => {
    expect(ids({})).toEqual(['back'])
    expect(ids({ shed: ['f14'] })).toEqual(['back', 'load-f14'])
    expect(ids({ shed: ['f14', 'b', 'x'], charger: { amps: 6, volts: 14.4 } })).toEqual([
      'back',
      'load-f14',
      'load-b',
      'charger',
    ])
    expect(ids({ charger: null })).toEqual(['back'])
    const never = (said: BenchInputs) => takeDownOf(own, said, { ran: false }).map(({ id }) => id)
    expect(never({})).toEqual([])
    expect(never({ order: [] })).toEqual([])
    expect(never({ order: ['off'] })).toEqual(['back'])
    expect(never({ shed: ['f14'] })).toEqual(['load-f14'])
    expect(takeDownOf(own, { shed: ['f14'] })[1]!.does).toBe('Headlamps back: undo “pull fuse F14”.')
    expect(takeDownOf(family({ power: {} }), {})).toEqual([])
  })
})

describe('the port', () => {
  const port = { id: 'p', name: 'ttyUSB0', standIn: false, present: true }
  it.each([
    ['none', null, 'stop', /No port is chosen/],
    ['one that is not there', { ...port, present: false }, 'stop', /is not there/],
    ['a serial line for a USB device', { ...port, otherChannel: 'serial' as const }, 'stop', /wrong kind/],
    ['a USB device for a serial line', { ...port, otherChannel: 'usb' as const }, 'stop', /wrong kind/],
    ['held by a run', { ...port, heldBy: 'run-1' }, 'stop', /another run/],
    ['held by a program', { ...port, program: 'monitor, 4711' }, 'stop', /another program: monitor, 4711/],
    ['COM5', { ...port, name: 'COM5' }, 'note', /high number/],
    ['COM4', { ...port, name: 'COM4' }, 'go', /there and free/],
    ['free', port, 'go', /there and free/],
    ['a stand-in', { ...port, standIn: true }, 'note', /nothing real is written/],
    ['a stand-in that another run holds', { ...port, standIn: true, heldBy: 'run-1' }, 'stop', /another run/],
    ['not there and held', { ...port, present: false, heldBy: 'run-1' }, 'stop', /is not there/],
  ] as const)('%s: %s', (_what, choice, level, says) => {
    const gate = judgePort(choice)
    expect(gate.verdict).toBe(level)
    expect(gate.findings[0]!.says).toMatch(says)
    if (level === 'stop') expect(gate.findings[0]!.remedy).toMatch(/\S/)
  })
  it('of the other kind is named by what it is', () => {
    expect(judgePort({ ...port, otherChannel: 'serial' }).findings[0]!.because).toMatch(
      /^It is a serial line/,
    )
    expect(judgePort({ ...port, otherChannel: 'usb' }).findings[0]!.because).toMatch(/^It is a USB device/)
  })
  it('has a number where the system counts them', () => {
    expect(portNumber('COM12')).toBe(12)
    expect(portNumber('com3')).toBe(3)
    for (const name of ['xCOM3', 'COM3x', 'COM', 'ttyS3']) expect(portNumber(name), name).toBeNull()
  })
})

describe('the original', () => {
  const tide = demoFamily('tide-logger')
  const relay = demoFamily('mains-relay')
  const judge = (own: Family, backup: 'own' | 'universal' | null, workshopRules: 'family' | 'always') => {
    const { backup: _backup, ...silent } = own
    const asked = (backup ? { ...own, backup: { firmware: backup } } : silent) as Family
    return judgeOriginal(asked, drivenLink(own)!, { backup: workshopRules })
  }
  // The tide logger's link reads its memory, the relay's does not.
  it.each([
    [tide, 'own', 'family', 'go'],
    [tide, 'universal', 'family', 'go'],
    [tide, null, 'family', 'go'],
    [tide, 'universal', 'always', 'go'],
    [relay, 'own', 'family', 'hold'],
    [relay, 'own', 'always', 'hold'],
    [relay, null, 'family', 'hold'],
    [relay, null, 'always', 'hold'],
    [relay, 'universal', 'always', 'note'],
    [relay, 'universal', 'family', 'go'],
  ] as const)('of %j, %s, workshop %s: %s', (own, backup, workshopRules, level) => {
    const [finding] = judge(own, backup, workshopRules).findings
    expect(finding!.rule).toBe('backup')
    expect(finding!.level).toBe(level)
  })
  it('is wanted unless the profile says that the same can be had again', () => {
    expect(wantsOriginal({}, {})).toBe(true)
    expect(wantsOriginal({ backup: { firmware: 'own' } }, {})).toBe(true)
    expect(wantsOriginal({ backup: { firmware: 'universal' } }, {})).toBe(false)
    expect(wantsOriginal({ backup: { firmware: 'universal' } }, { backup: 'family' })).toBe(false)
    expect(wantsOriginal({ backup: { firmware: 'universal' } }, { backup: 'always' })).toBe(true)
  })
  // PRACTICE G1; common practice for chips on a clip: whole, twice, before anything else.
  it('of a chip by itself is read whole, whatever can be had again, until this bench wrote it', () => {
    const desk = demoFamily('signal-desk')
    const clip = drivenLink(desk, 'clip')!
    expect(desk.backup?.firmware).toBe('universal')
    expect(wantsOriginal(desk, {}, {}, clip)).toBe(true)
    expect(wantsOriginal(desk, {}, { inside: 'birch.rom' }, clip)).toBe(false)
    expect(wantsOriginal(desk, {}, {}, drivenLink(demoFamily('relay-driver'))!)).toBe(false)
    expect(judgeOriginal(desk, clip, { backup: 'family' }).findings).toMatchObject([
      {
        rule: 'backup',
        level: 'go',
        because: 'A chip may hold more than its firmware, and nobody else has that.',
      },
      { rule: 'backup-once', level: 'note' },
    ])
  })
  it('may be read once only by name, where it is read at all', () => {
    const rules = (gate: ReturnType<typeof judge>) => gate.findings.map(({ rule }) => rule)
    expect(rules(judge(tide, 'own', 'family'))).toEqual(['backup', 'backup-once'])
    expect(rules(judge(tide, 'universal', 'family'))).toEqual(['backup'])
    expect(rules(judge(relay, 'own', 'family'))).toEqual(['backup'])
  })
})

describe('the link', () => {
  it('is driven, worked by hand, or only judged', () => {
    expect(judgeDriven(demoFamily('mains-relay')).findings[0]!.level).toBe('go')
    const desk = demoFamily('signal-desk')
    expect(judgeDriven(desk, 'socket').findings[0]).toMatchObject({
      level: 'go',
      says: expect.stringMatching(/chip in its socket: \d+ steps/),
    })
    const { chipReplacement: _chip, ...bare } = desk
    expect(judgeDriven(bare as Family, 'socket').findings[0]).toMatchObject({
      level: 'note',
      because: expect.stringContaining('spi-flash'),
    })
  })
  // LINKS: nothing looks safe that was never tried.
  it('that is a script holds until a unit was written by its very steps, and says the cheapest trial', () => {
    const taught = readFamily(tideGateProfile)
    const own = scripted(drivenLink(taught))!
    const did = ['identify', 'enter', 'erase', 'write', 'verify', 'restart']
    const unit = {
      unit: 'North gate',
      serial: 'TG4-1',
      day: '2026-11-20',
      by: null,
      revision: 1,
      profile: '',
    }
    const triedOn = (standIn: boolean, link = own) =>
      trialsOfRuns([{ of: { ...unit, linkId: own.id }, standIn, link, did, enteredByHand: false }])
    const asked = (tried: KeptTrial[]) => judgeDriven(taught, undefined, tried)
    const others = structuredClone(own)
    others.drive.operations.erase!.steps.reverse()
    expect(asked([]).verdict).toBe('hold')
    expect(asked([]).findings[1]!.remedy).toMatch(/^Practise this job.*Read the unit out first.*spare unit/)
    expect(asked(triedOn(true)).verdict).toBe('hold')
    expect(asked(triedOn(true)).findings[1]!.remedy).not.toContain('Practise')
    expect(asked(triedOn(false, others)).verdict).toBe('hold')
    expect(asked(triedOn(false)).verdict).toBe('go')
    // A protocol of the program's own is no script of a profile.
    expect(judgeDriven(demoFamily('buoy-battery'), undefined, []).verdict).toBe('go')
    // On a stand-in nothing can be lost: it is told and holds nothing; the first real unit is held.
    for (const tried of [[], triedOn(true), triedOn(false, others)]) {
      const [, told] = judgeDriven(taught, undefined, tried, true).findings
      expect(told).toMatchObject({ level: 'note', says: expect.stringContaining('not that a real unit') })
    }
    // Where nothing is written it is not asked.
    expect(judgeDriven(taught).verdict).toBe('go')
  })
  it('is named by what is spoken on it', () => {
    const speech = (id: string, linkId?: string) => speechText(drivenLink(demoFamily(id), linkId)!)
    expect(speech('mains-relay')).toMatch(/^XMODEM-1K at [\d\s]+ baud$/)
    expect(speech('buoy-battery')).toMatch(/^Modbus file records at [\d\s]+ baud, address \d+$/)
    expect(speech('tide-logger')).toBe('USB update mode (DFU 1.1)')
    expect(speech('launch-motor', 'bus')).toBe('Diagnostic services on the vehicle bus at 500 kbit/s')
    expect(speech('launch-motor', 'line')).toMatch(/^Diagnostic services on the single wire at [\d\s]+ baud$/)
    expect(speech('beacon-receiver')).toMatch(/^Serial wire at [\d\s]+ kHz$/)
  })
})

describe('the kit', () => {
  const entry = (id: string, form: Partial<KitEntry> = {}): KitEntry =>
    ({ id, name: id, kind: 'tool', essential: true, for: ['Lamp 1'], packed: false, ...form }) as KitEntry
  const level = (entries: KitEntry[], day: string) => judgeKit(entries, day, '2026-11-26').verdict
  it('holds the job the day before and on the day, and reminds earlier', () => {
    expect(level([entry('meter')], '2026-11-28')).toBe('note')
    expect(level([entry('meter')], '2026-11-27')).toBe('hold')
    expect(level([entry('meter')], '2026-11-26')).toBe('hold')
    expect(level([entry('meter')], '2026-11-20')).toBe('hold')
    expect(judgeKit([entry('meter')], '2026-11-27', '2026-11-26').findings[0]!.remedy).toMatch(
      /^Tomorrow is the day/,
    )
    expect(judgeKit([entry('meter')], '2026-11-26', '2026-11-26').findings[0]!.remedy).toMatch(
      /^Tick what you have/,
    )
  })
  it('counts what is essential, and only mentions what is not', () => {
    expect(level([entry('meter', { packed: true })], '2026-11-26')).toBe('go')
    expect(level([entry('meter', { packed: true }), entry('tape', { essential: false })], '2026-11-26')).toBe(
      'note',
    )
    expect(level([entry('meter'), entry('tape', { essential: false, packed: true })], '2026-11-26')).toBe(
      'hold',
    )
    expect(level([], '2026-11-26')).toBe('note')
    const gate = judgeKit([entry('a'), entry('b'), entry('c', { packed: true })], '2026-11-26', '2026-11-26')
    expect(gate.findings[0]).toMatchObject({
      says: '2 of 3 things are not packed.',
      because: 'a; b',
      numbers: { missing: 2, items: 3 },
    })
    expect(gate.numbers).toEqual({ items: 3, packed: 1 })
    expect(judgeKit([entry('a')], '2026-11-26', '2026-11-26').findings[0]!.says).toBe(
      '1 of 1 things is not packed.',
    )
  })
  it('of several jobs is one list: each thing once, essential where one job says so', () => {
    const one = [
      entry('meter', { essential: false, for: ['A'], why: 'volts' }),
      entry('fuse', { for: ['A'] }),
    ]
    const two = [entry('meter', { for: ['B'], why: 'amps' }), entry('meter', { for: ['B'], why: 'amps' })]
    expect(joinKits([one, two], new Set(['fuse']))).toEqual([
      entry('meter', { for: ['A', 'B'], why: 'volts; amps' }),
      entry('fuse', { for: ['A'], packed: true }),
    ])
  })
  it('holds the adapter that was chosen, the laptop with the image, and the charger that was planned', () => {
    const adapter = { id: 'x', name: 'Cable X', form: 'converter', serial: '7' } as Adapter
    const ids = (job: Partial<Parameters<typeof kitOf>[1]>) =>
      kitOf(family({ kit: [{ id: 'own', name: 'Own', kind: 'tool', essential: false }] }), {
        unitName: 'Lamp 1',
        adapter: null,
        imageName: null,
        chargerAmps: null,
        ...job,
      })
    expect(ids({}).map(({ id }) => id)).toEqual(['own'])
    expect(
      ids({ adapter, imageName: 'x.hex', chargerAmps: 6 }).map(({ id, name, kind }) => [id, name, kind]),
    ).toEqual([
      ['adapter-x', 'Cable X, no. 7', 'adapter'],
      ['image-on-disk', 'This laptop, with the images on its own disk', 'card'],
      ['charger-6-a', 'Charger, 6 A or more', 'charger'],
      ['own', 'Own', 'tool'],
    ])
    const { serial: _serial, ...bare } = adapter
    expect(ids({ adapter: { ...bare, form: 'pass-through' } as Adapter })[0]).toMatchObject({
      name: 'Cable X',
      kind: 'cable',
      for: ['Lamp 1'],
    })
    expect(kitOf(family({}), { unitName: 'x', adapter: null, imageName: null, chargerAmps: null })).toEqual(
      [],
    )
  })
})

describe('the laptop of every run', () => {
  const minute = 60_000
  const now = Date.UTC(2026, 10, 26, 8)
  it('that was spoken of by a clock ahead is not known', () => {
    const say = { onMains: true, minutesLeft: null, at: now + 3_600_000 }
    expect(judgeLaptopFor(say, 10 * minute, [], now).verdict).toBe('note')
    expect(judgeLaptopFor({ ...say, at: now + 59_000 }, 10 * minute, [], now).verdict).toBe('go')
  })
  it('counts the bank beside its own battery', () => {
    const bank = { wattHours: 20, laptopWatts: 17 }
    // 20 Wh of which 85 % arrive, at 17 W: an hour.
    expect(
      judgeLaptopFor({ onMains: false, minutesLeft: null, at: now, bank }, 10 * minute, [], now).numbers[
        'minutesLeft'
      ],
    ).toBeCloseTo(60, 9)
    expect(
      judgeLaptopFor({ onMains: false, minutesLeft: 5, at: now, bank }, 33 * minute, [], now).verdict,
    ).toBe('hold')
    expect(
      judgeLaptopFor({ onMains: false, minutesLeft: 6, at: now, bank }, 33 * minute, [], now).verdict,
    ).toBe('go')
    expect(
      judgeLaptopFor({ onMains: false, minutesLeft: 6, at: now, bank: null }, 33 * minute, [], now).verdict,
    ).toBe('stop')
  })
  it('said without a figure is held, and judged without a run by those under way', () => {
    expect(judgeLaptopFor({ onMains: false, minutesLeft: null }, minute, [], now).verdict).toBe('hold')
    const say = { onMains: false, minutesLeft: 30, at: now }
    expect(judgeLaptopFor(say, null, [], now).verdict).toBe('go')
    expect(judgeLaptopFor(say, null, [{ name: 'Davit', leftMs: 16 * minute }], now).verdict).toBe('hold')
  })
})

describe('the bench as one', () => {
  const relay = demoFamily('mains-relay')
  const gates = (said: BenchInputs, form: Partial<Parameters<typeof benchGates>[0]> = {}) =>
    benchGates({
      family: relay,
      said,
      stretches: [{ name: 'write', ms: 60_000, unitAmps: 0.1 }],
      metered: null,
      adapters: [],
      workshopRules: { update: 'current', hops: 'direct', adapters: 'any' },
      kit: [
        {
          id: 'm',
          name: 'Meter',
          kind: 'tool',
          essential: true,
          for: [],
          packed: false,
        } as unknown as KitEntry,
      ],
      day: '2026-11-26',
      today: '2026-11-26',
      now: 0,
      standIn: false,
      ...form,
    })
  const verdicts = (list: ReturnType<typeof gates>) =>
    Object.fromEntries(list.map(({ id, verdict }) => [id, verdict]))
  it('holds what nobody said; on a stand-in that is a reminder', () => {
    expect(verdicts(gates({}))).toMatchObject({ power: 'hold', wiring: 'hold', kit: 'hold', laptop: 'note' })
    expect(verdicts(gates({}, { standIn: true }))).toMatchObject({
      power: 'hold',
      wiring: 'note',
      kit: 'note',
    })
  })
  it('what was said wrong stays wrong on a stand-in too', () => {
    const battery = demoFamily('buoy-battery')
    const said = { isolation: { unplugged: [], scanned: { at: 0, found: [1, 2], silent: 6 } } }
    for (const standIn of [true, false])
      expect(verdicts(gates(said, { family: battery, standIn }))['isolation']).toBe('stop')
  })
  it('judges lead and generator with the supply', () => {
    const inverter = demoFamily('station-inverter')
    const power = (said: BenchInputs) => gates(said, { family: inverter }).find(({ id }) => id === 'power')!
    const usual: BenchInputs = {
      measured: { volts: 53.2, shed: ['pumps', 'heater'], charger: null },
      shed: ['pumps', 'heater'],
    }
    expect(power(usual).verdict).toBe('go')
    expect(power({ ...usual, generator: { watts: 100, chargeAmps: [10], hertz: 50 } }).verdict).toBe('stop')
    expect(
      power({ ...usual, generator: { watts: 1000, chargeAmps: [10], hertz: 47 } }).findings.at(-1),
    ).toMatchObject({
      rule: 'frequency-window',
      level: 'stop',
    })
    const long = power({ ...usual, lead: { metres: 100, squareMillimetres: 1.5 } })
    expect(long.findings.find(({ rule }) => rule === 'lead-drop')!.level).toBe('hold')
  })
  it('a meter outweighs what was typed', () => {
    const typed = { measured: { volts: 5, shed: [], charger: null } }
    const volts = gates(typed, { metered: 3 }).find(({ id }) => id === 'power')!.numbers['supplyVolts']
    expect(volts).toBe(3)
  })
  it('has its gates in the order of the bench', () => {
    expect(gates({}).map(({ id }) => id)).toEqual(['power', 'laptop', 'order', 'wiring', 'isolation', 'kit'])
  })
  it('the laptop carries the whole run, and those that are under way', () => {
    const laptop = (minutesLeft: number, underWay?: { name: string; leftMs: number }[]) =>
      verdicts(
        gates(
          { laptop: { onMains: false, minutesLeft, at: 0 } },
          {
            stretches: [
              { name: 'erase', ms: 600_000, unitAmps: 0.1 },
              { name: 'write', ms: 600_000, unitAmps: 0.1 },
            ],
            ...(underWay ? { underWay } : {}),
          },
        ),
      )['laptop']
    expect(laptop(15)).toBe('stop')
    expect(laptop(60)).toBe('go')
    expect(laptop(60, [{ name: 'Davit', leftMs: 3_600_000 }])).not.toBe('go')
  })
  it('steps of power that nobody took hold a job that is worked by hand', () => {
    const order = (family: Family, done?: string[]) =>
      verdicts(gates(done ? { order: done } : {}, { family }))['order']
    const battery = demoFamily('buoy-battery')
    const steps = battery.powerOrder!.on.map(({ id }) => id)
    const byHand = {
      ...battery,
      links: battery.links.map(({ id, name }) => ({ id, name, kind: 'chip' })),
    } as unknown as Family
    expect(order(battery)).toBe('go')
    expect(order(byHand)).not.toBe('go')
    expect(order(byHand, steps)).toBe('go')
  })
  it('without a description of the supply it goes by the measurement alone', () => {
    const { supply: _supply, ...power } = relay.power
    const bare = { ...relay, power }
    const of = (said: BenchInputs, metered: number | null = null) =>
      gates(said, { family: bare, metered })[0]!
    const measured = (volts: number): BenchInputs => ({ measured: { volts, shed: [], charger: null } })
    expect(of({}).findings.map(({ level }) => level)).toEqual(['hold'])
    expect(of(measured(power.floorVolts - 0.1)).verdict).toBe('stop')
    expect(of(measured(power.floorVolts + 0.3)).numbers['supplyVolts']).toBe(power.floorVolts + 0.3)
    expect(of(measured(power.floorVolts - 0.1), power.floorVolts + 0.3).numbers['supplyVolts']).toBe(
      power.floorVolts + 0.3,
    )
  })
  it('has no course without a run', () => {
    expect(judgeJobPower(relay, {}, [], 3.3)).toBeNull()
    const { supply: _supply, ...power } = relay.power
    expect(judgeJobPower({ power }, {}, [{ name: 'write', ms: 1, unitAmps: 0 }], 3.3)).toBeNull()
  })
  it('what was typed is the measurement of the supply as it stood then; a meter’s is of how it stands now', () => {
    const inverter = demoFamily('station-inverter')
    const stretches = [{ name: 'write', ms: 60_000, unitAmps: 1 }]
    const volts = 52.5
    const shed = ['pumps', 'heater']
    const judge = (typed: BenchInputs['measured'], metered: number | null) =>
      judgeJobPower(inverter, { shed, ...(typed ? { measured: typed } : {}) }, stretches, metered)!.course!
        .points[0]!.charge
    const withAll = judge({ volts, shed: [], charger: null }, null)
    const without = judge({ volts, shed, charger: null }, null)
    // The same volts with the pumps on mean a fuller battery.
    expect(withAll).toBeGreaterThan(without)
    expect(judge({ volts: 1, shed: [], charger: null }, volts)).toBeCloseTo(without, 9)
    expect(judge(null, volts)).toBeCloseTo(without, 9)
  })
  it('on a stand-in only what nobody said is a reminder, each with its reason', () => {
    const battery = demoFamily('buoy-battery')
    const said = { isolation: { unplugged: battery.isolation!.neighbours.map(({ id }) => id) } }
    const levels = (standIn: boolean) =>
      gates(said, { family: battery, standIn })
        .filter(({ id }) => id === 'isolation' || id === 'wiring')
        .flatMap(({ findings }) => findings)
        .map(({ rule, level }) => [rule, level])
    expect(levels(false)).toEqual(
      expect.arrayContaining([
        ['adapter-chosen', 'hold'],
        ['address-switch', 'hold'],
        ['alone-on-bus', 'hold'],
      ]),
    )
    expect(levels(true)).toEqual(
      expect.arrayContaining([
        ['adapter-chosen', 'note'],
        ['address-switch', 'note'],
        ['alone-on-bus', 'note'],
        ['neighbours-off', 'go'],
      ]),
    )
    const kit = gates({}, { standIn: true }).find(({ id }) => id === 'kit')!
    expect(kit.findings[0]!.because).toContain('The port is a stand-in.')
    // Nothing of the supply is softened: the stand-in's battery sags as a real one does.
    expect(gates({}, { standIn: true })[0]).toEqual(gates({})[0])
  })
})

it('the order of power is ticked at the bench where hands do it, and asked in the run where the program does', () => {
  const orderOver = (linkId: string) =>
    benchGates({
      family: demoFamily('signal-desk'),
      said: { wiring: { linkId, joins: [] } },
      stretches: [],
      metered: null,
      adapters: [],
      workshopRules: { update: 'current', hops: 'direct', adapters: 'any' },
      kit: [],
      day: '2026-11-24',
      today: '2026-11-24',
      now: 0,
      standIn: false,
    }).find(({ id }) => id === 'order')!.verdict
  expect(orderOver('socket')).toBe('stop')
  expect(orderOver('clip')).toBe('go')
})
