import { until } from '@bench-wake/testing/until'
import { realClock } from '@bench-wake/core/kernel'
import {
  readExactly,
  receiveXmodem,
  receiveYmodem,
  sendXmodem,
  sendYmodem,
  type Port,
  type SerialSettings,
  scriptDriver,
  scriptLoader,
} from '@bench-wake/core/link'
import { componentOf, LinkScript } from '@bench-wake/core/family'
import { demoFamily } from '@bench-wake/demo'
import { execFileSync, spawn } from 'node:child_process'
import {
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  readlinkSync,
  realpathSync,
  writeFileSync,
} from 'node:fs'
import { join } from 'node:path'
import * as v from 'valibot'
import { describe, expect, it } from 'vitest'
import { hostTime } from '../host-time'
import { scratchFolder } from '../server.test-support'
import { serialPort } from './serial-port'

/*
 * Outside peers: `rx` and `sx` of lrzsz behind a pseudo-terminal that socat makes, through the real serialport driver.
 * The peer itself stands on pipes: on a terminal of its own it throws away, when it ends, what was not yet carried over.
 */
const folder = scratchFolder()
const settings: SerialSettings = { baudRate: 115_200, dataBits: 8, parity: 'none', stopBits: 1 }
/** What a file descriptor of this process is; nothing where it was closed meanwhile. */
const linkOf = (fd: string): string | undefined => {
  try {
    return readlinkSync(`/proc/self/fd/${fd}`)
  } catch {
    return undefined
  }
}
const patterned = (length: number) => Uint8Array.from({ length }, (_, at) => (at * 41 + (at >> 7)) & 255)
let count = 0

/** A peer that stores where it stands: since its release of November 2026 `rx` refuses a path from the root. */
const inFolder = (command: string) => `SYSTEM:cd ${folder} && exec ${command},pipes`

/** A line with `far` at its other end; `act` gets the port at the near end. Gives what `act` gave and socat's exit code. */
async function onLine<T>(
  far: string,
  act: (port: Port) => Promise<T>,
): Promise<{ done: T; code: number | null }> {
  const near = join(folder, `near-${count++}`)
  const socat = spawn('socat', ['-t3', `pty,rawer,link=${near},wait-slave`, far], { stdio: 'ignore' })
  const exit = new Promise<number | null>((done) => socat.once('exit', done))
  await until(() => existsSync(near), 'The terminal')
  const port = serialPort(near, realClock(hostTime))
  await port.open(settings)
  try {
    const done = await act(port)
    await port.close()
    return { done, code: await exit }
  } finally {
    await port.close()
    socat.kill()
  }
}

describe('XMODEM with lrzsz over a real serial port', () => {
  it.each([
    ['rx, asked for sums by NAK', 'rx', 128, 5_000, 'sum'],
    ['rx -c, asked for CRC by C, blocks of 128', 'rx -c', 128, 5_000, 'crc'],
    ['rx -c, blocks of 1K', 'rx -c', 1024, 70_001, 'crc'],
  ] as const)('sends to %s', async (_, command, blockBytes, length, check) => {
    const bytes = patterned(length)
    const name = `out-${blockBytes}-${check}`
    const { done: sent, code } = await onLine(inFolder(`${command} ${name}`), (port) =>
      sendXmodem(port, bytes, { blockBytes, padByte: 0xff }),
    )
    expect(code).toBe(0)
    expect(sent.check).toBe(check)
    const got = readFileSync(join(folder, name))
    expect(got.subarray(0, length).equals(bytes)).toBe(true)
    expect([...got.subarray(length)].every((byte) => byte === 0xff)).toBe(true)
  })

  // Nothing but a transfer is there: no console, no question, no answer.
  it.each([
    ['rx -c', 'xmodem-1k'],
    ['rx -c', 'xmodem'],
    ['rb', 'ymodem'],
  ] as const)(
    '%s, with no console around it, is written by a script of one step: %s',
    async (command, by) => {
      const bytes = patterned(9_001)
      const name = `bare-${by}`
      const out = join(folder, name)
      const far = inFolder(command === 'rb' ? 'rb' : `${command} ${name}`)
      const { code } = await onLine(far, async (port) => {
        const script = v.parse(LinkScript, {
          speaks: 'script',
          operations: { write: { steps: [{ do: 'transfer', by, fileName: name }] } },
        })
        const component = componentOf(demoFamily('fog-signal'), 'main')
        const driver = scriptDriver(port, realClock(hostTime), script, component, settings, () => [])
        await scriptLoader(driver, port.name).write(0, bytes, () => {}, { raised: false })
      })
      expect(code).toBe(0)
      expect(readFileSync(out).subarray(0, bytes.length).equals(bytes)).toBe(true)
    },
  )

  it.each([
    ['sx, blocks of 128', 'sx'],
    ['sx -k, blocks of 1K', 'sx -k'],
  ])('receives from %s', async (_, command) => {
    const bytes = patterned(20_000)
    const source = join(folder, 'source')
    writeFileSync(source, bytes)
    const got: number[] = []
    const { code } = await onLine(`EXEC:${command} ${source},pipes`, (port) =>
      receiveXmodem(port, { onBlock: (data) => void got.push(...data) }),
    )
    expect(code).toBe(0)
    expect(Buffer.from(got.slice(0, 20_000)).equals(bytes)).toBe(true)
  })
})

describe('YMODEM with lrzsz over a real serial port', () => {
  const files = [
    { name: 'radio.bin', bytes: patterned(40_001) },
    { name: 'voice.bin', bytes: patterned(300) },
  ]
  it('sends a batch to rb', async () => {
    const into = join(folder, 'batch')
    mkdirSync(into)
    const { code } = await onLine(`SYSTEM:cd ${into} && exec rb,pipes`, (port) =>
      sendYmodem(port, files, { blockBytes: 1024, padByte: 0x1a }),
    )
    expect(code).toBe(0)
    for (const { name, bytes } of files) expect(readFileSync(join(into, name)).equals(bytes)).toBe(true)
  })
  it('receives a batch from sb', async () => {
    for (const { name, bytes } of files) writeFileSync(join(folder, name), bytes)
    const got = new Map<string, number[]>()
    let open: number[] = []
    const { done, code } = await onLine(
      `EXEC:sb -k ${files.map(({ name }) => join(folder, name)).join(' ')},pipes`,
      (port) =>
        receiveYmodem(port, {
          onFile: ({ name }) => void got.set(name, (open = [])),
          onData: (data) => void open.push(...data),
        }),
    )
    expect(code).toBe(0)
    expect(done.map(({ name, size }) => ({ name, size }))).toEqual(
      files.map(({ name, bytes }) => ({ name, size: bytes.length })),
    )
    for (const { name, bytes } of files) expect(Buffer.from(got.get(name)!).equals(bytes)).toBe(true)
  })
})

describe('a real serial port', () => {
  // What the system then has set is read back by stty of the GNU core utilities.
  it('is set as it is asked, and set anew without being let go', async () => {
    const near = join(folder, 'set')
    const socat = spawn('socat', [`pty,rawer,link=${near}`, 'EXEC:cat'], { stdio: 'ignore' })
    await until(() => existsSync(near), 'The terminal')
    const port = serialPort(near, realClock(hostTime))
    const stty = () => execFileSync('stty', ['-F', near, '-a']).toString()
    const holders = () => readdirSync('/proc/self/fd').filter((fd) => linkOf(fd) === realpathSync(near))
    try {
      await port.open(settings)
      expect(stty()).toMatch(/speed 115200 baud/)
      expect(stty()).toMatch(/ -crtscts/)
      // The speed alone: the port stays open, as what holds it shows.
      const before = holders()
      await port.open({ ...settings, baudRate: 57_600 })
      expect(stty()).toMatch(/speed 57600 baud/)
      expect(holders()).toEqual(before)
      await port.open({ ...settings, stopBits: 2, flow: 'rts-cts', lines: { dtr: false } })
      expect(stty()).toMatch(/speed 115200 baud/)
      expect(stty()).toMatch(/ crtscts/)
      expect(stty()).toMatch(/ cstopb/)
      await port.open({ ...settings, flow: 'xon-xoff' })
      expect(stty()).toMatch(/ ixon/)
      expect(holders()).toHaveLength(1)
      // A pseudo-terminal has no control lines; a step that needs them is told so.
      await expect(port.setLines({ dtr: true })).rejects.toMatchObject({
        facts: { kind: 'no-control-lines' },
      })
    } finally {
      await port.close()
      socat.kill('SIGKILL')
    }
  })
  it('keeps the guarantees of Port: null on silence, closed while reading', async () => {
    await onLine('EXEC:cat,pipes', async (port) => {
      expect(await port.read(10, 30)).toBeNull()
      expect(await port.read(10, 0)).toBeNull()
      await port.write(Uint8Array.of(0x11, 0x13, 0xff, 0x00))
      expect([...(await readExactly(port, 4, 2000))!]).toEqual([0x11, 0x13, 0xff, 0x00])
      const pending = expect(port.read(1, 5000)).rejects.toMatchObject({ facts: { kind: 'port-closed' } })
      await port.close()
      await pending
      await expect(port.write(Uint8Array.of(1))).rejects.toMatchObject({ facts: { kind: 'port-closed' } })
    })
  })
  it('says what to do when it is not there', async () => {
    const port = serialPort(join(folder, 'none'), realClock(hostTime))
    await expect(port.open(settings)).rejects.toMatchObject({
      facts: { kind: 'port-open', thing: join(folder, 'none') },
    })
  })
})

// A laptop whose lid was shut, or that others keep busy: what the unit answered meanwhile lies there, and was said in time.
describe('a computer that stood still', () => {
  it('hears what was said meanwhile before it calls the unit silent', async () => {
    const said = join(folder, 'said')
    const standStill = (ms: number) => Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, ms)
    await onLine(`SYSTEM:read asked; echo here; sleep 0.2; echo > ${said},pipes`, async (port) => {
      await port.write(Uint8Array.of(0x0a))
      const answer = port.read(100, 400)
      // Past its limit, and until the answer lies there for sure, however slow this machine is.
      standStill(500)
      for (let tries = 0; tries < 400 && !existsSync(said); tries++) standStill(50)
      expect(Buffer.from((await answer) ?? []).toString()).toBe('here\n')
      // And one that says nothing is silent all the same.
      const nothing = port.read(100, 50)
      standStill(300)
      expect(await nothing).toBeNull()
    })
  })
})
