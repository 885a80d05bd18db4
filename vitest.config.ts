import { defineConfig } from 'vitest/config'

export default defineConfig({
  test: {
    include: ['{core,standins,demo,server,web,scripts}/**/*.test.ts'],
    testTimeout: 30_000,
    hookTimeout: 30_000,
  },
})
