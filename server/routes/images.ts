import { writeIntelHex } from '@bench-wake/core/image'
import { Problem } from '@bench-wake/core/kernel'
import { Hono } from 'hono'
import { bodyLimit } from 'hono/body-limit'
import * as v from 'valibot'
import type { Services } from '../app'
import { answerProblem } from '../problem'
import { addImage, listImages, openImage } from '../store/images'
import { valid } from './validate'

const mostBytes = 256 * 1024 * 1024

export const images = ({ db }: Services) =>
  new Hono()
    .get('/', async (c) => c.json(await listImages(db)))
    .post(
      '/',
      bodyLimit({
        maxSize: mostBytes,
        onError: (c) =>
          answerProblem(
            c,
            new Problem({
              kind: 'too-large',
              says: 'the file is larger than 256 MiB',
              remedy: 'Images are smaller than that. Take the image alone, without pictures and films.',
            }),
          ),
      }),
      async (c) => {
        const { file } = await c.req.parseBody()
        if (!(file instanceof File)) {
          throw new Problem({
            kind: 'input',
            place: { at: 'file' },
            says: 'no file came with the form',
            expected: 'multipart/form-data with a field "file"',
            remedy: 'Send the image file in the field "file".',
          })
        }
        const name = file.name.split(/[\\/]/).pop() || 'unnamed'
        return c.json(await addImage(db, name, new Uint8Array(await file.arrayBuffer())), 201)
      },
    )
    .get('/:id', async (c) => c.json((await openImage(db, c.req.param('id'))).image))
    .get(
      '/:id/bytes',
      valid(
        'query',
        v.object({
          format: v.optional(v.picklist(['ihex', 'bin'], 'This version writes ihex and bin'), 'ihex'),
        }),
      ),
      async (c) => {
        const { image, memory, start } = await openImage(db, c.req.param('id'))
        const { format } = c.req.valid('query')
        const stem = image.name.replace(/\.[^.]*$/, '')
        const head = (ending: string, type: string) => ({
          'content-type': type,
          'content-disposition': `attachment; filename*=UTF-8''${encodeURIComponent(`${stem}.${ending}`)}`,
        })
        if (format === 'ihex') {
          return c.body(
            writeIntelHex(memory, start ? { start } : {}),
            200,
            head('hex', 'text/plain; charset=us-ascii'),
          )
        }
        const only = memory[0]
        if (!only || memory.length > 1) {
          throw new Problem({
            kind: 'input',
            thing: image.name,
            place: { at: 'format' },
            says: `a plain binary cannot hold ${memory.length} separate pieces`,
            remedy: 'Take it as ihex, which keeps the addresses.',
          })
        }
        return c.body(new Uint8Array(only.bytes).buffer, 200, head('bin', 'application/octet-stream'))
      },
    )
