import { concatBytes, type Clock } from '@bench-wake/core/kernel'
import { dapProbe, type AdapterEnds } from './protocols/wire-target'
import type { UsbConfiguration } from './usb-device'

/** A debug adapter as a USB device: packets in bulk transfers, or in reports of a human interface device. */
export function dapAdapterDevice(form: {
  clock: Clock
  ends: AdapterEnds
  version: 1 | 2
  serial: string
}): UsbConfiguration {
  const { version } = form
  const bytes = version === 2 ? 512 : 64
  const probe = dapProbe(form.ends, form.clock, bytes, 'Bench adapter', form.serial)
  const answers: Uint8Array[] = []
  const endpoint = (address: number) => [7, 5, address, version === 2 ? 2 : 3, bytes & 255, bytes >> 8, 1]
  return {
    vendorId: 0xf0a1,
    productId: 0x20 + version,
    strings: ['Corrie Sound', 'Bench adapter', form.serial, `CMSIS-DAP v${version}`],
    interfaces: concatBytes([
      Uint8Array.of(9, 4, 0, 0, 2, version === 2 ? 0xff : 3, 0, 0, 4),
      Uint8Array.from([...endpoint(1), ...endpoint(0x81)]),
    ]),
    async bulkOut(_, packet) {
      const answer = await probe(packet)
      // A report is always of full length.
      const whole = new Uint8Array(version === 1 ? bytes : answer.length)
      whole.set(answer)
      answers.push(whole)
    },
    bulkIn: () => Promise.resolve(answers.shift() ?? new Uint8Array(0)),
  }
}
