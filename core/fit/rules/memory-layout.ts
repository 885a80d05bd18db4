import type { FitRule } from '../question'

/** PRACTICE B10: image and memory layout (definition) have to agree with the unit. */
export const memoryLayout: FitRule = {
  id: 'memory-layout',
  judge({ unit, image: { identity } }) {
    const wanted = identity?.layout
    if (wanted === undefined) return null
    if (unit.layout === undefined) {
      return {
        level: 'hold',
        says: 'The unit’s memory layout is not known.',
        because: `The image belongs to layout ${wanted}.`,
        remedy: 'Read the unit; the wrong definition shows itself at entry: relays chatter.',
      }
    }
    return unit.layout === wanted
      ? { level: 'go', says: `Image and unit share layout ${wanted}.`, because: 'The layouts are equal.' }
      : {
          level: 'stop',
          says: `The image belongs to layout ${wanted}; this unit has ${unit.layout}.`,
          because: 'With the wrong definition the read fails and the write harms.',
          remedy: `Choose the image and definition for layout ${unit.layout}.`,
        }
  },
}
