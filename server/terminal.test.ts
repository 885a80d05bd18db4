/* eslint-disable @typescript-eslint/no-explicit-any -- tests read answers as an outside tool does: by member */
import { until } from '@bench-wake/testing/until'
import { spawn } from 'node:child_process'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { runProgram } from './program'
import { endChildren, scratchFolder, talker, tended } from './server.test-support'
import { readSettings } from './settings'

/* A person's own hand at a port: two Python units of e2e/peers at real pseudo-terminals, looked at and written to. */
endChildren()
const folder = scratchFolder()
const peers = join(import.meta.dirname, '../e2e/peers')
let server: Awaited<ReturnType<typeof runProgram>> & ReturnType<typeof talker>
let gate: string
let pump: string
const settings = { baudRate: 115_200, dataBits: 8, parity: 'none', stopBits: 1 }
const hex = (text: string) => Buffer.from(text).toString('hex')

const peer = (name: string) => {
  const child = tended(
    spawn('python3', [join(peers, name), join(folder, `${name}.memory`)], {
      stdio: ['ignore', 'pipe', 'inherit'],
    }),
  )
  return new Promise<string>((resolve) => createInterface(child.stdout!).once('line', resolve))
}
beforeAll(async () => {
  const paths = await Promise.all([peer('prompt_console.py'), peer('two_speeds.py')])
  ;[gate, pump] = paths.map((path) => `serial:${path}`) as [string, string]
  const program = await runProgram(
    readSettings({
      PORT: '0',
      BENCH_WAKE_DATA: join(folder, 'data'),
      BENCH_WAKE_PORTS: paths.join(','),
    }),
    { demo: false },
  )
  server = { ...program, ...talker(`${program.address}/api`) }
})
afterAll(() => server.stop())

const given = ({ status, body }: { status: number; body: any }) => {
  if (status >= 400) throw new Error(JSON.stringify(body))
  return body
}
/** What came over a port since it was opened last, as text, once it holds a word. */
async function heard(port: string, word: string): Promise<string> {
  let text = ''
  await until(async () => {
    const answer = await fetch(`${server.address}/api/ports/trace?port=${encodeURIComponent(port)}`)
    const lines = (await answer.text())
      .split('\n')
      .filter(Boolean)
      .map((line) => JSON.parse(line))
    text = lines
      .filter(({ what, direction }) => what === 'data' && direction === 'in')
      .map(({ bytes }) => Buffer.from(bytes, 'hex').toString())
      .join('')
    return text.includes(word)
  }, `"${word}"`)
  return text
}

describe('the speed of a unit nobody knows', () => {
  const find = (port: string, sends: string) =>
    server.send('POST', '/ports/find-speed', { port, sends, eachMs: 240 })
  it('is found by what can be read, each speed said with what came', async () => {
    const { best, heard: all } = given(await find(gate, '\r'))
    expect(best).toEqual(settings)
    const at = (baudRate: number) => all.find((each: any) => each.settings.baudRate === baudRate)
    expect(at(115_200)).toMatchObject({ readable: 1 })
    expect(at(115_200).sample).toContain('=> ')
    expect(all.length).toBe(10)
  })
  it('needs the word that the unit answers to; a silent one is none', async () => {
    expect(given(await find(pump, '?\r')).best).toMatchObject({ baudRate: 9600 })
    expect(given(await find(pump, '')).best).toBeNull()
  })
  it('is not asked by a word that no serial line can carry', async () => {
    for (const sends of ['\u{1f701}', 'é\u0100'])
      expect(await find(gate, sends)).toMatchObject({ status: 400, body: { place: { at: 'sends' } } })
  })
  it('is not looked for on a port that is held, and the port is free again afterwards', async () => {
    given(await server.send('POST', '/ports/listen', { port: gate, settings }))
    expect(await find(gate, '')).toMatchObject({ status: 409, body: { kind: 'port-held' } })
    given(await server.send('POST', '/ports/listen/end', { port: gate }))
    expect((await find(gate, '')).status).toBe(200)
  })
})

describe('the terminal', () => {
  const send = (text: string) => server.send('POST', '/ports/listen/send', { port: gate, hex: hex(text) })
  it('that is not open sends nothing, sets no line and says so', async () => {
    for (const [path, more] of [
      ['send', { hex: '0d' }],
      ['lines', { dtr: false }],
      ['set', { settings }],
    ] as const)
      expect(await server.send('POST', `/ports/listen/${path}`, { port: gate, ...more })).toMatchObject({
        status: 409,
        body: { kind: 'not-open', thing: gate },
      })
  })
  it('sends what is typed and shows what comes', async () => {
    given(await server.send('POST', '/ports/listen', { port: gate, settings }))
    given(await send('ver\r'))
    expect(await heard(gate, '=> ')).toContain('TG-4 board 2\r\nfw 1.3\r\n')
  })
  it('takes another speed without letting the port go: there the same unit is noise', async () => {
    given(
      await server.send('POST', '/ports/listen/set', {
        port: gate,
        settings: { ...settings, baudRate: 9600 },
      }),
    )
    given(await send('nothing of this arrives\r'))
    given(await server.send('POST', '/ports/listen/set', { port: gate, settings }))
    given(await send('crc 8000 100\r'))
    const text = await heard(gate, '=> ')
    expect(text).not.toContain('unknown\r\n?')
    const ports = given(await server.get('/ports'))
    expect(ports.find(({ id }: any) => id === gate).heldBy).toBe('listening')
  })
  it('holds its port: nothing else is read or run over it meanwhile', async () => {
    expect(await server.send('POST', '/ports/listen', { port: gate, settings })).toMatchObject({
      body: { kind: 'port-held' },
    })
  })
  it.each([
    ['half a byte', { hex: '0' }],
    ['words for bytes', { hex: 'zz' }],
    ['nothing', { hex: '' }],
    ['too much', { hex: '00'.repeat(5000) }],
  ])('refuses %s', async (_, body) => {
    expect((await server.send('POST', '/ports/listen/send', { port: gate, ...body })).status).toBe(400)
  })
  it('is closed again, twice without harm', async () => {
    for (let time = 0; time < 2; time++) given(await server.send('POST', '/ports/listen/end', { port: gate }))
    expect((await send('ver\r')).status).toBe(409)
  })
})
