import { expect, it } from 'vitest'
import { usbBulkMs, usbControlMs } from '.'

/*
 * Universal Serial Bus 2.0, tables 5-2 and 5-9 (from memory): what fits into a frame of one millisecond at full speed.
 * Control, 64 bytes of data: 13 transfers, 832 bytes. Bulk, 64 bytes: 19 transfers, 1 216 bytes; 8 bytes: 71, 568 bytes.
 */
it.each([
  ['control', 1, 32],
  ['control', 8, 28],
  ['control', 64, 13],
  ['bulk', 1, 107],
  ['bulk', 8, 71],
  ['bulk', 64, 19],
] as const)('%s transfers of %i bytes: %i in a frame', (kind, bytes, transfers) => {
  const ms = kind === 'control' ? usbControlMs(bytes) : usbBulkMs(bytes)
  expect(Math.floor(1 / ms)).toBe(transfers)
})
it('longer ones take a packet for every 64 bytes', () => {
  // 1 024 bytes by control: 45 + 1 024 + 15 more packets of 13; by bulk 16 packets.
  expect(usbControlMs(1024)).toBeCloseTo((45 + 1024 + 15 * 13) / 1500, 9)
  expect(usbBulkMs(1024)).toBeCloseTo((1024 + 16 * 13) / 1500, 9)
  expect(usbBulkMs(65) - usbBulkMs(64)).toBeCloseTo(14 / 1500, 9)
  expect(usbControlMs(0)).toBeCloseTo(0.03, 9)
  expect(usbBulkMs(0)).toBeCloseTo(13 / 1500, 9)
})
