import { defineConfig } from '@playwright/test'
import { launchForm, pageForm } from './e2e/chromium'

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
    viewport: pageForm.viewport,
    contextOptions: { reducedMotion: pageForm.reducedMotion },
    launchOptions: launchForm,
  },
})
