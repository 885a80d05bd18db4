import * as v from 'valibot'

/*
 * How a person brings a unit into its bootloader, as data: what the hands do and when, and what the unit shows then.
 * What the script means is in core/entry; what is wrong with one is told by checkScript there.
 */

const text = (says: string) => v.pipe(v.string(), v.trim(), v.minLength(1), v.description(says))
const ms = (says: string) => v.pipe(v.number(), v.minValue(0), v.description(says))
const slug = (says: string) =>
  v.pipe(
    v.string(),
    v.regex(/^[a-z0-9]+(-[a-z0-9]+)*$/, 'Use lower-case letters, digits and single hyphens: "hold-button"'),
    v.description(says),
  )

/** What a hand, a foot, a helper or the program does. */
export const actKinds = [
  'hold',
  'release',
  'press',
  'apply',
  'remove',
  'plug',
  'unplug',
  'confirm',
  'send',
] as const
/** Who does it. */
export const actRoles = ['left', 'right', 'foot', 'helper', 'program'] as const
/** What stands on a unit's face. */
export const panelKinds = [
  'key',
  'button',
  'trim',
  'switch',
  'jack',
  'connector',
  'lamp',
  'display',
  'relay',
  'sounder',
] as const
/** How a lamp, a display or the like shows itself. */
export const shownKinds = ['dark', 'steady', 'blinking', 'text', 'quiet', 'chatter', 'tune'] as const

const Act = v.strictObject({
  id: slug('Short name'),
  act: v.pipe(v.picklist(actKinds), v.description('What is done')),
  what: text('The part of the panel it is done to, or the supply, or what is sent'),
  by: v.pipe(v.picklist(actRoles), v.description('Who does it; a hand holds one thing at a time')),
  says: text('The one instruction, as it is read from two metres'),
  within: v.exactOptional(
    v.pipe(
      v.strictObject({ minMs: ms('Not before, ms after the act before'), maxMs: ms('Not after') }),
      v.description('When it has to be done; at leisure when absent'),
    ),
  ),
  early: v.exactOptional(text('What it means when it came too early')),
  late: v.exactOptional(text('What it means when it came too late')),
  then: v.exactOptional(slug('The act that follows, where it is not the next one of the list')),
  leaves: v.exactOptional(
    v.pipe(
      v.picklist(['on', 'off']),
      v.description(
        'How the unit is left where the act switches it by other means than `apply` and `remove`',
      ),
    ),
  ),
})

const Sign = v.strictObject({
  id: slug('Short name'),
  says: text('What is seen or heard: "lamp dark"'),
  part: v.exactOptional(slug('The part of the panel that shows it')),
  shown: v.pipe(v.picklist(shownKinds), v.description('How it shows')),
  text: v.exactOptional(text('What a display reads then')),
  tells: v.pipe(v.picklist(['in', 'not-in']), v.description('Whether the unit is in its bootloader')),
  means: text('What it means'),
  do: v.exactOptional(text('What to do about it')),
})

/** The acts of an entry and the signs by which it is told. */
export const EntryScript = v.strictObject({
  kind: v.pipe(
    v.picklist([
      'keys-at-power',
      'button-then-plug',
      'trims',
      'loader-first',
      'loader-then-off',
      'command',
      'join-and-confirm',
      'service-page',
      'by-wire',
      'out-of-socket',
    ]),
    v.description('Which of the trade’s ways it is'),
  ),
  acts: v.pipe(v.array(Act), v.minLength(1), v.description('In order, each try from power off')),
  signs: v.pipe(v.array(Sign), v.minLength(1), v.description('What the unit shows after the last act')),
  signWithinMs: ms('Usual time until it shows, ms'),
})

/** What a unit shows, for a picture of it. */
export const Panel = v.strictObject({
  name: text('Which face of the unit is drawn'),
  parts: v.pipe(
    v.array(
      v.strictObject({
        id: slug('Short name'),
        name: text('As it is printed or called'),
        kind: v.picklist(panelKinds),
        x: v.pipe(v.number(), v.minValue(0), v.maxValue(100), v.description('From the left, percent')),
        y: v.pipe(v.number(), v.minValue(0), v.maxValue(100), v.description('From the top, percent')),
        rests: v.exactOptional(
          v.pipe(v.picklist(shownKinds), v.description('How it shows when the unit runs as usual')),
        ),
      }),
    ),
    v.minLength(1),
  ),
})

export type EntryScript = v.InferOutput<typeof EntryScript>
/** An act of an entry. */
export type EntryAct = EntryScript['acts'][number]
/** A sign by which an entry is told. */
export type EntrySign = EntryScript['signs'][number]
/** What is done in an act. */
export type ActKind = EntryAct['act']
/** Who does it. */
export type ActRole = EntryAct['by']
export type Panel = v.InferOutput<typeof Panel>
/** A part of a unit’s panel. */
export type PanelPart = Panel['parts'][number]
/** What a sign shows. */
export type Shown = EntrySign['shown']
