import { demoFamilies, demoUnits, firmwareOf, demoFamily, inverterBundle, radioCard } from '@bench-wake/demo'
import { strToU8, zipSync } from 'fflate'
import { execFileSync } from 'node:child_process'
import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { demoServer, seededFolder } from './server.test-support'

const folder = seededFolder()
let server: Awaited<ReturnType<typeof demoServer>>
beforeAll(async () => {
  server = await demoServer(folder)
})
afterAll(() => server.stop())

type Image = {
  id: string
  name: string
  names: string[]
  findings: { rule: string; level: string; says: string }[]
}
const images = async () => (await server.get('/images')).body as Image[]
const idOf = async (name: string) => (await images()).find(({ names }) => names.includes(name))!.id

describe('the shelf', () => {
  // PRACTICE B2, B3, common practice: unhelpful names, notes beside the images.
  it('tells the images of an archive apart, keeps its notes and what its manifest says', async () => {
    const { status, body } = await server.upload('release (7).zip', inverterBundle().file)
    expect(status).toBe(201)
    expect(
      body.images.map((image: Image & { identity: { componentId: string } }) => image.identity.componentId),
    ).toEqual(['power', 'panel'])
    expect(body.images[0].claim).toMatchObject({ component: 'power', sequence: 36 })
    expect(body.images[0].identity).toMatchObject({
      requiresFrom: '3.0',
      vendorId: demoFamily('station-inverter').hardware.vendorId,
    })
    expect(body.images[0].notesCount).toBe(1)
    expect((await server.get(`/images/${body.images[0].id}`)).body.notes[0]).toMatchObject({
      path: 'rel/READ ME.txt',
    })
    expect(body.bundle.entries).toHaveLength(4)
    // The public answer of one image, so that outside tools need not know archives.
    expect(body).toMatchObject({ format: 'ihex', sha256: expect.stringMatching(/^[0-9a-f]{64}$/) })
  })
  it('keeps notes once for their archive: a hundred images with long notes leave a short list', async () => {
    const hex = (at: number) => {
      const sum = (0x100 - ((1 + at) & 0xff)) & 0xff
      return `:01000000${at.toString(16).padStart(2, '0')}${sum.toString(16).padStart(2, '0')}\n:00000001FF\n`
    }
    const files: Record<string, Uint8Array> = {}
    for (let at = 0; at < 100; at++) files[`image-${at}.hex`] = strToU8(hex(at))
    for (let at = 0; at < 12; at++) files[`note-${at}.txt`] = strToU8('All of it is new. '.repeat(3500))
    const packed = zipSync(files)
    expect(packed.length).toBeLessThan(95_000)
    const before = JSON.stringify((await server.get('/images')).body).length
    const { status, body } = await server.upload('many.zip', packed)
    expect(status).toBe(201)
    const list = JSON.stringify((await server.get('/images')).body)
    expect(list.length - before).toBeLessThan(300_000)
    // 3 500 times 18 bytes are 63 000 of 65 536; eight of these are within half a mebibyte, nine are not.
    expect((await server.get(`/images/${body.images[0].id}`)).body.notes).toHaveLength(8)
  })
  it('takes off an image that nothing rests on, and puts it back with its bytes', async () => {
    const { body: own } = await server.upload('spare.hex', ':02000000429923\n:00000001FF\n')
    const gone = await server.send('DELETE', `/images/${own.id}`, {})
    expect(gone.status).toBe(200)
    expect((await images()).some(({ id }) => id === own.id)).toBe(false)
    expect((await server.get(`/images/${own.id}`)).status).toBe(404)
    expect((await server.get('/images/removed')).body).toEqual([
      { id: own.id, name: 'spare.hex', removedAt: expect.any(Number) },
    ])
    expect((await server.send('POST', `/images/${own.id}/put-back`, {})).body.name).toBe('spare.hex')
    expect((await server.send('POST', `/images/${own.id}/put-back`, {})).status).toBe(404)
    const bytes = await fetch(`${server.base}/images/${own.id}/bytes?format=bin`)
    expect([...new Uint8Array(await bytes.arrayBuffer())]).toEqual([0x42, 0x99])
    // Taken off and brought in again it is there as well.
    await server.send('DELETE', `/images/${own.id}`, {})
    await server.upload('spare.hex', ':02000000429923\n:00000001FF\n')
    expect((await images()).some(({ id }) => id === own.id)).toBe(true)
  })
  it('keeps an image that a job or a record rests on, and says which', async () => {
    const { imageId } = (await server.get('/jobs/job-fog-07')).body.job
    const refused = await server.send('DELETE', `/images/${imageId}`, {})
    expect(refused).toMatchObject({ status: 409, body: { kind: 'image-used' } })
    expect(refused.body.found).toMatch(/^a job: /)
    // In a record alone: the run of the past in the logbook.
    const [row] = (await server.get('/logbook')).body as { runId: string }[]
    const wake = (await server.get(`/runs/${row!.runId}/wake`)).body
    const written = wake[0].body.image.id
    expect((await server.send('DELETE', `/images/${written}`, {})).body.found).toContain('the record of')
    expect((await server.send('DELETE', '/images/none', {})).status).toBe(404)
  })
  // PRACTICE B11: the package for a card is checked.
  it('checks the package for a memory card', async () => {
    const { body } = await server.upload('card.zip', radioCard().file)
    const bundle = (await server.get(`/images/bundles/${body.bundle.id}`)).body
    expect(bundle.media[0]).toMatchObject({
      familyId: 'marine-radio',
      findings: [{ rule: 'package-files', level: 'go' }],
    })
  })
  it('keeps nothing of an archive without an image, of a bomb, or of one that climbs out', async () => {
    const before = await images()
    const tries: [string, Uint8Array, string][] = [
      ['notes.zip', zipSync({ 'a.txt': new TextEncoder().encode('just a note') }), 'bundle-without-image'],
      ['bomb.zip', zipSync({ 'x.hex': new Uint8Array(20_000_000) }), 'zip-bomb'],
      ['climb.zip', zipSync({ '../../x.hex': new Uint8Array(10) }), 'zip-climbs'],
    ]
    for (const [name, file, kind] of tries) {
      const started = Date.now()
      const { status, body } = await server.upload(name, file)
      expect([status, body.kind, body.thing]).toEqual([422, kind, name])
      expect(body.remedy).not.toBe('')
      // Wanted: within 2 s. A bomb that is unpacked takes minutes; the machines are shared, so only that fails.
      expect(Date.now() - started).toBeLessThan(20_000)
    }
    expect(await images()).toHaveLength(before.length)
  })
  // PRACTICE B2: the same bytes are one image; "(1)" twins and the same version with other bytes are pointed out.
  it('knows one image under two names, twins of a name, and one version with two bodies', async () => {
    const family = demoFamily('mains-relay')
    const form = {
      component: 'relay',
      length: 0x8000,
      fields: {
        deviceIdentifier: 'QR-4',
        hardwareMajor: 2,
        options: 1,
        version: '2.3',
        release: 'production',
        buildTime: 1_790_000_000,
      },
    }
    const first = firmwareOf(family, form)
    const second = firmwareOf(family, { ...form, fields: { ...form.fields, buildTime: 1_790_000_900 } })
    const a = (await server.upload('relay.bin', first)).body
    const b = (await server.upload('relay (1).bin', second)).body
    const c = (await server.upload('again.bin', first)).body
    expect(c.id).toBe(a.id)
    expect(c.names).toEqual(['relay.bin', 'again.bin'])
    const findings = (await server.get(`/images/${b.id}`)).body.findings as Image['findings']
    expect(findings.map(({ rule }) => rule)).toEqual(expect.arrayContaining(['twin-name', 'same-version']))
  })
  // Reference: objcopy reads what is exported, in each format it knows.
  it('gives an image in every writable format', async () => {
    const id = await idOf('drive-4.1.elf')
    const take = async (format: string) =>
      new Uint8Array(await (await fetch(`${server.base}/images/${id}/bytes?format=${format}`)).arrayBuffer())
    const bin = Buffer.from(await take('bin'))
    for (const [format, name] of [
      ['srec', 'srec'],
      ['ihex', 'ihex'],
    ] as const) {
      const [file, out] = [join(folder, `x.${format}`), join(folder, `x.${format}.bin`)]
      writeFileSync(file, await take(format))
      execFileSync('objcopy', ['-I', name, '-O', 'binary', file, out])
      expect(readFileSync(out).equals(bin)).toBe(true)
    }
    for (const format of ['uf2', 'dfu', 'file'])
      expect((await take(format)).length).toBeGreaterThan(bin.length)
  })
  it('tells which images it is close to', async () => {
    const close = (await server.get(`/images/${await idOf('drive-4.1.elf')}/close-to`)).body as {
      name: string
      share: number
    }[]
    expect(close[0]).toMatchObject({ name: 'drive-3.6.elf' })
    expect(close[0]!.share).toBeGreaterThan(0.5)
  })
})

describe('what fits what', () => {
  it('is judged for the whole shelf, by revision and by unit, each with its reason', async () => {
    for (const against of ['revisions', 'units']) {
      const { body } = await server.get(`/fit/matrix?against=${against}&family=buoy-battery`)
      const cells = new Uint16Array(new Uint8Array(Buffer.from(body.cells, 'base64')).buffer)
      expect(cells).toHaveLength(body.rows.length * body.columns.length)
      const at = (row: string, column: string) =>
        body.reasons[
          cells[
            body.rows.findIndex((each: { name: string }) => each.name === row) * body.columns.length +
              body.columns.findIndex((each: { label: string }) => each.label === column)
          ]!
        ]
      if (against === 'revisions') {
        expect(at('bp5_update.s19', 'Line 31').level).toBe('go')
        expect(at('bp5_update.s19', 'Line 58')).toMatchObject({ level: 'stop', rule: 'hardware-major' })
      } else {
        expect(at('bp5_update.s19', 'Battery of buoy 14').level).toBe('go')
        expect(at('bp5_update.s19', 'Battery of buoy 9, bought second-hand').level).toBe('stop')
      }
    }
  })
  it('says the same in the matrix as for the pair alone', async () => {
    const { body } = await server.get('/fit/matrix?against=units&family=beacon-receiver')
    const cells = new Uint16Array(new Uint8Array(Buffer.from(body.cells, 'base64')).buffer)
    const order = ['go', 'note', 'hold', 'stop']
    for (const [row, { id: imageId }] of body.rows.entries()) {
      for (const [column, { id: unitId }] of body.columns.entries()) {
        const pair = (await server.send('POST', '/fit', { unitId, imageId })).body
        const cell = body.reasons[cells[row * body.columns.length + column]!]
        // The pair also tells of the way, which may weigh more; never less.
        expect(order.indexOf(pair.verdict)).toBeGreaterThanOrEqual(order.indexOf(cell.level))
        if (cell.level === 'stop')
          expect(pair.findings.map(({ says }: { says: string }) => says)).toContain(cell.says)
      }
    }
  })
})

describe('a unit', () => {
  it('takes a page as text, refuses one of another unit or of nothing it knows', async () => {
    const text = 'Model: LI-50\nHardware: 5.2\nSerial: LI-20044\nProcessor A: 3.5\nProcessor B: 3.4'
    const { status } = await server.send('POST', '/units/inverter-1/snapshots', { source: 'menu', text })
    expect(status).toBe(201)
    expect((await server.get('/units/inverter-1')).body.facts.versions).toEqual({
      power: '3.5',
      panel: '3.4',
    })
    const other = await server.send('POST', '/units/inverter-1/snapshots', {
      source: 'menu',
      text: 'Serial: LI-1',
    })
    expect(other.body).toMatchObject({ kind: 'wrong-unit', expected: 'LI-20044', found: 'LI-1' })
    const none = await server.send('POST', '/units/inverter-1/snapshots', {
      source: 'menu',
      text: 'good morning',
    })
    expect(none.body).toMatchObject({ kind: 'page-unread', expected: expect.stringMatching(/Device: LI/) })
  })
  it('keeps a photo with a page, and nothing that is none', async () => {
    const page = await server.send('POST', '/units/tide-2/snapshots', {
      source: 'label',
      text: 'Serial: TL-3302',
    })
    const send = async (name: string, bytes: Uint8Array) => {
      const body = new FormData()
      body.append('file', new File([bytes as Uint8Array<ArrayBuffer>], name))
      return fetch(`${server.base}/units/tide-2/snapshots/${page.body.id}/photo`, { method: 'POST', body })
    }
    expect((await send('x.png', new TextEncoder().encode('no picture'))).status).toBe(422)
    const png = Uint8Array.of(0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10, 1, 2, 3)
    const { photo } = (await (await send('label.png', png)).json()) as { photo: string }
    const kept = await fetch(`${server.base}/units/tide-2/photos/${photo}`)
    expect(kept.headers.get('content-type')).toBe('image/png')
    expect(new Uint8Array(await kept.arrayBuffer())).toEqual(png)
    expect((await fetch(`${server.base}/units/radio-3/photos/${photo}`)).status).toBe(404)
  })
  // PRACTICE B7: the answer is kept with who gave it, and turns the verdict.
  it('answers how it is used, by name', async () => {
    const ask = async () =>
      (
        await server.send('POST', '/fit', { unitId: 'radio-3', imageId: await idOf('mr6_4.08_hi.bin') })
      ).body.findings.find(({ rule }: { rule: string }) => rule === 'chosen-variant').level
    expect(await ask()).toBe('hold')
    const wrong = { question: 'signal-output', answer: 'none', by: 'T. Reader' }
    expect((await server.send('POST', '/units/radio-3/answers', wrong)).body.place.at).toBe('answer')
    for (const [answer, level] of [
      ['low-channel', 'stop'],
      ['high-channel', 'go'],
    ]) {
      await server.send('POST', '/units/radio-3/answers', { ...wrong, answer })
      expect(await ask()).toBe(level)
    }
    expect((await server.get('/units/radio-3')).body.answered).toHaveLength(2)
  })
})

describe('a request to a supplier', () => {
  // PRACTICE B8, L1: what was asked of whom, what was answered and by whom; a missing image holds the job.
  it('holds the job until it is settled', async () => {
    const gate = async () =>
      (await server.get('/jobs/job-beacon-8/ready')).body.gates.find(({ id }: { id: string }) => id === 'fit')
    expect((await gate()).findings[0]).toMatchObject({ rule: 'request-open', level: 'hold' })
    const [request] = (await server.get('/requests?unit=beacon-8')).body
    expect(request.answer.by).toBe('R. Tolland')
    await server.send('POST', `/requests/${request.id}/answer`, { says: 'It was mailed.', by: 'R. Tolland' })
    await server.send('POST', `/requests/${request.id}/close`, { imageId: null })
    expect((await server.send('POST', `/requests/${request.id}/close`, { imageId: null })).body.kind).toBe(
      'request-closed',
    )
    expect((await gate()).findings).toEqual([])
  })
})

describe('a family’s profile', () => {
  it('keeps its history, and each revision as it was', async () => {
    const own = demoFamilies.find(({ id }) => id === 'fog-signal')!
    const changed = { ...own, revision: 2, summary: 'Changed.' }
    expect((await server.send('POST', '/families', changed)).status).toBe(201)
    const { body } = await server.get('/families/fog-signal')
    expect(body.revisions.map(({ revision }: { revision: number }) => revision)).toEqual([2, 1])
    // The runs of the past were made by the first, and it stays.
    expect(body.revisions[1].runs).toBe(1)
    expect((await server.get('/families/fog-signal/1')).body).toEqual(own)
    expect((await server.send('POST', '/families', { ...own, revision: 1 })).body).toMatchObject({
      kind: 'twin',
      expected: '3',
    })
    const faults = (await server.send('POST', '/families/check', { ...own, id: 'Bad Id' })).body.faults
    expect(faults[0].at).toBe('id')
  })
  it('that is new claims images which lay unknown on the shelf', async () => {
    const own = structuredClone(demoFamilies.find(({ id }) => id === 'mains-relay')!)
    const family = { ...own, id: 'yard-relay', name: 'Yard relay' }
    family.components[0]!.identity!.magic = 'YARDRL'
    const read = {
      ...demoFamily('mains-relay'),
      components: structuredClone(demoFamily('mains-relay').components),
    }
    read.components[0]!.identity!.magic = 'YARDRL'
    const bytes = firmwareOf(read, {
      component: 'relay',
      length: 0x8000,
      fields: { deviceIdentifier: 'QR-4', hardwareMajor: 2, version: '1.0', release: 'production' },
    })
    const form = new FormData()
    form.append('file', new File([bytes as Uint8Array<ArrayBuffer>], 'yard.bin'))
    form.append(
      'address',
      own.components[0]!.memory.regions.find(({ use }) => use === 'application')!.address,
    )
    const kept = (await (
      await fetch(`${server.base}/images`, { method: 'POST', body: form })
    ).json()) as Image & { identity: unknown }
    expect(kept.identity).toBeNull()
    await server.send('POST', '/families', family)
    expect((await server.get(`/images/${kept.id}`)).body.identity).toMatchObject({
      familyId: 'yard-relay',
      version: '1.0',
    })
  })
})

describe('the workshop', () => {
  // PRACTICE A7, B5.
  it('says when to update and in which steps, with who set it', async () => {
    expect((await server.get('/workshop-rules')).body).toEqual({
      update: 'cure',
      hops: 'sequential',
      adapters: 'any',
    })
    const { body } = await server.send('PUT', '/workshop-rules', {
      policy: { update: 'current', hops: 'direct' },
      by: 'A. Lund',
    })
    expect(body).toMatchObject({ update: 'current', hops: 'direct', by: 'A. Lund' })
    expect((await server.get('/jobs/job-fog-02')).body.need.answer).toBe('do')
  })
  it('is asked about every demo unit that was read', async () => {
    const known = (await server.get('/units')).body as { id: string }[]
    expect(known.map(({ id }) => id).sort()).toEqual(demoUnits.map(({ id }) => id).sort())
  })
})
