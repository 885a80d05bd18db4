import type { WiringRule } from '../question'

const called = { 'pass-through': 'a plain pass-through', converter: 'a cable with a converter inside' }

/** PRACTICE C1: cables that look alike are not: one is a plain pass-through, another has a converter inside. */
export const cableForm: WiringRule = {
  id: 'cable-form',
  judge({ adapter, wiring }) {
    return adapter.form === wiring.form
      ? { level: 'go', says: `It is ${called[adapter.form]}, as it must be.`, because: wiring.connector }
      : {
          level: 'stop',
          says: `${adapter.name} is ${called[adapter.form]}; here it must be ${called[wiring.form]}.`,
          because: `${wiring.connector}. The two look alike and are not.`,
          remedy: 'Look for the other cable; its label or its weight tells it.',
        }
  },
}
