import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import { expect, test } from './program'

/*
 * A page of somebody else in the same browser, with what such a page can do: a script's request, a form, a live stream,
 * a picture, a frame. A real browser sends them; what became of them is asked of the program.
 */
test('a page from elsewhere starts nothing, plants nothing and reads nothing', async ({
  context,
  shared,
}) => {
  const page = await context.newPage()
  const elsewhere = createServer((_, answer) => {
    answer.setHeader('content-type', 'text/html')
    answer.end('<!doctype html><title>Elsewhere</title><iframe name="hidden"></iframe><p>Elsewhere</p>')
  })
  await new Promise<void>((done) => elsewhere.listen(0, '127.0.0.1', done))
  try {
    const { port } = elsewhere.address() as AddressInfo
    const before = {
      units: await shared.get('/units'),
      images: await shared.get('/images'),
      runs: await shared.get('/logbook'),
    }
    const statuses: number[] = []
    context.on('response', (answer) => {
      if (answer.url().startsWith(shared.address)) statuses.push(answer.status())
    })
    // Another site (a name beside an address), and the same site at another port.
    for (const from of [`http://localhost:${port}`, `http://127.0.0.1:${port}`]) {
      await page.goto(from)
      // The form's answer comes into the frame: it was heard out before anything is compared.
      const sent = page.waitForResponse(
        (answer) => answer.url().endsWith('/api/images') && answer.request().isNavigationRequest(),
      )
      const heard = await page.evaluate(async (address) => {
        const unit = JSON.stringify({ familyId: 'mains-relay', name: 'Planted', place: 'x', serial: 'x' })
        const tries: [string, () => Promise<unknown>][] = [
          [
            'JSON',
            () =>
              fetch(`${address}/api/units`, {
                method: 'POST',
                headers: { 'content-type': 'application/json' },
                body: unit,
              }),
          ],
          ['text', () => fetch(`${address}/api/units`, { method: 'POST', body: unit })],
          [
            'blind text',
            () => fetch(`${address}/api/units`, { method: 'POST', mode: 'no-cors', body: unit }),
          ],
          [
            'blind form',
            () => {
              const form = new FormData()
              form.append('file', new File(['planted'], 'planted.bin'))
              return fetch(`${address}/api/images`, { method: 'POST', mode: 'no-cors', body: form })
            },
          ],
          ['read', async () => (await fetch(`${address}/api/units`)).text()],
          [
            'stream',
            () =>
              new Promise((done, fail) => {
                const stream = new EventSource(`${address}/api/ports/trace/live?port=stand-in:relay-2`)
                stream.onopen = () => done('joined')
                stream.onerror = () => {
                  stream.close()
                  fail(new Error('refused'))
                }
              }),
          ],
        ]
        const got: Record<string, string> = {}
        for (const [name, act] of tries) {
          got[name] = await act().then(
            (value) => (value instanceof Response && value.type === 'opaque' ? 'blind' : 'heard'),
            () => 'refused',
          )
        }
        // A form needs no script to read it; it goes out with its cookies and its file.
        const form = document.createElement('form')
        form.method = 'post'
        form.enctype = 'multipart/form-data'
        form.action = `${address}/api/images`
        form.target = 'hidden'
        const input = document.createElement('input')
        input.type = 'file'
        input.name = 'file'
        const files = new DataTransfer()
        files.items.add(new File(['planted by a form'], 'form.bin'))
        input.files = files.files
        form.append(input)
        document.body.append(form)
        form.submit()
        return got
      }, shared.address)
      expect(heard).toEqual({
        JSON: 'refused',
        text: 'refused',
        'blind text': 'refused',
        'blind form': 'refused',
        read: 'refused',
        stream: 'refused',
      })
      await sent
    }
    expect(statuses.length).toBeGreaterThanOrEqual(2)
    expect(statuses.filter((status) => status !== 403)).toEqual([])
    expect({
      units: await shared.get('/units'),
      images: await shared.get('/images'),
      runs: await shared.get('/logbook'),
    }).toEqual(before)

    // Nor is the program's page shown inside another one.
    const outer = await context.newPage()
    const refusal = outer.waitForEvent('console', {
      predicate: (message) => /frame-ancestors/.test(message.text()),
    })
    await outer.goto(`http://localhost:${port}`)
    await outer.evaluate((address) => {
      document.querySelector('iframe')!.src = `${address}/units`
    }, shared.address)
    await refusal
    await expect(outer.frameLocator('iframe').getByRole('navigation')).toHaveCount(0)
  } finally {
    await new Promise((done) => elsewhere.close(done))
    elsewhere.closeAllConnections()
  }
})

test('every main page works within what it is allowed', async ({ page, shared }) => {
  // What a page tries against its rules makes any interface test red (`program.ts`); here each main view is opened once.
  for (const path of [
    '/',
    '/shelf',
    '/units',
    '/families',
    '/logbook',
    '/ports',
    '/trace',
    '/sums',
    '/workshop-rules',
  ]) {
    const answer = await page.goto(`${shared.address}${path}`)
    expect(answer!.headers()['content-security-policy']).toContain("script-src 'self';")
    await expect(page.getByRole('heading', { level: 1 }).first()).toBeVisible()
  }
})
