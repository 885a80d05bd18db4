import { virtualClock } from '@bench-wake/core/kernel'
import { receiveXmodem, sendXmodem, type SerialSettings } from '@bench-wake/core/link'
import { serialLine } from '@bench-wake/standins'
import type { Bench } from './figure'

const settings: SerialSettings = { baudRate: 115_200, dataBits: 8, parity: 'none', stopBits: 1 }
const size = 256 * 1024

/** What the link adds to the wire: 256 KiB by XMODEM-1K at 115 200 baud 8N1, no turnaround, in virtual time. */
export const xmodem: Bench = {
  name: 'xmodem',
  async measure() {
    const clock = virtualClock(() => new Promise((done) => setImmediate(done)))
    const line = serialLine({ name: 'line', clock, unit: settings })
    await line.host.open(settings)
    const receiving = receiveXmodem(line.unit, { onBlock: () => {} })
    const from = clock.now()
    await sendXmodem(line.host, new Uint8Array(size), { blockBytes: 1024, padByte: 0xff })
    await receiving
    const took = clock.now() - from
    // The formula, written out here on its own: 1 024 data + 5 around + 1 answer, 10 bits each.
    const wire = ((size / 1024) * (1024 + 5 + 1) * 10 * 1000) / 115_200
    const ratio = took / wire
    return [
      {
        name: 'XMODEM-1K, 256 KiB, time in the line’s own clock',
        value: took,
        unit: 'ms',
        reference: wire,
        ratio,
        wanted: 'ratio at most 1.01',
        holds: ratio <= 1.01,
      },
    ]
  },
}
