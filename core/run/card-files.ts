import { zipSync } from 'fflate'
import { bytesAt, type Medium, type MemoryMap } from '../image'
import { asciiBytes, Problem } from '../kernel'
import type { Component } from '../family'

/** A file as it goes onto a card. */
export interface CardContent {
  name: string
  bytes: Uint8Array
}

/**
 * The files of a card in the order in which the unit wants them: images as their plain bytes, texts as the profile has them.
 * @param images of the components that the job writes.
 * @throws Problem `card-image` that names a component whose image is not there.
 */
export function cardFiles(
  medium: Medium,
  images: readonly { component: Component; memory: MemoryMap }[],
): CardContent[] {
  return medium.files.map(({ name, component: id, text }) => {
    if (id === undefined) return { name, bytes: asciiBytes(text ?? '') }
    const image = images.find(({ component }) => component.id === id)
    if (!image) {
      throw new Problem({
        kind: 'card-image',
        thing: name,
        says: `the ${medium.name} needs an image of "${id}" too, and the job has none`,
        remedy: 'Bring it to the shelf, and choose the one that goes with the other.',
      })
    }
    const start = image.memory[0]!.address
    const end = Math.max(...image.memory.map(({ address, bytes }) => address + bytes.length))
    return { name, bytes: bytesAt(image.memory, start, end - start, image.component.memory.erasedByte) }
  })
}

/** The files as an archive to unpack onto a card, in their order. */
export const zipOfCard = (files: readonly CardContent[]): Uint8Array =>
  zipSync(Object.fromEntries(files.map(({ name, bytes }) => [name, bytes])), { level: 0 })
