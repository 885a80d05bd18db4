import { howTold, toldByWords } from '../../image'
import { inSentence, asSentence } from '../../kernel'
import type { FitRule } from '../question'

/** PRACTICE B2, B6: an image that no profile claims, or one of another family or component, never goes on. */
export const imageKnown: FitRule = {
  id: 'image-known',
  judge({ family, component, image: { name, identity } }) {
    if (!identity) {
      return {
        level: 'stop',
        says: `${name} does not say what it is for.`,
        because: component.identity
          ? `No profile knows an identity block in it; a ${family.name} image has one.`
          : `No profile knows a text or a digest of it; images of a ${family.name} have no identity block.`,
        remedy: component.identity
          ? 'Take the image from the seller of this very unit.'
          : 'Say on the image’s page what it is and where you know it from, or enter its digest in the profile’s releases.',
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
        because: `${asSentence(toldByWords[howTold(identity)])} says so; this is about the ${inSentence(component.name)} of a ${family.name}.`,
        remedy: `Choose an image for the ${inSentence(component.name)} of a ${family.name}.`,
      }
    }
    const told = howTold(identity)
    const what = `an image for the ${inSentence(component.name)} of a ${family.name}`
    // The last way to know it: never a silent go.
    if (told === 'person') {
      const { by = 'Somebody', from = 'nobody wrote down' } = identity.statement ?? {}
      return {
        level: 'hold',
        says: `${by} says that ${name} is ${what}. Nothing else does.`,
        because: `Where from: ${from}. No text in it tells it, and its digest is in no list of releases.`,
        remedy:
          'Compare its digest with the supplier’s and enter it in the profile’s releases. Or release it by name.',
      }
    }
    return {
      level: told === 'manifest' ? 'note' : 'go',
      says: `${name} is ${what}.`,
      because: `${asSentence(toldByWords[told])} says so, whatever the file is called.`,
    }
  },
}
