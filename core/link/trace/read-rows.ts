import type { DrivenLink } from '../../family'
import { bytesOfHex, hexOf } from '../../kernel'
import { consoleRows } from './console-rows'
import { modbusRows } from './modbus-rows'
import type { TraceReader, TraceRow } from './rows'
import { canRows, kwpRows } from './services-rows'
import type { TraceEvent, TraceSpeech } from './trace'
import { controlRow, dapRow } from './usb-rows'

/** What is spoken on a driven link. */
export function speechOf(link: DrivenLink): TraceSpeech {
  const { drive } = link
  if (drive.speaks === 'uds') {
    return { speaks: 'uds', requestId: drive.requestId, answerId: drive.answerId }
  }
  // Most scripts are texts; what is none is shown as bytes.
  if (drive.speaks === 'script') return { speaks: drive.frame ? 'bytes' : 'console' }
  return { speaks: drive.speaks }
}

function serialReader(speech: TraceSpeech): TraceReader {
  switch (speech.speaks) {
    case 'console':
      return consoleRows()
    case 'modbus':
      return modbusRows()
    case 'uds':
      return canRows(speech)
    case 'kwp':
      return kwpRows()
    default:
      return ({ at, direction, bytes }) => [
        {
          at,
          direction,
          says: `${bytes.length} bytes`,
          bytes: hexOf(bytes),
        },
      ]
  }
}

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
  const serial = serialReader(speech)
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
