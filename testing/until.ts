import { vi } from 'vitest'

/** Waits until something holds, looked at again and again, however busy the machine is; after a minute it says what never came. */
export const until = (holds: () => boolean | Promise<boolean>, what: string): Promise<void> =>
  vi.waitFor(
    async () => {
      if (!(await holds())) throw new Error(`${what} did not come within a minute.`)
    },
    { timeout: 60_000, interval: 20 },
  )
