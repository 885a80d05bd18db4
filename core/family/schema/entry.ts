import * as v from 'valibot'
import { EntryScript } from '../entry-script'
import { amount, slug, text, whole } from './fields'
import { powerState } from './power'

const EntryPower = v.pipe(
  v.strictObject({
    begins: v.pipe(powerState, v.description('How the unit stands when the entry begins')),
    ends: v.pipe(powerState, v.description('How it stands when it is in')),
  }),
  v.description('Key and switch belong to the entry: the order of power leads to where it begins'),
)

const EntryLinks = v.exactOptional(
  v.pipe(
    v.array(slug('Link')),
    v.minLength(1),
    v.description('Links that this way leads to; all of them where nothing is said'),
  ),
)

/** A way into the bootloader: by command, or by hand. */
export const EntryWay = v.variant('kind', [
  v.strictObject({
    id: slug('Short name'),
    name: text('How, to a person'),
    kind: v.literal('command'),
    send: text('Command to the running firmware'),
    links: EntryLinks,
    power: v.exactOptional(EntryPower),
    script: v.exactOptional(EntryScript),
    settleMs: amount('Usual time until the bootloader answers, ms'),
    tries: whole('How often it is worth trying', 1),
  }),
  v.strictObject({
    id: slug('Short name'),
    name: text('How, to a person'),
    kind: v.literal('by-hand'),
    steps: v.pipe(v.array(text('One thing to do')), v.minLength(1)),
    links: EntryLinks,
    power: v.exactOptional(EntryPower),
    script: v.exactOptional(EntryScript),
    settleMs: amount('Usual time until the bootloader answers, ms'),
    tries: whole('How often it is worth trying', 1),
  }),
])
export type EntryWay = v.InferOutput<typeof EntryWay>
