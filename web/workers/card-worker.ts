import { readFatRoot } from '@bench-wake/core/image'
import { isProblem, sha256Hex, type ProblemFacts } from '@bench-wake/core/kernel'

/** Files of a card as its image has them, or why it cannot be read. */
export type CardImageAnswer =
  | { files: { name: string; bytes: number; sha256: string }[] }
  | { facts: ProblemFacts }

/** Reads an image of a card beside the page: some are large. */
self.onmessage = async ({ data }: MessageEvent<File>) => {
  const answer = (given: CardImageAnswer) => self.postMessage(given)
  try {
    const files = readFatRoot(new Uint8Array(await data.arrayBuffer()))
    answer({
      files: files.map(({ name, bytes }) => ({ name, bytes: bytes.length, sha256: sha256Hex(bytes) })),
    })
  } catch (error) {
    if (isProblem(error)) return answer({ facts: error.facts })
    answer({
      facts: {
        kind: 'card-unreadable',
        says: 'the image of the card could not be taken into memory',
        found: error instanceof Error ? error.message : String(error),
        remedy: 'Take an image of the card’s first volume alone, or check the card itself.',
      },
    })
  }
}
