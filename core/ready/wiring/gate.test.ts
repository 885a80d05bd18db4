import { demoAdapters, demoBenches, demoFamily } from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import { usualWorkshopRules } from '../../fit'
import { faultOfWire, joinsOfPlug, judgeWiring, type WiringSay } from '.'

/* The gate as a whole, and one wire or plug by itself. */
const family = demoFamily('fog-signal')
const link = family.links[0]!
const wiring = link.wiring!
const say = demoBenches['fog-signal']!.wiring!
const adapter = demoAdapters.find(({ id }) => id === say.adapterId)!
const judge = (said: WiringSay | null | undefined) =>
  judgeWiring(family, demoAdapters, said, usualWorkshopRules)
const rules = (said: WiringSay | null | undefined) =>
  judge(said).findings.map(({ rule, level }) => [rule, level])

describe('the gate', () => {
  it('is called so, and counts what is joined', () => {
    expect(judge(say)).toMatchObject({ id: 'wiring', name: 'Wiring', numbers: { joins: say.joins.length } })
    expect(judge(null).numbers).toEqual({ joins: 0 })
    expect(say.joins.length).toBeGreaterThan(1)
  })
  it('stops at a wiring that was drawn for a link that this unit does not have', () => {
    expect(rules({ ...say, linkId: 'other' })).toEqual([['link-of-hardware', 'stop']])
  })
  it.each([null, undefined, { linkId: link.id, joins: [] }, { ...say, adapterId: 'gone' }])(
    'is held where no adapter is chosen: %j',
    (said) => expect(rules(said)).toEqual([['adapter-chosen', 'hold']]),
  )
  it('says that the profile does not say how it is wired', () => {
    const { wiring: _, ...bare } = link
    const unwired = { ...family, links: [bare] }
    const { findings } = judgeWiring(unwired, demoAdapters, { ...say }, usualWorkshopRules)
    expect(findings.map(({ rule, level }) => [rule, level])).toEqual([['wiring-described', 'note']])
  })
})

describe('one wire', () => {
  const wired = { link, wiring, adapter, say, workshopRules: usualWorkshopRules }
  const fault = (from: string, to: string) =>
    faultOfWire(wired, {
      adapter: adapter.pins.find(({ role }) => role === from)!,
      target: wiring.pins.find(({ role }) => role === to)!,
    })
  // Common practice (PRACTICE C): transmit goes to receive; two outputs on one wire fight, and supply on a signal kills it.
  it('that is joined as it must be has nothing wrong with it', () => {
    expect(fault('transmit', 'receive')).toBeNull()
    expect(fault('ground', 'ground')).toBeNull()
  })
  it('that joins two outputs, or the battery, says what is wrong', () => {
    expect(fault('transmit', 'transmit')).toMatch(/\w/)
    expect(fault('ground', 'supply')).toMatch(/\w/)
  })
})

describe('a plug', () => {
  const jacked = (jack?: string) => ({ ...adapter, ...(jack === undefined ? {} : { jack }) })
  const made = { ...wiring, jack: 'J2' }
  it('made for the jack joins pin to pin what is connected at both ends', () => {
    const own = {
      ...jacked('J2'),
      pins: [
        { id: '1', name: 'GND', role: 'ground' },
        { id: '2', name: 'RX', role: 'receive' },
        { id: '3', name: 'open', role: 'none' },
        { id: '9', name: 'TX', role: 'transmit' },
      ],
    } as typeof adapter
    expect(joinsOfPlug(own, made)).toEqual([
      ['1', '1'],
      ['2', '2'],
    ])
    const open = {
      ...made,
      pins: made.pins.map((pin) => (pin.id === '2' ? { ...pin, role: 'none' as const } : pin)),
    }
    expect(joinsOfPlug(own, open)).toEqual([['1', '1']])
  })
  it('of another pinout, or of none, joins nothing', () => {
    expect(joinsOfPlug(jacked('J3'), made)).toBeNull()
    const { jack: _, ...loose } = adapter
    expect(joinsOfPlug(loose, wiring)).toBeNull()
    expect(joinsOfPlug(loose, made)).toBeNull()
  })
})
