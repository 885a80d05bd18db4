/* eslint-disable @typescript-eslint/no-explicit-any -- tests read answers as an outside tool does: by member */
import {
  expect,
  test as base,
  type BrowserContext,
  type Locator,
  type Page,
  type Response as Answer,
} from '@playwright/test'
import { spawn, type ChildProcess } from 'node:child_process'
import { cpSync, mkdtempSync, rmSync } from 'node:fs'
import { setPriority, tmpdir } from 'node:os'
import { join } from 'node:path'
import { builtServer } from '../scripts/server.mjs'
import { holdAgainst, type ApiDocument } from '../server/hold-answers.test-support'
import { pageForm } from './chromium'

/** Where `seed.ts` left a folder with the demo scenario. */
export const seededFolder = 'BENCH_WAKE_SEEDED'

/** Longest that an answer is waited for before it is asked once more, ms. */
const askMs = 20_000

/**
 * Ports that programs of this worker stood at and have left: the next one takes one of them, and its pages find what the
 * browser keeps of the same address. They lie below those that a computer gives to whoever asks for any.
 */
const ports = Array.from({ length: 8 }, (_, index) =>
  String(21_000 + 8 * Number(process.env['TEST_PARALLEL_INDEX'] ?? 0) + index),
)
/** Every address that a program stood at. */
const addresses = new Set<string>()

/** The whole program as a person starts it: one process, a folder of its own, the demo scenario. */
export class Program {
  readonly folder = mkdtempSync(join(tmpdir(), 'bench-wake-e2e-'))
  address = ''
  private child: ChildProcess | undefined
  private port = ports.pop() ?? '0'

  /**
   * @param seeded a folder with the demo scenario already in it, to start from a copy of
   * @param environment settings beside its port and its folder
   * @param words what it is started with
   */
  constructor(
    seeded = process.env[seededFolder],
    private readonly environment: Record<string, string> = {},
    private readonly words: readonly string[] = ['--demo'],
  ) {
    if (seeded) cpSync(seeded, this.folder, { recursive: true })
  }

  async start(): Promise<void> {
    await this.startAt().catch(async (error: unknown) => {
      // Somebody else has the port; an address of its own that a test has seen stays the same.
      if (this.address || this.port === '0') throw error
      this.port = '0'
      await this.startAt()
    })
    addresses.add(this.address)
  }

  private async startAt(): Promise<void> {
    const child = spawn(process.execPath, [builtServer, ...this.words], {
      env: {
        ...process.env,
        PORT: this.port,
        BENCH_WAKE_DATA: this.folder,
        // Ports that a test sets up, and none of this computer's own.
        BENCH_WAKE_SHOWN_PORTS: 'none',
        ...this.environment,
      },
      stdio: ['ignore', 'pipe', 'inherit'],
    })
    this.child = child
    keepUpWithBrowser(child.pid!)
    this.address = await new Promise<string>((resolve, reject) => {
      let text = ''
      child.stdout!.on('data', (chunk: Buffer) => {
        text += chunk.toString()
        const found = /Bench Wake is at (\S+)/.exec(text)?.[1]
        if (found) resolve(found)
      })
      child.once('exit', () => reject(new Error(`the program ended: ${text}`)))
    })
    // A second start takes the same address, as it would on a laptop.
    this.port = new URL(this.address).port
  }

  /** The process, for what is done to it from outside. */
  get pid(): number {
    return this.child!.pid!
  }

  async end(signal: 'SIGTERM' | 'SIGKILL'): Promise<void> {
    const child = this.child
    if (!child || child.exitCode !== null) return
    const ended = new Promise((done) => child.once('exit', done))
    child.kill(signal)
    await ended
  }

  /** Ends it for good, and leaves nothing of it behind but its port. */
  async leave(): Promise<void> {
    await this.end('SIGKILL')
    rmSync(this.folder, { recursive: true, force: true })
    if (this.port !== '0') ports.push(this.port)
  }

  async get(path: string): Promise<any> {
    // A connection kept from before may be closed by the other end just as it is used again, or never answer on it.
    const ask = () => fetch(`${this.address}/api${path}`, { signal: AbortSignal.timeout(askMs) })
    return (await ask().catch(ask)).json()
  }

  /** Sends JSON over a public path, as an outside tool would; fails where the program refuses. */
  async send(method: string, path: string, content: unknown): Promise<any> {
    const answer = await fetch(`${this.address}/api${path}`, {
      method,
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(content),
    })
    const body = await answer.json()
    if (!answer.ok) throw new Error(`${method} ${path}: ${JSON.stringify(body)}`)
    return body
  }
}

/** Where a browser may put what it draws before all else, the program that it waits for would stand still: it goes with it. */
function keepUpWithBrowser(pid: number): void {
  try {
    setPriority(pid, -8)
  } catch {
    // Not allowed here; then the browser may not either.
  }
}

/** Starts a program, lends it out, and leaves nothing of it behind. */
async function withProgram(use: (program: Program) => Promise<void>): Promise<void> {
  const program = new Program()
  await program.start()
  await use(program)
  await program.leave()
}

let hold: ReturnType<typeof holdAgainst> | undefined
/** Answers that were held before, by their path and text: most screens ask for the same ones. */
const heldBefore = new Set<string>()

/** How an answer differs from what the OpenAPI document of the program promises; null where it does not, or was cut off. */
async function holdAnswer(response: Answer): Promise<string | null> {
  const { origin, pathname } = new URL(response.url())
  const type = response.headers()['content-type'] ?? ''
  if (
    !pathname.startsWith('/api/') ||
    pathname === '/api/openapi.json' ||
    !/^application\/(problem\+)?json\b/.test(type)
  )
    return null
  const text = await response.text().catch(() => undefined)
  if (text === undefined) return null
  const answer = `${response.request().method()} ${response.status()} ${pathname} ${text}`
  if (heldBefore.has(answer)) return null
  // A program that others can reach gives its document to who is signed in; before that there is nothing to hold against.
  const document = hold
    ? null
    : await response
        .frame()
        .page()
        .context()
        .request.get(`${origin}/api/openapi.json`)
        .then(async (answer) => (answer.ok() ? ((await answer.json()) as ApiDocument) : null))
        .catch(() => null)
  if (document) hold = holdAgainst(document)
  if (!hold) return null
  const differs = hold(response.request().method(), pathname, response.status(), type, () => JSON.parse(text))
  if (differs === null) heldBefore.add(answer)
  return differs
}

/** A test with a program of its own, so that no test sees another's runs; or with one that its file shares. */
export const test = base.extend<
  { program: Program; shared: Program },
  { programOf: (file: string) => Promise<Program>; profile: BrowserContext }
>({
  // One browser profile for all tests of a worker: what the scripts of a page were compiled to is kept in it, which is a
  // fifth of the work of opening one. Nothing else is left in it from test to test.
  profile: [
    async ({ playwright, launchOptions }, use) => {
      const folder = mkdtempSync(join(tmpdir(), 'bench-wake-profile-'))
      const profile = await playwright.chromium.launchPersistentContext(folder, {
        ...launchOptions,
        ...pageForm,
      })
      await use(profile)
      await profile.close()
      rmSync(folder, { recursive: true, force: true })
    },
    { scope: 'worker' },
  ],
  context: async ({ profile, actionTimeout }, use) => {
    profile.setDefaultTimeout(actionTimeout ?? 0)
    const [blank] = profile.pages()
    await use(profile)
    await Promise.all(profile.pages().map((page) => (page === blank ? undefined : page.close())))
    await profile.clearCookies()
    const devtools = await profile.newCDPSession(blank!)
    for (const origin of addresses)
      await devtools.send('Storage.clearDataForOrigin', { origin, storageTypes: 'local_storage,indexeddb' })
    await devtools.detach()
  },
  programOf: [
    // eslint-disable-next-line no-empty-pattern
    async ({}, use) => {
      // One at a time: the program of the file before is of no use to the next.
      let current: { file: string; program: Program } | undefined
      const end = async () => current?.program.leave()
      await use(async (file) => {
        if (current?.file !== file) {
          await end()
          current = { file, program: new Program() }
          await current.program.start()
        }
        return current.program
      })
      await end()
    },
    { scope: 'worker' },
  ],
  // What a page of the program is not allowed (server/door.ts), it does not try; what it is answered is what the document has.
  page: async ({ page }, use) => {
    const against: string[] = []
    page.on('console', (message) => {
      if (/content security policy|permissions policy/i.test(message.text())) against.push(message.text())
    })
    const held: Promise<void>[] = []
    page.on('response', (response) =>
      held.push(holdAnswer(response).then((differs) => void (differs && against.push(differs)))),
    )
    await use(page)
    await Promise.all(held)
    base.expect(against).toEqual([])
  },
  shared: async ({ programOf }, use, { file }) => use(await programOf(file)),
  // eslint-disable-next-line no-empty-pattern
  program: async ({}, use) => withProgram(use),
})
export { expect } from '@playwright/test'

/** Does what the run asks of power before it opens its port, one thing after the other. */
export async function powerUp(page: Page): Promise<void> {
  for (const step of ['Panel breaker Q2 off.', 'Battery switch S1 on.']) {
    await expect(page.getByRole('heading', { name: step })).toBeVisible()
    await page.getByRole('button', { name: 'Done' }).click()
  }
}

/** A later leg asks once whether power stands as it did; nothing was switched. */
export async function powerStands(page: Page): Promise<void> {
  await expect(page.getByRole('heading', { name: /^Does power stand as it did\?/ })).toBeVisible()
  await page.getByRole('button', { name: 'It stands: nothing was switched' }).click()
}

/** Chooses in one of the kit's lists, by its name and the option's words. */
export async function pick(page: Page, list: string, option: string | RegExp): Promise<void> {
  const box = page.getByRole('combobox', { name: list, exact: true })
  // A list that was open before stays in the page, unseen.
  const choice = page.locator('.n-base-select-option:visible').filter({ hasText: option }).first()
  await box.click()
  // On a page that is drawn anew under the hand, a list may shut as it opens: it is opened again.
  await expect(async () => {
    await choice.click({ timeout: 5000 }).catch(async (error: unknown) => {
      await box.click({ timeout: 5000 })
      throw error
    })
  }).toPass()
  // It has closed, or the choice led to another screen; a list that is drawn anew under the hand is pressed once more.
  const open = page.locator('[role=combobox][aria-expanded=true]')
  await expect(async () => {
    if ((await open.count()) === 0) return
    await choice.click({ timeout: 2000 })
    await expect(open).toHaveCount(0, { timeout: 2000 })
  }).toPass()
}

/** Chooses the stand-in's speed at the bench. */
export async function setSpeed(page: Page, speed: `${keyof typeof speedWords}`): Promise<void> {
  await pick(page, 'Speed of the stand-in', speedWords[speed])
}
const speedWords = { 1: 'real time', 10: '10×', 60: '60×', 0: 'as fast as possible' } as const

/** Opens a part of the screen that folds, whether or not it opened by itself. */
export async function unfold(part: Locator): Promise<void> {
  await part.evaluate((details) => {
    ;(details as HTMLDetailsElement).open = true
  })
}
