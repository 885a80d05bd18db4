import { expect, test } from './program'

/*
 * A port of the person's own computer, lent to the program by the page. The browser's serial interface is played by a
 * relay of a few lines, since a browser under test has no plug: it answers its status as its papers say.
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
  const read = await shared.send('POST', '/units/relay-2/snapshots', { port })
  expect(JSON.stringify(read)).toContain('watchdog+hold-last')
  await lent.getByRole('link', { name: 'Trace' }).click()
  await expect(page.getByRole('region', { name: 'Rows of the trace' })).toContainText('Firmware: 1.9')

  await page.getByRole('link', { name: 'All ports' }).click()
  await page.getByRole('button', { name: 'Take it back' }).click()
  await expect(lent).toHaveCount(0)
  const gone = await shared
    .send('POST', '/units/relay-2/snapshots', { port })
    .catch((error: Error) => error.message)
  expect(String(gone)).toMatch(/not|gone|away/)
})
