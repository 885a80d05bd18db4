import { isDay, Problem } from '@bench-wake/core/kernel'
import type { Context, ValidationTargets } from 'hono'
import { validator as validating } from 'hono-openapi'
import * as v from 'valibot'
import { sessionOf } from '../access/guard'

const all: { schema: v.GenericSchema }[] = []
/** Every input that the routes of this process take. */
export const takenInputs = (): readonly { schema: v.GenericSchema }[] => all

/** An input as it is written, before anything is read from it. */
const asWritten = {
  options: {
    target: 'draft-2020-12',
    typeMode: 'input',
    errorMode: 'ignore',
    ignoreActions: ['trim', 'transform', 'normalize', 'metadata'],
  },
} as const

/** Direction marks and characters that are not seen: two names that look alike must be alike (Unicode TR 36, clause 2.10). */
const unseen =
  /[\p{Cc}\p{Cs}\p{Zl}\p{Zp}\u00AD\u061C\u180E\u200B\u200E\u200F\u202A-\u202E\u2060-\u2064\u2066-\u206F\uFEFF]/u

/** A person's name, in one Unicode form. */
export const personName = v.pipe(
  v.string(),
  v.normalize('NFC'),
  v.trim(),
  v.minLength(1, 'This must not be empty'),
  v.maxLength(80),
  v.check((name) => !unseen.test(name), 'A name has no control or direction characters'),
)

/** What a name in an input stands for. */
const roles = ['signer', 'witness', 'outsider'] as const
type Role = (typeof roles)[number]
const inRole = (role: Role) => v.pipe(personName, v.metadata({ role }))

/** The person who does this: where people sign in, whoever is signed in, whatever was sent. */
export const signer = inRole('signer')
/** A person who was asked: their word is noted with the person who took it down. */
export const witness = inRole('witness')
/** Somebody at a supplier; may be left out. */
export const outsider = v.pipe(v.union([personName, v.literal('')]), v.metadata({ role: 'outsider' }))

interface Walked {
  type: string
  entries?: Record<string, Walked>
  item?: Walked
  wrapped?: Walked
  options?: Walked[]
  pipe?: (Walked & { metadata?: { role?: Role } })[]
}

/** Where a schema takes names: steps to each, `*` for every item of a list. */
export function namesIn(schema: unknown): { path: string[]; role: Role }[] {
  const { entries, item, wrapped, options, pipe } = schema as Walked
  const role = pipe?.find((each) => each.type === 'metadata' && each.metadata?.role)?.metadata?.role
  if (role) return [{ path: [], role }]
  const under = (step: string | null, inner: Walked) =>
    namesIn(inner).map((each) => ({ ...each, path: step === null ? each.path : [step, ...each.path] }))
  return [
    ...Object.entries(entries ?? {}).flatMap(([name, inner]) => under(name, inner)),
    ...(item ? under('*', item) : []),
    ...(wrapped ? under(null, wrapped) : []),
    ...(Array.isArray(options) ? options : []).flatMap((inner) =>
      typeof inner === 'object' ? under(null, inner) : [],
    ),
  ]
}

/** Puts the person who is signed in where an input takes a name. */
function sign(content: unknown, [step, ...rest]: readonly string[], as: (typed: string) => string): void {
  if (typeof content !== 'object' || content === null || step === undefined) return
  const members = content as Record<string, unknown>
  for (const key of step === '*' ? Object.keys(members) : [step]) {
    const value = members[key]
    if (rest.length > 0) sign(value, rest, as)
    else if (typeof value === 'string') members[key] = as(value)
  }
}

/** A name of a form that is no JSON. @throws Problem `input`. */
export function signerOf(c: Context, typed: string | undefined): string {
  const person = sessionOf(c)?.person
  if (person !== undefined) return person
  const read = v.safeParse(personName, typed ?? '')
  if (read.success) return read.output
  throw new Problem({
    kind: 'input',
    place: { at: 'by' },
    says: read.issues[0].message,
    remedy: 'Send the name of the person who does this.',
  })
}

/** Validates an input at the door; what does not pass is a problem that names the field. Whoever is signed in signs it. */
export function valid<Target extends keyof ValidationTargets, Schema extends v.GenericSchema>(
  target: Target,
  schema: Schema,
) {
  const validator = validating(
    target,
    schema,
    (result) => {
      if (result.success) return
      // The schemas are Valibot's, and so is what they find.
      const issue = result.error[0] as v.BaseIssue<unknown>
      throw new Problem({
        kind: 'input',
        place: { at: v.getDotPath(issue) ?? target },
        says: issue.message.replace(/\.$/, ''),
        ...(issue.expected ? { expected: issue.expected } : {}),
        found: issue.received,
        remedy: 'Mend this field and send it again.',
      })
    },
    asWritten,
  )
  all.push({ schema })
  const names = namesIn(schema).filter(({ role }) => role !== 'outsider')
  if (names.length === 0) return validator
  const signing: typeof validator = (c, next) =>
    validator(c, () => {
      const person = sessionOf(c)?.person
      if (person !== undefined)
        for (const { path, role } of names)
          sign(c.req.valid(target as never), path, (typed) =>
            role === 'signer' || typed === person ? person : `${typed}, told to ${person}`,
          )
      return next()
    })
  return Object.assign(signing, validator)
}

export const text = (max = 400) =>
  v.pipe(v.string(), v.trim(), v.minLength(1, 'This must not be empty'), v.maxLength(max))
export const release = v.object({ rule: text(80), name: signer, reason: text() })
/** How many rows of a long list are wanted. */
const howMany = v.pipe(
  v.string(),
  v.regex(/^[1-9]\d{0,3}$/, 'This is a whole number from 1 to 9999'),
  v.transform(Number),
)

/** A page of a list: the last row of the page before, and how many rows. */
export const page = v.object({ after: v.exactOptional(text(80)), count: v.exactOptional(howMany) })

/** Rows of a page where no number is asked for. */
export const pageRows = 100

/** Names the next page of a list that may go on (RFC 8288, relation `next`). */
export function linkNext(c: Context, rows: number, count: number, lastId: string | undefined): void {
  if (rows < count || lastId === undefined) return
  const url = new URL(c.req.url)
  url.searchParams.set('after', lastId)
  url.searchParams.set('count', String(count))
  c.header('link', `<${url.pathname}${url.search}>; rel="next"`)
}

/** `12.4`, as a query writes it. */
export const volts = v.pipe(
  v.string(),
  v.maxLength(20),
  v.regex(/^\d{1,3}([.,]\d+)?\s*V?$/i, 'Write volts as a number, for example 12.4'),
  v.transform((written) => Number(written.replace(/\s*V$/i, '').replace(',', '.'))),
)
/** `2026-11-24`. */
export const day = v.pipe(
  v.string(),
  v.isoDate('Write the day as 2026-11-24'),
  v.check(isDay, 'This day is in no calendar'),
)
/** A document that is read by its own schema once it is in; the body's limit is its own. */
export const openDocument = v.pipe(
  v.record(text(200), v.unknown()),
  v.maxEntries(500, 'This has more members than any document of this kind'),
  v.check((document) => allFinite(document), 'A number in it is beyond every figure'),
)

/** JSON's own numbers have no limit: 1e999 is read as infinite. */
function allFinite(value: unknown): boolean {
  if (typeof value === 'number') return Number.isFinite(value)
  return typeof value !== 'object' || value === null || Object.values(value).every(allFinite)
}
