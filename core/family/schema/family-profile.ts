import * as v from 'valibot'
import { Panel } from '../entry-script'
import { PostUpdateTasks } from './post-update-tasks'
import { Isolation, Kit } from './bench'
import { Component } from './component'
import { EntryWay } from './entry'
import { slug, text, whole } from './fields'
import { Hardware } from './hardware'
import { FamilyLink } from './links'
import { Power, PowerOrder } from './power'
import { KnownReleases } from './releases'
import { Asks, Backup, ChipReplacement, Restart, Retries, Stages } from './run'
import { SnapshotLine } from './snapshot'
import { Advisories, Factory, Questions, Updates } from './updates'

/*
 * The family profile: what one kind of equipment is, as data. This schema is the only definition; the JSON
 * Schema in docs/family.schema.json is made from it (npm run schema), and a test keeps the two in step.
 *
 * In the document addresses and lengths of memory are written as hexadecimal text, "0x08008000", because that
 * is how the trade writes and checks them; read, they are numbers.
 */

/** A profile: all that is known of a kind of equipment. */
export const FamilyProfile = v.strictObject({
  format: v.literal('bench-wake/family'),
  formatVersion: v.literal(2),
  id: slug('Short name of the family, never changed'),
  revision: whole('Counts up with every change of the profile', 1),
  name: text('What people call this equipment'),
  summary: text('What it is, in a sentence'),
  hardware: Hardware,
  components: v.pipe(v.array(Component), v.minLength(1)),
  snapshot: v.pipe(v.array(SnapshotLine), v.minLength(1), v.description('In the order of the unit’s page')),
  links: v.pipe(v.array(FamilyLink), v.minLength(1)),
  entry: v.pipe(v.array(EntryWay), v.minLength(1)),
  panel: v.exactOptional(v.pipe(Panel, v.description('The unit’s face, for the drawing of the coach'))),
  updates: Updates,
  releases: v.exactOptional(KnownReleases),
  questions: v.exactOptional(Questions),
  advisories: v.exactOptional(Advisories),
  factory: v.exactOptional(Factory),
  restart: Restart,
  power: Power,
  powerOrder: v.exactOptional(PowerOrder),
  isolation: v.exactOptional(Isolation),
  kit: v.exactOptional(Kit),
  retries: v.exactOptional(Retries),
  backup: v.exactOptional(Backup),
  asks: v.exactOptional(Asks),
  chipReplacement: v.exactOptional(ChipReplacement),
  postUpdateTasks: v.exactOptional(PostUpdateTasks),
  stages: Stages,
})

/** A family profile as it is written and exchanged. */
export type FamilyDocument = v.InferInput<typeof FamilyProfile>
/** The same, read: addresses are numbers. */
export type Family = v.InferOutput<typeof FamilyProfile>
