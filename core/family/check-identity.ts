import type { Fault } from './fault'
import { applicationRegions } from './regions'
import type { Component, Family } from './schema'
import { literalStart, slotsOf } from './template'

/** Letters that a text around a version has before it: fewer stand in any bytes by chance. */
const minMark = 4

/** What a schema cannot say of how images of a component tell what they are. */
export function checkIdentity(component: Component, place: string, fault: Fault): void {
  const { identity, versionText = [] } = component
  for (const [index, template] of versionText.entries()) {
    const at = `${place}.versionText.${index}`
    if (!slotsOf(template).includes('version'))
      fault(at, 'Write {version} where the version stands: "FW v{version} "')
    else if (slotsOf(template).some((slot) => slot !== 'version' && slot !== 'hardware'))
      fault(at, 'Only {version} and {hardware} are read from such a text')
    else if (literalStart(template).length < minMark)
      fault(at, `At least ${minMark} characters have to stand before the first slot, or any bytes match it`)
  }
  const has = (name: string) => identity?.fields.some(({ field }) => field === name) ?? false
  if (component.options && !has('options')) {
    fault(`${place}.options`, 'No field of the identity block carries the options')
  }
  if (!identity) return
  const { address } = identity
  if (
    address !== undefined &&
    !applicationRegions(component).some(
      (region) => address >= region.address && address < region.address + region.length,
    )
  ) {
    fault(`${place}.identity.address`, 'The identity block must lie in an application region')
  }
  if (address === undefined && identity.magic.length < minMark) {
    fault(
      `${place}.identity.magic`,
      `A mark that is searched for needs at least ${minMark} characters, or any bytes match it`,
    )
  }
  identity.fields.forEach((field, index) => {
    if ((field.type === 'ascii' || field.type === 'hex') && field.length === undefined) {
      fault(`${place}.identity.fields.${index}.length`, 'This type needs its length')
    }
  })
  if (identity.integrity && !has('length')) {
    fault(`${place}.identity.integrity`, 'The check needs a `length` field')
  }
}

/** Lines of the page that are read by their form: one without a word of its own would take every line for its own. */
export function checkPage({ snapshot }: Family, fault: Fault): void {
  snapshot.forEach(({ reads }, index) => {
    if (reads === undefined) return
    const at = `snapshot.${index}.reads`
    if (!slotsOf(reads).includes('value')) fault(at, 'Write {value} where the value stands: "fw {value}"')
    else if (!/[a-z0-9]/i.test(reads.replaceAll(/\{[^}]*\}/g, '')))
      fault(at, 'Write a word beside {value}, or every line is taken for this one: "fw {value}"')
  })
}

/** Known releases: each digest once, each for a part and a revision that there is. */
export function checkReleases({ releases = [], components, hardware }: Family, fault: Fault): void {
  const seen = new Map<string, number>()
  releases.forEach(({ sha256, component, hardware: major }, index) => {
    const at = `releases.${index}`
    const before = seen.get(sha256)
    if (before !== undefined) fault(`${at}.sha256`, `releases.${before} has this digest too`)
    seen.set(sha256, index)
    if (component === undefined && components.length > 1)
      fault(`${at}.component`, `Say which part it is for: ${components.map(({ id }) => id).join(', ')}`)
    if (component !== undefined && !components.some(({ id }) => id === component))
      fault(`${at}.component`, `There is no component "${component}"`)
    if (major !== undefined && !hardware.revisions.some((revision) => revision.major === major))
      fault(`${at}.hardware`, `There is no hardware revision ${major}`)
  })
}
