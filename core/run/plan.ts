import { showsNoPage } from './shows-page'
import { applicationRegions, entriesOver, type Component, type DrivenLink, type Family } from '../family'
import type { WorkshopRules } from '../fit'
import { bytesAt, segmentsWithin, type MemoryMap } from '../image'
import { bytesText, Problem, groupedNumber, inSentence } from '../kernel'
import {
  erasesFirst,
  erasesWhole,
  keepsFaults,
  linkEraseMs,
  linkPageMs,
  linkReads,
  linkReadWireMs,
  linkRehearses,
  linkTailMs,
  linkVerifies,
  linkWireMs,
  linkWriteMs,
  wantedFuses,
  type WantedFuse,
} from '../link'
import { wantsOriginal, type KnownInside } from '../ready'
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
/** Time a person takes for one step of the order of power, with a look at it (common practice). */
export const orderStepPersonMs = 10_000
/** Time a person takes to photograph or write down what an update erases (common practice: some minutes). */
export const settingsPersonMs = 120_000
/** What a unit says while one sector is erased: a line, or the answer to a question. */
const sectorSaysMs = 1.5

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

/** A step of a plan, with its time in whole milliseconds. */
export function step(
  kind: Step['kind'],
  says: string,
  predictedMs: number,
  form: { piece?: number; personMs?: number; handsOff?: boolean; tailMs?: number } = {},
): Step {
  return {
    kind,
    ...(form.piece === undefined ? {} : { piece: form.piece }),
    says,
    predictedMs: Math.round(predictedMs),
    personMs: form.personMs ?? 0,
    handsOff: form.handsOff ?? false,
    ...(form.tailMs ? { tailMs: Math.round(form.tailMs) } : {}),
  }
}

/** One component of a run, with what goes into it. */
export interface PlannedPiece {
  component: Component
  loads: readonly Load[]
  known?: Partial<KnownInside>
}

/** The typed steps of a run of one component, with the time each should take by the link's own arithmetic. */
export const planRun = (
  family: Family,
  component: Component,
  link: DrivenLink,
  loads: readonly Load[],
  workshopRules: Partial<Pick<WorkshopRules, 'backup'>> = {},
  known: Partial<KnownInside> = {},
): Step[] => planPieces(family, link, [{ component, loads, known }], workshopRules)

/**
 * The steps of a run: one entry, all its components, one restart, one proof (PRACTICE A5). Of several components each is
 * read, compared and sent dry before the first of them is erased, so that what is wrong with any shows while nothing is
 * written.
 * @param pieces in the order in which they are written; more than one only where the family allows.
 */
export function planPieces(
  family: Family,
  link: DrivenLink,
  pieces: readonly PlannedPiece[],
  workshopRules: Partial<Pick<WorkshopRules, 'backup'>> = {},
  fuses: readonly WantedFuse[] = [],
): Step[] {
  const steps = pieces.map((piece, index) =>
    stepsOfPiece(family, link, piece, workshopRules, pieces.length > 1 ? index : undefined),
  )
  const names = pieces.map(({ component }) => inSentence(component.name))
  const talkMs = linkPageMs(link)
  return [
    ...untilRead(family, link),
    ...(family.backup?.settings
      ? [step('settings', 'Keep the settings that the update erases', 0, { personMs: settingsPersonMs })]
      : []),
    enterStep(family, link),
    ...steps.flatMap(({ before }) => before),
    ...steps.flatMap(({ changing }) => changing),
    ...(setsFuses(link, fuses)
      ? [step('fuses', 'Set the fuse bytes, and read them back', 3 * talkMs, { handsOff: true })]
      : []),
    step('restart', 'Start the new firmware, then power off and on', 2 * family.restart.readyMs + talkMs, {
      personMs: powerCyclePersonMs,
    }),
    step(
      'prove',
      showsNoPage(link)
        ? `See on the unit which version its ${names.join(' and its ')} shows`
        : names.length > 1
          ? `Read ${names.length} versions from the unit: ${names.join(', ')}`
          : `Read the ${names[0]}’s version from the unit`,
      talkMs,
      showsNoPage(link) ? { personMs: names.length * orderStepPersonMs } : {},
    ),
    ...(keepsFaults(link) ? [step('faults', 'Fault codes: read, clear, read again', 3 * talkMs)] : []),
  ]
}

/** What the step of an erase is called. */
export const eraseSectors = (sectors: number) => `Erase ${sectors} ${sectors === 1 ? 'sector' : 'sectors'}`
const eraseText = (link: DrivenLink, sectors: number) =>
  erasesWhole(link) ? 'Erase the whole memory' : eraseSectors(sectors)

/** Whether this link has fuse bytes of which profile or job say how they stand. */
const setsFuses = ({ drive }: DrivenLink, said: readonly WantedFuse[]): boolean =>
  drive.speaks === 'in-system' && wantedFuses(drive, said).length > 0

/** What is done to one component: as long as nothing is changed, and then. */
function stepsOfPiece(
  family: Family,
  link: DrivenLink,
  { component, loads, known = {} }: PlannedPiece,
  workshopRules: Partial<Pick<WorkshopRules, 'backup'>>,
  piece: number | undefined,
): { before: Step[]; changing: Step[] } {
  const sum = (of: (load: Load) => number) => loads.reduce((total, load) => total + of(load), 0)
  const bytes = sum((load) => load.bytes.length)
  const sectors = sum((load) => load.sectors)
  const eraseMs = sum(
    (load) =>
      linkEraseMs(link, component, { address: load.address, length: load.bytes.length }) ?? load.eraseMs,
  )
  const talkMs = linkPageMs(link)
  const last = loads.at(-1)
  const erases = erasesFirst(link)
  const named = (each: Step): Step =>
    piece === undefined ? each : { ...each, piece, says: `${component.name}: ${inSentence(each.says)}` }
  const before = [
    ...(linkReads(link) && wantsOriginal(family, workshopRules, known, link)
      ? [readOutStep(known.original ? 'Read out what is in it' : 'Read out the original', component, link)]
      : []),
    step('compare', 'Hold the image against what is in the unit', verifyMs(link, bytes) + talkMs),
    ...(linkRehearses(link)
      ? [
          step(
            'dry-run',
            `Send ${bytesText(bytes)} once, with nothing written`,
            linkWireMs(link, bytes) + talkMs,
          ),
        ]
      : []),
  ]
  const changing = [
    ...(erases
      ? [step('erase', eraseText(link, sectors), eraseMs + sectors * sectorSaysMs, { handsOff: true })]
      : []),
    step(
      'write',
      `Write ${bytesText(bytes)}`,
      sum((load) => linkWriteMs(link, load.bytes.length, load.programMs)) + (erases ? 0 : eraseMs) + talkMs,
      { handsOff: true, tailMs: last ? linkTailMs(link, last.bytes.length, last.programMs) : 0 },
    ),
    step('verify', verifyText(link), verifyMs(link, bytes) + talkMs, { handsOff: true }),
  ]
  return { before: before.map(named), changing: changing.map(named) }
}

/** How many steps a person takes. */
export const stepsText = (steps: number): string => (steps === 1 ? 'one step' : `${steps} steps`)
/** What the first step of a run is called. */
export const powerOrdered = (steps: number): string => `Power as ordered, ${stepsText(steps)}`

/** Every run begins with this: power as ordered, the port, and what the unit says of itself. */
export function untilRead(family: Family, link: DrivenLink): Step[] {
  const order = family.powerOrder?.on ?? []
  return [
    ...(order.length > 0
      ? [
          step('power-up', powerOrdered(order.length), 0, {
            personMs: order.length * orderStepPersonMs,
          }),
        ]
      : []),
    step('connect', connectText(link), 50),
    step('identify', 'Read what the unit says of itself', linkPageMs(link)),
  ]
}

/** Into the bootloader, as this link gets there. */
export function enterStep(family: Family, link: DrivenLink): Step {
  const entry = entryOf(family, link)
  return step('enter', entryText(entry), entry.settleMs + 2 * linkPageMs(link), {
    personMs: entry.kind === 'by-hand' ? entry.steps.length * orderStepPersonMs : 0,
  })
}

/** An entry by its name, with how many acts of the hands it takes, where its script tells them one by one. */
function entryText({ name, script }: Family['entry'][number]): string {
  const hands = (script?.acts ?? []).filter(({ by }) => by !== 'program').length
  return hands > 1 ? `${name}, ${hands} acts by hand` : name
}

/** All that the component may hold, read twice. */
export function readOutStep(says: string, component: Component, link: DrivenLink): Step {
  const bytes = applicationRegions(component).reduce((total, { length }) => total + length, 0)
  return step('backup', `${says}, twice ${bytesText(bytes)}`, 2 * linkReadMs(link, bytes), { handsOff: true })
}

/** Reading moves the same bytes over the same wire, without the memory's own times. */
export const linkReadMs = (link: DrivenLink, bytes: number) => linkReadWireMs(link, bytes)

/** The way into the bootloader that a run over this link takes: by command where there is one, else by hand. */
export function entryOf(family: Family, link: DrivenLink): Family['entry'][number] {
  const takesCommand = link.drive.speaks === 'script' && link.drive.operations.enter !== undefined
  const byCommand = takesCommand && entriesOver(family, link.id).find(({ kind }) => kind === 'command')
  const ways = entriesOver(family, link.id)
  return byCommand || (ways.find(({ kind }) => kind === 'by-hand') ?? ways[0]!)
}

function connectText(link: DrivenLink): string {
  const { line } = link
  return line ? `Open the port at ${groupedNumber(line.baudRate)} baud` : `Open ${inSentence(link.name)}`
}

/** Reading back takes the way of the write again; a checksum is a question. */
const verifyTexts: Record<ReturnType<typeof linkVerifies>, string> = {
  'read-back': 'Read back what is in the unit and compare',
  checksum: 'Compare the checksum over what is in the unit',
  'version-only': 'Nothing to compare by: the version after the restart is the proof',
}
const verifyText = (link: DrivenLink) => verifyTexts[linkVerifies(link)]
/** What a check takes over the link, ms; nothing where the unit computes it. */
export const verifyMs = (link: DrivenLink, bytes: number) =>
  linkVerifies(link) === 'read-back' ? linkReadWireMs(link, bytes) : 0
