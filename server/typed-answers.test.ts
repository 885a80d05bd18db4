/* eslint-disable @typescript-eslint/no-explicit-any -- tests read answers as an outside tool does: by member */
import { demoFamilies } from '@bench-wake/demo'
import { readFileSync, readdirSync } from 'node:fs'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { demoServer, endChildren, seededFolder } from './server.test-support'

/* A unit that wants something which only a person has: a password, typed while the run waits (LINKS: key, ask). */
endChildren()
const folder = seededFolder()
let server: Awaited<ReturnType<typeof demoServer>>
beforeAll(async () => {
  server = await demoServer(folder)
})
afterAll(() => server.stop())

it('what a person types goes to the unit, what is none is refused and asked for again, and no record holds it', async () => {
  const document: any = structuredClone(demoFamilies.find(({ id }) => id === 'fog-signal'))
  document.revision += 1
  const [link] = document.links
  link.drive.operations.unlock = {
    steps: [
      { do: 'ask', says: 'Type the service password of this controller.', into: 'password', as: 'hex' },
      { do: 'send', text: 'open {password:bytes}\r' },
      { do: 'expect', patterns: [{ line: 'ok' }], withinMs: 2000 },
    ],
  }
  expect((await server.send('POST', '/families', document)).status).toBe(201)

  const port = 'stand-in:fog-07'
  await server.send('POST', '/units/fog-07/snapshots', { port })
  // Who does not have it stops there, and the unit is as it was.
  const first = (await server.send('POST', '/runs', { jobId: 'job-fog-07', port, speed: 0 })).body.id
  const stopped = await server.follow(first, ({ prompt, answers }) =>
    prompt === 'link-types' ? 'stop' : answers[0]!.id,
  )
  expect([stopped.outcome, stopped.problem, stopped.acknowledged]).toEqual([
    'failed',
    expect.objectContaining({ kind: 'not-typed' }),
    0,
  ])

  const run = (await server.send('POST', '/runs', { jobId: 'job-fog-07', port, speed: 0 })).body.id
  const asked: any[] = []
  const answer = (more: object) =>
    server.send('POST', `/runs/${run}/answers`, { prompt: 'link-types', answer: 'typed', ...more })
  const state = await server.follow(run, async (prompt: any) => {
    if (prompt.prompt !== 'link-types') return prompt.answers[0].id
    // The question of the first leg was answered.
    if ((await answer({})).status === 409) return 'typed'
    asked.push(prompt)
    for (const wrong of [{}, { typed: '' }, { typed: '53 4' }, { typed: 'SECRET' }])
      expect(await answer(wrong)).toMatchObject({ status: 400, body: { place: { at: 'typed' } } })
    expect((await answer({ typed: '53 45 43 52' })).status).toBe(200)
    // Answered already: said again it is refused and passed by.
    return 'typed'
  })
  expect(state.problem).toBeNull()
  expect(state.outcome).toBe('proved')
  expect(asked[0]).toMatchObject({
    says: 'Type the service password of this controller.',
    takes: 'hex',
    answers: [{ id: 'typed' }, { id: 'stop' }],
  })
  // It went over the wire, and the record says only that something was typed.
  const trace = await (await fetch(`${server.address}/api/ports/trace?port=${port}`)).text()
  const wake = JSON.stringify((await server.get(`/runs/${run}/wake`)).body)
  expect(wake).toContain('"answer":"typed"')
  for (const secret of ['SECR', '53454352', '53 45 43 52']) expect(wake).not.toContain(secret)
  const kept = readdirSync(folder, { recursive: true, withFileTypes: true })
    .filter((file) => file.isFile() && /bench-wake\.db/.test(file.name))
    .map((file) => readFileSync(join(file.parentPath, file.name), 'latin1'))
  expect(kept.length).toBeGreaterThan(0)
  for (const file of kept) expect(file.includes('open SECR')).toBe(false)
  expect(trace).toContain(Buffer.from('open SECR\r').toString('hex'))
})
