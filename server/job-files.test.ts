/* eslint-disable @typescript-eslint/no-explicit-any -- tests read answers as an outside tool does: by member */
import { firstUnitOf } from '@bench-wake/demo'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { demoServer, seededFolder } from './server.test-support'

/* PRACTICE G3, common practice: what an update erases is photographed before, and looked at where it is put back. */

let server: Awaited<ReturnType<typeof demoServer>>
let jobId: string
beforeAll(async () => {
  server = await demoServer(seededFolder())
  const { id: unitId } = firstUnitOf('marine-radio')
  const made = await server.send('POST', '/jobs', { unitId, reason: 'Keep them.', day: '2026-12-01' })
  jobId = made.body.id
})
afterAll(() => server.stop())

const send = async (name: string, bytes: Uint8Array, job = jobId): Promise<{ status: number; body: any }> => {
  const form = new FormData()
  form.append('file', new File([bytes as Uint8Array<ArrayBuffer>], name))
  const response = await fetch(`${server.base}/jobs/${job}/settings`, { method: 'POST', body: form })
  return { status: response.status, body: await response.json() }
}
const list = async (): Promise<any[]> => (await server.get(`/jobs/${jobId}/settings`)).body
const open = (id: number) => fetch(`${server.base}/jobs/${jobId}/settings/${id}`)
/** PNG signature (ISO/IEC 15948, 5.2) and what follows it. */
const png = new Uint8Array([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a, 1, 2, 3])

describe('settings kept with a job', () => {
  it('are the same bytes again, a photo shown as one, every other file handed out and not shown', async () => {
    const photo = (await send('page-1.png', png)).body
    expect(photo).toMatchObject({ name: 'page-1.png', type: 'image/png', bytes: png.length })
    const shown = await open(photo.id)
    expect(new Uint8Array(await shown.arrayBuffer())).toEqual(png)
    expect(shown.headers.get('content-type')).toBe('image/png')

    // What a browser would run is no photo, whatever it is called.
    const page = new TextEncoder().encode('<script>alert(1)</script>')
    const { body: file } = await send('page-2.png', page)
    const given = await open(file.id)
    expect(given.headers.get('content-type')).toBe('application/octet-stream')
    expect(given.headers.get('content-disposition')).toMatch(/^attachment/)
    expect(given.headers.get('x-content-type-options')).toBe('nosniff')
    expect((await list()).map(({ name }) => name)).toEqual(['page-1.png', 'page-2.png'])
    // The same once more is the same.
    expect((await send('again.png', png)).body.id).toBe(photo.id)
    expect(await list()).toHaveLength(2)
  })
  it('are removed one by one, and of another job are not there', async () => {
    const [photo, file] = await list()
    await server.send('DELETE', `/jobs/${jobId}/settings/${file.id}`, {})
    expect(await list()).toMatchObject([{ id: photo.id }])
    expect((await open(file.id)).status).toBe(404)
    const elsewhere = await fetch(`${server.base}/jobs/job-fog-07/settings/${photo.id}`)
    expect(elsewhere.status).toBe(404)
    expect((await server.get('/jobs/none/settings')).status).toBe(404)
  })
  it('of a closed job stay as they were', async () => {
    const [photo] = await list()
    await server.send('POST', `/jobs/${jobId}/close`, { name: 'A. Lund', note: 'Withdrawn.' })
    expect((await send('late.png', new Uint8Array([...png, 9]))).body.kind).toBe('job-closed')
    expect((await server.send('DELETE', `/jobs/${jobId}/settings/${photo.id}`, {})).body.kind).toBe(
      'job-closed',
    )
    expect(await list()).toHaveLength(1)
  })
})
