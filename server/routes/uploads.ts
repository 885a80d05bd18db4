import Busboy from '@fastify/busboy'
import { bytesText, Problem } from '@bench-wake/core/kernel'
import type { Context } from 'hono'
import { bodyLimit } from 'hono/body-limit'
import { createHash } from 'node:crypto'
import { createWriteStream } from 'node:fs'
import { rm } from 'node:fs/promises'
import { join } from 'node:path'
import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { ownFile } from '../data-folder/disk'
import { fileTrouble } from '../db/trouble'
import { newId } from '../new-id'
import { answerProblem } from '../problem'

/** Refuses a body above a limit before it is read. */
export const atMost = (bytes: number, says: string, remedy: string) =>
  bodyLimit({
    maxSize: bytes,
    onError: (c) => answerProblem(c, new Problem({ kind: 'too-large', says, remedy })),
  })

export interface UploadedFile {
  /** Its last part, as the sender called it. */
  name: string
  /** Where it lies until `done` is called. */
  path: string
  size: number
  sha256: string
  /** The other fields of the form that are texts. */
  fields: Record<string, string>
  /** Takes it off the disk again. */
  done(): Promise<void>
}

export interface UploadLimit {
  /** Most bytes of the file. */
  bytes: number
  remedy: string
}

const maxFields = 20
const fieldBytes = 4096

/**
 * The file of a form, by the field "file": it goes to disk as it comes and is hashed on its way, so that neither memory nor
 * a run under way feels its size.
 * @param folder where it is laid.
 * @throws Problem `input` when none came or the form cannot be read; `too-large`. Nothing is left of it then.
 */
export async function receiveFile(c: Context, folder: string, limit: UploadLimit): Promise<UploadedFile> {
  const path = join(folder, newId('incoming'))
  const done = () => rm(path, { force: true })
  try {
    return { ...(await receive(c, path, limit)), path, done }
  } catch (error) {
    await done()
    throw error
  }
}

async function receive(
  c: Context,
  path: string,
  { bytes, remedy }: UploadLimit,
): Promise<Omit<UploadedFile, 'path' | 'done'>> {
  const { body } = c.req.raw
  const type = c.req.header('content-type') ?? ''
  if (!body || !type.startsWith('multipart/form-data')) throw noFile()
  const tooLarge = () =>
    new Problem({ kind: 'too-large', says: `the file is larger than ${bytesText(bytes)}`, remedy })
  const form = (() => {
    try {
      return new Busboy({
        headers: { 'content-type': type },
        limits: { fileSize: bytes, files: 1, fields: maxFields, fieldSize: fieldBytes, fieldNameSize: 100 },
      })
    } catch (error) {
      throw unreadable(error)
    }
  })()
  const fields = new Map<string, string>()
  const hash = createHash('sha256')
  let name: string | undefined
  let size = 0
  let kept: Promise<void> | undefined
  let full = false
  let failed: unknown
  const stop = new AbortController()
  form.on('field', (field, value) => {
    if (value.trim() !== '') fields.set(field, value.trim())
  })
  form.on('file', (field, stream, sent) => {
    if (field !== 'file' || kept) {
      stream.resume()
      return
    }
    name = sent?.split(/[\\/]/).pop() || 'unnamed'
    stream.on('data', (part: Buffer) => {
      size += part.length
      hash.update(part)
    })
    stream.on('limit', () => {
      full = true
    })
    kept = pipeline(stream, createWriteStream(path, { mode: ownFile }))
    // A disk that takes no more ends the upload at once: what still comes is not waited for.
    kept.catch((error: unknown) => {
      failed = error
      stop.abort()
    })
  })
  try {
    await pipeline(Readable.fromWeb(body as import('node:stream/web').ReadableStream), form, {
      signal: stop.signal,
    })
  } catch (error) {
    if (error instanceof Problem) throw error
    throw fileTrouble(failed ?? error) ?? unreadable(error)
  }
  await kept
  if (name === undefined) throw noFile()
  if (full) throw tooLarge()
  return { name, size, sha256: hash.digest('hex'), fields: Object.fromEntries(fields) }
}

const unreadable = (error: unknown) =>
  new Problem({
    kind: 'input',
    says: 'the form cannot be read',
    expected: 'multipart/form-data with its boundary',
    found: error instanceof Error ? error.message : String(error),
    remedy: 'Nothing was kept. Send it again.',
  })

const noFile = () =>
  new Problem({
    kind: 'input',
    place: { at: 'file' },
    says: 'no file came with the form',
    expected: 'multipart/form-data with a field "file"',
    remedy: 'Send the file in the field "file".',
  })
