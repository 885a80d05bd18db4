import { Problem } from '@bench-wake/core/kernel'
import type { Context } from 'hono'
import { bodyLimit } from 'hono/body-limit'
import { answerProblem } from '../problem'

/** Refuses a body above a limit before it is read. */
export const atMost = (bytes: number, says: string, remedy: string) =>
  bodyLimit({
    maxSize: bytes,
    onError: (c) => answerProblem(c, new Problem({ kind: 'too-large', says, remedy })),
  })

export interface UploadedFile {
  name: string
  bytes: Uint8Array
  /** The other fields of the form that are texts. */
  fields: Record<string, string>
}

/** The file of a form, by the field "file". @throws Problem `input` when none came. */
export async function uploadedFile(c: Context): Promise<UploadedFile> {
  const { file, ...rest } = await c.req.parseBody().catch((error: Error) => {
    throw new Problem({
      kind: 'input',
      says: 'the form cannot be read',
      expected: 'multipart/form-data with its boundary',
      found: error.message,
      remedy: 'Nothing was kept. Send it again.',
    })
  })
  if (!(file instanceof File)) {
    throw new Problem({
      kind: 'input',
      place: { at: 'file' },
      says: 'no file came with the form',
      expected: 'multipart/form-data with a field "file"',
      remedy: 'Send the file in the field "file".',
    })
  }
  return {
    name: file.name.split(/[\\/]/).pop() || 'unnamed',
    bytes: new Uint8Array(await file.arrayBuffer()),
    fields: Object.fromEntries(
      Object.entries(rest).flatMap(([field, value]) =>
        typeof value === 'string' && value.trim() !== '' ? [[field, value.trim()]] : [],
      ),
    ),
  }
}
