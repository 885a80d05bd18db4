import { describe, expect, it } from 'vitest'
import { drivenLink, readFamily, type Family } from '../family'
import { tideGateProfile } from '@bench-wake/testing/tide-gate-profile'
import {
  judgeDriven,
  operationDigest,
  operationTrials,
  scripted,
  trialsOfRuns,
  trialText,
  type CarriedRun,
  type ScriptedLink,
  type TrialOf,
} from '.'

/*
 * LINKS: every operation of a profile carries its trial, a change of an operation makes its trial stale, and a first write by
 * steps that no unit was written by is a hold. The profile is the tide gate's, from the manual page in e2e/peers.
 */

/* eslint-disable @typescript-eslint/no-explicit-any -- a document is changed by its members */
const linkOf = (family: Family): ScriptedLink => scripted(drivenLink(family))!
const taught = readFamily(tideGateProfile)
const changed = (change: (operations: Record<string, { steps: { text?: string }[] }>, link: any) => void) => {
  const document = structuredClone(tideGateProfile) as any
  change(document.links[0].drive.operations, document.links[0])
  return readFamily(document)
}
const all = ['identify', 'enter', 'backup', 'erase', 'write', 'verify', 'restart', 'prove']
const run = ({
  unit,
  day,
  by,
  revision,
  linkId,
  ...more
}: Partial<CarriedRun & TrialOf> = {}): CarriedRun => ({
  standIn: false,
  of: {
    unit: 'North gate',
    serial: 'TG4-1',
    day: '2026-11-20',
    by: 'A. Lund',
    revision: 1,
    profile: 'f00d',
    linkId: linkOf(taught).id,
    ...(unit !== undefined && { unit }),
    ...(day !== undefined && { day }),
    ...(by !== undefined && { by }),
    ...(revision !== undefined && { revision }),
    ...(linkId !== undefined && { linkId }),
  },
  link: linkOf(taught),
  did: all,
  enteredByHand: false,
  ...more,
})
const statesOf = (family: Family, runs: CarriedRun[]) =>
  Object.fromEntries(
    operationTrials(linkOf(family), trialsOfRuns(runs)).map(({ operation, state }) => [operation, state]),
  )
const verdictOf = (family: Family, runs: CarriedRun[]) => judgeDriven(family, undefined, trialsOfRuns(runs))

describe('the trial of each operation', () => {
  it('is never, on a stand-in, or proved on a unit; only what a run carried out is', () => {
    const names = Object.keys(linkOf(taught).drive.operations)
    expect(statesOf(taught, [])).toEqual(Object.fromEntries(names.map((name) => [name, 'never'])))
    expect(statesOf(taught, [run({ standIn: true })])).toMatchObject({ erase: 'stand-in', write: 'stand-in' })
    const proved = statesOf(taught, [run()])
    expect(proved).toMatchObject({ page: 'proved', enter: 'proved', attach: 'proved', erase: 'proved' })
    expect(proved).toMatchObject({ write: 'proved', check: 'proved', start: 'proved', read: 'proved' })
    // A unit counts more than a stand-in, whichever was later.
    expect(statesOf(taught, [run({ standIn: true }), run()])).toMatchObject({ write: 'proved' })
    // Without a backup nothing was read out, and a person's hands are no command.
    const less = run({ did: all.filter((kind) => kind !== 'backup'), enteredByHand: true })
    expect(statesOf(taught, [less])).toMatchObject({ read: 'never', enter: 'never', attach: 'proved' })
    for (const [kind, operation] of [
      ['erase', 'erase'],
      ['write', 'write'],
      ['verify', 'check'],
      ['restart', 'start'],
    ] as const)
      expect(statesOf(taught, [run({ did: all.filter((each) => each !== kind) })])[operation]).toBe('never')
  })
  it('of another link, or of a link that was no script then, is none of this one', () => {
    expect(statesOf(taught, [run({ linkId: 'another' })]).write).toBe('never')
    expect(statesOf(taught, [run({ link: null })]).write).toBe('never')
  })
  it('gets stale by a change of its own steps and by no other, and is true again when they are as before', () => {
    const other = changed(({ start }) => (start!.steps[0]!.text = 'run\r'))
    expect(statesOf(other, [run()])).toMatchObject({ start: 'changed', write: 'proved', check: 'proved' })
    const back = run({ link: linkOf(other), revision: 2, unit: 'South gate', day: '2026-11-24' })
    expect(statesOf(other, [back, run()])).toMatchObject({ start: 'proved', write: 'proved' })
    expect(statesOf(taught, [back, run()])).toMatchObject({ start: 'proved' })
    // Proved on a stand-in since: a unit was not written so.
    expect(statesOf(other, [run({ link: linkOf(other), standIn: true }), run()]).start).toBe('changed')
  })
  it('rests on the line and its frames, and not on what only predicts', () => {
    const slower = changed((_, link) => (link.line.baudRate = 9600))
    expect(statesOf(slower, [run()])).toMatchObject({ write: 'changed', page: 'changed' })
    const thinks = changed((_, link) => (link.drive.thinkMs = 77))
    expect(statesOf(thinks, [run()])).toMatchObject({ write: 'proved', page: 'proved' })
    const opened = changed((_, link) => (link.drive.opens = { dtr: false }))
    expect(statesOf(opened, [run()])).toMatchObject({ write: 'changed' })
    expect(operationDigest(linkOf(taught), 'live')).toBeNull()
  })
  it('is said with the unit, its serial number, the day, the person and the revision', () => {
    const [write] = operationTrials(linkOf(taught), trialsOfRuns([run()])).filter(
      ({ operation }) => operation === 'write',
    )
    expect(trialText(write!)).toBe(
      'Proved on a unit: North gate, serial TG4-1, on 2026-11-20, A. Lund, revision 1 of this profile.',
    )
    expect(write!.last).toMatchObject({ profile: 'f00d', by: 'A. Lund' })
    const [nobody] = operationTrials(linkOf(taught), trialsOfRuns([run({ by: null })]))
    expect(trialText(nobody!)).toMatch(/on 2026-11-20, revision 1/)
    const texts = (family: Family, runs: CarriedRun[]) =>
      operationTrials(linkOf(family), trialsOfRuns(runs)).map(trialText)
    expect(texts(taught, [])[0]).toBe('Never tried in a run.')
    expect(texts(taught, [run({ standIn: true })])[0]).toMatch(/^On a stand-in only, on 2026-11-20/)
    const slower = changed((_, link) => (link.line.baudRate = 9600))
    expect(texts(slower, [run()])[0]).toMatch(/^Changed since it was last proved on a unit: North gate/)
  })
  it('is the newest of its kind', () => {
    const kept = trialsOfRuns([run({ unit: 'South gate', day: '2026-11-24' }), run()])
    expect(kept.filter(({ operation }) => operation === 'write')).toEqual([
      expect.objectContaining({ unit: 'South gate', day: '2026-11-24' }),
    ])
  })
})

describe('the gate of a link that is a script', () => {
  const told = (family: Family, runs: CarriedRun[]) => verdictOf(family, runs).findings[1]!
  it('is open once a unit was written by its very steps, and names what no run carried out', () => {
    expect(verdictOf(taught, [run()]).verdict).toBe('go')
    expect(told(taught, [run()]).because).toBe('North gate, serial TG4-1, on 2026-11-20.')
    const byHand = told(taught, [run({ enteredByHand: true })])
    expect(byHand.level).toBe('go')
    expect(byHand.because).toMatch(/Not carried out on a unit yet: entering the bootloader\.$/)
  })
  it.each([
    ['erase', 'erasing'],
    ['write', 'writing'],
    ['check', 'the checksum'],
    ['start', 'starting the firmware'],
    ['attach', 'joining the bootloader'],
    ['page', 'reading the page'],
    ['enter', 'entering the bootloader'],
  ])('holds a change of %s, by its name', (operation, named) => {
    const other = changed((operations) =>
      operations[operation]!.steps.unshift({ do: 'wait', ms: 5 } as object),
    )
    expect(verdictOf(other, [run()]).verdict).toBe('hold')
    expect(told(other, [run()]).says).toBe(
      `Steps of this link were changed since a unit was last written by them: ${named}.`,
    )
  })
  it('lets a change of what no write goes by pass', () => {
    const other = changed(({ read }) => (read!.steps[0]!.text = 'other\r'))
    expect(verdictOf(other, [run()]).verdict).toBe('go')
  })
  it('holds a unit whose runs left a part of the writing out', () => {
    const part = run({ did: all.filter((kind) => kind !== 'verify') })
    expect(verdictOf(taught, [part]).verdict).toBe('hold')
    const says = 'No unit was ever written by some steps of this link: the checksum.'
    expect(told(taught, [part]).says).toBe(says)
    // On a stand-in the same is told, and holds nothing.
    const onStandIn = judgeDriven(taught, undefined, trialsOfRuns([part]), true)
    expect(onStandIn.findings[1]).toMatchObject({ level: 'note', because: says })
  })
  it('holds what a stand-in alone was written by', () => {
    expect(verdictOf(taught, [run({ standIn: true })]).verdict).toBe('hold')
  })
})
