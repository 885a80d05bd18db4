import { demoFamily } from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import type { UnitFacts } from '../unit'
import {
  judgeNeed,
  judgeRequest,
  neighboursOf,
  plainName,
  serialWithin,
  usualWorkshopRules,
  type NeedQuestion,
} from '.'

const fog = demoFamily('fog-signal')
const unit: UnitFacts = { serial: 'FS3-00417', versions: { main: '2.41' }, readAt: 1 }
const need = (form: Partial<NeedQuestion> = {}) =>
  judgeNeed({
    family: fog,
    unit,
    workshopRules: usualWorkshopRules,
    reason: 'fault',
    symptoms: [{ says: 'Horn skips a blast', often: 'twice a night', since: '2026-08-12' }],
    newest: { main: '2.48' },
    ...form,
  })

describe('is anything to be done?', () => {
  it('yes, when a release cures what was reported', () => {
    expect(need()).toMatchObject({ answer: 'do', finding: { level: 'go' } })
    expect(need().advisories.some(({ matched }) => matched)).toBe(true)
  })
  // PRACTICE A2, common practice: "nothing to do" comes before any soldering.
  it('no, when the unit is current', () => {
    expect(need({ unit: { ...unit, versions: { main: '2.48' } } })).toMatchObject({
      answer: 'nothing',
      finding: { says: 'Nothing to do: the unit is current.' },
    })
  })
  it('yes, when an image of the same version with other bytes was chosen', () => {
    const current = { ...unit, versions: { main: '2.48' } }
    const otherBytes = { component: 'main', version: '2.48' }
    expect(need({ unit: current, otherBytes })).toMatchObject({
      answer: 'do',
      finding: { level: 'go', says: 'Yes: 2.48 with other bytes is asked for.' },
    })
  })
  it('what is wanted and not here is waited for, and never called nothing to do', () => {
    const form = {
      unit: { ...unit, versions: { main: '2.48' } },
      reason: 'feature',
      symptoms: [],
    } as const
    expect(need({ ...form, chosen: false })).toMatchObject({
      answer: 'ask',
      finding: { level: 'hold', says: expect.stringMatching(/^What is wanted is not here yet/) },
    })
    // With an image chosen the shelf has said all it can; and currency alone wants nothing more.
    expect(need({ ...form, chosen: true }).answer).toBe('nothing')
    expect(need({ ...form, reason: 'currency', chosen: false }).answer).toBe('nothing')
  })
  // PRACTICE A2: a batch mark tells that a unit was updated before it was sold.
  it('probably no, when the batch was brought up before it was sold and nobody has read it', () => {
    const family = demoFamily('buoy-battery')
    const answer = judgeNeed({
      family,
      unit: { serial: 'BP-05310', batch: 'K7', versions: {} },
      workshopRules: usualWorkshopRules,
      reason: 'currency',
      symptoms: [],
      newest: { bms: '58.04' },
    })
    expect(answer.answer).toBe('nothing')
    expect(answer.finding.remedy).toMatch(/before you open or solder/)
  })
  it('nobody knows, before the unit was read', () => {
    expect(need({ unit: { versions: {} } }).answer).toBe('unknown')
  })
  // PRACTICE A7: two schools; the workshop decides and the program shows which it applied.
  it('is the workshop’s to say, when it is for currency alone', () => {
    const currency = { reason: 'currency', symptoms: [] } as const
    expect(need(currency)).toMatchObject({ answer: 'ask', finding: { level: 'hold' } })
    const current = need({ ...currency, workshopRules: { ...usualWorkshopRules, update: 'current' } })
    expect(current).toMatchObject({ answer: 'do', finding: { level: 'go' } })
    expect(current.finding.because).toMatch(/Workshop rule: keep everything current/)
  })
  it('may help, when no release is known to cure what was reported', () => {
    expect(need({ symptoms: [{ says: 'Door rattles', often: '', since: '' }] })).toMatchObject({
      answer: 'do',
      finding: { level: 'note' },
    })
  })
  it('cannot be said, while no image that belongs on the unit is there', () => {
    const quiet = { newest: {}, symptoms: [] }
    expect(need(quiet)).toMatchObject({ answer: 'ask', finding: { level: 'hold' } })
    // What is reported is known, though its cure has not come yet (PRACTICE B8).
    expect(need({ newest: {} }).answer).toBe('do')
  })
})

describe('a serial', () => {
  // PRACTICE A2: a serial prefix or number tells whether a unit is affected.
  it.each([
    ['BP-02417', 'BP-02000', 'BP-02999', true],
    ['BP-03000', 'BP-02000', 'BP-02999', false],
    ['BQ-02417', 'BP-02000', 'BP-02999', false],
    ['none', 'BP-02000', 'BP-02999', null],
  ] as const)('%s from %s to %s: %s', (serial, from, to, within) => {
    expect(serialWithin(serial, { from, to })).toBe(within)
  })
})

describe('an image that was asked for', () => {
  const request = {
    id: 'r',
    unitId: 'beacon-8',
    asked: 'Image 2.4.0 for BR-77121.',
    of: 'the key desk',
    askedAt: 0,
    dueDay: '2026-11-27',
    answer: null,
    imageId: null,
    closedAt: null,
  }
  // PRACTICE B8, L1: requests are waited for; who answered and when is kept; an unsigned answer does not help.
  it('holds the job, and says how long it is due', () => {
    expect(judgeRequest(request, '2026-11-24')).toMatchObject({
      level: 'hold',
      says: expect.stringMatching(/due in 3 days/),
      because: expect.stringMatching(/Nobody has answered/),
    })
    expect(judgeRequest(request, '2026-11-30')).toMatchObject({
      says: expect.stringMatching(/3 days overdue/),
      remedy: 'Ask the key desk again.',
    })
    const unsigned = { ...request, answer: { says: 'soon', by: '', at: 1 } }
    expect(judgeRequest(unsigned, '2026-11-24').because).toMatch(/without a name/)
  })
})

describe('names on the shelf', () => {
  // PRACTICE B2: two different downloads get the same name with "(1)" after it.
  it.each([
    ['update(1).hex', 'update.hex'],
    ['Update (12).HEX', 'update.hex'],
    ['update - copy.hex', 'update.hex'],
    ['update-2.48.hex', 'update-2.48.hex'],
    ['(1).hex', '.hex'],
  ])('%s is a download of %s', (name, plain) => expect(plainName(name)).toBe(plain))
  it('point out twins and a version with two bodies', () => {
    const identity = { familyId: 'f', componentId: 'c', version: '1.0' }
    const around = neighboursOf([
      { id: 'a', names: ['update.hex', 'same.hex'], identity },
      { id: 'b', names: ['update (1).hex'], identity },
      { id: 'c', names: ['other.hex'], identity: { ...identity, version: '1.1' } },
    ])
    expect(around.get('a')).toEqual({
      otherNames: ['same.hex'],
      twins: ['update (1).hex'],
      sameVersion: ['update (1).hex'],
    })
    expect(around.get('c')).toEqual({ otherNames: [], twins: [], sameVersion: [] })
  })
})
