import type { VirtualClock } from '../kernel'
import type { ControlLines, Port, SerialSettings } from './port'

/** What the other end says, each part so many ms after what it answers. */
export type TimedAnswer = [afterMs: number, bytes: number[]][]
/** What the other end says to a writing, and which one of all it is, from 0. */
export type TimedUnit = (written: number[], nth: number) => TimedAnswer

/**
 * A port whose other end answers by hand, in virtual time.
 * @param first what comes unasked.
 * @returns the port, what was written to it, the limits of its reads, the settings it was opened with, and its lines as they were set.
 */
export function timedPort(
  clock: VirtualClock,
  settings: SerialSettings,
  unit: TimedUnit,
  first: TimedAnswer = [],
) {
  const written: number[][] = []
  const waits: number[] = []
  const opened: SerialSettings[] = []
  const lines: ControlLines[] = []
  let coming: { at: number; bytes: number[] }[] = []
  const comes = (answer: TimedAnswer) => {
    coming.push(...answer.map(([afterMs, bytes]) => ({ at: clock.now() + afterMs, bytes: [...bytes] })))
    coming.sort((a, b) => a.at - b.at)
  }
  comes(first)
  const port: Port = {
    name: 'jack',
    get settings() {
      return opened.at(-1) ?? settings
    },
    open: async (wanted) => void opened.push(wanted),
    close: async () => {},
    setLines: async (set) => void lines.push(set),
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
  return { port, written, waits, opened, lines }
}
