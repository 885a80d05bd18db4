import { resolve } from 'node:path'
import { describe, expect, it } from 'vitest'
import { hostTime } from './host-time'
import { newId } from './new-id'
import { problemDocument } from './problem'
import { readSettings } from './settings'

describe('settings', () => {
  // Source: README, the table of variables.
  it('are those of the README where nothing is said', () => {
    expect(readSettings({})).toMatchObject({ port: 4370, host: '127.0.0.1', dataFolder: resolve('data') })
  })
  it('obey the environment', () => {
    const settings = readSettings({
      PORT: '5000',
      BENCH_WAKE_DATA: '/tmp/x y',
      BENCH_WAKE_HOST: '0.0.0.0',
      BENCH_WAKE_TLS: 'none',
    })
    expect(settings).toMatchObject({ port: 5000, host: '0.0.0.0', dataFolder: '/tmp/x y' })
    expect(settings.databaseUrl).toBe('file:///tmp/x%20y/bench-wake.db')
    expect(readSettings({ BENCH_WAKE_DB_URL: 'http://127.0.0.1:8080' }).databaseUrl).toBe(
      'http://127.0.0.1:8080',
    )
  })
  it('name ports that the system does not list', () => {
    expect(readSettings({}).ports).toEqual([])
    expect(readSettings({ BENCH_WAKE_PORTS: '/dev/pts/4, /dev/odd,' }).ports).toEqual([
      '/dev/pts/4',
      '/dev/odd',
    ])
  })
  it.each(['abc', '-1', '70000', '80.5'])('refuse PORT=%s by name', (port) => {
    expect(() => readSettings({ PORT: port })).toThrow(/PORT/)
  })
})

describe('what surrounds the server', () => {
  it('rings no timer early, and none that was called off', async () => {
    const from = hostTime.now()
    await new Promise<void>((done) => hostTime.after(12.5, done))
    expect(hostTime.now() - from).toBeGreaterThanOrEqual(12.5)
    let rang = false
    hostTime.after(3, () => (rang = true))()
    await new Promise((done) => setTimeout(done, 20))
    expect(rang).toBe(false)
  })
  // Source: LOOK: 0 and O, 1 and l and I must never be confused.
  it('makes names without letters that look alike', () => {
    const names = Array.from({ length: 500 }, () => newId('run'))
    expect(new Set(names).size).toBe(500)
    expect(names.every((name) => /^run-[2-9a-hjkmnp-z]{8}$/.test(name))).toBe(true)
  })
  it('owns a defect without blaming the person', () => {
    expect(problemDocument(new Error('boom'))).toMatchObject({ status: 500, kind: 'defect', found: 'boom' })
  })
})
