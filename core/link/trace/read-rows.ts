import type { DrivenLink, Speech } from '../../family'
import { bytesOfHex, hexOf } from '../../kernel'
import type { LinkProtocol } from '../drive/protocol'
import { protocolOf, protocols } from '../drive/protocols'
import { consoleRows } from '../script/trace-rows'
import type { TraceReader, TraceRow } from './rows'
import type { TraceEvent, TraceSpeech } from './trace'
import { controlRow, dapRow } from './usb-rows'

/** What is spoken on a driven link. */
export const speechOf = (link: DrivenLink): TraceSpeech =>
  protocolOf(link).trace.head?.(link) ?? { speaks: link.drive.speaks }

/** Readings that are no protocol's own. */
const plain: Record<Exclude<TraceSpeech['speaks'], Speech>, Pick<LinkProtocol['trace'], 'name' | 'rows'>> = {
  console: { name: 'text console', rows: consoleRows },
  bytes: { name: 'bytes as they come' },
}
const readingOf = ({ speaks }: TraceSpeech): Pick<LinkProtocol['trace'], 'name' | 'rows'> =>
  speaks === 'console' || speaks === 'bytes' ? plain[speaks] : protocols[speaks].trace

/** What a trace is one of, to a person. */
export const traceName = (speech: TraceSpeech): string => readingOf(speech).name

const countRows: TraceReader = ({ at, direction, bytes }) => [
  { at, direction, says: `${bytes.length} bytes`, bytes: hexOf(bytes) },
]

const notes = {
  open: 'port opened',
  close: 'port closed',
  reset: 'bus reset',
  back: 'the device is back',
  lost: 'the port went away',
  lines: 'control lines',
} as const

/**
 * Reads a trace event by event into rows, in the words of what is spoken. Never throws: what does not hold is a row that
 * says so.
 */
export function traceRows(speech: TraceSpeech): (event: TraceEvent) => TraceRow[] {
  const serial = readingOf(speech).rows?.(speech) ?? countRows
  return (event) => {
    switch (event.what) {
      case 'data':
        return serial({ at: event.at, direction: event.direction, bytes: bytesOfHex(event.bytes) })
      case 'bulk':
        return [dapRow(event.at, event.direction, event.bytes)]
      case 'control':
        return [controlRow(event)]
      default:
        return [
          {
            at: event.at,
            direction: 'none',
            says: `${notes[event.what]}: ${event.says}`,
            bytes: '',
            ...(event.what === 'lost' ? { wrong: true } : {}),
          },
        ]
    }
  }
}
