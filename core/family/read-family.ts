import * as v from 'valibot'
import { addressText, Problem } from '../kernel'
import { FamilyProfile, type Component, type Family, type Link, type Region } from './profile'
import { slotsOf } from './template'

/**
 * Reads a family profile from parsed JSON: its shape by the schema, then what a schema cannot say (regions
 * that overlap, names used twice, an identity block outside the application, templates without their slot).
 * @throws Problem of kind `family-profile` that names the field.
 */
export function readFamily(document: unknown): Family {
  const parsed = v.safeParse(FamilyProfile, document)
  if (!parsed.success) {
    const issue = parsed.issues[0]
    throw refused(v.getDotPath(issue) ?? 'the document', issue.message)
  }
  const family = parsed.output
  noTwins(family.components, 'components')
  noTwins(family.links, 'links')
  family.components.forEach((component, index) => checkComponent(component, `components.${index}`))
  family.links.forEach((link, index) => checkLink(link, `links.${index}`))
  const majors = family.hardware.revisions.map((revision) => revision.major)
  if (new Set(majors).size !== majors.length) {
    throw refused('hardware.revisions', 'Two revisions have the same major number')
  }
  if (family.power.floorVolts >= family.power.ceilingVolts) {
    throw refused('power.floorVolts', 'The floor must lie below the ceiling')
  }
  return family
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

/** The regions an image may be written to, lowest address first. */
export function applicationRegions(component: Component): Region[] {
  return component.memory.regions
    .filter((region) => region.use === 'application')
    .sort((a, b) => a.address - b.address)
}

function checkComponent(component: Component, place: string): void {
  const regions = component.memory.regions
  regions.forEach((region, index) => {
    const end = region.address + region.length
    if (end > 0x1_0000_0000) {
      throw refused(`${place}.memory.regions.${index}`, 'The region runs past 32 bits')
    }
    const other = regions
      .slice(0, index)
      .find((each) => region.address < each.address + each.length && each.address < end)
    if (other) {
      throw refused(
        `${place}.memory.regions.${index}`,
        `The region at ${addressText(region.address)} overlaps "${other.name}"`,
      )
    }
  })
  const at = component.identity.address
  if (
    !applicationRegions(component).some(
      (region) => at >= region.address && at < region.address + region.length,
    )
  ) {
    throw refused(`${place}.identity.address`, 'The identity block must lie in an application region')
  }
  component.identity.fields.forEach((field, index) => {
    if (field.type === 'ascii' && field.length === undefined) {
      throw refused(`${place}.identity.fields.${index}.length`, 'A text field needs its length')
    }
  })
  if (component.identity.integrity && !component.identity.fields.some((field) => field.field === 'length')) {
    throw refused(`${place}.identity.integrity`, 'The check needs a `length` field')
  }
}

function checkLink(link: Link, place: string): void {
  const needs: [string, string | undefined, string[]][] = [
    ['loader.erase.send', link.loader.erase.send, ['address', 'length']],
    ['loader.write.send', link.loader.write.send, ['address']],
    ['loader.checksum.send', link.loader.checksum.send, ['address', 'length']],
    ['loader.checksum.reads', link.loader.checksum.reads, ['crc32']],
    ['console.refused', link.console.refused, ['reason']],
  ]
  for (const [path, template, slots] of needs) {
    const missing = slots.find((slot) => !template || !slotsOf(template).includes(slot))
    if (missing) throw refused(`${place}.${path}`, `The text must hold {${missing}}`)
  }
}

function noTwins(list: readonly { id: string }[], place: string): void {
  list.forEach(({ id }, index) => {
    if (list.findIndex((each) => each.id === id) !== index) {
      throw refused(`${place}.${index}.id`, `"${id}" is used twice`)
    }
  })
}

function refused(at: string, says: string): Problem {
  return new Problem({
    kind: 'family-profile',
    place: { at },
    says,
    remedy: 'Mend this field of the profile and load it again.',
  })
}
