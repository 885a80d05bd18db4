import { concatBytes, hexOf, isProblem } from '../../kernel'
import type { TraceReader, TraceRow } from '../trace/rows'
import { marker, serviceRow } from '../uds/trace-rows'
import { decodeKwp, kwpLength } from './frame'

/** Messages on the single wire. What we hear first of each is our own echo. */
export function kwpRows(): TraceReader {
  let sent: Uint8Array = new Uint8Array(0)
  let sentAt = 0
  let heard: Uint8Array = new Uint8Array(0)
  let echo = 0
  /** Bytes of the greeting at five baud that are still due: two keys, then the complement of the address. */
  let greeting: string[] = []
  const messageRow = (at: number, direction: 'out' | 'in', frame: Uint8Array): TraceRow => {
    try {
      const { data } = decodeKwp(frame)
      const own: Record<number, string> = {
        0x81: 'start communication',
        0xc1: 'start communication, done',
        0x82: 'stop communication',
        0xc2: 'stop communication, done',
        0x83: 'access timing',
        0xc3: 'access timing, done',
      }
      const says = own[data[0]!]
      return says ? marker(at, direction, says, frame) : serviceRow(at, direction, data)
    } catch (error) {
      if (!isProblem(error)) throw error
      return { at, direction, says: error.facts.says, bytes: hexOf(frame), wrong: true }
    }
  }
  return ({ at, direction, bytes }) => {
    const rows: TraceRow[] = []
    if (direction === 'out') {
      // The tester's own bytes may go one by one until quicker times are agreed on.
      if (sent.length === 0) sentAt = at
      sent = concatBytes([sent, bytes])
      echo += bytes.length
      const due = kwpLength(sent)
      if (due === sent.length) {
        rows.push(messageRow(sentAt, 'out', sent))
        sent = new Uint8Array(0)
      } else if (sent.length === 1 && (sent[0]! & 0xc0) === 0x40) {
        rows.push(marker(at, 'out', 'complement of the second key byte', sent))
        greeting = ['complement of the address']
        sent = new Uint8Array(0)
      }
      return rows
    }
    const own = Math.min(echo, bytes.length)
    echo -= own
    let rest = bytes.subarray(own)
    while (rest.length > 0) {
      heard = concatBytes([heard, rest.subarray(0, 1)])
      rest = rest.subarray(1)
      const [greets] = greeting
      if (heard.length === 1 && (greets !== undefined || heard[0] === 0x55)) {
        rows.push(marker(at, 'in', greets ?? '55, the controller woke', heard))
        greeting = greets === undefined ? ['key byte', 'key byte'] : greeting.slice(1)
        heard = new Uint8Array(0)
      } else if (kwpLength(heard) === heard.length) {
        rows.push(messageRow(at, 'in', heard))
        heard = new Uint8Array(0)
      }
    }
    return rows
  }
}
