import { demoFamily } from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import { gatesBeforeLink, shutLink, withLikelyCause, type BenchInputs } from '.'
import { usualWorkshopRules as workshopRules } from '../fit'
import { Problem } from '../kernel'
import { onStandIn } from './before-link'

const now = Date.UTC(2026, 10, 26, 8)
const asked = (familyId: string, said: BenchInputs, standIn = false) => ({
  family: demoFamily(familyId),
  said,
  adapters: [],
  workshopRules,
  now,
  standIn,
})
const shut = (familyId: string, said: BenchInputs, standIn = false) =>
  shutLink(gatesBeforeLink(asked(familyId, said, standIn))).map(({ rule, level }) => [rule, level])

const isolated: BenchInputs = {
  order: ['pack-vented', 'pack-on'],
  isolation: {
    unplugged: ['other-packs', 'buoy-controller'],
    levers: [true, false, false, false],
    scanned: { at: now, found: [1], silent: 7 },
  },
}

// PRACTICE D4, D6, D8, F1, F4, common practice: one supply, mains dead, one unit on the bus, before anything is joined.
describe('before the link is opened', () => {
  it('nothing said: order of power, neighbours, adapter and switch each stand in the way, stops first', () => {
    expect(shut('buoy-battery', {})).toEqual([
      ['power-order', 'stop'],
      ['neighbours-off', 'stop'],
      ['adapter-chosen', 'hold'],
      ['address-switch', 'hold'],
      ['alone-on-bus', 'hold'],
    ])
  })
  it('each of them alone shuts it', () => {
    const { isolation, order } = isolated as Required<Pick<BenchInputs, 'isolation' | 'order'>>
    const left = (said: BenchInputs) =>
      shut('buoy-battery', said).filter(([rule]) => rule !== 'adapter-chosen')
    expect(left(isolated)).toEqual([])
    expect(left({ ...isolated, order: [] })).toEqual([['power-order', 'stop']])
    expect(left({ ...isolated, order: order.slice(0, 1) })).toEqual([['power-order', 'hold']])
    expect(left({ ...isolated, isolation: { ...isolation, unplugged: ['other-packs'] } })).toEqual([
      ['neighbours-off', 'stop'],
    ])
    expect(
      left({ ...isolated, isolation: { ...isolation, scanned: { at: now, found: [1, 2], silent: 6 } } }),
    ).toEqual([['alone-on-bus', 'stop']])
  })
  it('mains that nobody proved dead is a stop, on whatever the link is', () => {
    expect(shut('mains-relay', {})[0]).toEqual(['power-order', 'stop'])
  })
  it('a hold passes by name, a stop never', () => {
    const gates = gatesBeforeLink(asked('buoy-battery', {}))
    const rules = shutLink(gates).map(({ rule }) => rule)
    expect(shutLink(gates, rules).map(({ rule }) => rule)).toEqual(['power-order', 'neighbours-off'])
  })
  it('a stand-in has nothing joined: what is unsaid reminds; a neighbour that is left still stops', () => {
    expect(shut('buoy-battery', {}, true)).toEqual([['neighbours-off', 'stop']])
    expect(shut('fog-signal', {}, true)).toEqual([])
    const wrongLever: BenchInputs = {
      isolation: { ...isolated.isolation, levers: [false, true, false, false] },
    }
    expect(shut('buoy-battery', wrongLever, true)).toEqual([['address-switch', 'stop']])
    const [order] = gatesBeforeLink(asked('fog-signal', {}))
    expect(onStandIn(order!).findings[0]!.level).toBe('stop')
    expect(onStandIn(order!, ['power-order']).verdict).toBe('note')
  })
  it('a family whose image goes in by hand has no link to be judged', () => {
    const bySocket: BenchInputs = { wiring: { linkId: 'socket', joins: [] } }
    expect(gatesBeforeLink(asked('signal-desk', bySocket))).toEqual([])
    // The same desk has a clip, which this program opens: unsaid, or said, it is judged.
    expect(shut('signal-desk', {})[0]).toEqual(['power-order', 'stop'])
    expect(shut('signal-desk', { wiring: { linkId: 'clip', joins: [] } })[0]).toEqual(['power-order', 'stop'])
  })
  it('a bus that the profile says nothing about is not known, and shut', () => {
    const { isolation: _isolation, powerOrder: _order, ...bare } = demoFamily('buoy-battery')
    const gates = gatesBeforeLink({ ...asked('buoy-battery', {}), family: bare })
    expect(shutLink(gates).map(({ rule }) => rule)).toContain('alone-on-bus')
  })
})

// PRACTICE F2, F4, common practice.
describe('a reading that failed', () => {
  const gates = gatesBeforeLink(asked('buoy-battery', {}, true))
  const failed = (kind: string) =>
    withLikelyCause(new Problem({ kind, says: 'it failed', remedy: 'Try again.' }), gates).facts.remedy
  it('garbled: two units at once, and the tick that mends it', () => {
    expect(failed('modbus-frame')).toMatch(
      /^Try again\. Likely: Two units that speak at the same time\. Look first here: Every other pack and the buoy’s controller still hang on it\. Unplug every other pack\./,
    )
  })
  it('silent: power first', () => {
    expect(failed('modbus-silent')).toMatch(/Likely: No power, .* Look first here: Next: Pack’s vent plug/)
  })
  it('what tells nothing of the bench is left as it is', () => {
    expect(failed('port-held')).toBe('Try again.')
  })
  it('with all of it right it names the cause alone', () => {
    const right = gates.map((gate) => ({ ...gate, findings: [] }))
    const { remedy } = withLikelyCause(
      new Problem({ kind: 'uds-silent', says: 'it failed', remedy: 'Try again.' }),
      right,
    ).facts
    expect(remedy).toMatch(/^Try again\. Likely: No power/)
    expect(remedy).not.toContain('Look first')
  })
})
