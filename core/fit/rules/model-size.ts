import { inSentence } from '../../kernel'
import type { FitRule } from '../question'

/** PRACTICE A5, B1: the image is for this model size, and the model has this component at all. */
export const modelSize: FitRule = {
  id: 'model-size',
  judge({ family, component, unit, image: { identity } }) {
    const models = family.hardware.models
    if (!models) return null
    const wanted = identity?.model
    if (unit.model === undefined) {
      if (wanted === undefined && !component.onlyOn) return null
      return {
        level: 'hold',
        says: 'The unit’s model is not known.',
        because: wanted
          ? `The image is for the ${wanted}.`
          : `Only the ${component.onlyOn!.join(' and ')} has a ${inSentence(component.name)}.`,
        remedy: 'Read the model from the unit’s page or its label.',
      }
    }
    if (component.onlyOn && !component.onlyOn.includes(unit.model)) {
      return {
        level: 'stop',
        says: `A ${unit.model} has no ${inSentence(component.name)}.`,
        because: `Only the ${component.onlyOn.join(' and ')} has one.`,
        remedy: `Choose an image for what the ${unit.model} has.`,
      }
    }
    if (wanted === undefined) return null
    return wanted === unit.model
      ? { level: 'go', says: `Image and unit are both ${wanted}.`, because: 'The models are equal.' }
      : {
          level: 'stop',
          says: `The image is for the ${wanted}; this unit is a ${unit.model}.`,
          because: 'The models differ, and with them the processor’s program.',
          remedy: `Choose the image for the ${unit.model}.`,
        }
  },
}
