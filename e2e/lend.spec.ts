import { readFileSync } from 'node:fs'
import { expect, test } from './program'

/** What a person answers for before a real port is opened: power in order, and the cable. */
const looked = ['power-order', 'adapter-chosen']

/*
 * A port of the person's own computer, lent to the program by the page. The browser's serial interface is played by a
 * relay of a few lines, since a browser under test has no plug: it answers its status as its manual says.
 */
test('a lent serial port reads a unit, and is gone when it is taken back', async ({ page, shared }) => {
  await page.addInitScript(() => {
    const said = [
      'Type: QR-4',
      'Serial: QR-5512',
      'Firmware: 1.9',
      'Options: watchdog+hold-last',
      'Network name: quay-2',
      'ok',
    ]
    class RelayPort {
      readable: ReadableStream<Uint8Array> | null = null
      writable: WritableStream<Uint8Array> | null = null
      private text = ''
      async open() {
        let say: (text: string) => void = () => {}
        this.readable = new ReadableStream<Uint8Array>({
          start(control) {
            say = (text) => control.enqueue(new TextEncoder().encode(text))
          },
        })
        this.writable = new WritableStream<Uint8Array>({
          write: (bytes) => {
            this.text += new TextDecoder().decode(bytes)
            if (this.text.endsWith('status\r')) say(said.map((line) => `${line}\r\n`).join(''))
            if (this.text.endsWith('\r')) this.text = ''
          },
        })
      }
      async close() {
        this.readable = null
        this.writable = null
      }
      async setSignals() {}
      getInfo() {
        return { usbVendorId: 0xf0a1, usbProductId: 0x0031 }
      }
    }
    Object.defineProperty(navigator, 'serial', { value: { requestPort: async () => new RelayPort() } })
  })
  await page.goto(`${shared.address}/ports`)
  await page.getByRole('button', { name: 'Lend a serial port' }).click()
  const lent = page.locator('tr[data-port^="lent:"]')
  await expect(lent).toContainText('USB f0a1:0031')
  await expect(lent).toContainText('of another computer')

  const port = (await shared.get('/ports')).find(({ kind }: { kind: string }) => kind === 'lent').id
  const read = await shared.send('POST', '/units/relay-2/snapshots', { port, looked })
  expect(JSON.stringify(read)).toContain('watchdog+hold-last')
  await lent.getByRole('link', { name: 'Trace' }).click()
  await expect(page.getByRole('region', { name: 'Rows of the trace' })).toContainText('Firmware: 1.9')

  await page.getByRole('link', { name: 'All ports' }).click()
  await page.getByRole('button', { name: 'Stop lending' }).click()
  await expect(lent).toHaveCount(0)
  const gone = await shared
    .send('POST', '/units/relay-2/snapshots', { port, looked })
    .catch((error: Error) => error.message)
  expect(String(gone)).toMatch(/not|gone|away/)
})

/*
 * A USB device of the person's own computer. The browser's USB interface is played from the standards alone: device,
 * configuration and string descriptors of USB 2.0 (clause 9.6), the update interface's descriptor of DFU 1.1
 * (clause 4.1.3); a request that the device does not know is stalled.
 */
test('a lent USB device reads a unit, tells what it refuses, and is gone when it is taken back', async ({
  page,
  shared,
}) => {
  await page.addInitScript(() => {
    const strings: Record<number, string> = {
      0x02: 'TL-9',
      0x03: 'TL-3302',
      0x04: '2',
      0x05: '2025-11-03',
      0x06: '+0.37 m',
    }
    const configuration = [
      [9, 2, 27, 0, 1, 1, 0, 0x80, 50],
      [9, 4, 0, 0, 0, 0xfe, 1, 1, 0],
      [9, 0x21, 0x03, 0xe8, 0x03, 0x00, 0x04, 0x10, 0x01],
    ].flat()
    const descriptor = (value: number): number[] | undefined => {
      if (value >> 8 === 2) return configuration
      const text = value >> 8 === 3 ? strings[value & 255] : undefined
      if (text === undefined) return undefined
      return [2 + 2 * text.length, 3, ...[...text].flatMap((letter) => [letter.charCodeAt(0), 0])]
    }
    const logger = {
      productName: 'Logger on this desk',
      vendorId: 0xf0a1,
      productId: 8,
      opened: false,
      configuration: null as object | null,
      async open() {
        logger.opened = true
      },
      async close() {
        logger.opened = false
      },
      async reset() {},
      async selectConfiguration() {
        logger.configuration = {}
      },
      async claimInterface() {},
      async selectAlternateInterface() {},
      async controlTransferIn(
        setup: { requestType: string; request: number; value: number },
        length: number,
      ) {
        const bytes =
          setup.requestType === 'standard' && setup.request === 6 ? descriptor(setup.value) : undefined
        return bytes
          ? { status: 'ok', data: new DataView(Uint8Array.from(bytes.slice(0, length)).buffer) }
          : { status: 'stall' }
      },
      async controlTransferOut() {
        return { status: 'stall' }
      },
    }
    Object.defineProperty(navigator, 'usb', {
      value: { requestDevice: async () => logger, getDevices: async () => [logger] },
    })
  })
  await page.goto(`${shared.address}/ports`)
  await page.getByRole('button', { name: 'Lend a USB device' }).click()
  const lent = page.locator('tr[data-port^="lent:"]')
  await expect(lent).toContainText('Logger on this desk')
  await expect(lent).toContainText('USB f0a1:0008')

  const port = (await shared.get('/ports')).find(({ kind }: { kind: string }) => kind === 'lent').id
  const read = JSON.stringify(await shared.send('POST', '/units/tide-2/snapshots', { port, looked }))
  expect(read).toContain('+0.37 m')
  // The string for its readings is stalled: that line is missing and not invented.
  expect(read).not.toContain('18 204')
  await lent.getByRole('link', { name: 'Trace' }).click()
  const rows = page.getByRole('region', { name: 'Rows of the trace' })
  await expect(rows).toContainText(/refuse|stall/i)

  await page.getByRole('link', { name: 'All ports' }).click()
  await page.getByRole('button', { name: 'Stop lending' }).click()
  await expect(lent).toHaveCount(0)
  await expect(shared.send('POST', '/units/tide-2/snapshots', { port, looked })).rejects.toThrow(
    /not|gone|away/,
  )
})

test('a trace is saved, opened again and played in its own time; a file that is none is refused by name', async ({
  page,
  shared,
}) => {
  await shared.send('POST', '/units/relay-2/snapshots', { port: 'stand-in:relay-2' })
  await page.goto(`${shared.address}/trace?port=stand-in:relay-2`)
  const rows = page.getByRole('region', { name: 'Rows of the trace' })
  await expect(rows).toContainText('Serial: QR-')
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: 'Export JSON lines' }).click(),
  ])
  expect(download.suggestedFilename()).toMatch(/^trace-.+\.jsonl$/)
  const text = readFileSync(await download.path(), 'utf8')
  const lines = text
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line))
  expect(lines[0]).toMatchObject({ format: 'bench-wake/trace', port: expect.stringContaining('relay') })
  const heard = lines
    .filter(({ what, direction }) => what === 'data' && direction === 'in')
    .map(({ bytes }) => Buffer.from(bytes, 'hex').toString('latin1'))
    .join('')
  expect(heard).toContain('Serial: QR-')

  // Opened where no port is chosen, it shows the same words as while it ran.
  await page.goto(`${shared.address}/trace`)
  await expect(page.getByText('Nothing is shown yet.', { exact: false })).toBeVisible()
  const open = (name: string, content: string) =>
    page
      .getByLabel('Saved trace')
      .setInputFiles({ name, mimeType: 'application/json', buffer: Buffer.from(content) })
  await open('quay.jsonl', text)
  await expect(rows).toContainText('Serial: QR-')
  await expect(page.getByText('from quay.jsonl', { exact: false })).toBeVisible()
  const whole = await page.getByText(/^\d+ shown$/).textContent()

  // Its last row stands an hour after the one before: played as it went, it is not there yet.
  const late = { at: lines.at(-1).at + 3_600_000, what: 'close', says: 'pulled an hour later' }
  await open('late.jsonl', `${text}${JSON.stringify(late)}\n`)
  await expect(rows).toContainText('pulled an hour later')
  await page.getByRole('button', { name: 'Play as it went' }).click()
  await expect(page.getByText(whole!, { exact: true })).toBeVisible()
  await expect(rows).not.toContainText('pulled an hour later')
  await page.getByRole('button', { name: 'Stop' }).click()
  await page.getByRole('button', { name: 'All at once' }).click()
  await expect(rows).toContainText('pulled an hour later')

  // A broken file is named with its line; what was shown stays.
  await open('broken.jsonl', text.split('\n').slice(0, 2).join('\n') + '\n{"at":1,"what":"data"')
  const refused = page.getByRole('alert').first()
  await expect(refused).toContainText('broken.jsonl')
  await expect(refused).toContainText('Line 3')
  await expect(page.getByText('from late.jsonl', { exact: false })).toBeVisible()
  await expect(rows).toContainText('pulled an hour later')
})
