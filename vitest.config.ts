import { defineConfig } from 'vitest/config'
import { measurePace } from './scripts/pace.mjs'

/** Limits of the tests, ms, grow with a machine that is slow or busy when they start; none waits for a time. */
const pace = measurePace()

export default defineConfig({
  test: {
    include: ['{core,standins,demo,server,testing,web,scripts}/**/*.test.ts'],
    setupFiles: ['server/hold-answers.setup.ts', 'testing/equal-bytes.setup.ts'],
    globalSetup: ['server/seeded-folder.test-support.ts'],
    // Tests share one module graph and no state; a third of them wait for another program rather than compute. A fourth
    // worker reads all modules once more, and takes longer with it than it saves.
    isolate: false,
    maxWorkers: 3,
    expect: { poll: { timeout: 60_000 * pace } },
    testTimeout: 120_000 * pace,
    hookTimeout: 180_000 * pace,
  },
})
