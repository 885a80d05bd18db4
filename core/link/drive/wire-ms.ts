import type { Component, DrivenLink, DriveOf } from '../../family'
import { blockWireMs, recordWireMs } from '../modbus'
import { bitsPerCharacter, wireMs } from '../port'
import { planErase, usualEraseMs } from '../serial-flash'
import { portHertz } from '../in-system'
import { exchangeMs } from '../spi'
import { accessBits, blockWords } from '../swd'
import { uploadTime } from '../uds'
import { scriptLikelyMs, scriptTailMs, type ScriptTimeForm } from '../script'
import { usbBulkMs, usbControlMs } from '../usb'
import { eraseTypesOf } from './flash-driver'

/** Bytes of one transfer message: a length of 0x402 by the vehicle bus, of 255 on the single wire. */
const transferBytes = { uds: 0x402, kwp: 0xff } as const
const debugPacketBytes = 512
/** A block of update mode, and the status that is asked after it twice. */
const dfuBlockBytes = 1024
/** Manifestation: the unit tries what it was given, for the time that it names itself (DFU 1.1, A.1, A.2.3), ms. */
const dfuManifestMs = 40

/** Erase and program units that a script's pieces are taken to have where no memory is told. */
const usualPieces = { sectorBytes: 1024, pageBytes: 256 }
const scriptForm = (link: DrivenLink, bytes: number): ScriptTimeForm => ({
  script: link.drive as DriveOf<'script'>,
  settings: link.line!,
  bytes,
  ...usualPieces,
})

/**
 * What a link itself needs to carry an image, ms, by its own arithmetic and without the unit's memory: blocks and answers
 * (XMODEM), requests and echoes with their silences (Modbus), segments and their answers (ISO-TP), packets (CMSIS-DAP).
 */
export function linkWireMs(link: DrivenLink, bytes: number): number {
  const { drive, line } = link
  switch (drive.speaks) {
    case 'script':
      return scriptLikelyMs(drive.operations.write, scriptForm(link, bytes))
    case 'modbus':
      return drive.block ? blockWireMs(bytes, drive, line!) : recordWireMs(bytes, line!)
    case 'uds':
      return uploadTime(bytes, {
        bitsPerSecond: drive.bitsPerSecond,
        messageBytes: transferBytes.uds,
        adapter: line!,
      }).likelyMs
    case 'kwp': {
      const most = transferBytes.kwp - 2
      const messages = Math.ceil(bytes / most)
      // Head 4 and sum 1 around service and number; the answer of six bytes, and the turning round.
      return wireMs(bytes + messages * (7 + 6), line!) + messages * 3
    }
    case 'dfu': {
      const blocks = Math.ceil(bytes / dfuBlockBytes)
      // The block, and its status asked twice, six bytes each.
      return blocks * (usbControlMs(dfuBlockBytes) + 2 * usbControlMs(6))
    }
    case 'debug': {
      const { write } = blockWords(debugPacketBytes)
      const accesses = bytes / drive.flash.width
      const packets = Math.ceil(accesses / write)
      // Beside the words of the image three short exchanges a page: its address, the start, the status.
      const exchanges = (3 * bytes) / drive.flash.pageBytes
      return (
        packets * (usbBulkMs(debugPacketBytes) + usbBulkMs(4)) +
        exchanges * 2 * usbBulkMs(16) +
        (accesses * accessBits * 1000) / drive.hertz
      )
    }
    case 'spi-flash':
      return flashWriteMs(bytes, drive.hertz)
    case 'in-system':
      return inSystemMs(bytes, drive)
  }
}

/** Bytes of a page of serial flash, and of one long read. */
const flashPageBytes = 256
const flashReadBytes = 0x4000
const turn = (send: number, read = 0) => ({ send: new Uint8Array(send), read })
/** A page is allowed, looked at, sent and asked for its end in three goes (serial-flash/flash-chip.ts). */
function flashWriteMs(bytes: number, hertz: number): number {
  const form = { packetBytes: debugPacketBytes, hertz }
  const page =
    exchangeMs([turn(1), turn(1, 1)], form) +
    exchangeMs([turn(4 + flashPageBytes)], form) +
    exchangeMs([turn(1, 4)], form)
  return (bytes / flashPageBytes) * page
}
const flashReadMs = (bytes: number, hertz: number) =>
  (bytes / flashReadBytes) * exchangeMs([turn(4, flashReadBytes)], { packetBytes: debugPacketBytes, hertz })

/** Each byte is an instruction of its own, of four bytes; the adapter takes them by packets. */
function inSystemMs(bytes: number, drive: DriveOf<'in-system'>): number {
  const form = { packetBytes: debugPacketBytes, hertz: portHertz(drive) }
  const many = 64
  return (bytes / many) * exchangeMs(Array<ReturnType<typeof turn>>(many).fill(turn(3, 1)), form, false)
}

/** What erasing a stretch takes where the link chooses the blocks itself, ms; null where the memory's sectors tell it. */
export function linkEraseMs(
  { drive }: DrivenLink,
  component: Component,
  { address, length }: { address: number; length: number },
): number | null {
  // On six lines the whole memory goes at once.
  if (drive.speaks === 'in-system') return drive.eraseMs
  if (drive.speaks !== 'spi-flash' || !drive.erases) return null
  const from = address - (drive.base ?? 0)
  return planErase({ address: from, length }, eraseTypesOf(drive, component)).reduce(
    (ms, block) => ms + usualEraseMs(block),
    0,
  )
}

/** What a link itself needs to give out so many bytes, ms: the way of a write, or a script's own way of reading. */
export function linkReadWireMs(link: DrivenLink, bytes: number): number {
  const { drive } = link
  if (drive.speaks === 'script') return scriptLikelyMs(drive.operations.read, scriptForm(link, bytes))
  return drive.speaks === 'spi-flash' ? flashReadMs(bytes, drive.hertz) : linkWireMs(link, bytes)
}

/**
 * What writing takes over a link, ms.
 * @param programMs what the unit's memory needs; over the debug port it works while the next words are on their way.
 */
export function linkWriteMs(link: DrivenLink, bytes: number, programMs: number): number {
  const wire = linkWireMs(link, bytes)
  const atOnce = link.drive.speaks === 'debug'
  return atOnce ? Math.max(wire, programMs) : wire + programMs
}

/**
 * What a unit needs after the last byte that it acknowledged, ms.
 * @param bytes that are written.
 * @param programMs what its memory needs for them.
 */
export function linkTailMs(link: DrivenLink, bytes: number, programMs: number): number {
  const { drive } = link
  if (drive.speaks === 'script')
    return scriptTailMs(drive.operations.write, scriptForm(link, bytes), programMs)
  return drive.speaks === 'dfu' ? dfuManifestMs : 0
}

/** What reading a page takes over a link, ms, with the unit's thinking. */
export function linkPageMs(link: DrivenLink): number {
  const { drive, line } = link
  switch (drive.speaks) {
    case 'script':
      return scriptLikelyMs(drive.operations.page ?? drive.operations.identify, scriptForm(link, 0)) || 200
    case 'modbus':
      return (
        drive.page.length * (wireMs(40, line!) + (7 * bitsPerCharacter(line!) * 1000) / line!.baudRate + 10)
      )
    case 'uds':
      return drive.page.length * 15
    case 'kwp':
      // Waking: 300 ms of rest, the pattern, two questions.
      return 500 + drive.page.length * (wireMs(30, line!) + 10)
    case 'dfu':
      return 20
    case 'debug':
    case 'spi-flash':
      return 60
    case 'in-system':
      return 150
  }
}

/** Whether erasing is an act of its own, or the unit's own affair while it is written. */
export const erasesFirst = (link: DrivenLink): boolean =>
  link.drive.speaks === 'script' ? link.drive.operations.erase !== undefined : link.drive.speaks !== 'dfu'
