import { componentOf, drivenLink, type Component, type DrivenLink } from '@bench-wake/core/family'
import { demoFamily } from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import { judgeTask, loadsOf, planTask, taskText, tasks, writes, type LookTask } from '.'

/*
 * PRACTICE C7, G1, H2, J1: what a task that writes nothing is made of, how long it takes, and when it is refused. Times by hand:
 * update mode asks in 20 ms, its blocks of 1 024 bytes take 0.9107 ms each (USB 2.0, DFU 1.1), the logger starts in 2 s.
 */

const at = (familyId: string, linkId?: string) => {
  const family = demoFamily(familyId)
  const link = drivenLink(family, linkId)
  return { family, link: link ?? null, component: componentOf(family) }
}
const logger = at('tide-logger')
const image = loadsOf(logger.component, [{ address: 0x2000, bytes: new Uint8Array(4096).fill(7) }])

describe('the steps of a task that writes nothing', () => {
  const plan = (task: LookTask, loads = image) =>
    planTask(task, logger.family, logger.component, logger.link, loads).map(
      ({ kind, predictedMs, personMs, handsOff }) => [kind, predictedMs, personMs, handsOff],
    )
  const head = [
    ['power-up', 0, 10_000 * (logger.family.powerOrder?.on.length ?? 0), false],
    ['connect', 50, 0, false],
    ['identify', 20, 0, false],
  ]
  const enter = ['enter', 1040, 50_000, false]
  const back = [
    ['restart', 4020, 15_000, false],
    ['prove', 20, 0, false],
  ]
  it('a reading goes in, reads twice, starts the firmware again and looks', () => {
    expect(plan('read-out')).toEqual([...head, enter, ['backup', 219, 0, true], ...back])
  })
  it('a comparison reads what the image holds, once', () => {
    // Four blocks and a question; of no image the question alone.
    expect(plan('check')).toEqual([...head, enter, ['compare', 24, 0, true], ...back])
    expect(plan('check', [])).toEqual([...head, enter, ['compare', 20, 0, true], ...back])
    const [load] = image
    expect(plan('check', [load!, load!])[4]).toEqual(['compare', 27, 0, true])
  })
  it('codes are read where the firmware runs: no entry, no restart, half a minute to write them down', () => {
    expect(plan('codes')).toEqual([...head, ['faults', 60, 30_000, false]])
  })
  it('without a link there is none, and a chip that came ready is changed by hand', () => {
    const { family, component } = at('signal-desk')
    expect(planTask('check', family, component, null)).toEqual([])
    expect(planTask('chip', family, component, null).map(({ kind }) => kind)).toEqual([
      'power-up',
      'swap',
      'look',
    ])
  })
  it('says what is left alone', () => {
    const says = (task: LookTask) =>
      planTask(task, logger.family, logger.component, logger.link, image).map((each) => each.says)
    expect(says('read-out').slice(-3)).toEqual([
      'Read out what is in it, twice 122 880 bytes'.replace('122 880', '122\u00a0880'),
      'Start its firmware again, then power off and on',
      'Read the unit again: nothing may have changed',
    ])
    expect(says('check').at(-3)).toBe('Compare the image with what is in the unit')
    expect(says('codes').at(-1)).toBe('Fault codes: read, and clear them only if you say so')
  })
})

describe('a task', () => {
  it('writes or only looks', () => {
    expect(tasks.filter((task) => writes({ task }))).toEqual(['write', 'chip'])
    // A record from before there were tasks was a write.
    expect(writes({})).toBe(true)
  })
  it('has a name that a button can bear', () => {
    const names = tasks.map((task) => taskText[task])
    expect(new Set(names).size).toBe(tasks.length)
    for (const name of names) expect(name).toMatch(/^[A-Z][a-z].{8,50}$/)
  })
})

describe('whether a task can be done is said with its reason and a way out', () => {
  const yes = { chosen: true }
  const judged = (
    task: LookTask,
    { component, link }: { component: Component; link: DrivenLink | null },
    ...more: [image?: { chosen: boolean; trouble?: string }, chip?: Parameters<typeof judgeTask>[4]]
  ) => judgeTask(task, component, link, more[0] ?? yes, more[1])
  const fog = at('fog-signal')
  const motor = at('launch-motor')
  const desk = { ...at('signal-desk', 'clip'), link: null }
  const label = { label: ' BIRCH ', mark: ' M1 ', version: '3' }
  const refused: [string, () => ReturnType<typeof judgeTask>, RegExp][] = [
    ['no socket', () => judged('chip', fog, yes, { socket: false, said: label }), /no chip in a socket/],
    ['nothing noted', () => judged('chip', desk, yes, { socket: true }), /not noted yet/],
    [
      'no label',
      () => judged('chip', desk, yes, { socket: true, said: { ...label, label: '  ' } }),
      /not noted yet/,
    ],
    [
      'no mark',
      () => judged('chip', desk, yes, { socket: true, said: { ...label, mark: '  ' } }),
      /not noted yet/,
    ],
    ['no link', () => judged('check', desk), /does not drive/],
    ['no link to read', () => judged('read-out', desk), /does not drive/],
    ['no link for codes', () => judged('codes', desk), /does not drive/],
    ['nothing that reads', () => judged('read-out', fog), /cannot read the memory/],
    ['no codes', () => judged('codes', fog), /no fault codes/],
    ['no image', () => judged('check', fog, { chosen: false }), /No image is chosen/],
    [
      'a broken image',
      () => judged('check', fog, { chosen: true, trouble: 'x.hex: cut off.' }),
      /x\.hex: cut off/,
    ],
  ]
  it.each(refused)('%s', (_, ask, says) => {
    const finding = ask()
    expect(finding.rule).toBe('task')
    expect(finding.level).toBe('stop')
    expect(finding.says).toMatch(says)
    for (const text of [finding.says, finding.because, finding.remedy]) expect(text).toMatch(/^\S.{9,}\.$/)
  })
  it('names the task that this program cannot do by hand', () => {
    expect(judged('read-out', desk).because).toBe(
      'Read out the original goes over a link that is driven from here.',
    )
    expect(judged('codes', desk).because).toMatch(/^Read the fault codes /)
  })
  it('an image is wanted for a comparison alone', () => {
    expect(judged('codes', motor, { chosen: false, trouble: 'x' }).level).toBe('go')
    expect(judged('read-out', logger, { chosen: false, trouble: 'x' }).level).toBe('go')
  })
  it('what may be done says what it touches, and has no remedy to offer', () => {
    const one = judged('read-out', logger)
    expect(one).toEqual({
      rule: 'task',
      level: 'go',
      says: 'Nothing is written: the unit stays as it is.',
      because: `All that the ${logger.component.name.toLowerCase()} may hold is read twice, from one region.`,
    })
    const [region] = logger.component.memory.regions.filter(({ use }) => use === 'application')
    const two = {
      ...logger.component,
      memory: { ...logger.component.memory, regions: [region!, { ...region!, address: 0x4_0000 }] },
    }
    expect(judged('read-out', { ...logger, component: two }).because).toMatch(
      /is read twice, from 2 regions\.$/,
    )
    expect(judged('check', fog).because).toBe(
      'The image is compared byte by byte, or by its checksum, as the link allows.',
    )
    expect(judged('codes', motor).because).toBe('Codes are read; they are cleared only if you say so.')
  })
  it('a chip goes in by what stands on it, with its version where the label says one', () => {
    const chip = (said: { label: string; mark: string; version?: string }) =>
      judged('chip', desk, yes, { socket: true, said })
    expect(chip(label)).toMatchObject({
      level: 'go',
      says: 'The chip goes in as it came: BIRCH, M1.',
      because: 'Its label says 3; the unit has to show that afterwards.',
    })
    expect(chip({ label: 'BIRCH', mark: 'M1' }).because).toBe(
      'Its label says no version; what the unit shows afterwards is noted.',
    )
  })
})
