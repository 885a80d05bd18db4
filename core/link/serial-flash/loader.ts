import {
  concatBytes,
  equalBytes,
  firstDifference,
  groupedNumber,
  hexText,
  Problem,
  sizeText,
  type Clock,
} from '../../kernel'
import { readBackVerification } from '../check'
import { writeAbandoned, type Loader, type Range } from '../loader'
import { adapterPassing, joinOrNobody } from '../join'
import { retryPassing } from '../retry-passing'
import type { SpiPort } from '../spi'
import { usualProtection } from './commands'
import { joinFlash, type FlashChip, type FlashSheet } from './flash-chip'
import { planErase } from './erase-plan'
import { flashText } from './parameter-table'

/** What a profile knows of a chip on a clip. */
export interface FlashSettings extends FlashSheet {
  /** Address that the image names for the chip's first byte. */
  base: number
  /** Stretches that may be erased, by the image's addresses; nothing beside them is. */
  regions: readonly Range[]
  erasedByte: number
  /** Identities that the unit's manual allows; any where nothing is said. */
  identities?: readonly string[] | undefined
  /** Bits of the status register that protect blocks. */
  protection?: number | undefined
  /** The board's reset is held while the clip is on. */
  holdsReset: boolean
}

/** How often a piece is tried; the chip is joined anew in between. */
const tries = 4
const passing = [...adapterPassing, 'flash-contact', 'flash-silent']
/** Bytes between two reports of progress. */
const stretch = 0x4000

/** A loader that writes a chip by itself. */
export interface FlashLoader extends Loader {
  /** Bytes of the chip, by the image's addresses. */
  peek(address: number, length: number): Promise<Uint8Array>
  /** What has joined; null before. */
  chip(): FlashChip | null
  release(): Promise<void>
}

/**
 * A chip on a clip: nothing of the unit runs, its memory is read and written by itself.
 * @param open joins the adapter's lines anew.
 * @param tell a word to the person and the record.
 */
export function flashLoader(
  name: string,
  open: () => Promise<SpiPort>,
  clock: Clock,
  settings: FlashSettings,
  tell: (says: string) => Promise<void>,
): FlashLoader {
  let port: SpiPort | null = null
  let chip: FlashChip | null = null
  /** Identity of the chip that was joined first, until it is let go. */
  let begunWith: string | null = null
  /** Status before protection was taken away; put back at the end. */
  let protectedBy: number | null = null
  /** Blocks that hold already what they should, by the addresses of their smallest pieces; left alone by the write. */
  let same = new Set<number>()
  const told = new Set<string>()
  const once = async (says: string) => {
    if (told.has(says)) return
    told.add(says)
    await tell(says)
  }
  const protection = settings.protection ?? usualProtection

  const join = async (): Promise<FlashChip> => {
    chip = null
    port ??= await open()
    if (settings.holdsReset) await port.reset(true)
    const joined = await joinFlash(port, clock, settings)
    const { identity } = joined
    if (settings.identities && !settings.identities.includes(identity)) {
      throw new Problem({
        kind: 'flash-other-chip',
        thing: name,
        says: 'another chip is on the clip than the profile names',
        expected: settings.identities.join(' or '),
        found: identity,
        remedy:
          'Nothing was written. Look whether it is the right chip of the board; where its manual allows this one too, name it in the profile.',
      })
    }
    // A clip that slipped may sit on the chip beside it.
    if (begunWith !== null && identity !== begunWith) {
      throw new Problem({
        kind: 'flash-other-chip',
        thing: name,
        says: 'another chip is on the clip than before',
        expected: begunWith,
        found: identity,
        remedy:
          'This one was not written. Seat the clip on the first chip again, then write from the beginning.',
      })
    }
    begunWith = identity
    await tellTable(joined)
    chip = joined
    return joined
  }
  const tellTable = async ({ table, bytes }: FlashChip) => {
    if (!settings.believeTable) return once('The chip’s own table is left out, as the profile says.')
    if (!table) return once('The chip has no table of parameters; its sheet in the profile is taken.')
    await once(`The chip says of itself: ${flashText(table)} (JESD216, revision ${table.revision}).`)
    const differ = [
      ...(bytes === settings.bytes ? [] : [`${sizeText(settings.bytes)} of memory`]),
      ...(table.pageBytes === settings.pageBytes ? [] : [`pages of ${groupedNumber(settings.pageBytes)}`]),
    ]
    if (differ.length > 0)
      await once(`The profile says ${differ.join(' and ')}; the chip’s own table is believed over it.`)
  }
  /** Does a piece, joined anew where the contact gave way: erasing and programming twice do no harm. */
  const again = <T>(act: (joined: FlashChip) => Promise<T>, onRetry: () => unknown = () => {}) =>
    retryPassing(async () => act(chip ?? (await join())), {
      tries,
      passing,
      onRetry: () => {
        chip = null
        onRetry()
      },
    })
  const inChip = ({ address, length }: Range, { bytes }: FlashChip) => {
    const from = address - settings.base
    if (from >= 0 && from + length <= bytes) return from
    throw new Problem({
      kind: 'flash-too-small',
      thing: name,
      place: { at: hexText(address, 8) },
      says: 'the image does not fit into the chip',
      expected: `room up to ${hexText(settings.base + bytes, 8)}, ${sizeText(bytes)}`,
      found: `${hexText(address, 8)} to ${hexText(address + length, 8)}`,
      remedy: 'Nothing was written. Take the chip that the board’s manual names, or the image for this one.',
    })
  }
  const blocksOf = (range: Range, joined: FlashChip) => {
    const from = inChip(range, joined)
    const blocks = planErase({ address: from, length: range.length }, joined.eraseTypes)
    const home = settings.regions.find(
      ({ address, length }) => range.address >= address && range.address + range.length <= address + length,
    )
    const outside = blocks.find(
      ({ address, bytes }) =>
        !home ||
        settings.base + address < home.address ||
        settings.base + address + bytes > home.address + home.length,
    )
    if (!outside) return blocks
    throw new Problem({
      kind: 'flash-edge',
      thing: name,
      place: { at: hexText(settings.base + outside.address, 8) },
      says: 'erasing here would take what does not belong to the image',
      expected: `blocks within ${home ? `${hexText(home.address, 8)} to ${hexText(home.address + home.length, 8)}` : 'the program'}`,
      found: `a block of ${sizeText(outside.bytes)}, the smallest that this chip erases`,
      remedy:
        'Nothing was written. Let the program’s region end where a block does, or take the chip that the manual names.',
    })
  }
  const smallest = ({ eraseTypes }: FlashChip) => Math.min(...eraseTypes.map(({ bytes }) => bytes))
  /**
   * Of a range the blocks whose bytes are not what is wanted, by what is in the chip now. The last one may hold more than the
   * image reaches: what follows there is no part of it and goes with the erase, as it always does.
   */
  const differing = async (range: Range, wanted: Uint8Array) => {
    const now = await readUp(range, () => {})
    return again(async (joined) => {
      const size = smallest(joined)
      const from = inChip(range, joined)
      const blocks: ReturnType<typeof planErase> = []
      for (let at = from - (from % size); at < from + range.length; at += size) {
        const piece = (bytes: Uint8Array) => bytes.subarray(Math.max(0, at - from), at + size - from)
        if (equalBytes(piece(now), piece(wanted))) same.add(at)
        else blocks.push(...planErase({ address: at, length: size }, joined.eraseTypes))
      }
      const [left, total] = [same.size, same.size + blocks.length]
      await once(
        `${groupedNumber(left)} of ${groupedNumber(total)} blocks hold already what they should, and are left alone.`,
      )
      return blocks
    })
  }
  const readUp = async (range: Range, report: (done: number) => Promise<void> | void) => {
    const parts: Uint8Array[] = []
    for (let done = 0; done < range.length; done += stretch) {
      const piece = { address: range.address + done, length: Math.min(stretch, range.length - done) }
      parts.push(await again((joined) => joined.read(inChip(piece, joined), piece.length)))
      await report(Math.min(range.length, done + stretch))
    }
    return concatBytes(parts)
  }
  const unprotect = async (joined: FlashChip) => {
    const status = await joined.status()
    if (!(status & protection)) return
    await joined.writeStatus(status & ~protection)
    const now = await joined.status()
    if (now & protection) {
      throw new Problem({
        kind: 'flash-protected',
        thing: name,
        says: 'the chip protects its blocks and keeps that so',
        expected: `status with ${hexText(protection)} clear`,
        found: `status ${hexText(now)}`,
        remedy:
          'Nothing was erased. Join its write-protect leg to its supply, as its sheet shows, then try again.',
      })
    }
    protectedBy ??= status
    await once(
      `Its block protection (status ${hexText(status)}) is off for the write and is put back after it.`,
    )
  }
  const protectAgain = async () => {
    if (protectedBy === null) return
    const status = protectedBy
    await again((joined) => joined.writeStatus(status))
    protectedBy = null
  }
  const letGo = async () => {
    const [leaving, held] = [chip, port]
    chip = null
    port = null
    begunWith = null
    await leaving?.leave()
    await held?.release()
  }

  return {
    can: { read: true, erase: true, verify: 'read-back', resume: false },
    chip: () => chip,
    attach: () => joinOrNobody(join, 'flash-silent'),
    identify: () => again(async ({ identity, bytes }) => [`Chip ${identity}`, `${sizeText(bytes)}`]),
    peek: (address, length) => again((joined) => joined.read(inChip({ address, length }, joined), length)),
    read: (range, report) =>
      readUp(range, (done) => report({ done, total: range.length, unit: 'bytes', retries: 0 })),
    async erase(range, report, wanted) {
      let retries = 0
      const retried = () => retries++
      const all = await again((joined) => Promise.resolve(blocksOf(range, joined)))
      same = new Set()
      const blocks = wanted ? await differing(range, wanted) : all
      if (blocks.length === 0) return report({ done: 1, total: 1, unit: 'sectors', retries })
      await again(unprotect, retried)
      const sectors = (bytes: number) => Math.ceil(bytes / Math.min(...blocks.map((block) => block.bytes)))
      const total = blocks.reduce((sum, { bytes }) => sum + sectors(bytes), 0)
      let done = 0
      for (const block of blocks) {
        await again((joined) => joined.erase(block), retried)
        done += sectors(block.bytes)
        await report({ done, total, unit: 'sectors', retries })
      }
    },
    async write(address, bytes, report, abandon) {
      let retries = 0
      const retried = () => retries++
      for (let done = 0; done < bytes.length;) {
        if (abandon.raised) throw writeAbandoned(name, done, 'the chip holds a part of the image')
        const piece = await again(async (joined) => {
          const at = inChip({ address: address + done, length: bytes.length - done }, joined)
          const part = bytes.subarray(done, done + Math.min(joined.room(at), bytes.length - done))
          // An erased page is one already.
          const kept = same.has(at - (at % smallest(joined)))
          if (!kept && part.some((byte) => byte !== settings.erasedByte)) await joined.program(at, part)
          return part
        }, retried)
        done += piece.length
        await report({ done, total: bytes.length, unit: 'bytes', retries })
      }
    },
    async verify(address, bytes) {
      const back = await readUp({ address, length: bytes.length }, () => {})
      return readBackVerification(firstDifference(bytes, back), bytes, (offset) =>
        hexText(address + offset, 8),
      )
    },
    async startApplication() {
      await protectAgain()
      await letGo()
    },
    async release() {
      // A run that broke off leaves it as it was found too; with the clip off it cannot.
      await protectAgain().catch(() => {})
      await letGo()
    },
  }
}
