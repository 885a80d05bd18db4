import { asciiText, concatBytes, hexOf, hexNumber, hexText } from '../../kernel'
import { busNotice, decodeSlcan, type BusNotice } from '../can'
import { decodeTp } from '../isotp'
import { pending, refusalText, service, serviceText } from './words'
import type { TraceReader, TraceRow } from '../trace/rows'

/** A message of the diagnostic services in words. */
export function serviceRow(at: number, direction: 'out' | 'in', message: Uint8Array): TraceRow {
  const row = { at, direction, bytes: hexOf(message) }
  const [id = 0, second = 0, third = 0] = message
  if (id === 0x7f) {
    const says = `${serviceText(second)}: ${refusalText(third)}`
    return third === pending ? { ...row, says } : { ...row, says, wrong: true }
  }
  const positive = direction === 'in' && id >= 0x40
  const asked = positive ? id - 0x40 : id
  const rest = message.length - 1
  const name = serviceText(asked)
  const mark = positive ? ', done' : ''
  switch (asked) {
    case service.session:
      return {
        ...row,
        says: `${name} ${['', 'standard', 'programming', 'extended'][second] ?? second}${mark}`,
      }
    case service.readData:
    case service.writeData:
      return { ...row, says: `${name} ${hexText((second << 8) | third, 4)}${mark}` }
    case service.security:
      return { ...row, says: `${name}, ${second % 2 === 1 ? 'seed' : 'key'} of level ${second}${mark}` }
    case service.routine:
      return {
        ...row,
        says: `${name}, ${hexText((third << 8) | (message[3] ?? 0), 4)}${mark}`,
      }
    case service.transferData:
      return { ...row, says: `${name}, block ${second}${positive ? mark : `, ${rest - 1} bytes`}` }
    default:
      return { ...row, says: `${name}${mark}` }
  }
}

/** A row that is no message: what it is, and its bytes. */
export const marker = (at: number, direction: 'out' | 'in', says: string, bytes: Uint8Array): TraceRow => ({
  at,
  direction,
  says,
  bytes: hexOf(bytes),
})

const busStateWords = {
  active: 'in order on the bus again',
  warning: 'met many errors',
  passive: 'met so many errors that it may not signal them any more',
  off: 'off the bus',
} as const
const isTrouble = (notice: BusNotice) => !('state' in notice) || notice.state !== 'active'

/** Text of a CAN adapter, frames within it, and messages of the services within these. */
export function canRows({
  requestId,
  answerId,
  addressed = false,
  others = [],
}: {
  requestId?: number
  answerId?: number
  /** Each frame begins with a byte of address. */
  addressed?: boolean
  /** Further controllers on the bus. */
  others?: readonly { requestId: number; answerId: number }[]
}): TraceReader {
  const spoken = new Set([requestId, answerId, ...others.flatMap((each) => [each.requestId, each.answerId])])
  const text = { out: '', in: '' }
  /** Messages of several frames that are under way, by the identifier that they come on. */
  const building = new Map<string, { length: number; parts: Uint8Array[] }>()
  const frameRows = (at: number, direction: 'out' | 'in', line: string): TraceRow[] => {
    const raw = Uint8Array.from(line, (each) => each.charCodeAt(0))
    const frame = decodeSlcan(line)
    if (!frame) {
      const setting = /^S\d$/.test(line)
        ? 'adapter: bit rate'
        : line === 'O'
          ? 'adapter: joins the bus'
          : line === 'C'
            ? 'adapter: leaves the bus'
            : null
      const notice = direction === 'in' ? busNotice(line) : null
      if (notice) {
        const says =
          'state' in notice ? `adapter: ${busStateWords[notice.state]}` : `bus: ${notice.errors.join(', ')}`
        const row = marker(at, direction, says, raw)
        return [isTrouble(notice) ? { ...row, wrong: true } : row]
      }
      return setting ? [marker(at, direction, `${setting} (${line})`, raw)] : []
    }
    const tp = spoken.has(frame.id) ? decodeTp(frame.data, addressed) : null
    const id = hexNumber(frame.id, 1)
    if (!tp) return [marker(at, direction, `${id}: ${frame.data.length} bytes`, frame.data)]
    const key = `${direction} ${frame.id}`
    const open = building.get(key)
    switch (tp.kind) {
      case 'single':
        return [serviceRow(at, direction, tp.data)]
      case 'first':
        building.set(key, { length: tp.length, parts: [tp.data] })
        return [marker(at, direction, `${id}: first frame of ${tp.length} bytes`, frame.data)]
      case 'flow':
        return [
          marker(
            at,
            direction,
            `${id}: flow control, ${tp.status}, block size ${tp.blockSize}, STmin ${tp.separationMs} ms`,
            frame.data,
          ),
        ]
      case 'consecutive': {
        // Behind no first frame it belongs to nothing.
        if (!open) return []
        open.parts.push(tp.data)
        const message = concatBytes(open.parts)
        if (message.length < open.length) return []
        building.delete(key)
        return [serviceRow(at, direction, message.subarray(0, open.length))]
      }
    }
  }
  return ({ at, direction, bytes }) => {
    const rows: TraceRow[] = []
    for (const character of asciiText(bytes)) {
      if (character === '\x07') {
        rows.push({ at, direction, says: 'adapter: refused', bytes: '07', wrong: true })
        text[direction] = ''
      } else if (character === '\r') {
        rows.push(...frameRows(at, direction, text[direction]))
        text[direction] = ''
      } else if (text[direction].length < 40) text[direction] += character
    }
    return rows
  }
}
