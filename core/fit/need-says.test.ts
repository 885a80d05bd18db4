import { demoFamily } from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import { judgeNeed, usualWorkshopRules } from '.'
import { advisory, fog, need as judged, unit } from './fog-need.test-support'

/*
 * The words of "is anything to be done?" to the letter (PRACTICE A2, A6, A7): each version, serial, batch and component in
 * them is what a technician acts on.
 */
const davit = demoFamily('boat-davit')
const need = (form: Parameters<typeof judged>[0] = {}) => {
  const { finding } = judged(form)
  return [finding.says, finding.because, finding.remedy ?? '']
}
const main = fog.components.find(({ id }) => id === 'main')!.name
const lower = main[0]!.toLowerCase() + main.slice(1)
const elsewhere = [{ from: 'FS3-00001', to: 'FS3-00002' }]

describe('what is said', () => {
  it('of a cure on the shelf: what it cures, the step, and who is affected', () => {
    expect(need()).toEqual([
      'Yes: 2.48 cures it: Skips a blast.',
      `${main} 2.41 to 2.48. All units are affected.`,
      '',
    ])
    expect(
      need({
        advisories: [advisory({ serials: [{ from: 'FS3-00400', to: 'FS3-00499' }], batches: ['K7'] })],
      })[1],
    ).toBe(`${main} 2.41 to 2.48. Affected are serials FS3-00400 to FS3-00499, batch K7.`)
    const two = [advisory(), advisory({ id: 'b', fixedIn: '2.46', says: 'Drifts.', words: ['it'] })]
    expect(need({ advisories: two })[0]).toBe('Yes: 2.48 cures it: Skips a blast. 2.46 cures it: Drifts.')
  })
  it('of a cure that the shelf has not: which version is wanted', () => {
    expect(need({ newest: { main: '2.41' } })).toEqual([
      'Yes: 2.48 cures it: Skips a blast.',
      `It has ${lower} 2.41; no image of 2.48 that belongs on it is on the shelf. All units are affected.`,
      '',
    ])
  })
  it('of a version that nobody read: whether the unit was read at all', () => {
    const unread = { ...unit, versions: {} }
    expect(need({ unit: unread })).toEqual([
      `Nobody knows yet: the version of the ${lower} has not been read.`,
      'The last page does not show it.',
      'Read the unit first.',
    ])
    const { readAt: _, ...never } = unread
    expect(need({ unit: never })[1]).toBe('The unit was never read.')
    // Two of several: both are named.
    const versions = Object.fromEntries(davit.components.slice(2).map(({ id }) => [id, '5.2.0']))
    const [first, second] = davit.components
    const { finding } = judgeNeed({
      family: { ...davit, advisories: [] },
      unit: { versions, readAt: 1 },
      workshopRules: usualWorkshopRules,
      reason: 'currency',
      symptoms: [],
      newest: versions,
    })
    for (const { name } of [first!, second!]) expect(finding.says.toLowerCase()).toContain(name.toLowerCase())
    expect(finding.says).toMatch(/^Nobody knows yet: the version of the .+, .+ has not been read\.$/)
  })
  it('of other bytes of the same version: which part holds them', () => {
    const same = { unit: { ...unit, versions: { main: '2.48' } }, advisories: [] }
    expect(need({ ...same, otherBytes: { component: 'main', version: '2.48' } })).toEqual([
      'Yes: 2.48 with other bytes is asked for.',
      `It has ${lower} 2.48; what was written into the ${lower} is not what the chosen image holds.`,
      '',
    ])
    expect(need({ ...same, otherBytes: { component: 'horn', version: '2.48' } })[1]).toContain(
      'written into the horn',
    )
  })
  it('of a current unit: what it has, or by what mark it was sold so', () => {
    const current = { unit: { ...unit, versions: { main: '2.48' } }, advisories: [] }
    expect(need(current)).toEqual([
      'Nothing to do: the unit is current.',
      `It has ${lower} 2.48; nothing newer that belongs on it is on the shelf.`,
      'Leave it as it is, or say why it should be written again.',
    ])
    const factory = [
      { serials: [{ from: 'FS3-00400', to: 'FS3-00499' }], component: 'main', version: '2.48' },
    ]
    expect(need({ ...current, factory })[1]).toBe(
      `It has ${lower} 2.48; serial FS3-00417 was brought up to date before it was sold.`,
    )
  })
  it('of a unit that was sold so and never read', () => {
    const factory = [{ batches: ['K7'], component: 'main', version: '2.48' }]
    expect(need({ unit: { versions: {}, batch: 'K7', readAt: 1 }, factory, advisories: [] })).toEqual([
      'Probably nothing to do: units of this batch were brought to 2.48 before they were sold.',
      'Batch K7; nothing newer is on the shelf.',
      'Read its version before you open or solder anything.',
    ])
    // Both a serial and a batch are given: the one that tells is named.
    const both = [
      {
        serials: [{ from: 'FS3-00400', to: 'FS3-00499' }],
        batches: ['K7'],
        component: 'main',
        version: '2.48',
      },
    ]
    expect(
      need({ unit: { versions: {}, serial: 'FS3-00417', readAt: 1 }, factory: both, advisories: [] })[1],
    ).toBe('Serial FS3-00417; nothing newer is on the shelf.')
    expect(
      need({
        unit: { versions: {}, serial: 'FS3-00417', batch: 'K8', readAt: 1 },
        factory: both,
        advisories: [],
      })[1],
    ).toBe('Serial FS3-00417; nothing newer is on the shelf.')
  })
  it('of a unit outside those affected: what it is, by serial, batch, or not at all', () => {
    const outside = { advisories: [advisory({ serials: elsewhere })] }
    expect(need(outside)).toEqual([
      'Nothing to do: this unit is not affected by "Skips a blast."',
      'Affected are serials FS3-00001 to FS3-00002. This one is FS3-00417.',
      'Look for another cause of the symptom: wiring, supply, sensor.',
    ])
    const { serial: _, ...rest } = unit
    expect(need({ unit: { ...rest, batch: 'K6' }, advisories: [advisory({ batches: ['K7'] })] })[1]).toBe(
      'Affected are batch K7. This one is K6.',
    )
  })
  it('of currency: the step, what is known of this unit, and what to do', () => {
    const known = need({ reason: 'currency' })
    expect(known).toEqual([
      'Workshop rule: update only to cure something, and nothing is named.',
      `${main} 2.41 to 2.48 would only make it current.`,
      'Known for this unit: Skips a blast. Name the fault, or leave the unit alone.',
    ])
    expect(need({ reason: 'currency', advisories: [] })[2]).toBe(
      'Name the fault or the feature, or leave the unit alone.',
    )
    expect(need({ reason: 'currency', workshopRules: { ...usualWorkshopRules, update: 'current' } })).toEqual(
      [
        'Yes: a newer release is on the shelf.',
        `${main} 2.41 to 2.48. Workshop rule: keep everything current.`,
        '',
      ],
    )
  })
  it('of a feature: what brings it, or that the notes do not name it', () => {
    const brings = advisory({ kind: 'feature', says: 'Sends seconds.', words: ['seconds'] })
    // Asked for in other words than the notes have: it is still one of its features.
    const asked = { reason: 'feature' as const, symptoms: [{ says: 'finer times', often: '', since: '' }] }
    expect(need({ ...asked, advisories: [brings] })).toEqual([
      'Yes: 2.48 brings it: Sends seconds.',
      `${main} 2.41 to 2.48.`,
      '',
    ])
    expect(need({ ...asked, advisories: [advisory()] })[0]).toBe(
      'It may be done: a feature is asked for that the notes on the shelf do not name.',
    )
    expect(need({ ...asked, newest: { main: '2.41' }, advisories: [], chosen: false })).toEqual([
      'What is wanted is not here yet: nothing newer that belongs on the unit is on the shelf.',
      `It has ${lower} 2.41; a feature is asked for.`,
      'Ask the supplier for it, and note the request at the unit: the job then waits for it.',
    ])
  })
  it('of a symptom that no advisory names, and of an empty shelf', () => {
    expect(need({ symptoms: [{ says: 'Rattles', often: '', since: '' }] })).toEqual([
      'It may help, but no release is known to cure this.',
      `${main} 2.41 to 2.48. None of the family’s advisories names the symptom.`,
      'Rule out supply, wiring and sensor first; write down the symptom, so that it can be looked for afterwards.',
    ])
    expect(need({ newest: {}, advisories: [] })).toEqual([
      'Nobody can say yet: no image that belongs on this unit is on the shelf.',
      `It has ${lower} 2.41.`,
      'Ask the supplier what the newest release for it is.',
    ])
  })
})
