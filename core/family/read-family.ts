import * as v from 'valibot'
import { addressText, Problem } from '../kernel'
import {
  FamilyProfile,
  type Component,
  type DrivenLink,
  type Family,
  type FamilyDocument,
  type FamilyLink,
} from './schema'
import { checkIdentity, checkPage, checkReleases } from './check-identity'
import { checkScript } from './check-script'
import { checkLink, largestMemory } from './check-link'
import { noTwins, type Fault } from './fault'
import { namesComponent } from './one-entry'
import { fillTemplate } from './template'
import { inTodaysForm } from './version-1'

/** A fault in a profile: the field by its path (`components.0.identity.address`) and what is wrong with it. */
export interface ProfileFault {
  at: string
  says: string
}

/**
 * Checks a family profile from parsed JSON: its shape by the schema, then what a schema cannot say (regions that
 * overlap, names used twice, an identity block outside the application, texts without their slot, references to
 * nothing). Every fault is listed, so that an editor can point at each field.
 */
export function checkFamily(document: unknown): { family: Family | null; faults: ProfileFault[] } {
  const parsed = v.safeParse(FamilyProfile, inTodaysForm(document))
  if (!parsed.success) {
    const faults = parsed.issues.map((issue) => ({
      at: v.getDotPath(issue) ?? 'the document',
      says: faultText(issue),
    }))
    return { family: null, faults }
  }
  const family = parsed.output
  const faults: ProfileFault[] = []
  const fault = (at: string, says: string) => faults.push({ at, says })
  for (const place of ['components', 'links', 'entry', 'questions', 'advisories'] as const) {
    noTwins(family[place] ?? [], place, fault)
  }
  family.components.forEach((component, index) => checkComponent(component, `components.${index}`, fault))
  family.links.forEach((link, index) => checkLink(link, `links.${index}`, largestMemory(family), fault))
  checkPage(family, fault)
  checkHardware(family, fault)
  checkReleases(family, fault)
  checkReferences(family, fault)
  checkBench(family, fault)
  family.entry.forEach(({ script, power, links }, index) => {
    links?.forEach((id, at) => {
      if (!family.links.some((link) => link.id === id))
        fault(`entry.${index}.links.${at}`, `There is no link "${id}"`)
    })
    const leads = family.powerOrder?.leads
    if (power && leads && power.begins !== leads)
      fault(
        `entry.${index}.power.begins`,
        `The order of power leaves the unit ${leads}; this entry begins with it ${power.begins}`,
      )
    if (!script) return
    for (const { at, says } of checkScript(script, family.panel, power))
      fault(`entry.${index}.script.${at}`, says)
  })
  const { behind } = family.power.measure ?? {}
  if (behind !== undefined && !family.powerOrder?.on.some(({ id }) => id === behind))
    fault('power.measure.behind', `The order of power has no step "${behind}"`)
  if (family.power.floorVolts >= family.power.ceilingVolts) {
    fault('power.floorVolts', 'The floor must lie below the ceiling')
  }
  return { family: faults.length === 0 ? family : null, faults }
}

function faultText(issue: v.BaseIssue<unknown>): string {
  if (issue.received === 'undefined') return 'It is missing'
  return issue.type === 'min_length' && issue.received === '0' ? 'It is empty' : issue.message
}

/**
 * Reads a family profile.
 * @throws Problem of kind `family-profile` that names the first faulty field.
 */
export function readFamily(document: unknown): Family {
  const { family, faults } = checkFamily(document)
  if (family) return family
  const [first, ...more] = faults
  throw new Problem({
    kind: 'family-profile',
    place: { at: first!.at },
    says: first!.says,
    ...(more.length > 0 ? { found: `${more.length} more: ${more.map(({ at }) => at).join(', ')}` } : {}),
    remedy: 'Mend this field of the profile and load it again.',
  })
}

/** The component with that id; the first when none is named. */
export function componentOf(family: Family, id?: string): Component {
  const found = id === undefined ? family.components[0] : family.components.find((each) => each.id === id)
  if (!found) {
    throw new Problem({
      kind: 'no-component',
      thing: family.name,
      says: `there is no component "${id}"`,
      expected: family.components.map((each) => each.id).join(' or '),
      remedy: 'Name one of these.',
    })
  }
  return found
}

/** The components that a model has; all of them while the model is not known or the family has one only. */
export function componentsOn(family: Family, model: string | undefined): Component[] {
  return family.components.filter(({ onlyOn }) => !onlyOn || model === undefined || onlyOn.includes(model))
}

/**
 * The link that this program drives itself, or undefined when the family has none such.
 * @param id the link that was chosen; where that is not driven, nothing is.
 */
export function drivenLink(family: Family, id?: string): DrivenLink | undefined {
  return family.links.find(
    (link): link is DrivenLink => (id === undefined || link.id === id) && isDriven(link),
  )
}

const isDriven = (link: FamilyLink): link is DrivenLink => link.drive !== undefined

/** Links that join a host and one device by what they are; on every other kind more than two ends may hang. */
const twoEnded: ReadonlySet<FamilyLink['kind']> = new Set(['usb', 'debug', 'chip', 'six-line', 'media'])
/** True where nothing else can hear a write over this link, whatever the profile says or leaves out. */
export const joinsTwoEnds = (link: Pick<FamilyLink, 'kind'>): boolean => twoEnded.has(link.kind)

/** Links on which other units usually hang: a bus. */
const shared: ReadonlySet<FamilyLink['kind']> = new Set(['rs485', 'can', 'kline'])
/** Whether several units share such a link. */
export const isBus = (link: Pick<FamilyLink, 'kind'>): boolean => shared.has(link.kind)

/** The same of a document that is not read yet, for a page that shows one. */
export const drivesLink = (link: FamilyDocument['links'][number]): boolean => link.drive !== undefined

/** How a family shows lines of its page on a link: `Firmware: 2.1`. Lines without a form are left out. */
export function pageLine(family: Family, field: string, value: string): string[] {
  const form = family.snapshot.find((rule) => rule.field === field)?.reads
  return form ? [fillTemplate(form, { value })] : []
}

function checkComponent(component: Component, place: string, fault: Fault): void {
  const regions = component.memory.regions
  regions.forEach((region, index) => {
    const end = region.address + region.length
    if (end > 0x1_0000_0000) fault(`${place}.memory.regions.${index}`, 'The region runs past 32 bits')
    const other = regions
      .slice(0, index)
      .find((each) => region.address < each.address + each.length && each.address < end)
    if (other) {
      fault(
        `${place}.memory.regions.${index}`,
        `The region at ${addressText(region.address)} overlaps "${other.name}"`,
      )
    }
  })
  checkIdentity(component, place, fault)
}

function checkHardware(family: Family, fault: Fault): void {
  family.hardware.revisions.forEach(({ major }, index, all) => {
    if (all.findIndex((each) => each.major === major) !== index) {
      fault(`hardware.revisions.${index}.major`, `Major ${major} is used twice`)
    }
  })
  const majors = family.hardware.revisions.map(({ major }) => major)
  family.links.forEach(({ revisions }, index) => {
    revisions?.forEach((major, at) => {
      if (!majors.includes(major)) {
        fault(`links.${index}.revisions.${at}`, `Major ${major} is not among the hardware revisions`)
      }
    })
  })
  for (const major of majors) {
    if (!family.links.some(({ revisions }) => !revisions || revisions.includes(major))) {
      fault('links', `Hardware of major ${major} is left without a link`)
    }
  }
  const models = family.hardware.models?.map(({ id }) => id) ?? []
  family.components.forEach(({ onlyOn }, index) => {
    onlyOn?.forEach((model, at) => {
      if (!models.includes(model)) {
        fault(`components.${index}.onlyOn.${at}`, `"${model}" is not among the models`)
      }
    })
  })
}

/** Everything that names a component, or a line of the snapshot, names one that is there. */
function checkReferences(family: Family, fault: Fault): void {
  const ids = family.components.map(({ id }) => id)
  const named: [string, { component?: string }[] | undefined][] = [
    ['updates.mandatoryVersions', family.updates.mandatoryVersions],
    ['updates.noWayBack', family.updates.noWayBack],
    ['advisories', family.advisories],
    ['factory', family.factory],
    ...family.links.map((link, index): [string, { component?: string }[] | undefined] => [
      `links.${index}.medium.files`,
      link.medium?.files,
    ]),
    ...family.links.map((link, index): [string, { component?: string }[] | undefined] => [
      `links.${index}.drive.alternates`,
      link.drive?.speaks === 'dfu' ? link.drive.alternates : undefined,
    ]),
    ...family.links.map((link, index): [string, { component?: string }[] | undefined] => [
      `links.${index}.drive.controllers`,
      link.drive?.speaks === 'uds' ? link.drive.controllers : undefined,
    ]),
  ]
  for (const [place, list] of named) {
    list?.forEach(({ component }, index) => {
      if (component !== undefined && !ids.includes(component))
        fault(`${place}.${index}.component`, `There is no component "${component}"`)
    })
  }
  family.snapshot.forEach(({ field }, index, all) => {
    if (all.findIndex((each) => each.field === field) !== index) {
      fault(`snapshot.${index}.field`, `"${field}" is used twice`)
    }
    const component = /^(?:version|buildTime|options|sequence|digest)\.(.+)$/.exec(field)?.[1]
    if (component !== undefined && !ids.includes(component)) {
      fault(`snapshot.${index}.field`, `There is no component "${component}"`)
    }
  })
  if (family.updates.oneEntry && !family.links.some(namesComponent))
    fault(
      'updates.oneEntry',
      'No link names the component in erase and write; each needs an entry of its own',
    )
  const fields = family.snapshot.map(({ field }) => field)
  family.links.forEach((link, index) => {
    const { drive } = link
    if (drive?.speaks === 'script') return
    const checkPage = (page: readonly { field: string }[] | undefined, place: string) =>
      page?.forEach(({ field }, at) => {
        if (!family.snapshot.some((rule) => rule.field === field && rule.reads))
          fault(`${place}.page.${at}.field`, `The snapshot has no line "${field}" with its form`)
      })
    checkPage(drive?.page, `links.${index}.drive`)
    if (drive?.speaks === 'uds' && drive.controllers) {
      const { controllers } = drive
      controllers.forEach(({ page }, at) => checkPage(page, `links.${index}.drive.controllers.${at}`))
      if (ids.every((id) => controllers.some(({ component }) => component === id)))
        fault(
          `links.${index}.drive.controllers`,
          'One component is held by the controller of the link itself: leave it out here',
        )
    }
    if (drive?.speaks !== 'modbus') return
    drive.files?.forEach(({ component }, at) => {
      if (!ids.includes(component)) {
        fault(`links.${index}.drive.files.${at}.component`, `There is no component "${component}"`)
      }
    })
  })
  family.hardware.revisions.forEach(({ markings }, index) => {
    markings?.forEach(({ field }, at) => {
      if (!fields.includes(field)) {
        fault(`hardware.revisions.${index}.markings.${at}.field`, `The snapshot has no line "${field}"`)
      }
    })
  })
}

/** Pins, power order, neighbours and kit: names used once, nothing both wanted and forbidden. */
function checkBench(family: Family, fault: Fault): void {
  family.links.forEach(({ wiring }, index) => {
    if (!wiring) return
    const place = `links.${index}.wiring`
    noTwins(wiring.pins, `${place}.pins`, fault)
    wiring.pins.forEach((pin, at) => {
      if (pin.needed && pin.open) fault(`${place}.pins.${at}.open`, 'A pin cannot be needed and stay open')
      if (pin.open && pin.role === 'ground') fault(`${place}.pins.${at}.open`, 'Ground is always joined')
    })
    if (wiring.fed === 'adapter' && !wiring.pins.some(({ role, open }) => role === 'supply' && !open)) {
      fault(`${place}.fed`, 'No supply pin lets the adapter feed the unit')
    }
  })
  noTwins(family.powerOrder?.on ?? [], 'powerOrder.on', fault)
  noTwins(family.powerOrder?.off ?? [], 'powerOrder.off', fault)
  noTwins(family.isolation?.neighbours ?? [], 'isolation.neighbours', fault)
  noTwins(family.kit ?? [], 'kit', fault)
  noTwins(family.backup?.settings?.fields ?? [], 'backup.settings.fields', fault)
  family.backup?.settings?.fields?.forEach(({ min = 0, max = 64 }, index) => {
    if (min > max) fault(`backup.settings.fields.${index}.min`, 'More characters at least than at most')
  })
  noTwins(family.chipReplacement ?? [], 'chipReplacement', fault)
  noTwins(family.postUpdateTasks ?? [], 'postUpdateTasks', fault)
  checkClosing(family, fault)
  const scan = family.isolation?.scan
  if (scan && scan.to < scan.from) fault('isolation.scan.to', 'The last address lies below the first')
}

/** What an item after the proof needs is there, and no two wait for each other. */
function checkClosing(family: Family, fault: Fault): void {
  const { postUpdateTasks = [], powerOrder, isolation, power } = family
  const takenOff = new Set([
    'adapter',
    'charger',
    ...(isolation?.neighbours ?? []).map(({ id }) => id),
    ...(power.supply?.loads ?? []).map(({ id }) => `load-${id}`),
  ])
  const own = new Set([...(powerOrder?.off ?? []), ...postUpdateTasks].map(({ id }) => id))
  postUpdateTasks.forEach((item, index) => {
    item.needs?.forEach((id, at) => {
      const place = `postUpdateTasks.${index}.needs.${at}`
      if (!own.has(id) && !takenOff.has(id)) fault(place, `There is nothing called "${id}" after a run`)
      else if (waitsFor(postUpdateTasks, id, item.id))
        fault(place, `"${item.id}" and "${id}" wait for each other`)
    })
  })
}

/** Whether an item of the list needs another one, by way of others too. */
function waitsFor(
  list: readonly { id: string; needs?: string[] }[],
  id: string,
  other: string,
  seen = new Set<string>(),
): boolean {
  if (id === other) return true
  if (seen.has(id)) return false
  seen.add(id)
  return (list.find((each) => each.id === id)?.needs ?? []).some((need) => waitsFor(list, need, other, seen))
}
