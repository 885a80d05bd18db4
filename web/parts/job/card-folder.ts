import { readFatRoot } from '@bench-wake/core/image'
import { sha256Hex } from '@bench-wake/core/kernel'
import type { CardSay } from '@bench-wake/core/ready'

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

/** The same from an image of a card. @throws Problem `card-unreadable`. */
export async function readCardImage(image: File): Promise<Read[]> {
  const files = readFatRoot(new Uint8Array(await image.arrayBuffer()))
  return Promise.all(
    files.map(async ({ name, bytes }) => ({ name, bytes: bytes.length, sha256: await digestOf(bytes) })),
  )
}
