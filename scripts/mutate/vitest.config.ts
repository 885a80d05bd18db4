import { fileURLToPath } from 'node:url'
import { defineConfig } from 'vitest/config'

const root = fileURLToPath(new URL('../..', import.meta.url))

/** The tests that a mutation run asks, with every package taken from the copy that is mutated. */
export default defineConfig({
  root,
  resolve: {
    alias: [
      { find: /^@bench-wake\/(core|standins|demo|server)$/, replacement: `${root}$1/index.ts` },
      { find: /^@bench-wake\/core\/(\w+)$/, replacement: `${root}core/$1/index.ts` },
      { find: /^fast-check$/, replacement: `${root}scripts/mutate/fast-check.mjs` },
    ],
  },
  test: {
    include: (process.env['MUTATE_TESTS'] ?? 'core/**/*.test.ts').split(','),
    testTimeout: 30_000,
  },
})
