import { until } from '@bench-wake/testing/until'
import { demoBenches, firstUnitOf } from '@bench-wake/demo'
import { spawn, type ChildProcess } from 'node:child_process'
import { existsSync } from 'node:fs'
import { createRequire } from 'node:module'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { demoServer, endChildren, seededFolder, tended } from './server.test-support'

/*
 * A whole run over a real pseudo-terminal: the program opens it through the system's serial driver as it would open an
 * adapter; the stand-in is a process of its own at its far end, started as a person starts it.
 */
endChildren()
const folder = seededFolder()
const path = join(folder, 'relay')
const script = fileURLToPath(new URL('../scripts/standin.ts', import.meta.url))
const tsx = createRequire(import.meta.url).resolve('tsx')
let server: Awaited<ReturnType<typeof demoServer>>
let standIn: ChildProcess

beforeAll(async () => {
  server = await demoServer(folder, { BENCH_WAKE_PORTS: path })
  standIn = tended(
    spawn(process.execPath, ['--import', tsx, script, 'relay-2', '--link', path, '--speed', '20'], {
      stdio: ['pipe', 'ignore', 'inherit'],
    }),
  )
  await until(() => existsSync(path), 'The stand-in’s terminal')
})
afterAll(async () => {
  standIn.kill()
  await server.stop()
})

describe('a run over a pseudo-terminal', () => {
  it('reads, enters, erases, writes, verifies and proves', async () => {
    const port = `serial:${path}`
    const unit = firstUnitOf('mains-relay')
    const read = (more: object) => server.send('POST', `/units/${unit.id}/snapshots`, { port, ...more })
    // PRACTICE D8: nobody said that mains is off, so the port stays shut.
    expect(await read({})).toMatchObject({ status: 409, body: { place: { at: 'power-order' } } })
    expect((await read({ looked: ['power-order', 'adapter-chosen'] })).status).toBeLessThan(300)

    const images = (await server.get('/images')).body as { id: string; names: string[] }[]
    const job = await server.send('POST', '/jobs', {
      unitId: unit.id,
      imageId: images.find(({ names }) => names.includes('quay-relay-2.1.uf2'))!.id,
      kind: 'feature',
      reason: 'Over a real port.',
      day: new Date().toISOString().slice(0, 10),
    })
    const { id } = job.body
    await server.send('PUT', `/jobs/${id}/bench`, demoBenches['mains-relay'])
    const { gates } = (await server.get(`/jobs/${id}/ready?port=${encodeURIComponent(port)}`)).body
    const said = gates.flatMap((gate: { findings: { level: string; rule: string }[] }) => gate.findings)
    expect(said.filter(({ level }: { level: string }) => level === 'stop')).toEqual([])
    const releases = said
      .filter(({ level }: { level: string }) => level === 'hold')
      .map(({ rule }: { rule: string }) => ({ rule, name: 'T. Port', reason: 'a test' }))

    const run = await server.send('POST', '/runs', { jobId: id, port, releases })
    expect(run.body).toHaveProperty('id')
    const state = await server.follow(run.body.id, ({ prompt, answers }) => {
      if (prompt === 'enter-by-hand') standIn.stdin!.write('entry\n')
      if (prompt === 'power-cycle') standIn.stdin!.write('cycle\n')
      return answers[0]!.id
    })
    expect(state.problem).toBeNull()
    expect(state.outcome).toBe('proved')
    const after = (await server.get(`/units/${unit.id}`)).body
    expect(JSON.stringify(after.snapshots[0])).toContain('2.1')
    // What went over it can be read back, and reads like its standard.
    const trace = await fetch(`${server.base}/ports/trace?port=${encodeURIComponent(port)}`)
    expect((await trace.text()).split('\n')[0]).toContain('"speaks":"console"')
  })
})
