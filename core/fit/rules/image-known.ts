import { inSentence } from '../../kernel'
import type { FitRule } from '../question'

/** PRACTICE B2, B6: an image that no profile claims, or one of another family or component, never goes on. */
export const imageKnown: FitRule = {
  id: 'image-known',
  judge({ family, component, image: { name, identity } }) {
    if (!identity) {
      return {
        level: 'stop',
        says: `${name} does not say what it is for.`,
        because: `No profile knows an identity block in it; a ${family.name} image has one at a fixed address.`,
        remedy: 'Take the image from the seller of this very unit.',
      }
    }
    if (identity.familyId !== family.id || identity.componentId !== component.id) {
      const own = identity.familyId === family.id
      const part = own ? family.components.find(({ id }) => id === identity.componentId) : undefined
      return {
        level: 'stop',
        says: own
          ? `${name} is for another part of it: ${part?.name ?? identity.componentId}.`
          : `${name} is for other equipment: ${identity.familyId}, ${identity.componentId}.`,
        because: `Its identity block says so; this is about the ${inSentence(component.name)} of a ${family.name}.`,
        remedy: `Choose an image for the ${inSentence(component.name)} of a ${family.name}.`,
      }
    }
    return {
      level: 'go',
      says: `${name} is an image for the ${inSentence(component.name)} of a ${family.name}.`,
      because: 'Its identity block says so, whatever the file is called.',
    }
  },
}
