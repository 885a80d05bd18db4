import { pageLine, type Component, type DriveOf, type Family } from '../../family'
import { sizeText, type Clock } from '../../kernel'
import type { Person } from '../person'
import { flashLoader } from './loader'
import type { EraseType } from './commands'
import { openSpiPort } from '../spi'
import { dapAdapter } from '../swd'
import type { UsbPort } from '../usb'
import { adapterDriver } from '../drive/adapter-driver'
import { shownBytes } from '../drive/shown'
import type { LinkDriver } from '../drive/link-driver'

/** Usual commands of the block sizes that parts have (from memory). */
const usualErases: EraseType[] = [
  { bytes: 4096, command: 0x20, usualMs: null, maxMs: null },
  { bytes: 32_768, command: 0x52, usualMs: null, maxMs: null },
  { bytes: 65_536, command: 0xd8, usualMs: null, maxMs: null },
]
/** Usual page of a part and its time (from memory). */
const usualPage = { bytes: 256, ms: 0.7 }

/** The blocks that a profile says the chip erases by; those of its regions' sectors where it says nothing. */
export function eraseTypesOf(drive: DriveOf<'spi-flash'>, component: Component): EraseType[] {
  if (drive.erases) return drive.erases.map((type) => ({ ...type, maxMs: null }))
  const sectors = component.memory.regions.map(({ sectorBytes }) => sectorBytes)
  const known = usualErases.filter(({ bytes }) => sectors.includes(bytes))
  return known.length > 0 ? known : usualErases.slice(0, 1)
}

/** A chip on a clip or in the adapter's socket: what it says is its identity and what stands in its bytes. */
export function flashDriver(
  port: UsbPort,
  clock: Clock,
  family: Family,
  drive: DriveOf<'spi-flash'>,
  component: Component,
): LinkDriver {
  const { regions, erasedByte } = component.memory
  const base = drive.base ?? 0
  let person: Person | undefined
  const loader = flashLoader(
    port.name,
    async () => openSpiPort(await dapAdapter(port), { hertz: drive.hertz }),
    clock,
    {
      base,
      bytes: Math.max(...regions.map(({ address, length }) => address + length)) - base,
      pageBytes: regions[0]!.pageBytes ?? usualPage.bytes,
      programMs: regions[0]!.programMsPerPage ?? usualPage.ms,
      eraseTypes: eraseTypesOf(drive, component),
      believeTable: drive.table !== 'left-out',
      regions: regions.filter(({ use }) => use === 'application'),
      erasedByte,
      identities: drive.identities,
      protection: drive.protection,
      holdsReset: drive.holdsReset ?? false,
    },
    async (says) => person?.tell(says),
  )
  const page = async () => {
    const lines: string[] = []
    for (const { field, tells, address, length, as = 'ascii' } of drive.page) {
      const { identity, bytes } = loader.chip()!
      const value =
        tells === 'identity'
          ? identity
          : tells === 'size'
            ? sizeText(bytes)
            : shownBytes(await loader.peek(address!, length!), as)
      if (value !== null) lines.push(...pageLine(family, field, value))
    }
    return lines
  }
  return {
    ...adapterDriver(port, loader, page),
    withPerson(someone) {
      person = someone
    },
  }
}
