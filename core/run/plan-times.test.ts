import { componentOf, drivenLink, readFamily, type Family } from '@bench-wake/core/family'
import { demoFamily } from '@bench-wake/demo'
import { tideGateProfile } from '@bench-wake/testing/tide-gate-profile'
import { describe, expect, it } from 'vitest'
import { loadsOf, planPieces, type Step } from '.'
import { enterStep, entryOf, untilRead } from './plan'

/*
 * What each step of a run takes over the links themselves, worked by hand from the figures of the profiles: a question that is
 * asked is added and never taken away, and what the memory needs stands beside what the wire needs.
 */

function write(
  family: Family,
  componentId: string,
  length: number,
  fuses: { id: string; value: number }[] = [],
) {
  const link = drivenLink(family)!
  const component = componentOf(family, componentId)
  const { address } = component.memory.regions.find(({ use }) => use === 'application')!
  const loads = loadsOf(component, [{ address, bytes: new Uint8Array(length).fill(7) }])
  const plan = planPieces(family, link, [{ component, loads }], { backup: 'always' }, fuses)
  const times = Object.fromEntries(plan.map(({ kind, predictedMs }) => [kind, predictedMs]))
  const of = (kind: Step['kind']) => plan.find((step) => step.kind === kind)
  return { plan, times, of, link, component, loads }
}

describe('over update mode', () => {
  /*
   * USB 2.0 and DFU 1.1: a block of 1 024 bytes takes (45 + 1 024 + 15 x 13) / 1 500 ms and its status, asked twice, 51 / 1 500
   * ms each: 0.9107 ms. The profile: 1 024 bytes a sector at 18 ms, 256 a page at 1.5 ms, 0x1E000 in all, 2 s to start.
   */
  const { plan, times, of } = write(demoFamily('tide-logger'), 'logger', 4096)
  it('reads back what it wrote: each step has the wire, the memory and a question of 20 ms', () => {
    expect(times).toEqual({
      'power-up': 0,
      connect: 50,
      identify: 20,
      enter: 1000 + 2 * 20,
      // Twice 120 blocks.
      backup: 219,
      // Four blocks are 3.64 ms.
      compare: 24,
      // 3.64 ms, 16 pages, 4 sectors that the unit erases as it takes them, a question.
      write: 120,
      verify: 24,
      restart: 2 * 2000 + 20,
      prove: 20,
    })
    // Manifestation, 40 ms.
    expect(of('write')!.tailMs).toBe(40)
    expect(plan.map(({ kind }) => kind)).not.toContain('erase')
  })
  it('nobody touches it while it is read, written and checked', () => {
    expect(plan.filter(({ handsOff }) => handsOff).map(({ kind }) => kind)).toEqual([
      'backup',
      'write',
      'verify',
    ])
    expect(of('verify')!.says).toBe('Read back what is in the unit and compare')
    expect(of('connect')!.says).toBe('Open USB jack under the lid')
  })
})

describe('over six lines', () => {
  const family = demoFamily('relay-driver')
  it('the whole memory goes at once, and the fuse bytes are set behind the check', () => {
    const { times, of, plan } = write(family, 'driver', 640, [{ id: 'clock', value: 0xe4 }])
    // 12 ms for the whole memory, and one line of 1.5 ms.
    expect(of('erase')).toMatchObject({ says: 'Erase the whole memory', predictedMs: 14, handsOff: true })
    // A question takes 150 ms: two for the entry, three for fuse bytes that are read, set and read again.
    expect(times).toMatchObject({ identify: 150, enter: 350, fuses: 450, restart: 1150, prove: 150 })
    expect(of('fuses')).toMatchObject({ says: 'Set the fuse bytes, and read them back', handsOff: true })
    const kinds = plan.map(({ kind }) => kind)
    expect(kinds.slice(kinds.indexOf('verify'))).toEqual(['verify', 'fuses', 'restart', 'prove'])
    expect(times['compare']).toBe(times['verify'])
    expect(times['compare']).toBeGreaterThan(150)
  })
  it('fuse bytes that nobody wants otherwise are no step, and other links have none', () => {
    const left = structuredClone(family)
    const { drive } = drivenLink(left)!
    if (drive.speaks !== 'in-system') throw new Error('another way in')
    for (const fuse of drive.fuses!) delete fuse.wanted
    expect(write(left, 'driver', 640).of('fuses')).toBeUndefined()
    expect(write(left, 'driver', 640, [{ id: 'clock', value: 0xd9 }]).of('fuses')).toBeDefined()
    expect(
      write(demoFamily('tide-logger'), 'logger', 640, [{ id: 'clock', value: 1 }]).of('fuses'),
    ).toBeUndefined()
  })
})

describe('over a vehicle’s bus', () => {
  it('fault codes are read, cleared and read again behind the proof', () => {
    const family = demoFamily('launch-motor')
    const { plan, of, times } = write(family, family.components[0]!.id, 640)
    expect(plan.at(-1)).toMatchObject({ kind: 'faults', says: 'Fault codes: read, clear, read again' })
    expect(times['faults']).toBe(3 * times['identify']!)
    expect(of('verify')!.predictedMs).toBe(times['identify'])
    expect(write(demoFamily('tide-logger'), 'logger', 640).of('faults')).toBeUndefined()
  })
})

describe('sent once with nothing written', () => {
  it('takes the wire and a question, before anything is erased', () => {
    const family = demoFamily('boat-davit')
    const { plan, of, times, link } = write(family, family.components[0]!.id, 4096)
    const kinds = plan.map(({ kind }) => kind)
    expect(kinds.indexOf('dry-run')).toBe(kinds.indexOf('compare') + 1)
    expect(kinds.indexOf('dry-run')).toBeLessThan(kinds.indexOf('write'))
    expect(of('dry-run')).toMatchObject({
      says: 'Send 4 096 bytes once, with nothing written'.replace('4 096', '4\u00a0096'),
      handsOff: false,
    })
    // No less than the bits of its bytes on the line, and the question.
    const bitsMs = (4096 * 10 * 1000) / link.line!.baudRate
    expect(times['dry-run']).toBeGreaterThanOrEqual(Math.floor(bitsMs + times['identify']!))
    expect(times['write']).toBeGreaterThanOrEqual(times['dry-run']!)
  })
})

const operations = tideGateProfile.links[0]!.drive.operations as Record<string, object>
const gate = (without: string | null, more: object = {}): Family => {
  const document = structuredClone({ ...tideGateProfile, ...more })
  if (without) delete (document.links[0]!.drive.operations as Record<string, object>)[without]
  return readFamily(document)
}

describe('over a console', () => {
  it('a checksum is one question, and the entry what it settles for and two', () => {
    const { times, of } = write(gate(null), 'main', 4096)
    const question = times['identify']!
    expect(question).toBeGreaterThan(0)
    expect(times).toMatchObject({ compare: question, verify: question, prove: question })
    expect(times['restart']! - 400 - question).toBeCloseTo(0, 0)
    expect(Math.abs(times['enter']! - 100 - 2 * question)).toBeLessThanOrEqual(1)
    expect(of('verify')!.says).toBe('Compare the checksum over what is in the unit')
  })
  it('of a unit that shows no page over it, hands look: a while for each component', () => {
    const blind = gate('page')
    expect(Object.keys(operations)).toContain('page')
    const { of, link, component, loads } = write(blind, 'main', 16)
    expect(of('prove')).toMatchObject({
      says: 'See on the unit which version its main processor shows',
      personMs: 10_000,
    })
    const two = planPieces(
      blind,
      link,
      [0, 1].map(() => ({ component, loads })),
    )
    expect(two.at(-1)).toMatchObject({
      says: 'See on the unit which version its main processor and its main processor shows',
      personMs: 20_000,
    })
    expect(write(gate(null), 'main', 16).of('prove')!.personMs).toBe(0)
  })
  it('of one component no step is named after it; of two each is', () => {
    const { plan, link, component, loads } = write(gate(null), 'main', 16)
    for (const step of plan) expect('piece' in step, step.kind).toBe(false)
    const two = planPieces(
      gate(null),
      link,
      [0, 1].map(() => ({ component, loads })),
    )
    expect(two.filter(({ piece }) => piece !== undefined)).toHaveLength(2 * 5)
    expect(two.filter(({ kind }) => kind === 'write').map(({ says }) => says)).toEqual(
      Array.from({ length: 2 }, () => 'Main processor: write 16 bytes'),
    )
  })
  it('what cannot be read is not read out, however much it is wanted', () => {
    expect(write(gate(null), 'main', 16).of('backup')).toMatchObject({
      says: expect.stringMatching(/^Read out the original, twice/),
    })
    expect(write(gate('read'), 'main', 16).of('backup')).toBeUndefined()
    const own = gate(null, { backup: { firmware: 'universal' } })
    const link = drivenLink(own)!
    const component = componentOf(own, 'main')
    const kinds = (rules: object, known?: object) =>
      planPieces(own, link, [{ component, loads: [], ...(known && { known }) }], rules).map(
        ({ kind }) => kind,
      )
    expect(kinds({ backup: 'always' })).toContain('backup')
    expect(kinds({ backup: 'family' })).not.toContain('backup')
    // An original that is kept already: what is in it now is read all the same, under its own name.
    expect(
      planPieces(gate(null), link, [{ component, loads: [], known: { original: 'v1.bin' } as never }], {
        backup: 'always',
      })
        .filter(({ kind }) => kind === 'backup')
        .map(({ says }) => says.replace(/,.*/, '')),
    ).toEqual(['Read out what is in it'])
  })
  it('reads the whole region twice, not what is written', () => {
    const { times, link } = write(gate(null), 'main', 16)
    const bitsMs = (2 * 0x8000 * 10 * 1000) / link.line!.baudRate
    expect(times['backup']).toBeGreaterThanOrEqual(Math.floor(bitsMs))
    expect(write(gate(null), 'main', 4096).times['backup']).toBe(times['backup'])
  })
})

describe('the way in', () => {
  const byHand = (acts: { by: string }[]) => ({
    id: 'keys',
    name: 'Two keys',
    kind: 'by-hand',
    steps: ['Hold both.'],
    settleMs: 500,
    tries: 2,
    script: { acts },
  })
  const says = (...by: string[]) => {
    const family = { ...gate(null), entry: [byHand(by.map((each) => ({ by: each })))] } as unknown as Family
    return enterStep(family, drivenLink(family)!).says
  }
  it('counts the acts of the hands, not what the program does', () => {
    expect(says('left', 'program', 'right')).toBe('Two keys, 2 acts by hand')
    expect(says('left', 'program')).toBe('Two keys')
    expect(says('program')).toBe('Two keys')
    expect(says('left', 'right', 'left')).toBe('Two keys, 3 acts by hand')
  })
  it('is by hand, whatever stands first, where the link has no word for it', () => {
    const [command] = tideGateProfile.entry
    const hands = { ...byHand([]), script: undefined }
    const family = (without: string | null, entry: object[]) =>
      ({ ...gate(without), entry }) as unknown as Family
    const chosen = (each: Family) => entryOf(each, drivenLink(each)!).id
    expect(Object.keys(operations)).toContain('enter')
    expect(chosen(family('enter', [command!, hands]))).toBe('keys')
    expect(chosen(family(null, [command!, hands]))).toBe('by-command')
    // Neither by hand nor a word for it: the only way that is described.
    expect(chosen(family('enter', [command!]))).toBe('by-command')
    expect(chosen(family(null, [{ ...hands, id: 'first' }, hands]))).toBe('first')
  })
  it('stands behind power as ordered, a person’s time for each step', () => {
    const ordered = gate(null, {
      powerOrder: { on: ['a', 'b', 'c'].map((id) => ({ id, does: `Switch ${id} on.` })), off: [] },
    })
    expect(untilRead(ordered, drivenLink(ordered)!)[0]).toMatchObject({
      says: 'Power as ordered, 3 steps',
      personMs: 30_000,
      handsOff: false,
    })
  })
})
