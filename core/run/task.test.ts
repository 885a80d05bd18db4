import { componentOf, drivenLink } from '@bench-wake/core/family'
import { demoFamily, demoStandIn, demoUnits } from '@bench-wake/demo'
import { standInOf } from '@bench-wake/standins'
import { describe, expect, it } from 'vitest'
import { equalBytes, virtualClock } from '../kernel'
import { foundOut } from '../job'
import {
  carryOut,
  conditionOf,
  foldWake,
  judgeTask,
  planTask,
  wakeWriter,
  type RunRequest,
  type LookTask,
  type WakeEvent,
} from '.'

/* PRACTICE G1, H2, J1, common practice: a job that finds out something leaves the unit as it was. */

const turn = () => new Promise<void>((done) => setImmediate(done))

interface Form {
  unitId: string
  linkId?: string
  task: LookTask
  inBootloader?: boolean
  faults?: string
  firstHere?: boolean
  /** Its memory before the run; without it what the demo has in it. */
  fill?: (flash: Uint8Array) => void
  /** Erased after its identity block: what a write that broke off leaves. */
  halfWritten?: boolean
  says?: Record<string, string>
  serial?: string
  /** What happens to the unit while it is off. */
  whileOff?: (flash: Uint8Array) => void
}

async function look(form: Form) {
  const clock = virtualClock(turn, Date.UTC(2026, 10, 24, 8))
  const demo = demoUnits.find(({ id }) => id === form.unitId)!
  const family = demoFamily(demo.familyId)
  const { hardware, flash, lines } = demoStandIn(demo)
  const state = {
    flash,
    usedAh: 0,
    inBootloader: form.inBootloader ?? false,
    lines: { ...lines, ...(form.faults ? { faults: form.faults } : {}) },
  }
  const unit = standInOf(
    { id: demo.id, name: demo.name, family, hardware, serial: demo.serial, state },
    form.linkId,
  )
  unit.unplug?.(family.isolation?.neighbours.map(({ id }) => id) ?? [])
  const component = componentOf(family)
  const link = drivenLink(family, form.linkId)!
  if (form.halfWritten) flash.fill(component.memory.erasedByte, 0, 0x400)
  form.fill?.(flash)
  const before = flash.slice()
  const events: WakeEvent[] = []
  const wake = wakeWriter({ append: async (event) => void events.push(event) }, clock)
  const plan = planTask(form.task, family, component, link)
  await wake.record({
    type: 'run.opened',
    runId: 'run-1',
    job: { id: 'job-1', reason: 'The owner wants to know.' },
    unit: { id: demo.id, name: demo.name, place: demo.place, serial: demo.serial },
    family: { id: family.id, revision: family.revision, name: family.name },
    component: { id: component.id, name: component.name },
    task: form.task,
    port: { id: 'p', name: 'stand-in', standIn: true },
    speed: 0,
    floorVolts: family.power.floorVolts,
    releases: [],
    plan,
  })
  const asked: string[] = []
  const kept: { name: string; bytes: Uint8Array }[] = []
  const request: RunRequest = {
    task: form.task,
    family,
    component,
    link,
    unit: { id: demo.id, serial: form.serial ?? demo.serial, name: demo.name },
    image: null,
    releases: [],
    ...(form.firstHere === undefined ? {} : { firstHere: form.firstHere }),
  }
  const outcome = await carryOut(plan, request, {
    channel: unit.connect(clock).channel,
    clock,
    wake,
    answers: {
      async wait(prompt) {
        asked.push(prompt)
        if (prompt === 'power-cycle') {
          form.whileOff?.(flash)
          unit.powerCycle()
        }
        if (prompt === 'enter-by-hand') unit.enter?.()
        return form.says?.[prompt] ?? 'done'
      },
    },
    async keepBackup(backup) {
      kept.push(backup)
      return { imageId: `image-${kept.length}`, findings: [] }
    },
    abandon: { raised: false },
    halt: { raised: false },
  })
  return { outcome, run: foldWake(events)!, events, asked, kept, untouched: equalBytes(before, flash) }
}

describe('reading out', () => {
  const pack = { unitId: 'battery-14', task: 'read-out' } as const
  it('keeps the original, starts the firmware again, and finds the page as it was', async () => {
    const { outcome, run, kept, untouched } = await look(pack)
    expect(outcome).toBe('done')
    expect(kept.map(({ name }) => name)).toEqual([expect.stringContaining(', original, ')])
    expect(untouched).toBe(true)
    expect(run.findings).toMatchObject([{ rule: 'unchanged-lines', level: 'go' }])
    expect(conditionOf(run)).toBe('as-it-was')
    expect(foundOut(run)).toContain(kept[0]!.name)
  })
  // Common practice: a chip is checked blank in the socket before it is programmed.
  it('a chip that is blank is told so, and nothing is kept as an original', async () => {
    const clip = { unitId: 'desk-2', linkId: 'clip', task: 'read-out' } as const
    const { outcome, run, kept, untouched } = await look({ ...clip, fill: (flash) => flash.fill(0xff) })
    expect(outcome).toBe('done')
    expect(kept).toEqual([])
    expect(untouched).toBe(true)
    expect(foundOut(run)).toMatch(/^It is blank: each of its [\d\s]+ bytes reads 0xFF, twice\.$/)
  })
  it('one programmed byte is not blank, and next to nothing is no original either', async () => {
    const clip = { unitId: 'desk-2', linkId: 'clip', task: 'read-out' } as const
    const { run } = await look({ ...clip, fill: (flash) => flash.fill(0xff).fill(0xfe, -1) })
    expect(run.outcome).toBe('failed')
    expect(JSON.stringify(run.problem)).toMatch(/next to nothing/)
  })
  it('all zeros are not blank, nor is what a link without a chip of its own reads as erased', async () => {
    const clip = { unitId: 'desk-2', linkId: 'clip', task: 'read-out' } as const
    expect((await look({ ...clip, fill: (flash) => flash.fill(0) })).outcome).toBe('failed')
    expect((await look({ ...pack, inBootloader: true, fill: (flash) => flash.fill(0xff) })).outcome).toBe(
      'failed',
    )
  })
  it('after a write of this bench is named as found', async () => {
    const { kept } = await look({ ...pack, firstHere: false })
    expect(kept.map(({ name }) => name)).toEqual([expect.stringContaining(', as found, ')])
  })
  it('leaves a half-written unit in its bootloader, and keeps what is not recognised with a note', async () => {
    const { outcome, run, asked, kept } = await look({
      ...pack,
      inBootloader: true,
      halfWritten: true,
      firstHere: false,
    })
    expect(outcome).toBe('done')
    expect(kept).toHaveLength(1)
    expect(run.backups[0]!.findings).toMatchObject([{ rule: 'backup-unknown', level: 'note' }])
    expect(asked).not.toContain('power-cycle')
    expect(run.after).toBeNull()
  })
  it('refuses the wrong unit before anything is read out of it', async () => {
    const { outcome, run, kept } = await look({ ...pack, serial: 'another' })
    expect(outcome).toBe('failed')
    expect(run.problem!.kind).toBe('wrong-unit')
    expect(kept).toEqual([])
  })
  it('an ending is no green mark: a unit that comes back with other lines fails', async () => {
    const { outcome, run } = await look({
      ...pack,
      // Somebody else wrote to it while it was off.
      whileOff: (flash) => void flash.fill(0xff, 0, 0x400),
    })
    expect(outcome).toBe('failed')
    expect(run.problem!.kind).toBe('unit-changed')
  })
})

describe('reading the fault codes', () => {
  const codes = { unitId: 'launch-1', task: 'codes', faults: 'C10000' } as const
  it('asks before it clears, and leaves them where it is told to', async () => {
    const { outcome, run, asked } = await look({ ...codes, says: { 'clear-codes': 'leave' } })
    expect(outcome).toBe('done')
    expect(asked).toContain('clear-codes')
    expect(run.faults).toMatchObject({ before: 'C10000', after: 'C10000', kept: true })
    expect(foundOut(run)).toBe('Fault codes: C10000. They were left in the unit.')
  })
  it('clears them only at that very word', async () => {
    expect((await look({ ...codes, says: { 'clear-codes': 'clear' } })).run.faults).toMatchObject({
      before: 'C10000',
      after: 'none',
    })
    // `done` is no answer of this question.
    expect((await look(codes)).run.faults).toMatchObject({ kept: true })
  })
  it('asks nothing where there is none', async () => {
    const { run, asked } = await look({ ...codes, faults: 'none' })
    expect(asked).not.toContain('clear-codes')
    expect(foundOut(run)).toBe('It keeps no fault code.')
  })
})

describe('whether a task can be done', () => {
  const levelOf = (familyId: string, task: LookTask, image = { chosen: true }, linkId?: string) => {
    const family = demoFamily(familyId)
    return judgeTask(task, componentOf(family), drivenLink(family, linkId) ?? null, image).level
  }
  it('goes by what the link can', () => {
    // A line console has no command that reads memory; only diagnostic services keep codes.
    expect(levelOf('fog-signal', 'read-out')).toBe('stop')
    expect(levelOf('buoy-battery', 'read-out')).toBe('go')
    expect(levelOf('buoy-battery', 'codes')).toBe('stop')
    expect(levelOf('launch-motor', 'codes')).toBe('go')
    // A chip that is changed by hand is compared by nobody; the same chip on a clip is read.
    expect(levelOf('signal-desk', 'check', undefined, 'socket')).toBe('stop')
    expect(levelOf('signal-desk', 'check', undefined, 'clip')).toBe('go')
    expect(levelOf('signal-desk', 'read-out', undefined, 'clip')).toBe('go')
  })
  it('a comparison wants its image', () => {
    expect(levelOf('fog-signal', 'check', { chosen: false })).toBe('stop')
    expect(levelOf('fog-signal', 'check')).toBe('go')
    const family = demoFamily('fog-signal')
    const trouble = 'x.hex: the image lies outside.'
    expect(
      judgeTask('check', componentOf(family), drivenLink(family)!, { chosen: true, trouble }),
    ).toMatchObject({ level: 'stop', says: trouble })
  })
})
