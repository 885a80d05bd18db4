import { readIntelHex, writeIntelHex } from '@bench-wake/core/image'
import MemoryMapReference from 'nrf-intel-hex'
import { medianMs, type Bench } from './figure'

const size = 8 * 1024 * 1024

/** Reading an 8 MiB Intel HEX image, against the npm package nrf-intel-hex in the same process. */
export const intelHex: Bench = {
  name: 'intel-hex',
  async measure() {
    const bytes = Uint8Array.from({ length: size }, (_, at) => (at * 37 + (at >> 8) * 11) & 255)
    const text = writeIntelHex([{ address: 0x08000000, bytes }])
    const file = new TextEncoder().encode(text)
    const collect = () => globalThis.gc?.()

    const ours = await medianMs(7, () => readIntelHex(file), collect)
    const theirs = await medianMs(3, () => MemoryMapReference.fromHex(text).join(), collect)
    const same =
      Buffer.from(readIntelHex(file).memory[0]!.bytes).equals(bytes) &&
      Buffer.from(MemoryMapReference.fromHex(text).join().get(0x08000000)!).equals(bytes)
    const ratio = theirs / ours
    return [
      {
        name: 'Intel HEX, 8 MiB image, reading',
        value: ours,
        unit: 'ms',
        reference: theirs,
        ratio,
        wanted: 'ratio at least 25',
        holds: ratio >= 25,
      },
      {
        name: 'Intel HEX, 8 MiB image, same bytes out',
        value: same ? 1 : 0,
        unit: 'yes=1',
        wanted: '1',
        holds: same,
      },
    ]
  },
}
