import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { speeches } from '../../family'
import { asciiBytes, bytesOfHex, hexOf, isProblem } from '../../kernel'
import { writeRtu } from '../modbus'
import { encodeBlock } from '../xmodem'
import { readTrace, traceName, traceRows, writeTrace, type Trace, type TraceEvent, type TraceSpeech } from '.'

const head = (speech: TraceSpeech): Trace['head'] => ({
  format: 'bench-wake/trace',
  formatVersion: 1,
  port: 'ttyX1',
  startedAt: 1000,
  speech,
})
const data = (direction: 'out' | 'in', bytes: Uint8Array | string, at = 0): TraceEvent => ({
  at,
  what: 'data',
  direction,
  bytes: typeof bytes === 'string' ? bytes : hexOf(bytes),
})
const says = (speech: TraceSpeech, events: TraceEvent[]) => {
  const read = traceRows(speech)
  return events.flatMap((event) => read(event)).map((row) => (row.wrong ? `! ${row.says}` : row.says))
}

it('a trace of every protocol has a name to a person', () => {
  for (const speaks of [...speeches, 'console', 'bytes'] as const)
    expect(traceName({ speaks })).toMatch(/^[A-Za-z][A-Za-z ]+$/)
})

describe('a saved trace', () => {
  const events: TraceEvent[] = [
    { at: 1000, what: 'open', says: '9600 baud, 8N1' },
    data('out', '0103000a0001a408', 1001),
    {
      at: 1002,
      what: 'control',
      direction: 'in',
      type: 'class',
      request: 3,
      value: 0,
      bytes: '000000000200',
    },
    { at: 1003, what: 'lines', says: 'brk on' },
  ]
  it('is read as it was written', () => {
    const trace = { head: head({ speaks: 'modbus' }), events }
    const text = writeTrace(trace)
    expect(text.split('\n')[0]).toContain('"bench-wake/trace"')
    expect(readTrace(text)).toEqual(trace)
  })
  it.each([
    ['', 1, /empty/],
    ['{"format":"other"}\n', 1, /./],
    [`${JSON.stringify(head({ speaks: 'dfu' }))}\n{"at":1}\n`, 2, /./],
    [`${JSON.stringify(head({ speaks: 'dfu' }))}\nnoise\n`, 2, /no JSON/],
    [
      `${JSON.stringify(head({ speaks: 'dfu' }))}\n{"at":1,"what":"data","direction":"in","bytes":"0g"}\n`,
      2,
      /hexadecimal/,
    ],
  ])('that is none is refused with its line: %j', (text, line, words) => {
    try {
      readTrace(text)
      expect.unreachable()
    } catch (error) {
      expect(isProblem(error, 'trace-file') && error.facts.place?.line).toBe(line)
      expect((error as Error).message).toMatch(words)
    }
  })
})

describe('rows', () => {
  // Source: Forsberg 1988: signs of the block transfer.
  it('tell a broken block, its refusal and its repeat', () => {
    const block = encodeBlock(1, new Uint8Array(128).fill(7), 'crc')
    const broken = Uint8Array.from(block, (byte, at) => (at === 50 ? byte ^ 1 : byte))
    expect(
      says({ speaks: 'console' }, [
        data('in', asciiBytes('send xmodem\r\n')),
        data('in', '43'),
        data('out', broken),
        data('in', '15'),
        data('out', block),
        data('in', '06'),
        data('out', '04'),
      ]),
    ).toEqual([
      'send xmodem',
      'C, asks for blocks with CRC',
      '! block whose check does not hold',
      '! NAK',
      'block 1, 128 bytes, CRC holds',
      'ACK',
      'EOT, end of the file',
    ])
  })
  // Source: Modbus Application Protocol V1.1b3, clause 7: an exception answers with the function's high bit set.
  it('tell an exception in words, and an answer that came in pieces as one', () => {
    const answer = hexOf(writeRtu({ address: 3, pdu: Uint8Array.of(0x83, 2) }))
    expect(
      says({ speaks: 'modbus' }, [
        data('out', writeRtu({ address: 3, pdu: Uint8Array.of(3, 0, 10, 0, 1) })),
        data('in', answer.slice(0, 4)),
        data('in', answer.slice(4)),
      ]),
    ).toEqual([
      '3: read holding registers 10, 1 of them',
      '! 3: read holding registers refused, exception 2: it does not have this address',
    ])
  })
  // Source: DFU 1.1, clause 6.1.2: errPROG is status 6; a stall is told.
  it('tell a device’s fault and its refusal', () => {
    const control = (request: number, bytes: string, stalled = false): TraceEvent => ({
      at: 0,
      what: 'control',
      direction: 'in',
      type: 'class',
      request,
      value: 0,
      bytes,
      ...(stalled ? { stalled } : {}),
    })
    expect(says({ speaks: 'dfu' }, [control(3, '060000000a00'), control(2, '', true)])).toEqual([
      '! DFU_GETSTATUS: dfuERROR, programming failed, poll 0 ms',
      '! DFU_UPLOAD block 0, 0 bytes, stalled',
    ])
  })
  it('of any bytes come without a throw', () => {
    const speeches: TraceSpeech[] = [
      { speaks: 'console' },
      { speaks: 'modbus' },
      { speaks: 'uds', requestId: 0x7e0, answerId: 0x7e8 },
      { speaks: 'kwp' },
      { speaks: 'dfu' },
      { speaks: 'debug' },
      { speaks: 'bytes' },
    ]
    const event = fc.record({
      direction: fc.constantFrom<'out' | 'in'>('out', 'in'),
      bytes: fc.uint8Array({ maxLength: 80 }),
      request: fc.nat(8),
    })
    fc.assert(
      fc.property(fc.constantFrom(...speeches), fc.array(event, { maxLength: 12 }), (speech, list) => {
        const read = traceRows(speech)
        for (const { direction, bytes, request } of list) {
          const text = hexOf(bytes)
          expect(bytesOfHex(text)).toEqual(bytes)
          read({ at: 0, what: 'data', direction, bytes: text })
          read({ at: 0, what: 'bulk', direction, bytes: text })
          read({ at: 0, what: 'control', direction, type: 'class', request, value: 0, bytes: text })
        }
      }),
    )
  })
})
