import type { Fault } from './fault'
import { applicationRegions } from './regions'
import { driveForms, type Drive, type Family, type FamilyLink } from './schema'
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

function checkDrive(drive: Drive, link: FamilyLink, place: string, fault: Fault): void {
  const { kinds, line, check } = driveForms[drive.speaks]
  if (!kinds.includes(link.kind))
    fault(`${place}.speaks`, `"${drive.speaks}" goes over a link of kind "${kinds.join('" or "')}"`)
  check?.(drive, place, fault)
  if (line && !link.line) fault(`${place}.speaks`, 'The settings of the serial line are missing (`line`)')
}
