import { demoFamily } from '@bench-wake/demo'
import type { Advisory, Family } from '../family'
import type { UnitFacts } from '../unit'
import { judgeNeed, usualWorkshopRules, type NeedQuestion } from '.'

/* A fog signal that runs 2.41, with a fault that 2.48 cures. */

export const fog = demoFamily('fog-signal')
export const unit: UnitFacts = {
  deviceIdentifier: fog.hardware.deviceIdentifier,
  hardware: '3.1',
  hardwareMajor: 3,
  serial: 'FS3-00417',
  versions: { main: '2.41' },
  readAt: 1,
}
export const advisory = (change: Partial<Advisory> = {}): Advisory =>
  ({
    id: 'a',
    component: 'main',
    kind: 'fault',
    says: 'Skips a blast.',
    fixedIn: '2.48',
    words: ['Skips'],
    ...change,
  }) as Advisory

/** Is anything to be done to it? */
export function need(
  form: Partial<NeedQuestion> & { advisories?: Advisory[]; factory?: Family['factory'] } = {},
) {
  const { advisories = [advisory()], factory = [], ...rest } = form
  return judgeNeed({
    family: { ...fog, advisories, factory: factory ?? [] },
    unit,
    workshopRules: usualWorkshopRules,
    reason: 'fault',
    symptoms: [{ says: 'It SKIPS now and then', often: '', since: '' }],
    newest: { main: '2.48' },
    ...rest,
  })
}
