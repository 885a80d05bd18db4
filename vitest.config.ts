import { defineConfig } from 'vitest/config'

export default defineConfig({
  test: {
    include: ['{core,standins,demo,server,web,scripts}/**/*.test.ts'],
    // Tests share one module graph and no state; a third of them wait for another program rather than compute.
    isolate: false,
    maxWorkers: 3,
    testTimeout: 30_000,
    hookTimeout: 30_000,
  },
})
