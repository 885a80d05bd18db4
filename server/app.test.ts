import { demoFirmware, demoHexOf, demoImages } from '@bench-wake/demo'
import { eq } from 'drizzle-orm'
import { execFileSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { openDatabase } from './db/open'
import { standIns, wakeEvents } from './db/schema'
import { demoServer, seededFolder } from './server.test-support'

const folder = seededFolder()
let server: Awaited<ReturnType<typeof demoServer>>
beforeAll(async () => {
  server = await demoServer(folder, { BENCH_WAKE_PORTS: '/dev/none' })
})
afterAll(() => server.stop())

const image248 = demoImages[0]!
const imageIds = async () =>
  new Map<string, string>(
    (await server.get('/images')).body.map((each: { name: string; id: string }) => [each.name, each.id]),
  )

describe('the shelf', () => {
  it('says of an upload what it is, by its content', async () => {
    const hex = demoHexOf(image248.image)
    const { status, body } = await server.upload('download (1).hex', hex)
    expect(status).toBe(201)
    expect(body).toMatchObject({
      format: 'ihex',
      size: hex.length,
      // Reference: Node's own SHA-256 of the file.
      sha256: createHash('sha256').update(hex).digest('hex'),
      segments: [{ address: 0x08008000, length: 0x40000 }],
      identity: { deviceIdentifier: 'FS-20', hardwareMajor: 3, version: '2.48', release: 'production' },
    })
    expect(body.identity.buildTime).toBe(Date.parse('2026-09-02T08:14Z'))
  })
  // PRACTICE B2, common practice: two downloads of one image are one image with two names.
  it('knows the same bytes under another name', async () => {
    const { body } = await server.upload('fs20 (2).hex', demoHexOf(image248.image).toLowerCase())
    expect(body.id).toBe((await imageIds()).get('fs20-main-2.48.hex'))
    expect(body.names).toEqual(expect.arrayContaining(['fs20-main-2.48.hex', 'fs20 (2).hex']))
    expect(body.findings.map((each: { rule: string }) => each.rule)).toContain('same-bytes')
  })
  it.each([
    ['cut.hex', ':0200000000', 1, /cut short/],
    ['photo.hex', Uint8Array.of(0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10), 1, /PNG picture/],
    ['empty.hex', '', 1, /empty/],
  ])('refuses %s with the line and keeps nothing of it', async (name, content, line, words) => {
    const before = (await server.get('/images')).body.length
    const { status, type, body } = await server.upload(name, content)
    expect(status).toBe(422)
    // Source: RFC 9457, section 3: media type and members of a problem document.
    expect(type).toContain('application/problem+json')
    expect(body).toMatchObject({ status: 422, thing: name, place: { line } })
    expect(body.detail).toMatch(words)
    expect(body.remedy).toBeTruthy()
    expect((await server.get('/images')).body).toHaveLength(before)
  })
  it('gives an image back as HEX that objcopy reads to the same bytes', async () => {
    const id = (await imageIds()).get('fs20-main-2.41.hex')
    const text = await (await fetch(`${server.base}/images/${id}/bytes?format=ihex`)).text()
    const [hex, bin] = [join(folder, 'x.hex'), join(folder, 'x.bin')]
    writeFileSync(hex, text)
    execFileSync('objcopy', ['-I', 'ihex', '-O', 'binary', hex, bin])
    expect(readFileSync(bin).equals(demoFirmware(demoImages[1]!.image))).toBe(true)
    const raw = await fetch(`${server.base}/images/${id}/bytes?format=bin`)
    expect(Buffer.from(await raw.arrayBuffer()).equals(readFileSync(bin))).toBe(true)
    expect((await server.get(`/images/${id}/bytes?format=exe`)).status).toBe(400)
  })
})

describe('fit', () => {
  // PRACTICE B1, common practice: the observed refusals.
  it.each([
    ['fog-07', 'fs20-main-2.48.hex', 'note', /2\.41 cannot be put back/],
    ['fog-02', 'fs20-main-2.48.hex', 'stop', /hardware 3; this unit is hardware 2\.4/],
    ['fog-02', 'update(1).hex', 'note', /2\.30 cannot be put back/],
    ['fog-07', 'horn-main-2.48.hex', 'stop', /FS-40; this unit is FS-20/],
    ['fog-11', 'fs20-main-2.41.hex', 'stop', /older/],
    ['fog-11', 'fs20-main-2.48.hex', 'hold', /Nothing to do/],
    ['fog-04', 'fs20-main-2.48.hex', 'hold', /not known/],
  ] as const)('%s with %s is %s', async (unitId, name, verdict, words) => {
    const { body } = await server.send('POST', '/fit', { unitId, imageId: (await imageIds()).get(name) })
    expect(body.verdict).toBe(verdict)
    expect(body.path).toHaveLength(verdict === 'stop' ? 0 : 1)
    if (words) expect(body.findings.map((each: { says: string }) => each.says).join(' ')).toMatch(words)
  })
})

describe('a job, worked by an outside tool', () => {
  it('goes from gate to logbook, and the stand-in’s flash is the image', async () => {
    const ready = await server.get('/jobs/job-fog-07/ready?port=stand-in:fog-07')
    expect(ready.body.verdict).toBe('note')
    expect(ready.body.gates.map((gate: { id: string }) => gate.id)).toEqual([
      'need',
      'fit',
      'link',
      'original',
      'port',
      'power',
      'laptop',
      'order',
      'wiring',
      'isolation',
      'kit',
    ])

    const started = await server.send('POST', '/runs', {
      jobId: 'job-fog-07',
      port: 'stand-in:fog-07',
      speed: 60,
    })
    expect(started.status).toBe(201)
    const id = started.body.id as string

    // One run a port; a second is refused while the first goes on.
    const second = await server.send('POST', '/runs', { jobId: 'job-fog-07', port: 'stand-in:fog-07' })
    expect(second.status).toBe(409)
    // An answer to a question that is not open.
    expect(
      (await server.send('POST', `/runs/${id}/answers`, { prompt: 'power-cycle', answer: 'done' })).status,
    ).toBe(409)

    await server.powerUp(id)
    const first = await server.stream(
      id,
      (event) => event.body.type === 'progress' && event.body.done > 100_000,
    )
    const seen = first.events[first.events.length - 1]!.id
    const rest = await server.stream(
      id,
      (event) => event.body.type === 'prompt.asked' && event.body.prompt === 'power-cycle',
      seen,
    )
    // Source: HTML Living Standard, server-sent events: the stream resumes after Last-Event-ID.
    expect(rest.events[0]!.id).toBe(seen + 1)
    expect([...first.events, ...rest.events].map((event) => event.id)).toEqual(
      Array.from({ length: first.events.length + rest.events.length }, (_, at) => at + 1),
    )
    expect(
      (await server.send('POST', `/runs/${id}/answers`, { prompt: 'power-cycle', answer: 'maybe' })).status,
    ).toBe(409)
    expect(
      (await server.send('POST', `/runs/${id}/answers`, { prompt: 'power-cycle', answer: 'done' })).status,
    ).toBe(200)
    const tail = await server.stream(id, () => false, rest.events[rest.events.length - 1]!.id)
    expect(tail.over).toBe(true)

    const run = (await server.get(`/runs/${id}`)).body
    expect(run).toMatchObject({ brokenAt: null, state: { outcome: 'proved', acknowledged: 0x40000 } })
    const unit = (await server.get('/units/fog-07')).body
    expect(unit.facts.versions.main).toBe('2.48')
    expect(unit.snapshots[0].runId).toBe(id)
    const row = (await server.get('/logbook?q=skerrow')).body[0]
    expect(row).toMatchObject({
      runId: id,
      from: '2.41',
      to: '2.48',
      outcome: 'proved',
      verifiedBy: 'checksum',
    })
    expect(row.strip.phases).toHaveLength(10)

    const { db, close } = await openDatabase(server.databaseUrl)
    const [kept] = await db.select().from(standIns).where(eq(standIns.id, 'fog-07'))
    expect(Buffer.from(kept!.flash).equals(demoFirmware(image248.image))).toBe(true)
    close()

    // PRACTICE D4, J3: the panels come on again, the battery being on, or the job is not closed.
    const early = await server.send('POST', '/jobs/job-fog-07/close', { name: 'T. Reader', note: '' })
    expect(early).toMatchObject({ status: 409, body: { kind: 'not-taken-down' } })
    expect(early.body.found).toContain('Panel breaker Q2 on again')
    // PRACTICE I2, I3, J1, J2: post-update tasks is said of, one by one; not well needs a word.
    const shut = () =>
      server.send('POST', '/jobs/job-fog-07/close', { name: 'T. Reader', note: '', tookDown: ['panels-on'] })
    expect((await shut()).body).toMatchObject({ status: 409, kind: 'aftercare-left' })
    const say = (item: string, outcome: string, note?: string) =>
      server.send('POST', `/runs/${id}/aftercare`, { item, outcome, by: 'T. Reader', note })
    expect((await say('no-such-thing', 'done')).status).toBe(404)
    await say('first-blast', 'done')
    await say('interval', 'not-needed')
    await say('sounds', 'failed')
    expect((await shut()).body.found).toMatch(/Sound one blast/)
    const told = await say('sounds', 'failed', 'Horn driver weak; the station knows.')
    expect(told.body.state.aftercare).toHaveLength(3)
    expect(told.body.brokenAt).toBeNull()
    const closed = await server.send('POST', '/jobs/job-fog-07/close', {
      name: 'T. Reader',
      note: '',
      tookDown: ['panels-on'],
    })
    // The test that is not well is the closing word, and the outcome, and nobody types it twice.
    expect(closed.body).toMatchObject({
      cameTo: 'written-not-fit',
      job: { closedBy: 'T. Reader', closingNote: expect.stringContaining('Horn driver weak') },
    })
    expect(
      (await server.send('POST', '/runs', { jobId: 'job-fog-07', port: 'stand-in:fog-07' })).status,
    ).toBe(409)
  })

  it('does not start while a gate is shut, and says which', async () => {
    const { status, body } = await server.send('POST', '/runs', {
      jobId: 'job-fog-02',
      port: 'stand-in:fog-02',
    })
    expect(status).toBe(409)
    // The workshop updates only to cure something (PRACTICE A7), and this job names nothing: that comes first.
    expect(body).toMatchObject({ thing: 'Need', place: { at: 'need' } })
    const released = await server.send('POST', '/runs', {
      jobId: 'job-fog-02',
      port: 'stand-in:fog-02',
      releases: [{ rule: 'need', name: 'T. Reader', reason: 'the harbour master wants all alike' }],
    })
    expect(released.body).toMatchObject({ thing: 'Fit', place: { at: 'hardware-major' } })
    const none = await server.send('POST', '/runs', { jobId: 'job-fog-04', port: 'stand-in:fog-07' })
    expect(none.status).toBe(409)
  })
  it('does not start on a port without a meter before somebody has measured', async () => {
    const gates = await server.get('/jobs/job-fog-02/ready?port=serial:/dev/none')
    const power = (body: { gates: { id: string }[] }) => body.gates.find(({ id }) => id === 'power')
    expect(power(gates.body)).toMatchObject({ verdict: 'hold' })
    const low = await server.get('/jobs/job-fog-02/ready?port=serial:/dev/none&supplyVolts=11,2 V')
    expect(power(low.body)).toMatchObject({ verdict: 'stop' })
    expect((await server.get('/jobs/job-fog-02/ready?supplyVolts=much')).body.place.at).toBe('supplyVolts')
  })
  it.each(['/dev/zero', '/dev/null', '/dev/tty', '/etc/passwd', '/dev/none/../zero'])(
    'opens no file that is no serial port: %s',
    async (path) => {
      const port = `serial:${path}`
      const settings = { baudRate: 9600, dataBits: 8, parity: 'none', stopBits: 1 }
      for (const answer of [
        await server.send('POST', '/ports/listen', { port, settings }),
        await server.send('POST', '/units/fog-02/snapshots', { port }),
        await server.send('POST', '/runs', { jobId: 'job-fog-02', port }),
        await server.get(`/jobs/job-fog-02/ready?port=${encodeURIComponent(port)}`),
      ]) {
        expect(answer).toMatchObject({ status: 404, body: { kind: 'not-found', thing: path } })
        expect(answer.body.remedy).toMatch(/BENCH_WAKE_PORTS/)
      }
    },
  )
  it('lists a port that a setting names, and says when nothing is there', async () => {
    const { body } = await server.get('/ports')
    expect(body.find(({ id }: { id: string }) => id === 'serial:/dev/none')).toMatchObject({
      name: '/dev/none',
      present: false,
    })
  })
  it('reads the page of the wrong unit and refuses to keep it', async () => {
    const { status, body } = await server.send('POST', '/units/fog-02/snapshots', { port: 'stand-in:fog-11' })
    expect(status).toBe(422)
    expect(body).toMatchObject({ expected: 'FS2-00088', found: 'FS3-00502' })
  })
})

describe('the record', () => {
  it('shows the past with its cut and its second leg', async () => {
    const rows = (await server.get('/logbook?q=hesper')).body
    expect(rows.map((row: { outcome: string }) => row.outcome)).toEqual(['proved'])
    expect(rows[0].legs).toBe(2)
    expect(rows[0].legTroubles[0]).toMatch(/byte 15\d\s\d{3} of 262\s144/)
    const { state } = (await server.get(`/runs/${rows[0].runId}`)).body
    expect(state.pastLegs).toMatchObject([{ leg: 1, outcome: 'failed' }])
    // Two flipped blocks; one of them is the first block sent again, flipped as well.
    expect(rows[0].retries).toBeGreaterThanOrEqual(1)
  })
  it('leaves as CSV and JSON with the same rows', async () => {
    const csv = await (await fetch(`${server.base}/logbook/export?format=csv`)).text()
    const rows = JSON.parse(await (await fetch(`${server.base}/logbook/export?format=json`)).text())
    expect(csv.trim().split('\r\n')).toHaveLength(rows.length + 1)
    expect(csv).toContain('FS3-00502')
  })
  it('shows from which event on a wake was altered on disk', async () => {
    const [row] = (await server.get('/logbook?q=hesper')).body
    const { db, close } = await openDatabase(server.databaseUrl)
    const [event] = await db
      .select()
      .from(wakeEvents)
      .where(eq(wakeEvents.runId, row.runId))
      .limit(1)
      .offset(40)
    await db
      .update(wakeEvents)
      .set({ at: event!.at + 1 })
      .where(eq(wakeEvents.hash, event!.hash))
    expect((await server.get(`/runs/${row.runId}`)).body.brokenAt).toBe(event!.seq)
    await db.update(wakeEvents).set({ at: event!.at }).where(eq(wakeEvents.hash, event!.hash))
    expect((await server.get(`/runs/${row.runId}`)).body.brokenAt).toBeNull()
    close()
  })
})

describe('what is asked wrongly', () => {
  it('is answered with the field and the way out', async () => {
    const { status, body } = await server.send('POST', '/jobs', {
      unitId: 'fog-07',
      reason: '',
      day: '2026-11-24',
    })
    expect(status).toBe(400)
    expect(body.place.at).toBe('reason')
    const day = await server.send('POST', '/jobs', { unitId: 'fog-07', reason: 'x', day: 'tomorrow' })
    expect(day.body.place.at).toBe('day')
    expect((await server.get('/units/none')).status).toBe(404)
    expect((await server.get('/nowhere')).status).toBe(404)
    expect((await server.send('POST', '/families', { format: 'other' })).status).toBe(422)
  })
  it('never keeps a profile over one of the same revision, and lists the newest alone', async () => {
    const [family] = (await server.get('/families')).body
    expect((await server.send('POST', '/families', family)).status).toBe(409)
    expect(
      (await server.send('POST', '/families', { ...family, revision: family.revision + 1 })).status,
    ).toBe(201)
    const listed = (await server.get('/families')).body.filter(({ id }: { id: string }) => id === family.id)
    expect(listed.map(({ revision }: { revision: number }) => revision)).toEqual([family.revision + 1])
  })
  // Source: OpenAPI 3.1.0, paths object; the paths are those docs/architecture.md promises to outside tools.
  it('can be read up in the OpenAPI document, with every promised path and its inputs', async () => {
    const { body } = await server.get('/openapi.json')
    expect(body.openapi).toBe('3.1.0')
    const operations = Object.entries(body.paths).flatMap(([path, methods]) =>
      Object.keys(methods as object).map((method) => `${method.toUpperCase()} ${path}`),
    )
    expect(operations).toEqual(
      expect.arrayContaining(
        `POST /api/images|GET /api/images|GET /api/images/{id}|GET /api/images/{id}/bytes|GET /api/families
POST /api/families|GET /api/units|POST /api/units|POST /api/units/{id}/snapshots|POST /api/fit|GET /api/jobs
POST /api/jobs|GET /api/jobs/{id}/ready|POST /api/runs|GET /api/runs/{id}|GET /api/runs/{id}/wake
GET /api/runs/{id}/live|POST /api/runs/{id}/answers|GET /api/ports|POST /api/sums/{name}|GET /api/logbook
GET /api/logbook/export|GET /api/health`.split(/[|\n]/),
      ),
    )
    const start = body.paths['/api/runs'].post.requestBody.content['application/json'].schema
    expect(start.required).toEqual(['jobId'])
    const tags = body.tags.map((tag: { name: string }) => tag.name)
    for (const operation of operations) expect(tags).toContain(operation.split('/')[2])
  })
  // Source: the wire-time formula of the trade, (1 024 + 5 + 1) × 10 / 115 200 s a block.
  it('sums the time on the wire', async () => {
    const { body } = await server.send('POST', '/sums/wire-time', { bytes: 262_144, baudRate: 115_200 })
    expect(body.wireMs).toBeCloseTo((256 * 1030 * 10_000) / 115_200, 6)
    expect((await server.send('POST', '/sums/wire-time', { bytes: -1, baudRate: 9600 })).body.place.at).toBe(
      'bytes',
    )
  })
})
