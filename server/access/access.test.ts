/* eslint-disable @typescript-eslint/no-explicit-any -- tests read answers as an outside tool does: by member */
import { isProblem } from '@bench-wake/core/kernel'
import { execFileSync } from 'node:child_process'
import { request } from 'node:https'
import { join } from 'node:path'
import { connect } from 'node:tls'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { openDatabase } from '../db/open'
import { runProgram } from '../program'
import { scratchFolder, seededFolder } from '../server.test-support'
import { readSettings } from '../settings'
import { Access, freeTries, freeTriesOfAll, idleMs, maxMs, oneMoreOfAllMs, pairingMs } from './access'
import { isPassword, preparePassword } from './passwords'

/* Sources: OWASP ASVS 5.0, V6 authentication, V7 session management; RFC 6265bis for the cookie. */

const password = 'three grey seals'
const kindOf = async (act: Promise<unknown>) =>
  act.then(
    () => 'taken',
    (error: unknown) => (isProblem(error) ? error.facts.kind : String(error)),
  )

async function opened() {
  const { db, close } = await openDatabase(readSettings({ BENCH_WAKE_DATA: scratchFolder() }).databaseUrl)
  afterAll(close)
  return db
}

describe('the password', () => {
  it('is made where none is set, shown once, and kept as a slow hash alone', async () => {
    const db = await opened()
    const made = await preparePassword(db, undefined)
    expect(made).toMatch(/^[a-z2-9]{4}(-[a-z2-9]{4}){3}$/)
    expect(await preparePassword(db, undefined)).toBeNull()
    const [row] = (await db.$client.execute('select hash from passwords')).rows
    // PHC string of Argon2id with 19 MiB, two passes, one lane (OWASP Password Storage Cheat Sheet).
    expect(row!['hash']).toMatch(/^\$argon2id\$v=19\$m=19456,t=2,p=1\$/)
    expect(await isPassword(db, made!)).toBe(true)
    expect(await isPassword(db, made!.toUpperCase())).toBe(false)
    expect(await isPassword(db, '')).toBe(false)
  })
  it('that is set anew ends every session; the same again ends none', async () => {
    const db = await opened()
    const access = new Access(db)
    await preparePassword(db, password)
    const secret = await access.signIn({ password, person: 'M. Tarn', device: 'Laptop' }, 'a')
    await preparePassword(db, password)
    expect(await access.session(secret)).not.toBeNull()
    await preparePassword(db, 'another one')
    expect(await access.session(secret)).toBeNull()
    expect(await isPassword(db, password)).toBe(false)
  })
  it.each([
    ['seven77', 'input'],
    ['eight888', 'taken'],
    ['x'.repeat(128), 'taken'],
    ['x'.repeat(129), 'input'],
  ])('of its length: %s', async (wanted, kind) => {
    expect(await kindOf(preparePassword(await opened(), wanted))).toBe(kind)
  })
})

describe('a session', () => {
  const start = 1_000_000
  async function signedIn() {
    const db = await opened()
    const time = { now: start }
    const access = new Access(
      db,
      () => time.now,
      () => time.now,
    )
    await preparePassword(db, password)
    const secret = await access.signIn({ password, person: 'M. Tarn', device: 'Laptop' }, 'a')
    return { db, access, secret, time }
  }
  it('is known by its secret, of which only a digest is kept', async () => {
    const { db, access, secret } = await signedIn()
    expect(await access.session(secret)).toMatchObject({ person: 'M. Tarn', device: 'Laptop' })
    for (const other of [undefined, '', secret.slice(1), `${secret}x`])
      expect(await access.session(other)).toBeNull()
    expect(JSON.stringify((await db.$client.execute('select * from sessions')).rows)).not.toContain(secret)
    // 256 bits (ASVS 5.0, 7.2.3 asks for 128).
    expect(Buffer.from(secret, 'base64url')).toHaveLength(32)
  })
  it('ends without a word for half a day, and not while it is used', async () => {
    const { access, secret, time } = await signedIn()
    time.now += idleMs - 1
    expect(await access.session(secret)).not.toBeNull()
    time.now += idleMs - 1
    expect(await access.session(secret)).not.toBeNull()
    time.now += idleMs
    expect(await access.session(secret)).toBeNull()
    time.now -= idleMs
    expect(await access.session(secret)).toBeNull()
  })
  it('ends after a week, used or not', async () => {
    const { access, secret, time } = await signedIn()
    for (; time.now < start + maxMs - 1; time.now += idleMs / 2) await access.session(secret)
    time.now = start + maxMs - 1
    expect(await access.session(secret)).not.toBeNull()
    time.now = start + maxMs
    expect(await access.session(secret)).toBeNull()
  })
  it('that is ended closes what is open for it, and no other', async () => {
    const { access, secret } = await signedIn()
    const other = await access.signIn({ password, person: 'A. Ness', device: 'Tablet' }, 'b')
    const closed: string[] = []
    for (const each of [secret, other]) {
      const { id, device } = (await access.session(each))!
      access.whenEnded(id, () => closed.push(device))
    }
    await access.endDevice((await access.session(secret))!.id)
    expect(closed).toEqual(['Laptop'])
    expect(await access.session(secret)).toBeNull()
    expect(await access.session(other)).not.toBeNull()
    expect(await kindOf(access.endDevice('none'))).toBe('not-found')
  })
})

describe('tries', () => {
  it('are limited by where they come from, each waiting twice as long', async () => {
    const db = await opened()
    const time = { now: 0 }
    const access = new Access(
      db,
      () => time.now,
      () => time.now,
    )
    await preparePassword(db, password)
    const form = { person: 'x', device: 'y' }
    const wrong = (from = 'a') => kindOf(access.signIn({ ...form, password: 'not it at all' }, from))
    for (let tries = 0; tries < freeTries; tries++) expect(await wrong()).toBe('wrong-password')
    expect(await wrong()).toBe('wrong-password')
    // Now even the right one waits, two seconds; another place does not.
    expect(await kindOf(access.signIn({ ...form, password }, 'a'))).toBe('too-many-tries')
    expect(await kindOf(access.signIn({ ...form, password }, 'b'))).toBe('taken')
    time.now = 1999
    expect(await wrong()).toBe('too-many-tries')
    time.now = 2000
    expect(await wrong()).toBe('wrong-password')
    time.now += 3999
    expect(await wrong()).toBe('too-many-tries')
    time.now += 1
    expect(await kindOf(access.signIn({ ...form, password }, 'a'))).toBe('taken')
    // The right one forgets them.
    for (let tries = 0; tries < freeTries; tries++) expect(await wrong()).toBe('wrong-password')
  })
  it('sent all at once are counted all the same', async () => {
    const db = await opened()
    const access = new Access(
      db,
      () => 0,
      () => 0,
    )
    await preparePassword(db, password)
    const all = await Promise.all(
      Array.from({ length: 20 }, () =>
        kindOf(access.signIn({ person: 'x', device: 'y', password: 'not it at all' }, 'a')),
      ),
    )
    expect(all.filter((kind) => kind === 'wrong-password')).toHaveLength(freeTries + 1)
  })
})

it('tries of all addresses together are limited as well, and a clock that is set back keeps nobody waiting', async () => {
  const db = await opened()
  const time = { now: 5 * 86_400_000, ticks: 0 }
  const access = new Access(
    db,
    () => time.now,
    () => time.ticks,
  )
  await preparePassword(db, password)
  const form = { person: 'x', device: 'y' }
  const wrong = (from: string) => kindOf(access.signIn({ ...form, password: 'not it at all' }, from))
  for (let tries = 0; tries <= freeTries; tries++) await wrong('a')
  time.now = 0
  time.ticks = 2000
  expect(await kindOf(access.signIn({ ...form, password }, 'a'))).toBe('taken')
  // One was given back by the time that passed, six were used by the address above.
  for (let tries = 0; tries < freeTriesOfAll - freeTries; tries++)
    expect(await wrong(`address ${tries}`)).toBe('wrong-password')
  expect(await kindOf(access.signIn({ ...form, password }, 'b'))).toBe('too-many-tries')
  time.ticks += oneMoreOfAllMs
  expect(await kindOf(access.signIn({ ...form, password }, 'b'))).toBe('taken')
})

it('signing in again ends this device’s own session and no other', async () => {
  const db = await opened()
  const access = new Access(db)
  await preparePassword(db, password)
  const form = { password, person: 'M. Tarn', device: 'Laptop' }
  const [first, other] = [await access.signIn(form, 'a'), await access.signIn(form, 'a')]
  const second = await access.signIn(form, 'a', first)
  expect(await access.session(first)).toBeNull()
  expect(await access.session(other)).not.toBeNull()
  expect(await access.session(second)).not.toBeNull()
})

describe('a second device', () => {
  it('comes in once by a code, within three minutes', async () => {
    const db = await opened()
    const time = { now: 0 }
    const access = new Access(
      db,
      () => time.now,
      () => time.now,
    )
    const form = { person: 'M. Tarn', device: 'Phone' }
    const { code, endsAt } = access.offerPairing('device-1')
    expect(endsAt).toBe(pairingMs)
    expect(await kindOf(access.pair({ ...form, code: `${code}x` }, 'p'))).toBe('no-pairing')
    time.now = pairingMs - 1
    const secret = await access.pair({ ...form, code }, 'p')
    expect(await access.session(secret)).toMatchObject(form)
    expect(await kindOf(access.pair({ ...form, code }, 'p'))).toBe('no-pairing')
    const late = access.offerPairing('device-1')
    time.now += pairingMs
    expect(await kindOf(access.pair({ ...form, code: late.code }, 'p'))).toBe('no-pairing')
    // A device that is signed out lets nobody in any more.
    const gone = access.offerPairing('device-1')
    await access.end('device-1')
    expect(await kindOf(access.pair({ ...form, code: gone.code }, 'p'))).toBe('no-pairing')
  })
})

describe('a program that others can reach', () => {
  let server: Awaited<ReturnType<typeof runProgram>>
  let base: string
  beforeAll(async () => {
    const settings = readSettings({
      PORT: '0',
      BENCH_WAKE_DATA: seededFolder(),
      BENCH_WAKE_HOST: '0.0.0.0',
      BENCH_WAKE_TLS: 'none',
      BENCH_WAKE_PASSWORD: password,
    })
    server = await runProgram(settings, { demo: true })
    base = `http://127.0.0.1:${server.port}/api`
  })
  afterAll(() => server.stop())

  const ask = async (method: string, path: string, content?: unknown, cookie?: string) => {
    const response = await fetch(base + path, {
      method,
      headers: {
        ...(content === undefined ? {} : { 'content-type': 'application/json' }),
        ...(cookie ? { cookie } : {}),
      },
      ...(content === undefined ? {} : { body: JSON.stringify(content) }),
    })
    return { status: response.status, head: response.headers, body: (await response.json()) as any }
  }
  const signIn = async (person: string) => {
    const { head } = await ask('POST', '/access/sign-in', { password, person, device: 'Laptop' })
    return head.getSetCookie()[0]!.split(';')[0]!
  }

  it('lets nobody in without a session, on any path', async () => {
    const document = await ask('GET', '/openapi.json', undefined, await signIn('M. Tarn'))
    const paths = Object.entries(document.body.paths as Record<string, object>)
    expect(paths.length).toBeGreaterThan(50)
    for (const [path, methods] of paths)
      for (const method of Object.keys(methods)) {
        const where = path.replace('/api', '').replaceAll(/\{\w+\}/g, 'x')
        if (['/access', '/access/sign-in', '/access/pair', '/health'].includes(where)) continue
        const { status, body } = await ask(method.toUpperCase(), where, method === 'get' ? undefined : {})
        expect({ method, where, status, kind: body.kind }).toEqual({
          method,
          where,
          status: 401,
          kind: 'sign-in',
        })
      }
    expect((await ask('GET', '/access')).body).toEqual({
      needed: true,
      session: null,
      encrypted: false,
      names: [],
    })
  })

  it('gives a cookie that no script and no other site gets', async () => {
    const { head } = await ask('POST', '/access/sign-in', { password, person: 'M. Tarn', device: 'Laptop' })
    const cookie = head.getSetCookie()[0]!
    expect(cookie).toMatch(/; HttpOnly/)
    expect(cookie).toMatch(/; SameSite=Strict/)
    expect(cookie).toMatch(/; Path=\/(;|$)/)
    // Nothing is encrypted here, so it cannot be bound to TLS.
    expect(cookie).not.toMatch(/Secure|__Host/)
    expect((await ask('GET', '/jobs', undefined, cookie.split(';')[0])).head.get('cache-control')).toBe(
      'no-store',
    )
  })

  it('puts the name of who is signed in under every word, whatever is sent', async () => {
    const cookie = await signIn('A. Ness')
    const form = {
      exerciseId: 'x',
      by: 'Somebody else',
      help: 'full',
      unsafe: 0,
      wrong: 0,
      tookMs: 1,
      score: 1,
    }
    expect((await ask('POST', '/drills', form, cookie)).body.by).toBe('A. Ness')
    const { by: _by, at: _at, ...policy } = (await ask('GET', '/workshop-rules', undefined, cookie)).body
    expect((await ask('PUT', '/workshop-rules', { policy, by: 'Somebody else' }, cookie)).body.by).toBe(
      'A. Ness',
    )
    // The witness is another person: their word stays theirs, with who took it down.
    const answer = { question: 'signal-output', answer: 'low-channel', by: 'T. Reader' }
    expect((await ask('POST', '/units/radio-3/answers', answer, cookie)).status).toBe(201)
    expect((await ask('GET', '/units/radio-3', undefined, cookie)).body.answered.at(-1).by).toBe(
      'T. Reader, told to A. Ness',
    )
    const run = {
      jobId: 'job-fog-07',
      port: 'stand-in:fog-07',
      speed: 0,
      releases: [{ rule: 'any', name: 'Somebody else', reason: 'a test' }],
    }
    const { id } = (await ask('POST', '/runs', run, cookie)).body
    const wake = (await ask('GET', `/runs/${id}/wake`, undefined, cookie)).body
    expect(wake[0].body.releases).toEqual([{ rule: 'any', name: 'A. Ness', reason: 'a test' }])
  })

  it('signing out ends the session and the live stream that is open for it', async () => {
    const cookie = await signIn('M. Tarn')
    const [run] = (await ask('GET', '/runs', undefined, cookie)).body
    const stream = await fetch(`${base}/runs/${run.id}/live`, { headers: { cookie } })
    const over = (async () => {
      for await (const part of stream.body as unknown as AsyncIterable<Uint8Array>) void part
    })()
    expect((await ask('POST', '/access/sign-out', {}, cookie)).head.getSetCookie()[0]).toMatch(/Max-Age=0/)
    await over
    expect((await ask('GET', '/jobs', undefined, cookie)).status).toBe(401)
  })

  it('a phone comes in by the code of a device that is signed in, and is seen in its list', async () => {
    const cookie = await signIn('M. Tarn')
    const { code } = (await ask('POST', '/access/pairings', {}, cookie)).body
    const paired = await ask('POST', '/access/pair', { code, person: 'A. Ness', device: 'Phone' })
    expect(paired.status).toBe(200)
    const phone = paired.head.getSetCookie()[0]!.split(';')[0]!
    expect((await ask('GET', '/jobs', undefined, phone)).status).toBe(200)
    const devices = (await ask('GET', '/access/devices', undefined, cookie)).body as any[]
    const own = devices.find(({ device, person }) => device === 'Phone' && person === 'A. Ness')
    expect(JSON.stringify(devices)).not.toContain('secret')
    await ask('DELETE', `/access/devices/${own.id}`, {}, cookie)
    expect((await ask('GET', '/jobs', undefined, phone)).status).toBe(401)
  })
})

describe('over TLS', () => {
  it('by certificate files the cookie is bound to it', async () => {
    const folder = seededFolder()
    const [cert, key] = [join(folder, 'cert.pem'), join(folder, 'key.pem')]
    execFileSync('openssl', [
      ...[
        'req',
        '-x509',
        '-newkey',
        'ec',
        '-pkeyopt',
        'ec_paramgen_curve:prime256v1',
        '-nodes',
        '-days',
        '1',
      ],
      ...['-subj', '/CN=bench', '-keyout', key, '-out', cert],
    ])
    const settings = readSettings({
      PORT: '0',
      BENCH_WAKE_DATA: folder,
      BENCH_WAKE_HOST: '0.0.0.0',
      BENCH_WAKE_TLS_CERT: cert,
      BENCH_WAKE_TLS_KEY: key,
      BENCH_WAKE_PASSWORD: password,
    })
    const server = await runProgram(settings)
    try {
      expect(server.address).toMatch(/^https:/)
      // RFC 9325, clause 4.2: what neither keeps the past secret nor authenticates is refused.
      const shakes = (form: object) =>
        new Promise<string>((done) => {
          const socket = connect({ port: server.port, rejectUnauthorized: false, ...form }, () => {
            done(socket.getCipher().name)
            socket.destroy()
          })
          socket.on('error', () => done('refused'))
        })
      const old = { maxVersion: 'TLSv1.2' as const }
      expect(await shakes({ ...old, ciphers: 'ECDHE-ECDSA-AES128-GCM-SHA256' })).toMatch(/GCM/)
      for (const ciphers of ['ECDHE-ECDSA-AES128-SHA:@SECLEVEL=0', 'ECDHE-ECDSA-AES128-SHA256:@SECLEVEL=0'])
        expect(await shakes({ ...old, ciphers })).toBe('refused')
      const cookie = await new Promise<string>((done, fail) => {
        const asked = request(
          `https://127.0.0.1:${server.port}/api/access/sign-in`,
          { method: 'POST', rejectUnauthorized: false, headers: { 'content-type': 'application/json' } },
          (answer) => {
            answer.resume()
            done(answer.headers['set-cookie']![0]!)
          },
        )
        asked.once('error', fail)
        asked.end(JSON.stringify({ password, person: 'M. Tarn', device: 'Laptop' }))
      })
      // RFC 6265bis, 4.1.3.2.
      expect(cookie).toMatch(/^__Host-bench-wake=/)
      expect(cookie).toMatch(/; Secure/)
      expect(cookie).not.toMatch(/Domain/i)
    } finally {
      await server.stop()
    }
  })
})

describe('settings for a program that others can reach', () => {
  it('want a word on who encrypts', () => {
    expect(() => readSettings({ BENCH_WAKE_HOST: '0.0.0.0' })).toThrow(/BENCH_WAKE_TLS/)
    expect(() => readSettings({ BENCH_WAKE_HOST: '0.0.0.0', BENCH_WAKE_TLS: 'yes' })).toThrow(
      /BENCH_WAKE_TLS/,
    )
    expect(() => readSettings({ BENCH_WAKE_TLS_CERT: 'a.pem' })).toThrow(/go together/)
    expect(readSettings({ BENCH_WAKE_HOST: '0.0.0.0', BENCH_WAKE_TLS: 'in-front' }).tls).toBe('in-front')
    for (const host of ['127.0.0.1', 'localhost', '::1'])
      expect(readSettings({ BENCH_WAKE_HOST: host }).tls).toBeNull()
  })
})
