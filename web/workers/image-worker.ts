import { readFamily, type FamilyDocument } from '@bench-wake/core/family'
import {
  closeness,
  compareImages,
  contentDigest,
  exploreImage,
  findBytes,
  hexLayout,
  identifyImage,
  labelCandidates,
  readImageFile,
  rowOf,
  rowsAt,
  sketchOf,
  wantedBytes,
  type HexLayout,
  type ImageIdentity,
  type MemoryMap,
} from '@bench-wake/core/image'
import { answerDesk } from './answer-desk'

interface Held {
  memory: MemoryMap
  layout: HexLayout
}
const held = new Map<string, Held>()

function holding(id: string): Held {
  const image = held.get(id)
  if (!image) throw new Error(`image ${id} was not opened`)
  return image
}

/** Everything that looks at an image's bytes on a page: beside the page, so that it never waits. */
const acts = {
  /** Fetches a file and reads it; the address is that of a plain binary. */
  async open(id: string, url: string, address: number | null, documents: FamilyDocument[]) {
    const answer = await fetch(url)
    if (!answer.ok) throw new Error((await answer.json()).detail)
    const file = new Uint8Array(await answer.arrayBuffer())
    const { memory } = readImageFile(file, address === null ? {} : { address })
    const layout = hexLayout(memory)
    held.set(id, { memory, layout })
    const families = documents.map((document) => readFamily(document))
    const identity: ImageIdentity | null = identifyImage(memory, families)
    return {
      rows: layout.rows,
      contentSha256: contentDigest(memory),
      identity,
      ...exploreImage(memory, identity ? [] : families),
    }
  },
  async rows(id: string, first: number, count: number) {
    const { memory, layout } = holding(id)
    return rowsAt(memory, layout, first, count)
  },
  async rowAt(id: string, address: number) {
    return rowOf(holding(id).layout, address)
  },
  /** Addresses of what is looked for from an address on; at most a thousand. */
  async find(id: string, typed: string) {
    const wanted = wantedBytes(typed)
    return { length: wanted?.length ?? 0, at: wanted ? findBytes(holding(id).memory, wanted, 1000) : [] }
  },
  async compare(first: string, second: string) {
    const [a, b] = [holding(first).memory, holding(second).memory]
    return { ...compareImages(a, b), share: closeness(sketchOf(a), sketchOf(b)) }
  },
  /** How images like these two could say their versions, which a person knows. */
  async label([first, a]: [string, string], [second, b]: [string, string]) {
    return labelCandidates(
      { memory: holding(first).memory, version: a },
      { memory: holding(second).memory, version: b },
    )
  },
}
export type ImageActs = typeof acts

answerDesk(acts)
