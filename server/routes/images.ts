import {
  AddedAnswer as AddedAnswerShape,
  CloseImage,
  FullBundle,
  FullImage,
  RemovedImage,
  ShelfImage,
} from '../answers/images'
import { Done, gives, givesFile, takesFile } from './gives'
import { judgePackage, mediumOf, formatEndings, maxFileBytes, writableFormats } from '@bench-wake/core/image'
import { Problem } from '@bench-wake/core/kernel'
import { Hono } from 'hono'
import * as v from 'valibot'
import type { Services } from '../app'
import { settleRequests } from '../store/arrivals'
import { downloadOf } from '../store/shelf'
import { notesOf } from '../store/load-shelf'
import { sayImage, unsayImage } from '../store/image-statements'
import type { AddedAnswer } from './answers'
import { receiveFile } from './uploads'
import { signer, text, valid } from './validate'

const formats = [...writableFormats, 'file'] as const

export const images = ({ db, shelf, downloads, incoming }: Services) =>
  new Hono()
    .get('/', gives(v.array(ShelfImage)), async (c) => c.json(await shelf.list()))

    .post('/', gives(AddedAnswerShape, 201), takesFile('from', 'address'), async (c) => {
      const { name, path, fields, done } = await receiveFile(c, incoming, {
        bytes: maxFileBytes,
        remedy: 'Images are smaller than that. Take the image alone, without pictures and films.',
      })
      try {
        const origin = fields['from']?.slice(0, 400)
        const address = addressIn(fields['address'])
        const added = await shelf.add(
          name,
          { path },
          {
            ...(origin ? { origin } : {}),
            ...(address === undefined ? {} : { address }),
          },
        )
        const settled = await settleRequests(db, shelf, added.images)
        const answer: AddedAnswer = { ...added.images[0]!, ...added, settled }
        return c.json(answer, 201)
      } finally {
        await done()
      }
    })
    .get('/bundles/:id', gives(FullBundle), async (c) => {
      const bundle = await shelf.bundle(c.req.param('id'))
      const inside = await Promise.all(
        bundle.entries.map(async ({ path, size, imageId }) => ({
          path,
          size,
          identity: imageId ? (await shelf.image(imageId)).identity : null,
        })),
      )
      const families = await shelf.families()
      const media = families.flatMap((family) => {
        const own = inside.some(({ identity }) => identity?.familyId === family.id)
        const medium = own ? mediumOf(family) : undefined
        return medium ? [{ familyId: family.id, medium, findings: judgePackage(medium, inside) }] : []
      })
      return c.json({ ...bundle, media })
    })
    .get('/removed', gives(v.array(RemovedImage)), async (c) => c.json(await shelf.removed()))
    .delete('/:id', gives(Done), async (c) => {
      await shelf.remove(c.req.param('id'), Date.now())
      return c.json({ ok: true })
    })
    .post('/:id/put-back', gives(ShelfImage), async (c) => c.json(await shelf.putBack(c.req.param('id'))))
    .get('/:id', gives(FullImage), async (c) => {
      const image = await shelf.image(c.req.param('id'))
      return c.json({ ...image, notes: await notesOf(db, image) })
    })
    .post(
      '/:id/statement',
      gives(ShelfImage),
      valid(
        'json',
        v.object({
          familyId: text(80),
          componentId: text(80),
          version: v.exactOptional(text(80)),
          hardwareMajor: v.exactOptional(v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(1e6))),
          by: signer,
          from: text(400),
        }),
      ),
      async (c) => {
        const { id } = await shelf.image(c.req.param('id'))
        const form = c.req.valid('json')
        await sayImage(db, id, { ...form, at: Date.now() })
        shelf.forget()
        return c.json(await shelf.image(id))
      },
    )
    .delete('/:id/statement', gives(ShelfImage), async (c) => {
      const { id } = await shelf.image(c.req.param('id'))
      await unsayImage(db, id)
      shelf.forget()
      return c.json(await shelf.image(id))
    })
    .get('/:id/close-to', gives(v.array(CloseImage)), async (c) =>
      c.json(await shelf.closeTo(c.req.param('id'))),
    )
    .get(
      '/:id/bytes',
      givesFile('The image, written in a format', 'text/plain', 'application/octet-stream'),
      valid(
        'query',
        v.object({
          format: v.optional(v.picklist(formats, `This version writes ${formats.join(', ')}`), 'ihex'),
        }),
      ),
      async (c) => {
        const image = await shelf.image(c.req.param('id'))
        const { format } = c.req.valid('query')
        const asText = format === 'ihex' || format === 'srec'
        const own = image.name.split('/').pop()!
        const name = format === 'file' ? own : `${own.replace(/\.[^.]*$/, '')}.${formatEndings[format]}`
        const bytes = await downloads.begin(downloadOf(image, format))
        return c.body(bytes, 200, {
          ...(format === 'file' ? { 'content-length': String(image.size) } : {}),
          'content-type': asText ? 'text/plain; charset=us-ascii' : 'application/octet-stream',
          'content-disposition': `attachment; filename*=UTF-8''${encodeURIComponent(name)}`,
        })
      },
    )

/** @throws Problem `input` for anything but a 32-bit address. */
function addressIn(text: string | undefined): number | undefined {
  if (text === undefined) return undefined
  if (/^(0x[0-9a-f]{1,8}|\d{1,10})$/i.test(text) && Number(text) <= 0xffff_ffff) return Number(text)
  throw new Problem({
    kind: 'input',
    place: { at: 'address' },
    says: 'this is not an address of 32 bits',
    expected: 'for example 0x08008000',
    found: text,
    remedy: 'Write the address of the first byte in hexadecimal.',
  })
}
