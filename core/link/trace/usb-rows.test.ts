import { describe, expect, it } from 'vitest'
import { traceRows, type TraceEvent } from '.'

/*
 * Rows of a device's trace in the words of USB 2.0 (9.4, 9.6), DFU 1.1 (3, 6.1.2) and the CMSIS-DAP reference (packets of
 * DAP_Transfer and DAP_TransferBlock; registers of ADIv5). Bytes are written by these, from memory.
 */

const row = (event: TraceEvent) => {
  const [only] = traceRows({ speaks: 'debug' })(event)
  return only!.wrong ? `! ${only!.says}` : only!.says
}
const control = (
  type: 'standard' | 'class' | 'vendor',
  request: number,
  value: number,
  bytes = '',
  more: { stalled?: boolean; direction?: 'in' | 'out' } = {},
) => row({ at: 0, what: 'control', direction: 'in', type, request, value, bytes, ...more })

describe('a control transfer', () => {
  it.each([
    [6, 0x0100, '1201', 'GET_DESCRIPTOR device 0'],
    [6, 0x0201, '0902', 'GET_DESCRIPTOR configuration 1'],
    // A string of "Hé": length, type, then two bytes a character.
    [6, 0x0304, '06034800e900', 'GET_DESCRIPTOR string 4: "Hé"'],
    [6, 0x0304, '080348002026', 'GET_DESCRIPTOR string 4: "H☠"'.replace('☠', '\u2620')],
    [6, 0x0304, '0203', 'GET_DESCRIPTOR string 4'],
    [6, 0x0104, '06034800e900', 'GET_DESCRIPTOR device 4'],
    [6, 0x2200, '00', 'GET_DESCRIPTOR type 34 0'],
    [9, 0x0001, '', 'request 9 type 0 1'],
  ])('request %i, value %i, bytes %s', (request, value, bytes, says) => {
    expect(control('standard', request, value, bytes)).toBe(says)
  })
  it('that is refused says so', () => {
    expect(control('standard', 6, 0x0100, '', { stalled: true })).toBe('! GET_DESCRIPTOR device 0, stalled')
    expect(control('class', 4, 0, '', { stalled: true })).toBe('! DFU_CLRSTATUS, stalled')
    expect(control('class', 1, 3, 'aabb', { stalled: true, direction: 'out' })).toBe(
      '! DFU_DNLOAD block 3, 2 bytes, stalled',
    )
  })
  // DFU 1.1, table 3.2: DETACH 0, DNLOAD 1, UPLOAD 2, GETSTATUS 3, CLRSTATUS 4, GETSTATE 5, ABORT 6.
  it.each([
    [0, 'DFU_DETACH'],
    [4, 'DFU_CLRSTATUS'],
    [5, 'DFU_GETSTATE'],
    [6, 'DFU_ABORT'],
    [7, 'request 7'],
  ])('class request %i', (request, says) => expect(control('class', request, 0, '05')).toBe(says))
  it('tells blocks with their number and bytes, a status with its state', () => {
    expect(control('class', 1, 3, 'aabbcc')).toBe('DFU_DNLOAD block 3, 3 bytes')
    expect(control('class', 2, 9, 'aa')).toBe('DFU_UPLOAD block 9, 1 bytes')
    // bStatus OK, bwPollTimeout 100 ms, state 4 dfuDNBUSY.
    expect(control('class', 3, 0, '006400000400')).toBe('DFU_GETSTATUS: dfuDNBUSY, OK, poll 100 ms')
    // errVERIFY is 7, state 10 dfuERROR.
    expect(control('class', 3, 0, '070000000a00')).toMatch(
      /^! DFU_GETSTATUS: dfuERROR, what was programmed does not hold, poll 0 ms$/,
    )
    expect(control('class', 3, 0, '00')).toBe('DFU_GETSTATUS')
  })
})

describe('a packet of a debug adapter', () => {
  const bulk = (direction: 'out' | 'in', bytes: string) => row({ at: 0, what: 'bulk', direction, bytes })
  // Request byte: bit 0 access port, bit 1 read, bits 2 and 3 the register’s address.
  it.each([
    ['05 00 01 02', 'DAP_TRANSFER: read DPIDR'],
    ['05 00 01 00 1e000000', 'DAP_TRANSFER: write ABORT 0x0000001E'],
    ['05 00 01 06', 'DAP_TRANSFER: read CTRL/STAT'],
    ['05 00 01 04 00000050', 'DAP_TRANSFER: write CTRL/STAT 0x50000000'],
    ['05 00 01 08 f00000ff', 'DAP_TRANSFER: write SELECT 0xFF0000F0'],
    ['05 00 01 0e', 'DAP_TRANSFER: read RDBUFF'],
    ['05 00 01 0a', 'DAP_TRANSFER: read dp 8'],
    ['05 00 01 01 52000023', 'DAP_TRANSFER: write CSW 0x23000052'],
    ['05 00 01 03', 'DAP_TRANSFER: read CSW'],
    ['05 00 02 05 78563412 0f', 'DAP_TRANSFER: write TAR 0x12345678; read DRW'],
    ['05 00 01 07', 'DAP_TRANSFER: read TAR'],
    ['05 00 01 0d efbeadde', 'DAP_TRANSFER: write DRW 0xDEADBEEF'],
    ['05 00 01 0b', 'DAP_TRANSFER: read ap 8'],
    // A packet that breaks off is told as far as it goes, and no access of it twice.
    ['05 00 02 05 78', 'DAP_TRANSFER: write TAR 0x00000078'],
    ['05 00 03 02', 'DAP_TRANSFER: read DPIDR'],
    ['05', 'DAP_TRANSFER: '],
    ['06 00 10 01 0f', 'DAP_TRANSFER_BLOCK: read DRW, 272 times'],
    ['02 01', 'DAP_CONNECT'],
    ['fe', 'command 254'],
  ])('sent: %s', (bytes, says) => expect(bulk('out', bytes.replaceAll(' ', ''))).toBe(says))
  // Acknowledges of the wire: OK 1, WAIT 2, FAULT 4; 7 where nobody answers.
  it.each([
    ['05 01 01 77046b2b', 'DAP_TRANSFER: 1 done, OK, 0x2B6B0477'],
    ['05 02 01', 'DAP_TRANSFER: 2 done, OK'],
    ['05 00 02', '! DAP_TRANSFER: 0 done, WAIT'],
    ['05 00 04', '! DAP_TRANSFER: 0 done, FAULT'],
    ['05 00 07', '! DAP_TRANSFER: 0 done, no acknowledge'],
    ['06 10 01 01 77046b2b', 'DAP_TRANSFER_BLOCK: 272 done, OK'],
    ['06 03 00 04', '! DAP_TRANSFER_BLOCK: 3 done, FAULT'],
    ['02 01', 'DAP_CONNECT, answered'],
    ['', 'DAP_INFO, answered'],
  ])('answered: %s', (bytes, says) => expect(bulk('in', bytes.replaceAll(' ', ''))).toBe(says))
})

describe('what became of the device', () => {
  it.each([
    ['open', 'port opened: jack'],
    ['close', 'port closed: jack'],
    ['reset', 'bus reset: jack'],
    ['back', 'the device is back: jack'],
    ['lost', '! the port went away: jack'],
    ['lines', 'control lines: jack'],
  ] as const)('%s', (what, says) => expect(row({ at: 0, what, says: 'jack' })).toBe(says))
})
