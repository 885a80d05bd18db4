import { demoFamily } from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import { drivenLink, type DriveOf } from '../../family'
import { isProblem } from '../../kernel'
import type { WantedFuse } from '../../link'
import type { StepContext } from '../step-context'
import { stepActs } from '.'

const link = drivenLink(demoFamily('relay-driver'))!
const { fuses: known } = link.drive as DriveOf<'in-system'>

/** The step alone, on a unit with these fuse bytes; what it set, in its order, and what it told. */
async function setting(
  said: WantedFuse[],
  { released = [] as string[], guard = 0xdc, own = {} as Record<string, unknown>, order = known! } = {},
) {
  const set: string[] = []
  const told: string[] = []
  const values: Record<string, number> = { clock: 0xe4, guard, lock: 0xff }
  const context = {
    link,
    fuses: said,
    releases: released.map((rule) => ({ rule, name: 'A. Lund', reason: 'the board goes to the shelf' })),
    step: 0,
    driver: {
      fuses: {
        read: async () => order.map((fuse) => ({ fuse, value: values[fuse.id]! })),
        set: async (id: string, value: number) => void set.push(`${id} ${value.toString(16)}`),
      },
    },
    wake: { record: async (event: { says?: string }) => void told.push(event.says ?? '') },
    ...own,
  }
  let problem: string | undefined
  try {
    await stepActs.fuses(context as unknown as StepContext)
  } catch (error) {
    if (!isProblem(error)) throw error
    problem = error.facts.kind
  }
  return { set, told, problem }
}

describe('fuses in a run', () => {
  it('are set after they were told, the lock byte last', async () => {
    const { set, told, problem } = await setting([
      { id: 'lock', value: 0xfd },
      { id: 'guard', value: 0xcc },
    ])
    expect(problem).toBeUndefined()
    expect(set).toEqual(['guard cc', 'lock fd'])
    expect(told[0]).toBe('Guard 0xDC to 0xCC: Watchdog, the watchdog always runs.')
    expect(told[1]).toMatch(/Lock 0xFF to 0xFD: Reading, the memory is kept from being read/)
  })
  it('come after every other byte where they lock, wherever the profile names them', async () => {
    const lockFirst = known!.toSorted((a, b) => Number(b.locks ?? false) - Number(a.locks ?? false))
    expect(lockFirst[0]!.id).toBe('lock')
    const said = [
      { id: 'lock', value: 0xfd },
      { id: 'guard', value: 0xcc },
      { id: 'clock', value: 0x64 },
    ]
    const own = { link: { ...link, drive: { ...link.drive, fuses: lockFirst } } }
    const { set } = await setting(said, { own, order: lockFirst })
    expect(set.at(-1)).toBe('lock fd')
    expect(set.toSorted()).toEqual(['clock 64', 'guard cc', 'lock fd'])
  })
  it('are not touched over a link that has none, or another kind of link', async () => {
    const said = [{ id: 'guard', value: 0xcc }]
    const others = [
      { driver: {} },
      { link: null },
      { link: { ...link, drive: { ...link.drive, speaks: 'modbus' } } },
    ]
    for (const own of others)
      expect(await setting(said, { own })).toEqual({ set: [], told: [], problem: undefined })
  })
  it('are left alone where they are right', async () => {
    const { set, told } = await setting([{ id: 'guard', value: 0xdc }])
    expect(set).toEqual([])
    expect(told).toEqual(['The fuses are as the job wants them.'])
  })
  it('that shut the port stop it before any is written, unless that very hold was released', async () => {
    const said = [
      { id: 'clock', value: 0x64 },
      { id: 'guard', value: 0xfc },
    ]
    expect(await setting(said)).toMatchObject({ set: [], problem: 'fuse-locks-out' })
    expect(await setting(said, { released: ['fuse-change'] })).toMatchObject({
      set: [],
      problem: 'fuse-locks-out',
    })
    expect(await setting(said, { released: ['fuse-locks-out'] })).toMatchObject({
      set: ['clock 64', 'guard fc'],
      problem: undefined,
    })
  })
  it('go by what the unit says now, whatever was read before', async () => {
    // Since the page was read somebody shut the port's bit themselves: nothing changes by ours.
    expect(await setting([{ id: 'guard', value: 0xfc }], { guard: 0xfc })).toMatchObject({
      set: [],
      problem: undefined,
    })
  })
})
