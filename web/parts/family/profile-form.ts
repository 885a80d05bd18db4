import { asSentence } from '@bench-wake/core/kernel'
import type { OperationTrial } from '@bench-wake/core/ready'
import { familySchema, type ProfileFault } from '@bench-wake/core/family'
import { computed, type InjectionKey, type Ref } from 'vue'

/** The part of JSON Schema that the family profile's published schema uses. */
export interface FieldSchema {
  type?: 'object' | 'array' | 'string' | 'number' | 'integer' | 'boolean'
  description?: string
  properties?: Record<string, FieldSchema>
  required?: string[]
  additionalProperties?: boolean | FieldSchema
  items?: FieldSchema
  oneOf?: FieldSchema[]
  anyOf?: FieldSchema[]
  $ref?: string
  enum?: (string | number)[]
  const?: string | number
  minimum?: number
  minItems?: number
  pattern?: string
}

/** The schema as it is published in docs/family.schema.json: the form is drawn from it. */
export const profileSchema = familySchema() as unknown as FieldSchema

export interface ProfileForm {
  document: Ref<unknown>
  /** Where each operation of a scripted link was proved, by the link, as its steps stand now; empty until it is known. */
  trials: Readonly<Ref<ReadonlyMap<string, readonly OperationTrial[]>>>
  set(path: readonly string[], value: unknown): void
  /** What is wrong at this very place. */
  faultAt(path: readonly string[]): string | undefined
  /** Whether something is wrong at this place or within it. */
  faulty(path: readonly string[]): boolean
  /** All that is wrong at this place and within it, each with its place from here. */
  faultsIn(path: readonly string[]): { at: string; says: string }[]
}
export const profileForm: InjectionKey<ProfileForm> = Symbol('profile form')

/** A document with one place changed; what is not on the way is shared. Undefined takes the place out. */
export function withChange(document: unknown, path: readonly string[], value: unknown): unknown {
  const [key, ...rest] = path
  if (key === undefined) return value
  if (Array.isArray(document)) {
    const copy = [...document]
    const index = Number(key)
    if (rest.length === 0 && value === undefined) copy.splice(index, 1)
    else copy[index] = withChange(copy[index], rest, value)
    return copy
  }
  const copy = { ...(document as Record<string, unknown> | undefined) }
  const changed = withChange(copy[key], rest, value)
  if (changed === undefined) delete copy[key]
  else copy[key] = changed
  return copy
}

export function valueAt(document: unknown, path: readonly string[]): unknown {
  return path.reduce<unknown>((at, key) => (at as Record<string, unknown> | undefined)?.[key], document)
}

/** What is written as JSON: steps of a link's operation, and whatever has more than one shape. */
export const isWritten = (schema: FieldSchema, path: readonly string[]): boolean =>
  schema.anyOf !== undefined ||
  schema.$ref !== undefined ||
  (path[path.length - 1] === 'steps' && path.includes('operations'))

/** Members that tell which of several shapes a value has. */
const tells = ['kind', 'speaks']
/** The member of a schema's alternatives that tells them apart, where a person chooses by it. */
export const tellOf = (schema: FieldSchema): string | undefined =>
  tells.find((key) => schema.oneOf?.every(({ properties }) => properties?.[key]))

/** The least that a schema takes; faults then say what is to be filled in. */
export function startOf(schema: FieldSchema): unknown {
  if (schema.const !== undefined) return schema.const
  if (schema.oneOf) return startOf(schema.oneOf[0]!)
  if (schema.anyOf) return startOf(schema.anyOf[0]!)
  if (schema.enum) return schema.enum[0]
  switch (schema.type) {
    case 'object':
      return Object.fromEntries(
        (schema.required ?? []).map((key) => [key, startOf(schema.properties![key]!)]),
      )
    case 'array':
      return schema.minItems ? [startOf(schema.items!)] : []
    case 'boolean':
      return false
    case 'number':
    case 'integer':
      return schema.minimum ?? 0
    default:
      return schema.pattern?.startsWith('^0x') ? '0x0' : ''
  }
}

/** The alternative that a value is of, by the constants and choices of its members. */
export function chosenOf(schema: FieldSchema, value: unknown): FieldSchema {
  if (!schema.oneOf) return schema
  const own = value as Record<string, unknown> | undefined
  return (
    schema.oneOf.find((each) =>
      Object.entries(each.properties ?? {}).every(([key, member]) =>
        member.const !== undefined
          ? own?.[key] === member.const
          : !member.enum || !tells.includes(key) || member.enum.includes(own?.[key] as string),
      ),
    ) ?? schema.oneOf[0]!
  )
}

/** `deviceIdentifier` as a person reads it: "Device identifier". */
export function labelOf(key: string): string {
  const words = key.replace(/([a-z])([A-Z])/g, '$1 $2').toLowerCase()
  return asSentence(words)
}

/** What an entry of a list is called, by its most telling member. */
export function entryName(value: unknown, index: number): string {
  if (typeof value !== 'object' || value === null) return `${index + 1}`
  const own = value as Record<string, unknown>
  for (const key of ['name', 'label', 'asks', 'says', 'sign', 'field', 'id', 'version', 'from']) {
    if (typeof own[key] === 'string' && own[key] !== '') return own[key]
  }
  return `${index + 1}`
}

/** The parts of a profile as its editor turns them: what is said once in general, then each list and group by itself. */
const general = ['id', 'name', 'summary']
export const profileParts: readonly { id: string; says: string; keys: string[] }[] = [
  { id: 'general', says: 'General', keys: general },
  ...Object.keys(profileSchema.properties ?? {})
    .filter((key) => ![...general, 'format', 'formatVersion', 'revision'].includes(key))
    .map((key) => ({ id: key, says: labelOf(key), keys: [key] })),
]

/** A value of a profile as a comparison shows it. */
export const shown = (value: unknown) =>
  value === undefined ? 'not there' : typeof value === 'string' ? value : JSON.stringify(value)

/** Steps one a line, those within a loop indented below it. */
export function stepsText(steps: readonly unknown[], indent = ''): string {
  const lines = steps.map((step) => {
    const { steps: inner, ...rest } = (step ?? {}) as { steps?: unknown }
    // A key's own steps are its sum, and stay on its line.
    if (!Array.isArray(inner) || (rest as { do?: string }).do === 'key') return JSON.stringify(step)
    return `${JSON.stringify(rest).slice(0, -1)},"steps":${stepsText(inner, `${indent}  `)}}`
  })
  return `[\n${lines.map((line) => `${indent}  ${line}`).join(',\n')}\n${indent}]`
}

/** Where a fault lies, as a person counts: `0.steps.1.patterns` is "Step 1, step 2, patterns". */
export function placeText(at: string): string {
  const parts = at.split('.').filter((part) => part !== 'steps' && part !== '')
  return asSentence(parts.map((part) => (/^\d+$/.test(part) ? `step ${Number(part) + 1}` : part)).join(', '))
}

/**
 * A document as the fields of its editor see it.
 * @param beforeChange called before each change, so that it can be undone.
 */
export function formOver(
  document: Ref<unknown>,
  faults: Readonly<Ref<readonly ProfileFault[]>>,
  beforeChange: () => void,
  trials: ProfileForm['trials'],
): ProfileForm {
  const byPlace = computed(() => new Map([...faults.value].reverse().map(({ at, says }) => [at, says])))
  const within = (place: string) =>
    faults.value.filter(({ at }) => at === place || at.startsWith(`${place}.`))
  return {
    document,
    trials,
    set(path, value) {
      beforeChange()
      document.value = withChange(document.value, path, value)
    },
    faultAt: (path) => byPlace.value.get(path.join('.')),
    faulty: (path) => within(path.join('.')).length > 0,
    faultsIn(path) {
      const place = path.join('.')
      return within(place).map(({ at, says }) => ({ at: at.slice(place.length + 1), says }))
    },
  }
}
