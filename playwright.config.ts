import { defineConfig } from '@playwright/test'
import { chromiumPath } from './e2e/chromium'

export default defineConfig({
  testDir: 'e2e',
  // A machine that others use stands still for half a minute at times.
  timeout: 300_000,
  expect: { timeout: 30_000 },
  // Some of them wait on a paced stand-in, and leave a processor idle meanwhile; more at once stand in each other's way.
  workers: 3,
  // The machines are shared and noisy: what fails twice is wrong, what fails once is named in the report.
  retries: 1,
  globalSetup: './e2e/seed.ts',
  use: {
    viewport: { width: 1280, height: 800 },
    // Nothing moves that a test would only wait for; movement itself is asked for where it is tested.
    contextOptions: { reducedMotion: 'reduce' },
    launchOptions: {
      executablePath: chromiumPath,
      args: [
        '--no-sandbox',
        // A page starts in half the time without the process that others are forked from.
        '--no-zygote',
        '--in-process-gpu',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
      ],
    },
  },
})
