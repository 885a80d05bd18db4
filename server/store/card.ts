import { writeFatVolume, type Medium } from '@bench-wake/core/image'
import { isProblem, sha256Hex, type Finding } from '@bench-wake/core/kernel'
import { judgeCard, type Gate, type WantedFile } from '@bench-wake/core/ready'
import { cardFiles, type CardContent } from '@bench-wake/core/run'
import { notFound } from '../problem'
import type { OpenPiece } from './job-plan'
import type { OpenJob } from './jobs'

/** What a job puts on a card or stick: the medium, its files, and why there are none. */
export interface JobCard {
  medium: string
  maxBytes: number
  othersAllowed: boolean
  files: WantedFile[]
  trouble: Finding | null
}

const contentOf = (medium: Medium, pieces: readonly OpenPiece[]): CardContent[] =>
  cardFiles(
    medium,
    pieces.flatMap(({ component, open }) => (open ? [{ component, memory: open.memory }] : [])),
  )

/** The files of a job's card with their digests; nothing to put on it while no image is chosen. */
export function cardOf(medium: Medium | null, pieces: readonly OpenPiece[]): JobCard | null {
  if (!medium || pieces.length === 0) return null
  const { name, maxBytes, othersAllowed } = medium
  const form = { medium: name, maxBytes, othersAllowed }
  try {
    const files = contentOf(medium, pieces).map((file) => ({
      name: file.name,
      bytes: file.bytes.length,
      sha256: sha256Hex(file.bytes),
    }))
    return { ...form, files, trouble: null }
  } catch (error) {
    if (!isProblem(error, 'card-image')) throw error
    const { thing, says, remedy } = error.facts
    const trouble: Finding = {
      rule: 'card-files',
      level: 'stop',
      says: `${says[0]!.toUpperCase()}${says.slice(1)}.`,
      because: `It is the file ${thing}.`,
      remedy,
    }
    return { ...form, files: [], trouble }
  }
}

/** The files themselves. @throws Problem `not-found` where the job's link is no card or stick. */
export function cardContentOf({ medium, pieces, job }: OpenJob): CardContent[] {
  if (!medium || pieces.length === 0) throw notFound('card of this job', job.id)
  return contentOf(medium, pieces)
}

/** Smallest volume that is made of a card: FAT16 wants some thousand clusters. */
const minVolume = 16 * 1024 * 1024

/** A whole card with these files in their order. @throws Problem `card-name`, `card-full`. */
export function cardVolume(files: readonly CardContent[]): Uint8Array {
  const size = files.reduce((sum, { bytes }) => sum + bytes.length, 0)
  return writeFatVolume(files, Math.max(minVolume, Math.ceil((size * 1.1) / minVolume) * minVolume))
}

/** The card as it was read back, judged; null where the job's link is none. */
export function cardGate({ medium, card, bench }: OpenJob): Gate | null {
  if (!medium || !card) return null
  if (card.trouble)
    return { id: 'card', name: 'Card', verdict: 'stop', findings: [card.trouble], numbers: {} }
  return judgeCard(medium, card.files, bench.card)
}
