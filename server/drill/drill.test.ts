import { faultDrillsOf, type FaultDrill, type FaultKind } from '@bench-wake/core/entry'
import { readFamily, type Family } from '@bench-wake/core/family'
import { factsOf } from '@bench-wake/core/unit'
import { demoFamily, demoFamilyList } from '@bench-wake/demo'
import { tideGateProfile } from '@bench-wake/testing/tide-gate-profile'
import { describe, expect, it } from 'vitest'
import { playDrill } from './acts'
import { unknownUnit } from './drill-bench'

/** Drills at whose end the image has to lie in the unit. */
const writing: FaultKind[] = ['cut-at-60', 'sag', 'second-unit', 'wrong-variant', 'bad-backup']

/** Equipment of the demo, and one that was taught from its manual and speaks by a link script. */
const families: Family[] = [...demoFamilyList, readFamily(tideGateProfile)]
const drills = families.flatMap((family) =>
  faultDrillsOf(family).map((drill) => [drill.id, family, drill] as const),
)

const played = async (familyId: string, kind: FaultKind) => {
  const family = families.find(({ id }) => id === familyId)!
  const drill = faultDrillsOf(family).find((each) => each.kind === kind)!
  return { ...(await playDrill(family, drill, unknownUnit)), drill }
}

async function homeBy(
  play: Awaited<ReturnType<typeof playDrill>>,
  { kind, order }: FaultDrill,
): Promise<void> {
  const said: string[] = []
  for (const move of order) said.push(...(await play.acts[move]!()))
  expect(play.bench.holds(), said.join('\n')).toBe(writing.includes(kind))
  if (!writing.includes(kind)) expect(said.join('\n')).toMatch(/The bootloader answers/)
}

// The stand-in is the opponent: it speaks its real protocol, and its memory is the truth. PRACTICE F1, F4, D1, B7, E7, G5, H7.
describe('a fault drill on its stand-in', () => {
  it('is there for equipment that was taught, as for any other', () => {
    expect(drills.map(([id]) => id)).toEqual(expect.arrayContaining(['cut-at-60-tide-gate']))
  })
  it.each(drills)(
    '%s: begins with its fault, and the right moves bring the unit home',
    async (_, family, drill) => {
      const play = await playDrill(family, drill, unknownUnit)
      expect(Object.keys(play.acts).sort()).toEqual(drill.moves.map(({ id }) => id).sort())
      expect(play.told.join('')).not.toBe('')
      expect(play.bench.holds()).toBe(false)
      await homeBy(play, drill)
    },
  )
  // One of each kind: what a wrong move does is the kind's, not the family's.
  it.each(drills.filter(([, , { kind }], at) => drills.findIndex((each) => each[2].kind === kind) === at))(
    '%s: can be brought home after every wrong move too',
    async (_, family, drill) => {
      const play = await playDrill(family, drill, unknownUnit)
      for (const { id: move } of drill.moves.filter(({ harm }) => harm)) await play.acts[move]!()
      await homeBy(play, drill)
    },
  )
  it('is played after the unit that the workshop has: its revision, its version', async () => {
    const family = demoFamily('fog-signal')
    const lines = { hardware: '2.0', 'version.main': '2.40' }
    const facts = factsOf(
      {
        at: 0,
        source: 'link',
        lines: Object.entries(lines).map(([field, value]) => ({ field, label: field, value })),
      },
      family,
    )
    const drill = faultDrillsOf(family).find(({ kind }) => kind === 'cut-at-60')!
    const { bench, acts } = await playDrill(family, drill, { serial: 'FS20-00121', facts })
    expect(bench.identify(bench.memory)).toMatchObject({ version: '3.40' })
    // The older one is what was there: fit refuses it over the new one by this family's rules, or says nothing against it.
    expect((await acts['older']!()).join()).toMatch(/2\.40/)
  })
})

describe('what the stand-in says', () => {
  it('of a cut at six tenths: the byte, and a bootloader that waits', async () => {
    const { acts, told, bench } = await played('fog-signal', 'cut-at-60')
    // The first whole block of 1 024 bytes (XMODEM-1K) after six tenths.
    const byte = Number(/At byte ([\d\s]+) of/.exec(told.join())![1]!.replace(/\s/g, ''))
    expect(byte).toBeGreaterThanOrEqual(0.6 * bench.bytes)
    expect(byte).toBeLessThan(0.6 * bench.bytes + 1024)
    await acts['plug']!()
    expect((await acts['re-enter']!()).join()).toMatch(/The bootloader answers: .*FS-20/)
  })
  it('of a swapped pair: silence, and nothing harmed', async () => {
    const { acts, told } = await played('mains-relay', 'swapped-pair')
    expect(told.join()).toMatch(/does not answer/)
    await acts['swap']!()
    expect((await acts['try']!()).join()).toMatch(/QR-4/)
  })
  it.each(['launch-motor', 'boat-davit', 'fog-signal'])(
    'of a start on a supply that sags (%s): above the floor now, below it at the end, and half written when it breaks down',
    async (familyId) => {
      const { bench, acts, told } = await played(familyId, 'sag')
      expect(told.join()).toMatch(/floor/)
      const said = (await acts['quick']!()).join()
      const [, at, whole] = /At byte ([\d\s]+) of ([\d\s]+):/.exec(said)!
      const share = Number(at!.replace(/\s/g, '')) / Number(whole!.replace(/\s/g, ''))
      expect(share).toBeGreaterThan(0.79)
      expect(share).toBeLessThan(0.9)
      expect(bench.holds()).toBe(false)
    },
  )
  it('of a load that is off and a charger that is on: less against it with each, and nothing at the end', async () => {
    const { acts, told } = await played('launch-motor', 'sag')
    expect(told.length).toBeGreaterThan(0)
    await acts['shed']!()
    await acts['charger']!()
    expect((await acts['measure']!()).join()).not.toMatch(/below|falls/i)
  })
  it.each(['buoy-battery', 'station-inverter'])(
    'of two at one address (%s): noise, then one alone',
    async (id) => {
      const { acts, told } = await played(id, 'second-unit')
      expect(told.join('\n')).toMatch(/Address 1: noise/)
      await acts['unplug']!()
      const alone = (await acts['scan']!()).join('\n')
      expect(alone).toMatch(/Address 1: /)
      expect(alone).not.toMatch(/noise/)
    },
  )
  it('of the missed window: by how much', async () => {
    const { told, acts } = await played('launch-motor', 'missed-window')
    // The window is two seconds (the profile's entry); confirmed 2.6 s after the key it is 600 ms late.
    expect(told.join()).toMatch(/600 ms too late/)
    await acts['again']!()
    expect(await acts['in-time']!()).toEqual(['In time.'])
  })
  it('of a backup of FF, and of a true one', async () => {
    const { told, acts } = await played('tide-logger', 'bad-backup')
    expect(told.join()).toMatch(/all FF/)
    await acts['entry']!()
    await acts['read-twice']!()
    expect((await acts['compare']!()).join()).toMatch(/read twice and equal/)
  })
})
