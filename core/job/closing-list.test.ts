import { demoFamilies, demoFamily } from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import { closingLeft, closingList, itsTurn, type ClosingAsked } from '.'
import { checkFamily, type Family } from '../family'
import type { BenchInputs } from '../ready'
import type { RunState } from '../run'

const proved = (more: Partial<RunState> = {}, standIn = true) =>
  ({
    outcome: 'proved',
    aftercare: [],
    facts: { image: { version: '3.6' }, port: { id: 'p', name: 'p', standIn } },
    ...more,
  }) as unknown as RunState
const asked = (said: BenchInputs, more: Partial<ClosingAsked> = {}): ClosingAsked => ({
  said,
  back: [],
  run: proved(),
  ...more,
})
const ids = (family: Family, form: ClosingAsked) => closingList(family, form).map(({ id }) => id)
const behind = (list: string[], ...order: string[]) => {
  const places = order.map((id) => list.indexOf(id))
  expect(places).not.toContain(-1)
  expect(places).toEqual([...places].sort((a, b) => a - b))
}

// PRACTICE D8, I3, J1 to J3, common practice.
describe('one list after the proof, in the order the unit needs', () => {
  const inverter = demoFamily('station-inverter')
  const off: BenchInputs = { isolation: { unplugged: ['second-inverter', 'monitor'] } }
  it('a neighbour’s plug is demanded back though no profile writes it; one that the profile brings back is asked once', () => {
    const list = ids(inverter, asked(off))
    expect(list).toContain('back-second-inverter')
    expect(list.filter((id) => id.includes('monitor'))).toEqual(['monitor'])
    // What was never taken off is not asked back.
    expect(ids(inverter, asked({}))).not.toContain('back-second-inverter')
  })
  it('plugs before power, power before the test', () => {
    behind(ids(inverter, asked(off)), 'back-second-inverter', 'back-panels-on', 'back-loads-on', 'load')
    behind(ids(inverter, asked(off)), 'monitor', 'back-panels-on')
    const arm: BenchInputs = { isolation: { unplugged: ['remote-panel'] } }
    behind(ids(demoFamily('boat-davit'), asked(arm)), 'bad-data', 'panel', 'back-drives-on', 'joints')
  })
  it('a pair runs one version: its neighbour is looked at once it is back', () => {
    const list = closingList(inverter, asked(off))
    const pair = list.find(({ id }) => id === 'pair-second-inverter')!
    expect(pair.expect).toBe('It says 3.6 too; else it is written next.')
    expect(pair.after).toEqual(['back-second-inverter'])
    expect(itsTurn(list, pair)).toBe(false)
    expect(itsTurn(closingList(inverter, asked(off, { back: ['second-inverter'] })), pair)).toBe(true)
    expect(ids(inverter, asked({ isolation: { unplugged: ['monitor'] } }))).not.toContain(
      'pair-second-inverter',
    )
  })
  it('a fuse, a charger and the adapter of a real port come back; on a stand-in no adapter was joined', () => {
    const launch = demoFamily('launch-motor')
    const [load] = launch.power.supply!.loads
    const said: BenchInputs = {
      shed: [load!.id],
      charger: { amps: 6, volts: 14 } as never,
      wiring: { linkId: 'bus', adapterId: 'can-adapter', joins: [] },
    }
    // PRACTICE J3: key off, computer end, unit end, service jumper out, fuses back.
    const real = ids(launch, asked(said, { run: proved({}, false) }))
    behind(
      real,
      'back-key-off',
      'back-adapter-off',
      'back-service-jumper',
      `back-load-${load!.id}`,
      'back-charger',
      'run',
    )
    const radio = demoFamily('marine-radio')
    const onCable: BenchInputs = { wiring: { linkId: 'cable', adapterId: 'radio-cable', joins: [] } }
    expect(ids(radio, asked(onCable, { run: proved({}, false) }))).toContain('back-adapter')
    expect(ids(radio, asked(onCable))).not.toContain('back-adapter')
    // A step of the family's own order that takes the adapter off is enough.
    const relay = demoFamily('mains-relay')
    const onHeader: BenchInputs = { wiring: { linkId: 'header', adapterId: 'serial-green', joins: [] } }
    const list = ids(relay, asked(onHeader, { run: proved({}, false) }))
    expect(list.filter((id) => /adapter|header/.test(id))).toEqual(['back-header-off'])
    // PRACTICE D8: final test on mains with the cover on.
    behind(list, 'back-header-off', 'back-cover-on', 'cover')
  })
  const afterOf = (family: Family, form: ClosingAsked, id: string) =>
    closingList(family, form).find((item) => item.id === id)!.after
  it('each waits for what it needs, and for nothing else', () => {
    const arm: BenchInputs = { isolation: { unplugged: ['remote-panel'] } }
    const davit = demoFamily('boat-davit')
    // Power after the plugs that the profile itself brings back, then one after the other.
    expect(afterOf(davit, asked(arm), 'back-drives-on')).toEqual(['panel'])
    expect(afterOf(davit, asked(arm), 'back-brake-off')).toEqual(['back-drives-on'])
    expect(afterOf(davit, asked(arm), 'panel')).toEqual([])
    // A test waits for all that comes back; what looks alarming holds nothing.
    expect(afterOf(davit, asked(arm), 'joints')).toEqual(['panel', 'back-drives-on', 'back-brake-off'])
    expect(afterOf(davit, asked(arm), 'bad-data')).toEqual([])
    expect(afterOf(inverter, asked(off), 'back-panels-on')).toEqual(['back-second-inverter', 'monitor'])
    const list = closingList(davit, asked(arm))
    const turn = (id: string, of = list) =>
      itsTurn(
        of,
        of.find((item) => item.id === id)!,
      )
    expect(['bad-data', 'panel', 'back-drives-on', 'joints'].map((id) => turn(id))).toEqual([
      true,
      true,
      false,
      false,
    ])
    const plugged = proved({ aftercare: [{ item: 'panel', outcome: 'done' }] as never })
    const then = closingList(davit, asked(arm, { run: plugged }))
    expect(['back-drives-on', 'joints'].map((id) => turn(id, then))).toEqual([true, false])
    const whole = closingList(davit, asked(arm, { run: plugged, back: ['drives-on', 'brake-off'] }))
    expect(turn('joints', whole)).toBe(true)
    // What is not in the list holds nobody up.
    expect(itsTurn([], { ...list[0]!, after: ['gone'] })).toBe(true)
  })
  it('what the profile says it needs stands in the place of all, and what was never taken off is no need', () => {
    const fog = demoFamily('fog-signal')
    const needing = (needs: string[]): Family => ({
      ...fog,
      postUpdateTasks: fog.postUpdateTasks!.map((item) => (item.id === 'sounds' ? { ...item, needs } : item)),
    })
    expect(afterOf(needing(['first-blast']), asked({}), 'sounds')).toEqual(['first-blast'])
    expect(afterOf(needing(['panels-on']), asked({}), 'sounds')).toEqual(['back-panels-on'])
    expect(afterOf(needing(['charger', 'panels-on']), asked({}), 'sounds')).toEqual(['back-panels-on'])
    expect(afterOf(needing([]), asked({}), 'sounds')).toEqual([])
    // One that is needed comes before, however the profile lists them.
    const turned: Family = { ...fog, postUpdateTasks: [...fog.postUpdateTasks!].reverse() }
    const late: Family = {
      ...turned,
      postUpdateTasks: turned.postUpdateTasks!.map((item) =>
        item.id === 'interval' ? { ...item, needs: ['sounds'] } : item,
      ),
    }
    behind(ids(turned, asked({})), 'interval', 'sounds')
    behind(ids(late, asked({})), 'sounds', 'interval')
    expect(closingList(late, asked({}))).toHaveLength(4)
  })
  it('cautions and signs come along; a word of blanks is none', () => {
    const fog = demoFamily('fog-signal')
    const list = closingList(fog, asked({}))
    const [blast, panels] = list
    expect(blast).toMatchObject({ caution: expect.stringContaining('Ears'), expect: expect.any(String) })
    expect(panels).toMatchObject({ id: 'back-panels-on', caution: expect.stringContaining('Battery first') })
    expect(panels).not.toHaveProperty('expect')
    const blank = proved({ aftercare: [{ item: 'sounds', outcome: 'failed', note: '  ' }] as never })
    expect(closingLeft(closingList(fog, asked({}, { run: blank }))).map(({ id }) => id)).toContain('sounds')
  })
  it('nothing closes while one is left; a test that is not well wants a word', () => {
    const fog = demoFamily('fog-signal')
    const left = (form: Partial<ClosingAsked>) =>
      closingLeft(closingList(fog, asked({}, form))).map(({ id }) => id)
    expect(left({})).toEqual(['first-blast', 'back-panels-on', 'sounds', 'interval'])
    const says = (item: string, outcome: string, note?: string) => ({
      item,
      outcome,
      ...(note ? { note } : {}),
    })
    const run = proved({
      aftercare: [
        says('first-blast', 'done'),
        says('sounds', 'failed'),
        says('interval', 'not-needed'),
      ] as never,
    })
    expect(left({ run, back: ['panels-on'] })).toEqual(['sounds'])
    const word = proved({
      aftercare: [
        says('first-blast', 'done'),
        says('sounds', 'failed', 'The horn is silent.'),
        says('interval', 'done'),
      ] as never,
    })
    expect(left({ run: word, back: ['panels-on'] })).toEqual([])
    expect(left({ run: word })).toEqual(['back-panels-on'])
  })
  it('without a proof only what was taken off is due, and without a run nothing of the order of power', () => {
    const cut = proved({ outcome: 'cut' } as Partial<RunState>)
    expect(ids(inverter, asked(off, { run: cut }))).toEqual([
      'back-second-inverter',
      'back-monitor',
      'back-panels-on',
      'back-loads-on',
    ])
    expect(ids(inverter, asked(off, { run: null }))).toEqual(['back-second-inverter', 'back-monitor'])
    expect(ids(inverter, asked({ order: ['loads-off'] }, { run: null }))).toEqual([
      'back-panels-on',
      'back-loads-on',
    ])
  })
  it('a minimal profile has nothing to bring back and nothing to test', () => {
    const { postUpdateTasks: _care, powerOrder: _order, isolation: _isolation, ...bare } = inverter
    expect(closingList(bare, asked(off))).toEqual([])
  })
})

describe('what a profile says of its closing is checked', () => {
  const faults = (change: (task: Record<string, unknown>[]) => void) => {
    const document = JSON.parse(JSON.stringify(demoFamilies.find(({ id }) => id === 'fog-signal'))) as {
      postUpdateTasks: Record<string, unknown>[]
    }
    change(document.postUpdateTasks)
    return checkFamily(document)
      .faults.filter(({ at }) => at.startsWith('postUpdateTasks'))
      .map(({ at, says }) => `${at}: ${says}`)
  }
  it('names what is not there, and two that wait for each other', () => {
    expect(faults(() => {})).toEqual([])
    expect(faults(([, sounds]) => (sounds!['needs'] = ['panels-on', 'first-blast']))).toEqual([])
    expect(faults(([, sounds]) => (sounds!['needs'] = ['horn']))).toEqual([
      'postUpdateTasks.1.needs.0: There is nothing called "horn" after a run',
    ])
    expect(
      faults(([, sounds, interval]) => {
        sounds!['needs'] = ['interval']
        interval!['needs'] = ['sounds']
      }),
    ).toHaveLength(2)
  })
})
