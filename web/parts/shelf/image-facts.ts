import type { FamilyDocument } from '@bench-wake/core/family'
import { addressText, groupedNumber } from '@bench-wake/core/kernel'
import type { ShelfImage } from '@bench-wake/server'
import { formatWords, placedWords } from '../words'
import { dayText, whenText } from '../written'

export interface Fact {
  label: string
  value: string
  mono?: boolean
}

/** What the image says of itself, in the order in which a technician asks. */
export function imageFacts(own: ShelfImage, family: FamilyDocument | undefined): Fact[] {
  const said = own.identity
  const component = family?.components.find((each) => each.id === said?.componentId)
  const rows: [string, string | undefined, boolean?][] = [
    ['Device', said?.deviceIdentifier, true],
    ['Hardware', said?.hardwareMajor === undefined ? undefined : String(said.hardwareMajor)],
    ['Model', said?.model, true],
    ['Version', said?.version, true],
    ['Release', said?.release],
    ['Issued for serial', said?.serial, true],
    ['Variant', variantText(family, said?.variant)],
    ['Built with', said?.options === undefined ? undefined : optionText(component, said.options)],
    ['Memory layout', said?.layout, true],
    ['Goes on versions', rangeText(said)],
    ['Goes on the image', said?.precursor && `${said.precursor.slice(0, 16)}…`, true],
    ['Sequence number', said?.sequence === undefined ? undefined : String(said.sequence)],
    ['Built', said?.buildTime === undefined ? undefined : whenText(said.buildTime)],
    ['Own checksum', said?.intact ? (said.intact.ok ? 'holds' : 'does not hold') : undefined],
  ]
  return [
    ...rows.flatMap(([label, value, mono]) => (value ? [{ label, value, ...(mono ? { mono } : {}) }] : [])),
    { label: 'Format', value: `${formatWords[own.format]}${own.dfu ? ', with a DFU suffix' : ''}` },
    { label: 'Address', value: placedWords[own.placed] },
    ...own.segments.slice(0, 4).map(({ address, length }) => ({
      label: 'Range',
      value: `${addressText(address)} to ${addressText(address + length - 1)}, ${groupedNumber(length)} bytes`,
      mono: true,
    })),
    ...(own.segments.length > 4 ? [{ label: '', value: `and ${own.segments.length - 4} more ranges` }] : []),
    ...own.origins.map((origin) => ({
      label: 'Came as',
      value: [
        origin.bundle ? `${origin.path} in ${origin.bundle}` : origin.name,
        origin.from ?? 'nobody said from where',
        dayText(origin.at),
      ].join(', '),
    })),
    { label: 'SHA-256 of the file', value: own.sha256, mono: true },
  ]
}

function variantText(family: FamilyDocument | undefined, variant: string | undefined) {
  const answers = family?.questions?.flatMap((question) => question.answers) ?? []
  return answers.find((answer) => answer.id === variant)?.says ?? variant
}

function optionText(component: FamilyDocument['components'][number] | undefined, options: string) {
  const names = component?.options ?? []
  if (options === 'none') return 'no options'
  return options
    .split('+')
    .map((each) => names.find((option) => option.id === each)?.name ?? each)
    .join(', ')
}

function rangeText(said: ShelfImage['identity'] | undefined) {
  return [
    said?.requiresFrom && `from ${said.requiresFrom}`,
    said?.requiresBelow && `below ${said.requiresBelow}`,
  ]
    .filter(Boolean)
    .join(' and ')
}
