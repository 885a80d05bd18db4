import { bytesOfHex, hexNumber } from '../../kernel'
import { dfuRequest, dfuStatusWords, readStatus } from '../dfu'
import { dapCommand, decodeBlockAnswer, decodeTransferAnswer, readDapRequestByte, wireAck } from '../swd'
import type { TraceRow } from './rows'
import type { TraceEvent } from './trace'

type Control = Extract<TraceEvent, { what: 'control' }>

const standardNames: Readonly<Record<number, string>> = { 6: 'GET_DESCRIPTOR' }
const descriptorNames: Readonly<Record<number, string>> = { 1: 'device', 2: 'configuration', 3: 'string' }
const dfuNames: Readonly<Record<number, string>> = {
  [dfuRequest.detach]: 'DFU_DETACH',
  [dfuRequest.download]: 'DFU_DNLOAD',
  [dfuRequest.upload]: 'DFU_UPLOAD',
  [dfuRequest.getStatus]: 'DFU_GETSTATUS',
  [dfuRequest.clearStatus]: 'DFU_CLRSTATUS',
  [dfuRequest.getState]: 'DFU_GETSTATE',
  [dfuRequest.abort]: 'DFU_ABORT',
}

/** A control transfer in the words of USB 2.0 and DFU 1.1. */
export function controlRow(event: Control): TraceRow {
  const { at, direction, bytes, stalled } = event
  const length = bytes.length / 2
  const row = { at, direction, bytes, ...(stalled ? { wrong: true } : {}) }
  const end = stalled ? ', stalled' : ''
  if (event.type === 'standard') {
    const kind = descriptorNames[event.value >> 8] ?? `type ${event.value >> 8}`
    const name = standardNames[event.request] ?? `request ${event.request}`
    const text = event.value >> 8 === 3 && length > 2 ? `: "${utf16(bytesOfHex(bytes).subarray(2))}"` : ''
    return { ...row, says: `${name} ${kind} ${event.value & 255}${text}${end}` }
  }
  const name = dfuNames[event.request] ?? `request ${event.request}`
  if (event.request === dfuRequest.getStatus) {
    const status = readStatus(bytesOfHex(bytes))
    if (status) {
      const wrong = status.status !== 0
      return {
        ...row,
        ...(wrong ? { wrong } : {}),
        says: `${name}: ${status.state}, ${wrong ? (dfuStatusWords[status.status] ?? status.status) : 'OK'}, poll ${status.pollMs} ms`,
      }
    }
  }
  if (event.request === dfuRequest.download || event.request === dfuRequest.upload) {
    return { ...row, says: `${name} block ${event.value}, ${length} bytes${end}` }
  }
  return { ...row, says: `${name}${end}` }
}

/** Text of a string descriptor: two bytes a character, low byte first. */
const utf16 = (bytes: Uint8Array) =>
  String.fromCharCode(
    ...Array.from({ length: bytes.length >> 1 }, (_, at) => bytes[at * 2]! | (bytes[at * 2 + 1]! << 8)),
  )

const registers: Readonly<Record<string, string>> = {
  dp0r: 'DPIDR',
  dp0w: 'ABORT',
  dp4r: 'CTRL/STAT',
  dp4w: 'CTRL/STAT',
  dp8w: 'SELECT',
  dp12r: 'RDBUFF',
  ap0w: 'CSW',
  ap0r: 'CSW',
  ap4w: 'TAR',
  ap4r: 'TAR',
  ap12w: 'DRW',
  ap12r: 'DRW',
}
const commandNames: Readonly<Record<number, string>> = Object.fromEntries(
  Object.entries(dapCommand).map(([name, code]) => [
    code,
    `DAP_${name.replace(/[A-Z]/g, (letter) => `_${letter}`).toUpperCase()}`,
  ]),
)

const registerName = (byte: number) => {
  const { port, read, register } = readDapRequestByte(byte)
  return `${read ? 'read' : 'write'} ${registers[`${port}${register}${read ? 'r' : 'w'}`] ?? `${port} ${register}`}`
}
const ackName = (ack: number) =>
  ack === wireAck.ok
    ? 'OK'
    : ack === wireAck.wait
      ? 'WAIT'
      : ack === wireAck.fault
        ? 'FAULT'
        : 'no acknowledge'
const hexWord = (bytes: Uint8Array, at: number) =>
  `0x${hexNumber(((bytes[at] ?? 0) | ((bytes[at + 1] ?? 0) << 8) | ((bytes[at + 2] ?? 0) << 16) | ((bytes[at + 3] ?? 0) << 24)) >>> 0, 8)}`

/** A packet of a debug adapter, with the registers it is about. */
export function dapRow(at: number, direction: 'out' | 'in', hex: string): TraceRow {
  const bytes = bytesOfHex(hex)
  const [command = 0] = bytes
  const name = commandNames[command] ?? `command ${command}`
  const row = { at, direction, bytes: hex }
  if (direction === 'out') {
    if (command === dapCommand.transfer) {
      const accesses: string[] = []
      for (let left = bytes[2] ?? 0, place = 3; left > 0 && place < bytes.length; left--) {
        const byte = bytes[place]!
        const reads = !!(byte & 2)
        accesses.push(`${registerName(byte)}${reads ? '' : ` ${hexWord(bytes, place + 1)}`}`)
        place += reads ? 1 : 5
      }
      return { ...row, says: `${name}: ${accesses.join('; ')}` }
    }
    if (command === dapCommand.transferBlock) {
      const count = (bytes[2] ?? 0) | ((bytes[3] ?? 0) << 8)
      return { ...row, says: `${name}: ${registerName(bytes[4] ?? 0)}, ${count} times` }
    }
    return { ...row, says: name }
  }
  const done =
    command === dapCommand.transfer
      ? decodeTransferAnswer(bytes)
      : command === dapCommand.transferBlock
        ? decodeBlockAnswer(bytes)
        : null
  if (!done) return { ...row, says: `${name}, answered` }
  const wrong = done.ack !== wireAck.ok
  const value = command === dapCommand.transfer && bytes.length >= 7 ? `, ${hexWord(bytes, 3)}` : ''
  return {
    ...row,
    ...(wrong ? { wrong } : {}),
    says: `${name}: ${done.count} done, ${ackName(done.ack & 7)}${wrong ? '' : value}`,
  }
}
