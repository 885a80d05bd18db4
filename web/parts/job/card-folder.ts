import { Problem, sha256Hex } from '@bench-wake/core/kernel'
import type { CardSay } from '@bench-wake/core/ready'
import type { CardImageAnswer } from '../../workers/card-worker'
import { sizeText } from '../written'

type Read = CardSay['files'][number]

/** A file that goes onto the card, fetched when it is its turn. */
export interface CardWrite {
  name: string
  load(): Promise<Uint8Array>
}

async function digestOf(bytes: Uint8Array): Promise<string> {
  // Over plain HTTP from another computer a browser has no digests of its own.
  if (!globalThis.crypto?.subtle) return sha256Hex(bytes)
  const digest = await crypto.subtle.digest('SHA-256', bytes as Uint8Array<ArrayBuffer>)
  return [...new Uint8Array(digest)].map((byte) => byte.toString(16).padStart(2, '0')).join('')
}

async function* filesOf(folder: FileSystemDirectoryHandle): AsyncGenerator<FileSystemFileHandle> {
  const entries = (folder as unknown as { values(): AsyncIterable<FileSystemHandle> }).values()
  for await (const entry of entries) if (entry.kind === 'file') yield entry as FileSystemFileHandle
}

/** Files that lie in a folder and are none of these. */
export async function othersIn(
  folder: FileSystemDirectoryHandle,
  names: readonly string[],
): Promise<string[]> {
  const others: string[] = []
  for await (const { name } of filesOf(folder)) if (!names.includes(name)) others.push(name)
  return others
}

/** Writes the files one by one, each closed before the next begins: so their entries stand in this order. */
export async function writeCard(
  folder: FileSystemDirectoryHandle,
  files: readonly CardWrite[],
  onFile: (done: number) => void,
): Promise<void> {
  for (const { name } of files) await folder.removeEntry(name).catch(() => {})
  for (const [index, { name, load }] of files.entries()) {
    const file = await folder.getFileHandle(name, { create: true })
    const writing = await file.createWritable()
    await writing.write((await load()) as Uint8Array<ArrayBuffer>)
    await writing.close()
    onFile(index + 1)
  }
}

/** Reads a card back: the files of its top folder in the order in which the system gives them, each with its digest. */
export async function readCard(folder: FileSystemDirectoryHandle, names: readonly string[]): Promise<Read[]> {
  const read: Read[] = []
  for await (const handle of filesOf(folder)) {
    const file = await handle.getFile()
    // What is only in the way need not be read.
    const sha256 = names.includes(handle.name)
      ? await digestOf(new Uint8Array(await file.arrayBuffer()))
      : undefined
    read.push({ name: handle.name, bytes: file.size, ...(sha256 ? { sha256 } : {}) })
  }
  return read
}

/** Larger images a browser does not take into its memory at once. */
const maxImageBytes = 1 << 30

/** The same from an image of a card. @throws Problem `card-unreadable`, `card-too-large`. */
export async function readCardImage(image: File): Promise<Read[]> {
  if (image.size > maxImageBytes) {
    throw new Problem({
      kind: 'card-too-large',
      thing: image.name,
      says: 'this image is too large to be looked at here',
      expected: `up to ${sizeText(maxImageBytes)}`,
      found: sizeText(image.size),
      remedy: 'Take an image of the card’s first volume alone, or check the card itself.',
    })
  }
  const worker = new Worker(new URL('../../workers/card-worker.ts', import.meta.url), { type: 'module' })
  const answer = await new Promise<CardImageAnswer>((resolve, reject) => {
    worker.onmessage = ({ data }: MessageEvent<CardImageAnswer>) => resolve(data)
    worker.onerror = ({ message }) => reject(new Error(message))
    worker.postMessage(image)
  }).finally(() => worker.terminate())
  if ('files' in answer) return answer.files
  throw new Problem({ ...answer.facts, thing: image.name })
}

/** A file of the job's card, as the server has it. @throws Problem `card-fetch`. */
export async function cardFile(jobId: string, name: string, index: number): Promise<Uint8Array> {
  const answer = await fetch(`/api/jobs/${jobId}/card/${index}`).catch(() => null)
  if (answer?.ok) return new Uint8Array(await answer.arrayBuffer())
  throw new Problem({
    kind: 'card-fetch',
    thing: name,
    says: 'the file could not be fetched from the program',
    ...(answer ? { found: `answer ${answer.status}` } : {}),
    remedy: 'Look whether the program runs. What is on the card now is not whole: write it again.',
  })
}
