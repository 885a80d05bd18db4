import type { VirtualClock } from '../kernel'
import type { Port, SerialSettings } from './port'

/** What the other end says, each part so many ms after what it answers. */
export type TimedAnswer = [afterMs: number, bytes: number[]][]
/** What the other end says to a writing, and which one of all it is, from 0. */
export type TimedUnit = (written: number[], nth: number) => TimedAnswer

/**
 * A port whose other end answers by hand, in virtual time.
 * @param first what comes unasked.
 * @returns the port, what was written to it, and the limits of its reads.
 */
export function timedPort(
  clock: VirtualClock,
  settings: SerialSettings,
  unit: TimedUnit,
  first: TimedAnswer = [],
) {
  const written: number[][] = []
  const waits: number[] = []
  let coming: { at: number; bytes: number[] }[] = []
  const comes = (answer: TimedAnswer) => {
    coming.push(...answer.map(([afterMs, bytes]) => ({ at: clock.now() + afterMs, bytes: [...bytes] })))
    coming.sort((a, b) => a.at - b.at)
  }
  comes(first)
  const port: Port = {
    name: 'jack',
    settings,
    open: async () => {},
    close: async () => {},
    setLines: async () => {},
    async write(bytes) {
      written.push([...bytes])
      comes(unit([...bytes], written.length - 1))
    },
    async read(max, ms) {
      waits.push(ms)
      const next = coming[0]
      const now = clock.now()
      if (!next || next.at > now + ms) {
        if (ms > 0) await clock.sleep(ms)
        return null
      }
      if (next.at > now) await clock.sleep(next.at - now)
      const taken = Uint8Array.from(next.bytes.splice(0, max))
      coming = coming.filter(({ bytes }) => bytes.length > 0)
      return taken
    },
  }
  return { port, written, waits }
}
