import { noTwins, type Fault } from './fault'
import { instructionFault } from './port-instruction'
import { applicationRegions } from './regions'
import type { Drive, DriveOf, Family, FamilyLink } from './schema'
import { shortNameFault } from './short-name'
import { linkScriptFaults, type ScriptMemory } from './script'

/** What a schema cannot say of a link: its medium, its speech, its script. */
export function checkLink(link: FamilyLink, place: string, memory: ScriptMemory, fault: Fault): void {
  if (link.kind === 'media' && !link.medium) fault(`${place}.medium`, 'A medium needs its package of files')
  link.medium?.files.forEach(({ name, component, text }, index) => {
    if ((component === undefined) === (text === undefined))
      fault(`${place}.medium.files.${index}`, 'Say either the `component` whose image it is, or its `text`')
    const says = link.medium!.shortNames ? shortNameFault(name) : null
    if (says !== null) fault(`${place}.medium.files.${index}.name`, `${says}, not "${name}"`)
  })
  if (link.drive) checkDrive(link.drive, link, `${place}.drive`, fault)
  if (link.drive?.speaks !== 'script') return
  for (const { at, says } of linkScriptFaults(link.drive, memory)) fault(`${place}.drive.${at}`, says)
}

/** The largest application region, and the smallest units that any is erased and programmed in. */
export function largestMemory({ components }: Family): ScriptMemory {
  const regions = components.flatMap(applicationRegions)
  const least = (sizes: (number | undefined)[], usual: number) =>
    Math.min(...sizes.map((size) => size ?? usual), usual)
  return {
    bytes: Math.max(1, ...regions.map(({ length }) => length)),
    sectorBytes: least(
      regions.map(({ sectorBytes }) => sectorBytes),
      1024,
    ),
    pageBytes: least(
      regions.map(({ pageBytes }) => pageBytes),
      256,
    ),
  }
}

/** An image goes by file records or by blocks of registers; and what is compared has a register to say so. */
function checkModbus(drive: DriveOf<'modbus'>, place: string, fault: Fault): void {
  const { files, block, commands, registers } = drive
  if (!files && !block)
    fault(`${place}.files`, 'Say how the image goes: as `files` of records, or by a `block` of registers')
  if (files && block) fault(`${place}.block`, 'Either `files` or a `block`, not both')
  if (block && commands.write === undefined)
    fault(`${place}.commands.write`, 'A block is programmed by a command: say its value')
  if ((commands.check === undefined) !== (registers.checksum === undefined))
    fault(`${place}.registers.checksum`, 'A check has a command and a register for its checksum, or neither')
}

/** Instructions that can be sent, a clock that the unit can follow, fuses and lines that there are. */
function checkInSystem(drive: DriveOf<'in-system'>, place: string, fault: Fault): void {
  const { instructions, fuses = [], page, hertz, unitHertz } = drive
  const told = (at: string, text: string | undefined) => {
    const says = text === undefined ? null : instructionFault(text)
    if (says !== null) fault(`${place}.${at}`, says)
  }
  const { busy, ...plain } = instructions
  for (const [name, text] of Object.entries(plain)) told(`instructions.${name}`, text)
  if (busy) told('instructions.busy.ask', busy.ask)
  if (hertz !== undefined && hertz >= unitHertz / 4)
    fault(`${place}.hertz`, `Keep it under a quarter of the unit’s clock: less than ${unitHertz / 4} Hz`)
  if (drive.wordAddresses && (!instructions.loadHigh || !instructions.readHigh))
    fault(`${place}.instructions`, 'Where addresses are words, the high byte has `loadHigh` and `readHigh`')
  noTwins(fuses, `${place}.fuses`, fault)
  fuses.forEach(({ read, write, bits }, index) => {
    told(`fuses.${index}.read`, read)
    told(`fuses.${index}.write`, write)
    bits.forEach(({ bit }, at) => {
      if (bits.findIndex((each) => each.bit === bit) !== at)
        fault(`${place}.fuses.${index}.bits.${at}.bit`, `Bit ${bit} is named twice`)
    })
  })
  checkToldOrPlaced(page, place, fault)
  page.forEach(({ tells }, index) => {
    if (tells?.startsWith('fuse.') && !fuses.some(({ id }) => `fuse.${id}` === tells))
      fault(`${place}.page.${index}.tells`, `There is no fuse "${tells.slice(5)}"`)
  })
}

/** Each line of the page is either what the chip says of itself, or a place in its memory. */
function checkToldOrPlaced(
  page: readonly { tells?: string; address?: number; length?: number }[],
  place: string,
  fault: Fault,
): void {
  page.forEach(({ tells, address, length }, index) => {
    const [at, long] = [address !== undefined, length !== undefined]
    if (tells === undefined ? !(at && long) : at || long)
      fault(`${place}.page.${index}`, 'Say either what it `tells`, or the `address` and `length` of it')
  })
}

/** What a chip on a clip says of itself is there, and its blocks are powers of two. */
function checkFlash({ page, erases }: DriveOf<'spi-flash'>, place: string, fault: Fault): void {
  checkToldOrPlaced(page, place, fault)
  erases?.forEach(({ bytes }, index) => {
    if (!Number.isInteger(Math.log2(bytes)))
      fault(`${place}.erases.${index}.bytes`, 'A block is a power of two')
  })
}

/** Which kind of link carries which speech, and whether it needs a serial line beneath it. */
const carriers: Record<Drive['speaks'], { kinds: FamilyLink['kind'][]; line: boolean }> = {
  modbus: { kinds: ['rs485'], line: true },
  dfu: { kinds: ['usb'], line: false },
  uds: { kinds: ['can'], line: true },
  kwp: { kinds: ['kline'], line: true },
  debug: { kinds: ['debug'], line: false },
  'spi-flash': { kinds: ['chip'], line: false },
  'in-system': { kinds: ['six-line'], line: false },
  script: { kinds: ['serial', 'rs485'], line: true },
}

function checkDrive(drive: Drive, link: FamilyLink, place: string, fault: Fault): void {
  const { kinds, line } = carriers[drive.speaks]
  if (!kinds.includes(link.kind))
    fault(`${place}.speaks`, `"${drive.speaks}" goes over a link of kind "${kinds.join('" or "')}"`)
  if (drive.speaks === 'modbus') checkModbus(drive, place, fault)
  if (drive.speaks === 'in-system') checkInSystem(drive, place, fault)
  if (drive.speaks === 'spi-flash') checkFlash(drive, place, fault)
  if (line && !link.line) fault(`${place}.speaks`, 'The settings of the serial line are missing (`line`)')
}
