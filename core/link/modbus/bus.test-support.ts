import type { Clock } from '../../kernel'
import type { Port, SerialSettings } from '../port'
import { readRtu, writeRtu } from '.'

/* A bus with one unit on it, as tests of its two ends need it. */

/** What a unit says to a request: a PDU from its address, a whole frame, or nothing. */
export type Says = readonly number[] | Uint8Array | null

/**
 * @param address of the unit.
 * @param answer to each request, by its PDU.
 * @param clock that passes while nobody answers; without it silence takes no time.
 */
export function unitOnBus(
  address: number,
  settings: SerialSettings,
  answer: (pdu: Uint8Array) => Says | Promise<Says>,
  clock?: Pick<Clock, 'now' | 'sleep'>,
) {
  const asked: number[][] = []
  /** When each was asked, ms. */
  const times: number[] = []
  let waiting: Promise<Says> | null = null
  const port: Port = {
    name: 'bus',
    settings,
    open: async () => {},
    close: async () => {},
    setLines: async () => {},
    async write(bytes) {
      const { pdu } = readRtu(bytes)
      asked.push([...pdu])
      if (clock) times.push(clock.now())
      waiting = Promise.resolve(answer(pdu))
    },
    async read(_, ms) {
      const said = await waiting
      waiting = null
      if (said === null) await clock?.sleep(ms)
      if (said === null || said instanceof Uint8Array) return said
      return writeRtu({ address, pdu: Uint8Array.from(said) })
    },
  }
  return { port, asked, times }
}
