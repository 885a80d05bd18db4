import { virtualClock } from '@bench-wake/core/kernel'
import { dapAdapter, flashLoader, openSpiPort } from '@bench-wake/core/link'
import { dapAdapterDevice, flashChip, flashTable, usbDevice } from '@bench-wake/standins'
import type { Bench, Figure } from './figure'

const turn = () => new Promise<void>((done) => setImmediate(done))
const size = 1_048_576
const hertz = 1_000_000
const pageBytes = 256
/** A count of ten units of 64 µs in its table (JESD216, word 11). */
const programMs = 0.64
const erases = [
  { bytes: 4096, command: 0x20, ms: 45 },
  { bytes: 65_536, command: 0xd8, ms: 150 },
]

/**
 * What a chip of 1 MiB on a clip takes, in virtual time, against what packets, clock and the chip allow. The limits are
 * written out here on their own. CMSIS-DAP, DAP_JTAG_Sequence: two bytes of head in a packet, and an information byte before
 * every eight: 62 bytes of a report of 64 carry 55, 510 of a packet of 512 carry 453. Universal Serial Bus 2.0: 1 500 bytes a
 * millisecond, 13 bytes around each packet of up to 64.
 */
async function measureAdapters(): Promise<Figure[]> {
  const figures: Figure[] = []
  const usbMs = (bytes: number) => (bytes + Math.max(1, Math.ceil(bytes / 64)) * 13) / 1500
  for (const [version, packet, carried] of [
    [1, 64, 55],
    [2, 512, 453],
  ] as const) {
    const clock = virtualClock(turn)
    const chip = flashChip({
      clock,
      bytes: new Uint8Array(size).fill(0),
      identity: [0x5d, 0x40, 0x14],
      table: flashTable({ bytes: size, pageBytes, programMs, erases }),
      pageBytes,
      programMs,
      erases,
    })
    const device = dapAdapterDevice({ clock, ends: { lines: chip }, version, serial: '1' })
    const usb = usbDevice({ name: 'clip', clock, now: () => device })
    await usb.open()
    const loader = flashLoader(
      'clip',
      async () => openSpiPort(await dapAdapter(usb), { hertz }),
      clock,
      {
        bytes: size,
        pageBytes,
        programMs,
        eraseTypes: erases.map(({ ms, ...type }) => ({ ...type, usualMs: ms, maxMs: null })),
        believeTable: true,
        base: 0,
        regions: [{ address: 0, length: size }],
        erasedByte: 0xff,
        holdsReset: false,
      },
      async () => {},
    )
    await loader.attach()
    const took = async (act: () => Promise<unknown>) => {
      const from = clock.now()
      await act()
      return clock.now() - from
    }
    const image = Uint8Array.from({ length: size }, (_, at) => (Math.imul(at, 2654435761) >>> 13) & 0x7f)
    const over = version === 1 ? 'reports of 64 bytes' : 'packets of 512 bytes'
    const add = (name: string, value: number, limit: number) =>
      figures.push({
        name: `${name} 1 MiB at 1 MHz, ${over}`,
        value,
        unit: 'ms',
        reference: limit,
        ratio: limit / value,
        wanted: 'at least 90 % of the limit',
        holds: limit / value >= 0.9,
      })
    const clocks = (bytes: number) => (bytes * 8 * 1000) / hertz
    const reading = await took(() => loader.read!({ address: 0, length: size }, () => {}))
    add('Reads', reading, (size / carried) * (usbMs(packet) + usbMs(carried + 2)) + clocks(size))
    await loader.erase({ address: 0, length: size }, () => {})
    const writing = await took(() => loader.write(0, image, () => {}, { raised: false }))
    // A page: its 260 bytes; the word that allows it and the look whether that was taken; one look at the end.
    const packets = Math.ceil(260 / carried)
    const page =
      packets * (usbMs(version === 1 ? packet : 298) + usbMs(version === 1 ? packet : 2)) +
      2 * (usbMs(version === 1 ? packet : 16) + usbMs(version === 1 ? packet : 4)) +
      clocks(260 + 3 + 2) +
      programMs
    add('Writes', writing, (size / pageBytes) * page)
  }
  return figures
}

export const adapters: Bench = { name: 'adapters', measure: measureAdapters }
