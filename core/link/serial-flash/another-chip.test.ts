import { dapAdapterDevice, flashChip, flashTable, usbDevice } from '@bench-wake/standins'
import { describe, expect, it } from 'vitest'
import { virtualClock, type Problem } from '../../kernel'
import { openSpiPort } from '../spi'
import { dapAdapter } from '../swd'
import { flashLoader } from '.'

/* Common practice: a clip that slips may sit on the chip beside it; what is there then is looked at before it is written. */

const turn = () => new Promise<void>((done) => setImmediate(done))
const size = 0x10000

async function bench() {
  const clock = virtualClock(turn)
  const bytes = new Uint8Array(size).fill(0xff)
  const identity: [number, number, number] = [0x5d, 0x40, 0x14]
  let slipsFor = 0
  const erases = [{ bytes: 4096, command: 0x20, ms: 45 }]
  const chip = flashChip({
    clock,
    bytes,
    identity,
    table: flashTable({ bytes: size, pageBytes: 256, programMs: 0.7, erases }),
    pageBytes: 256,
    programMs: 0.7,
    erases,
    wire: (bit, way) => (way === 'out' && slipsFor > 0 ? (slipsFor--, true) : bit),
  })
  const device = dapAdapterDevice({ clock, ends: { lines: chip }, version: 2, serial: '1' })
  const usb = usbDevice({ name: 'clip', clock, now: () => device })
  await usb.open()
  const open = async () => openSpiPort(await dapAdapter(usb), { hertz: 1_000_000 })
  const loader = flashLoader(
    'clip',
    open,
    clock,
    {
      bytes: size,
      pageBytes: 256,
      programMs: 0.7,
      eraseTypes: [{ bytes: 4096, command: 0x20, usualMs: null, maxMs: null }],
      believeTable: true,
      base: 0,
      regions: [{ address: 0, length: size }],
      erasedByte: 0xff,
      holdsReset: false,
    },
    async () => {},
  )
  /** For so many bits the clip has no contact; then it has, on this chip. */
  const swap = (last: number) => (identity[2] = last)
  const slips = (last: number) => {
    swap(last)
    slipsFor = 60
  }
  return { loader, bytes, slips, swap }
}
const image = Uint8Array.from({ length: 4096 }, (_, at) => (at * 7) & 0xff)

describe('a clip that slips in the middle', () => {
  it('onto the same chip goes on', async () => {
    const { loader, bytes, slips } = await bench()
    await loader.attach()
    await loader.write(0, image, ({ done }) => void (done === 1024 && slips(0x14)), { raised: false })
    expect(bytes.subarray(0, 4096)).toEqual(image)
  })
  it('onto another is not written any further, whatever the profile allows', async () => {
    const { loader, bytes, slips } = await bench()
    await loader.attach()
    const problem = await loader
      .write(0, image, ({ done }) => void (done === 1024 && slips(0x15)), { raised: false })
      .catch((error: unknown) => error as Problem)
    expect(problem?.facts).toMatchObject({ kind: 'flash-other-chip', expected: '5D4014', found: '5D4015' })
    expect(bytes.subarray(1024).every((byte) => byte === 0xff)).toBe(true)
  })
  it('let go and joined anew it may be another', async () => {
    const { loader, swap } = await bench()
    await loader.attach()
    await loader.release()
    swap(0x15)
    await loader.attach()
    expect(loader.chip()?.identity).toBe('5D4015')
  })
})
