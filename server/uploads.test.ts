import { until } from '@bench-wake/testing/until'
import { execFileSync } from 'node:child_process'
import { createHash, randomBytes } from 'node:crypto'
import { readdirSync } from 'node:fs'
import { request } from 'node:http'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { openDatabase } from './db/open'
import { demoServer, endChildren, scratchFolder, seededFolder, startProgram } from './server.test-support'
import { readSettings } from './settings'
import { keepBlob, partBytes, readBlob, sweepBlobs } from './store/blobs'

endChildren()
const folder = seededFolder()
let server: Awaited<ReturnType<typeof demoServer>>
beforeAll(async () => {
  server = await demoServer(folder)
})
afterAll(() => server.stop())

const incoming = () => readdirSync(join(folder, 'incoming'))

describe('a file that is sent', () => {
  it('is kept byte for byte, in parts where it is large, and leaves nothing behind where it came in', async () => {
    const bytes = randomBytes(2 * partBytes + 12_345)
    const { status, body } = await server.upload('large.bin', bytes)
    expect(status).toBe(201)
    const digest = createHash('sha256').update(bytes).digest('hex')
    expect(body).toMatchObject({ name: 'large.bin', size: bytes.length, sha256: digest })
    const back = await fetch(`${server.base}/images/${body.id}/bytes?format=file`)
    expect(
      createHash('sha256')
        .update(new Uint8Array(await back.arrayBuffer()))
        .digest('hex'),
    ).toBe(digest)
    expect(incoming()).toEqual([])
  })

  it('keeps what the form says beside it, in whatever order', async () => {
    for (const order of [true, false]) {
      const form = new FormData()
      if (order) form.append('from', 'a card in the drawer')
      form.append('file', new File([randomBytes(64)], String.raw`C:\images\odd.bin`))
      if (!order) form.append('from', 'a card in the drawer')
      const response = await fetch(`${server.base}/images`, { method: 'POST', body: form })
      const image = (await response.json()) as { name: string; origins: { from?: string }[] }
      expect(image.name).toBe('odd.bin')
      expect(image.origins[0]!.from).toBe('a card in the drawer')
    }
  })

  it('on a full disk is refused at once, while the rest of it is still to come, and nothing of it stays', async () => {
    const full = seededFolder()
    const { child, base } = await startProgram(full)
    // Larger than the database, smaller than the file: the limit stands for the disk's last byte.
    execFileSync('prlimit', ['--fsize=30000000:', '--pid', String(child.pid)])
    const answer = await new Promise<{ status: number; body: string }>((done, fail) => {
      const asked = request(
        `${base}/images`,
        { method: 'POST', headers: { 'content-type': 'multipart/form-data; boundary=b' } },
        (reply) => {
          let body = ''
          reply.on('data', (part: Buffer) => (body += part.toString()))
          reply.on('end', () => done({ status: reply.statusCode!, body }))
        },
      )
      asked.on('error', fail)
      asked.write('--b\r\ncontent-disposition: form-data; name="file"; filename="x.bin"\r\n\r\n')
      // More is never sent: an answer that waits for the end does not come.
      asked.write(Buffer.alloc(40_000_000, 1))
    })
    expect(answer.status).toBe(507)
    expect(answer.body).toContain('the disk is full')
    await until(() => readdirSync(join(full, 'incoming')).length === 0, 'An empty folder for uploads')
    child.kill('SIGKILL')
  })

  it('that breaks off in the middle is no file, and nothing of it stays', async () => {
    const before = (await server.get('/images')).body.length
    await new Promise<void>((done) => {
      const asked = request(`${server.base}/images`, {
        method: 'POST',
        headers: { 'content-type': 'multipart/form-data; boundary=b', 'content-length': '5000000' },
      })
      asked.on('error', () => done())
      asked.write('--b\r\ncontent-disposition: form-data; name="file"; filename="x.bin"\r\n\r\n')
      asked.write(randomBytes(300_000), () => setTimeout(() => asked.destroy(), 100))
    })
    await until(() => incoming().length === 0, 'A folder with nothing of it')
    expect((await server.get('/images')).body).toHaveLength(before)
  })

  it('that is too large is refused with its limit, and nothing of it stays', async () => {
    const [{ id }] = (await server.get('/units')).body as [{ id: string }]
    const [page] = (await server.get(`/units/${id}`)).body.snapshots as { id: number }[]
    const form = new FormData()
    form.append('file', new File([randomBytes(12 * 1024 * 1024 + 1)], 'photo.jpg'))
    const response = await fetch(`${server.base}/units/${id}/snapshots/${page!.id}/photo`, {
      method: 'POST',
      body: form,
    })
    expect(response.status).toBe(413)
    expect(await response.json()).toMatchObject({
      kind: 'too-large',
      remedy: expect.stringMatching(/smaller/),
    })
    expect(incoming()).toEqual([])
  })

  it('that is empty, or comes without the field, is refused', async () => {
    expect((await server.upload('empty.bin', '')).status).toBeGreaterThanOrEqual(400)
    const form = new FormData()
    form.append('other', new File(['x'], 'x.bin'))
    const response = await fetch(`${server.base}/images`, { method: 'POST', body: form })
    expect(response.status).toBe(400)
    expect(incoming()).toEqual([])
  })
})

describe('bytes by their digest', () => {
  it('come back as they were, at the edges of a part too; what nothing names is swept away', async () => {
    const { db, close } = await openDatabase(readSettings({ BENCH_WAKE_DATA: scratchFolder() }).databaseUrl)
    for (const length of [1, partBytes, partBytes + 1, 2 * partBytes]) {
      const bytes = randomBytes(length)
      const sha256 = await keepBlob(db, bytes)
      expect(await keepBlob(db, bytes)).toBe(sha256)
      expect((await readBlob(db, sha256))!.equals(bytes)).toBe(true)
    }
    const rows = async (table: string) =>
      Number((await db.$client.execute(`select count(*) from ${table}`)).rows[0]![0])
    expect([await rows('blobs'), await rows('blob_parts')]).toEqual([4, 4])
    await sweepBlobs(db)
    expect([await rows('blobs'), await rows('blob_parts')]).toEqual([0, 0])
    expect(await readBlob(db, 'none')).toBeNull()
    close()
  })
})
