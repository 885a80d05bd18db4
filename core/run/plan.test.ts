import { componentOf, drivenLink, readFamily, type Family } from '@bench-wake/core/family'
import { describe, expect, it } from 'vitest'
import { tideGateProfile } from '@bench-wake/testing/tide-gate-profile'
import type { MemoryMap } from '../image'
import { Problem } from '../kernel'
import { hopMs, loadsOf, planElsewhere, planMedium, planPieces, planRun, planSwap } from '.'
import { enterStep, entryOf, untilRead } from './plan'

/*
 * What a run is going to do, step by step, worked by hand over the tide gate: 4096 bytes a sector, 256 a page, 2 ms to erase a
 * sector and 0.1 ms to write a page, from 0x8000 to 0x10000.
 */

const gate = (more: object = {}): Family => readFamily({ ...structuredClone(tideGateProfile), ...more })
const family = gate()
const component = componentOf(family, 'main')
const link = drivenLink(family)!
const segment = (address: number, length: number, fill = 1) => ({
  address,
  bytes: new Uint8Array(length).fill(fill),
})
const kinds = (steps: readonly { kind: string }[]) => steps.map(({ kind }) => kind)
const says = (steps: readonly { says: string }[]) => steps.map((each) => each.says)
/** Two blocks of memory of which either may be written, and one that may not. */
const twoRegions = (() => {
  const document = structuredClone(tideGateProfile) as { components: { memory: { regions: object[] } }[] }
  const [own] = document.components[0]!.memory.regions
  document.components[0]!.memory.regions.push({
    ...own,
    name: 'Tables',
    address: '0x20000',
    length: '0x2000',
  })
  return readFamily(document)
})()

describe('what is sent', () => {
  it('is one transfer a region, with what the image leaves open as erased memory', () => {
    const [load, ...more] = loadsOf(component, [segment(0x8000, 4), segment(0x8008, 4, 2)] as MemoryMap)
    expect(more).toEqual([])
    expect(load!.address).toBe(0x8000)
    expect([...load!.bytes]).toEqual([1, 1, 1, 1, 255, 255, 255, 255, 2, 2, 2, 2])
  })
  it('counts every sector that it touches, and every page that it begins', () => {
    const counted = (address: number, length: number) => {
      const { sectors, pages, eraseMs, programMs } = loadsOf(component, [segment(address, length)])[0]!
      return [sectors, pages, eraseMs, programMs]
    }
    expect(counted(0x8000, 1)).toEqual([1, 1, 2, 0.1])
    expect(counted(0x8000, 256)).toEqual([1, 1, 2, 0.1])
    expect(counted(0x8000, 257)).toEqual([1, 2, 2, 0.2])
    expect(counted(0x8000, 4096)).toEqual([1, 16, 2, 1.6])
    expect(counted(0x8000, 4097)).toEqual([2, 17, 4, expect.closeTo(1.7, 9)])
    // Two bytes across a border of sectors touch both.
    expect(counted(0x8fff, 2)).toEqual([2, 1, 4, 0.1])
    expect(counted(0x9000, 4096)).toEqual([1, 16, 2, 1.6])
  })
  it('is a transfer for each region that the image has bytes in, and none for the others', () => {
    const both = componentOf(twoRegions, 'main')
    expect(
      loadsOf(both, [segment(0x8000, 4), segment(0x20000, 8)]).map(({ address, bytes }) => [
        address,
        bytes.length,
      ]),
    ).toEqual([
      [0x8000, 4],
      [0x20000, 8],
    ])
    expect(loadsOf(both, [segment(0x20000, 8)]).map(({ address }) => address)).toEqual([0x20000])
  })
  it.each([
    ['below', 0x7ff0, 4],
    ['above', 0x10000, 4],
    ['elsewhere', 0x100000, 4],
  ])('an image with bytes %s of what may be written is refused', (_, address, length) => {
    const made = () =>
      loadsOf(
        component,
        [segment(0x8000, 4), segment(address, length)].toSorted((a, b) => a.address - b.address),
      )
    expect(made).toThrow(Problem)
    expect(made).toThrow(/outside the memory that may be written/)
  })
  it('to the last byte of the region it may', () => {
    expect(loadsOf(component, [segment(0xfff0, 16)])[0]!.bytes).toHaveLength(16)
  })
})

describe('a run over a link', () => {
  const loads = loadsOf(component, [segment(0x8000, 8192)])
  const plan = planRun(family, component, link, loads)

  it('reads first, changes then, proves last', () => {
    expect(kinds(plan)).toEqual([
      'connect',
      'identify',
      'enter',
      'backup',
      'compare',
      'erase',
      'write',
      'verify',
      'restart',
      'prove',
    ])
  })
  it('says what each step does', () => {
    expect(says(plan)).toEqual([
      'Open the port at 115\u00a0200 baud',
      'Read what the unit says of itself',
      'By command',
      'Read out the original, twice 32\u00a0768 bytes',
      'Hold the image against what is in the unit',
      'Erase 2 sectors',
      'Write 8\u00a0192 bytes',
      'Compare the checksum over what is in the unit',
      'Start the new firmware, then power off and on',
      'Read the main processor’s version from the unit',
    ])
    expect(says(planRun(family, component, link, loadsOf(component, [segment(0x8000, 16)])))[5]).toBe(
      'Erase 1 sector',
    )
  })
  it('wants hands off from the erase to the check, and hands on the supply at the restart', () => {
    expect(plan.filter(({ handsOff }) => handsOff).map(({ kind }) => kind)).toEqual([
      'backup',
      'erase',
      'write',
      'verify',
    ])
    expect(plan.map(({ personMs }) => personMs)).toEqual([0, 0, 0, 0, 0, 0, 0, 0, 15_000, 0])
  })
  it('counts the memory’s own times beside the wire’s', () => {
    const of = (kind: string) => plan.find((each) => each.kind === kind)!
    // Two sectors at 2 ms, and a line of 1.5 ms for each.
    expect(of('erase').predictedMs).toBe(7)
    // 8 192 bytes of ten bits at 115 200 baud are 711 ms, and 32 pages 3.2 ms: no less.
    expect(of('write').predictedMs).toBeGreaterThanOrEqual(714)
    // Twice the time that the profile gives for a start.
    expect(of('restart').predictedMs).toBeGreaterThanOrEqual(400)
    expect(of('connect').predictedMs).toBe(50)
    for (const { predictedMs } of plan) expect(Number.isInteger(predictedMs)).toBe(true)
  })
  it('is switched on as ordered first, and settings that an update erases are kept before it is entered', () => {
    const ordered = gate({
      powerOrder: {
        on: [
          { id: 'main', does: 'Main switch on.' },
          { id: 'aux', does: 'Aux on.' },
        ],
        off: [],
      },
      backup: { firmware: 'own', settings: { says: 'Write the tide table down.', back: 'Type it in.' } },
    } as never)
    const steps = planRun(ordered, componentOf(ordered, 'main'), drivenLink(ordered)!, loads)
    expect(kinds(steps).slice(0, 5)).toEqual(['power-up', 'connect', 'identify', 'settings', 'enter'])
    expect(steps[0]).toMatchObject({ says: 'Power as ordered, 2 steps', personMs: 20_000 })
    expect(steps[3]!.personMs).toBe(120_000)
  })
  it('of two components enters once, looks at both before it erases one, and proves both', () => {
    const pieces = [0, 1].map(() => ({ component, loads }))
    const steps = planPieces(family, link, pieces)
    expect(steps.map(({ kind, piece }) => `${kind}${piece ?? ''}`)).toEqual([
      ...['connect', 'identify', 'enter', 'backup0', 'compare0', 'backup1', 'compare1'],
      ...['erase0', 'write0', 'verify0', 'erase1', 'write1', 'verify1', 'restart', 'prove'],
    ])
    expect(steps.find(({ kind }) => kind === 'erase')!.says).toBe('Main processor: erase 2 sectors')
    expect(steps.at(-1)!.says).toBe('Read 2 versions from the unit: main processor, main processor')
  })
})

describe('the way in', () => {
  const byHand = {
    id: 'keys',
    name: 'Two keys',
    kind: 'by-hand',
    steps: ['Hold both.', 'Supply on.', 'Let go.'],
    settleMs: 500,
    tries: 2,
  }
  const command = tideGateProfile.entry[0]!
  it('is by command where the link can say one, whatever stands first', () => {
    const both = gate({ entry: [byHand, command] })
    expect(entryOf(both, drivenLink(both)!).id).toBe('by-command')
  })
  it('is by hand where there is no other, and each act takes its time', () => {
    const hands = gate({ entry: [byHand] })
    const entry = enterStep(hands, drivenLink(hands)!)
    expect(entry).toMatchObject({ says: 'Two keys', personMs: 30_000 })
    expect(entry.predictedMs).toBeGreaterThanOrEqual(500)
    expect(enterStep(family, link).personMs).toBe(0)
  })
  it('begins with power as ordered, where there is an order', () => {
    expect(kinds(untilRead(family, link))).toEqual(['connect', 'identify'])
    const one = gate({ powerOrder: { on: [{ id: 'main', does: 'Main switch on.' }], off: [] } } as never)
    expect(untilRead(one, link)[0]).toMatchObject({
      kind: 'power-up',
      says: 'Power as ordered, one step',
      personMs: 10_000,
    })
  })
})

describe('writes that hands do', () => {
  const change = [
    { does: 'Mains off.' },
    { does: 'Check the new chip is blank.', blank: true },
    { does: 'Change it.' },
  ]
  const withChip = (steps: object[]) => ({ ...family, chipReplacement: steps }) as unknown as Family
  it('a chip: each step by hand; of one that comes ready the blank check is none', () => {
    const steps = planSwap(withChip(change), component)
    expect(kinds(steps)).toEqual(['swap', 'look'])
    expect(steps[0]).toMatchObject({ says: 'Change the chip, 3 steps', personMs: 90_000 })
    expect(steps[1]).toMatchObject({ says: 'See the main processor’s version on the unit', personMs: 30_000 })
    expect(planSwap(withChip(change), component, { ready: true })[0]).toMatchObject({
      says: 'Change the chip, 2 steps',
      personMs: 60_000,
    })
    expect(planSwap(withChip(change.slice(0, 1)), component)[0]!.says).toBe('Change the chip, one step')
  })
  it('a card: its questions, and the minutes that the unit takes', () => {
    const medium = (count: number, minutes = 4) =>
      planMedium(family, component, {
        name: 'memory card',
        update: { prompts: Array.from({ length: count }, () => ({})), minutes },
      } as never)[0]!
    expect(medium(3)).toMatchObject({
      kind: 'media',
      says: 'Memory card in, and 3 questions of the unit',
      personMs: 50_000,
      predictedMs: 240_000,
    })
    expect(medium(1).says).toBe('Memory card in, and one question of the unit')
    expect(medium(0).says).toBe('Memory card in')
  })
  it('stand between power as ordered and a look', () => {
    const ordered = { ...withChip(change), powerOrder: { on: [{}, {}], off: [] } } as unknown as Family
    expect(kinds(planSwap(ordered, component))).toEqual(['power-up', 'swap', 'look'])
    expect(planSwap(ordered, component)[0]).toMatchObject({
      says: 'Power as ordered, 2 steps',
      personMs: 20_000,
    })
  })
})

describe('a write with another tool', () => {
  const segments = [{ address: 0x8000, length: 8000 }]
  it('goes by the usual rate of the link and the memory’s own times', () => {
    const steps = planElsewhere(family, component, segments)
    expect(kinds(steps)).toEqual(['connect', 'enter', 'erase', 'write', 'restart', 'prove'])
    const [connect, enter, erase, write, restart, prove] = steps
    expect(connect).toMatchObject({ says: 'Join service jack', personMs: 20_000, predictedMs: 0 })
    expect(enter).toMatchObject({ predictedMs: 100, personMs: 0 })
    // 8 000 bytes at 8 000 bytes a second, and 32 pages at 0.1 ms.
    expect(erase).toMatchObject({ says: 'Erase 2 sectors', predictedMs: 4, handsOff: true })
    expect(write).toMatchObject({ predictedMs: 1003, handsOff: true })
    expect(restart).toMatchObject({ predictedMs: 400, personMs: 15_000 })
    expect(prove!.personMs).toBe(30_000)
    expect(planElsewhere(family, component, [{ address: 0x8000, length: 4096 }])[2]!.says).toBe(
      'Erase 1 sector',
    )
  })
  it('by the component’s usual time where one is known, erase and write together', () => {
    const usual = { ...component, usualMs: 60_000 }
    expect(planElsewhere(family, usual, segments)[3]!.predictedMs).toBe(60_000 - 4)
    expect(planElsewhere(family, { ...component, usualMs: 3 }, segments)[3]!.predictedMs).toBe(0)
  })
  it('takes what lies in the region alone, to its last byte', () => {
    const sectors = (address: number, length: number) =>
      planElsewhere(family, component, [{ address, length }])[2]!.says
    expect(sectors(0xffff, 1)).toBe('Erase 1 sector')
    expect(sectors(0x10000, 4096)).toBe('Erase 0 sectors')
    expect(sectors(0x7000, 4096)).toBe('Erase 0 sectors')
    expect(sectors(0x7fff, 2)).toBe('Erase 1 sector')
  })
  it('weighs a hop of a path by the same figures, and the restart with its hands', () => {
    const elsewhere = { ...family, links: [{ ...family.links[0]!, drive: undefined }] } as unknown as Family
    // 1 000 + 4 + 3.2 ms, and 2 × 200 + 15 000 ms.
    expect(hopMs(elsewhere, component, segments)).toBeCloseTo(16_407.2, 6)
    expect(hopMs(family, { ...component, usualMs: 60_000 }, segments)).toBe(75_400)
    const silent = { ...family, links: [] } as unknown as Family
    expect(hopMs(silent, component, segments)).toBeCloseTo(15_407.2, 6)
    // Over the link that it drives it is no less than the bits of the wire.
    expect(hopMs(family, component, segments)).toBeGreaterThan(15_400 + 4 + 694)
  })
})
