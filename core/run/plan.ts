import { applicationRegions, drivenLink, type Component, type Family, type Link } from '../family'
import { bytesAt, segmentsWithin, type MemoryMap } from '../image'
import { bytesText, Problem, groupedNumber, inSentence } from '../kernel'
import { wireMs, xmodemWireMs } from '../link'
import type { Step } from './step'

/** A piece that goes to the unit in one transfer: gaps inside a region are filled with the erased byte. */
export interface Load {
  address: number
  bytes: Uint8Array
  sectors: number
  pages: number
  eraseMs: number
  programMs: number
}

/** Time a person takes to switch a supply off, count five and switch it on (common practice). */
export const powerCyclePersonMs = 15_000
/** Time for a command and its answer on a text console, with the unit's own thinking. */
const consoleCharacters = 220
const unitThinksMs = 30

/**
 * What is sent to the unit, region by region.
 * @throws Problem `image-outside` when the image sets bytes where the component may not be written.
 */
export function loadsOf(component: Component, memory: MemoryMap): Load[] {
  const regions = applicationRegions(component)
  const placed = regions.flatMap((region) => segmentsWithin(memory, region.address, region.length))
  const astray = memory.find((segment) => !placed.includes(segment))
  if (astray) {
    throw new Problem({
      kind: 'image-outside',
      says: 'the image lies outside the memory that may be written',
      remedy: 'Choose an image for this component.',
    })
  }
  return regions.flatMap((region) => {
    const inside = segmentsWithin(memory, region.address, region.length)
    if (inside.length === 0) return []
    const address = inside[0]!.address
    const last = inside[inside.length - 1]!
    const length = last.address + last.bytes.length - address
    const {
      sectorBytes = region.length,
      pageBytes = 256,
      eraseMsPerSector = 0,
      programMsPerPage = 0,
    } = region
    const offset = address - region.address
    const sectors = Math.ceil((offset + length) / sectorBytes) - Math.floor(offset / sectorBytes)
    const pages = Math.ceil(length / pageBytes)
    return [
      {
        address,
        bytes: bytesAt(memory, address, length, component.memory.erasedByte),
        sectors,
        pages,
        eraseMs: sectors * eraseMsPerSector,
        programMs: pages * programMsPerPage,
      },
    ]
  })
}

/** The typed steps of a run, with the time each should take by the link's own arithmetic. */
export function planRun(family: Family, component: Component, link: Link, loads: readonly Load[]): Step[] {
  const { settings, loader } = link
  const bytes = loads.reduce((sum, load) => sum + load.bytes.length, 0)
  const sectors = loads.reduce((sum, load) => sum + load.sectors, 0)
  const sum = (of: (load: Load) => number) => loads.reduce((total, load) => total + of(load), 0)
  const talkMs = wireMs(consoleCharacters, settings) + unitThinksMs
  const entry = family.entry[0]!
  const step = (
    kind: Step['kind'],
    says: string,
    predictedMs: number,
    form: { personMs?: number; handsOff?: boolean } = {},
  ): Step => ({
    kind,
    says,
    predictedMs: Math.round(predictedMs),
    personMs: form.personMs ?? 0,
    handsOff: form.handsOff ?? false,
  })
  return [
    step('connect', `Open the port at ${groupedNumber(settings.baudRate)} baud`, 50),
    step('identify', 'Read what the unit says of itself', talkMs),
    step('enter', entry.name, entry.settleMs + 2 * talkMs),
    step('erase', `Erase ${sectors} sectors`, sum((load) => load.eraseMs) + wireMs(16 * sectors, settings), {
      handsOff: true,
    }),
    step(
      'write',
      `Write ${bytesText(bytes)}`,
      sum((load) => xmodemWireMs(load.bytes.length, loader.blockBytes, settings) + load.programMs) + talkMs,
      { handsOff: true },
    ),
    step('verify', 'Compare the checksum over what is in the unit', talkMs, { handsOff: true }),
    step('restart', 'Start the new firmware, then power off and on', 2 * family.restart.readyMs + talkMs, {
      personMs: powerCyclePersonMs,
    }),
    step('prove', `Read the ${inSentence(component.name)}’s version from the unit`, talkMs),
  ]
}

/** Time of a plan: alone (the machine works), with hands (a person does), together, ms. */
export function planTime(steps: readonly Step[]): { aloneMs: number; personMs: number; totalMs: number } {
  const aloneMs = steps.reduce((sum, step) => sum + step.predictedMs, 0)
  const personMs = steps.reduce((sum, step) => sum + step.personMs, 0)
  return { aloneMs, personMs, totalMs: aloneMs + personMs }
}

/**
 * Predicted time of one write over the family's own link, ms: by the link's arithmetic where this program drives it,
 * else by the usual net rate and the memory's own times. It weighs the hops of a path.
 */
export function hopMs(
  family: Family,
  component: Component,
  segments: readonly { address: number; length: number }[],
): number {
  const bytes = segments.reduce((sum, { length }) => sum + length, 0)
  const driven = drivenLink(family)
  const restartMs = 2 * family.restart.readyMs + powerCyclePersonMs
  const memoryMs = applicationRegions(component).reduce((sum, region) => {
    const inside = segments.filter(
      ({ address, length }) => address < region.address + region.length && region.address < address + length,
    )
    const length = inside.reduce((total, each) => total + each.length, 0)
    const sectors = region.sectorBytes ? Math.ceil(length / region.sectorBytes) : inside.length
    const pages = Math.ceil(length / (region.pageBytes ?? 256))
    return sum + sectors * (region.eraseMsPerSector ?? 0) + pages * (region.programMsPerPage ?? 0)
  }, 0)
  if (driven) return xmodemWireMs(bytes, driven.loader.blockBytes, driven.settings) + memoryMs + restartMs
  if (component.usualMs !== undefined) return component.usualMs + restartMs
  const [link] = family.links
  const rate = link && link.kind !== 'serial' ? link.bytesPerSecond : 0
  return (rate > 0 ? (bytes * 1000) / rate : 0) + memoryMs + restartMs
}
