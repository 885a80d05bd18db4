import { describe, expect, it } from 'vitest'
import type { Component, Family } from '../../family'
import type { ImageIdentity } from '../../image'
import type { Level } from '../../kernel'
import type { UnitFacts } from '../../unit'
import type { FitImage, FitQuestion, UnitAnswers } from '../question'
import { fitRules, standingRules, stepRules } from '.'

/*
 * Every rule of fit by itself, on the side on which it passes and on the side on which it refuses: PRACTICE A2 to A5, B1 to
 * B10, G4, common practice; RFC 9124 where the rule names it (sections from memory).
 */

const region = (name: string, use: string, address: number, length: number) => ({
  name,
  use,
  address,
  length,
})
const component = {
  id: 'main',
  name: 'Main processor',
  memory: {
    erasedByte: 255,
    regions: [
      region('Bootloader', 'bootloader', 0x8000, 0x1000),
      region('Application', 'application', 0x9000, 0x1000),
      region('Settings', 'settings', 0xa000, 0x100),
      region('Second half', 'application', 0xb000, 0x1000),
    ],
  },
  identity: {
    magic: 'LAMP',
    fields: [
      { field: 'deviceIdentifier', offset: 8, type: 'ascii', length: 8 },
      { field: 'hardwareMajor', offset: 16, type: 'u8' },
    ],
  },
  version: { scheme: 'dotted', downgrade: 'refused' },
} as unknown as Component
/** A part whose images carry no identity block. */
const unlabelled = { identity: undefined }
const statement = { by: 'A. Lund', from: 'the label on the stick', at: 0 }
/** What a person says is all that is known. */
const byWord = { toldBy: 'person', statement, deviceIdentifier: undefined }
const family = {
  id: 'lamp',
  name: 'Lamp',
  components: [component, { ...component, id: 'panel', name: 'Panel' }],
  hardware: {
    deviceIdentifier: 'LM-1',
    revisions: [
      { major: 3, name: 'R3', identifiedBy: { says: 'Look at the mark.' } },
      { major: 4, name: 'R4', identifiedBy: { says: 'Or at the chip.' } },
    ],
  },
  updates: {},
} as unknown as Family
const identity: ImageIdentity = {
  familyId: 'lamp',
  componentId: 'main',
  deviceIdentifier: 'LM-1',
  hardwareMajor: 3,
  version: '2.48',
}
const unit: UnitFacts = {
  deviceIdentifier: 'LM-1',
  hardware: '3.1',
  hardwareMajor: 3,
  serial: 'S1',
  versions: { main: '2.41' },
}

interface Form {
  identity?: Partial<Record<keyof ImageIdentity, unknown>> | null
  unit?: Partial<Record<keyof UnitFacts, unknown>>
  component?: Record<string, unknown>
  family?: Record<string, unknown>
  answers?: UnitAnswers
  segments?: FitImage['segments']
  claim?: FitImage['claim']
}
/** Members that are undefined are taken out, as where nobody said them. */
const merged = <T extends object>(base: T, change: object = {}): T =>
  Object.fromEntries(Object.entries({ ...base, ...change }).filter(([, value]) => value !== undefined)) as T

function judge(id: string, form: Form) {
  const question: FitQuestion = {
    family: merged(family, form.family),
    component: merged(component, form.component),
    unit: merged(unit, form.unit),
    image: {
      name: 'x.hex',
      segments: form.segments ?? [{ address: 0x9000, length: 0x100 }],
      identity: form.identity === null ? null : merged(identity, form.identity),
      ...(form.claim === undefined ? {} : { claim: form.claim }),
    },
    ...(form.answers ? { answers: form.answers } : {}),
  }
  const found = fitRules.find((rule) => rule.id === id)!.judge(question)
  if (found) {
    expect(found.says, id).toMatch(/\S/)
    expect(found.because, id).toMatch(/\S/)
    if (found.level === 'hold' || found.level === 'stop')
      expect(found.remedy ?? (id === 'version-direction' ? 'x' : ''), `${id}: ${found.says}`).toMatch(/\S/)
  }
  return found
}

const models = {
  models: [
    { id: 'L', name: 'Large' },
    { id: 'S', name: 'Small' },
  ],
}
const withModels = { hardware: { ...family.hardware, ...models } }
const questions = [
  {
    id: 'channel',
    asks: 'Which channel carries the signal?',
    answers: [
      { id: 'low', says: 'the low one' },
      { id: 'high', says: 'the high one' },
    ],
  },
]
const options = [
  { bit: 0, id: 'watchdog', name: 'Watchdog' },
  { bit: 1, id: 'inverted', name: 'Inverted lamp' },
]
const claim = { component: 'main', sequence: 7 }
const digest = 'ab12cd34ef56ab78cd90'

const cases: [rule: string, why: string, form: Form, level: Level | null][] = [
  ['image-known', 'claimed by this family and component', {}, 'go'],
  ['image-known', 'claimed by nobody', { identity: null }, 'stop'],
  ['image-known', 'of another family', { identity: { familyId: 'horn' } }, 'stop'],
  ['image-known', 'of another component', { identity: { componentId: 'panel' } }, 'stop'],
  ['image-known', 'of a component that nobody knows', { identity: { componentId: 'x' } }, 'stop'],
  [
    'image-known',
    'of another family and the same component',
    { identity: { familyId: 'horn', componentId: 'main' } },
    'stop',
  ],

  ['device-identifier', 'equal', {}, 'go'],
  ['device-identifier', 'another', { identity: { deviceIdentifier: 'LM-2' } }, 'stop'],
  ['device-identifier', 'another on the unit', { unit: { deviceIdentifier: 'LM-10' } }, 'stop'],
  ['device-identifier', 'none in the image', { identity: { deviceIdentifier: undefined } }, 'stop'],
  ['device-identifier', 'none known of the unit', { unit: { deviceIdentifier: undefined } }, 'hold'],

  ['hardware-major', 'equal', {}, 'go'],
  ['hardware-major', 'another', { identity: { hardwareMajor: 4 } }, 'stop'],
  ['hardware-major', 'the other way round', { unit: { hardwareMajor: 4, hardware: '4.0' } }, 'stop'],
  ['hardware-major', 'none in the image', { identity: { hardwareMajor: undefined } }, 'stop'],
  [
    'hardware-major',
    'signs that disagree',
    { unit: { contradiction: 'chip A tells R3; mark B tells R4' } },
    'stop',
  ],
  ['hardware-major', 'a sign that nobody knows', { unit: { unknownSign: 'chip Q' } }, 'stop'],
  ['hardware-major', 'not known of the unit', { unit: { hardwareMajor: undefined } }, 'hold'],
  [
    'hardware-major',
    'a major that the profile does not have',
    { unit: { hardwareMajor: 5 }, identity: { hardwareMajor: 5 } },
    'stop',
  ],

  ['vendor-identifier', 'not said by the family', { identity: { vendorId: 'a' } }, null],
  [
    'vendor-identifier',
    'not said by the image',
    { family: { hardware: { ...family.hardware, vendorId: 'a' } } },
    null,
  ],
  [
    'vendor-identifier',
    'equal',
    { family: { hardware: { ...family.hardware, vendorId: 'a' } }, identity: { vendorId: 'a' } },
    'go',
  ],
  [
    'vendor-identifier',
    'another',
    { family: { hardware: { ...family.hardware, vendorId: 'a' } }, identity: { vendorId: 'b' } },
    'stop',
  ],
  ['class-identifier', 'not said by the family', { identity: { classId: 'a' } }, null],
  [
    'class-identifier',
    'not said by the image',
    { family: { hardware: { ...family.hardware, classId: 'a' } } },
    null,
  ],
  [
    'class-identifier',
    'equal',
    { family: { hardware: { ...family.hardware, classId: 'a' } }, identity: { classId: 'a' } },
    'go',
  ],
  [
    'class-identifier',
    'another',
    { family: { hardware: { ...family.hardware, classId: 'a' } }, identity: { classId: 'b' } },
    'stop',
  ],

  ['model-size', 'no models in the family', { identity: { model: 'L' }, unit: { model: 'S' } }, null],
  ['model-size', 'neither image nor component asks', { family: withModels }, null],
  ['model-size', 'neither asks, and the unit has one', { family: withModels, unit: { model: 'S' } }, null],
  ['model-size', 'equal', { family: withModels, identity: { model: 'L' }, unit: { model: 'L' } }, 'go'],
  ['model-size', 'another', { family: withModels, identity: { model: 'L' }, unit: { model: 'S' } }, 'stop'],
  ['model-size', 'not known of the unit', { family: withModels, identity: { model: 'L' } }, 'hold'],
  [
    'model-size',
    'a component of one model, unit not known',
    { family: withModels, component: { onlyOn: ['L'] } },
    'hold',
  ],
  [
    'model-size',
    'a component the model has not',
    { family: withModels, component: { onlyOn: ['L'] }, unit: { model: 'S' } },
    'stop',
  ],
  [
    'model-size',
    'a component the model has',
    { family: withModels, component: { onlyOn: ['L', 'S'] }, unit: { model: 'S' } },
    null,
  ],
  [
    'model-size',
    'a component the model has, with an image for it',
    { family: withModels, component: { onlyOn: ['L'] }, identity: { model: 'L' }, unit: { model: 'L' } },
    'go',
  ],

  ['issued-serial', 'issued for nobody, in a family that issues none', {}, null],
  [
    'issued-serial',
    'issued for nobody, in a family that issues each',
    { family: { updates: { issuedPerSerial: true } } },
    'stop',
  ],
  ['issued-serial', 'this unit', { identity: { serial: 'S1' } }, 'go'],
  ['issued-serial', 'another unit', { identity: { serial: 'S10' } }, 'stop'],
  [
    'issued-serial',
    'a serial that nobody has read',
    { identity: { serial: 'S1' }, unit: { serial: undefined } },
    'hold',
  ],

  ['memory-layout', 'no layout in the image', { unit: { layout: 'A' } }, null],
  ['memory-layout', 'equal', { identity: { layout: 'A' }, unit: { layout: 'A' } }, 'go'],
  ['memory-layout', 'another', { identity: { layout: 'A' }, unit: { layout: 'B' } }, 'stop'],
  ['memory-layout', 'not known of the unit', { identity: { layout: 'A' } }, 'hold'],

  ['chosen-variant', 'no variant', { family: { questions } }, null],
  [
    'chosen-variant',
    'a variant that no question knows',
    { family: { questions }, identity: { variant: 'middle' } },
    'hold',
  ],
  ['chosen-variant', 'a variant in a family without questions', { identity: { variant: 'low' } }, 'hold'],
  ['chosen-variant', 'not answered', { family: { questions }, identity: { variant: 'low' } }, 'hold'],
  [
    'chosen-variant',
    'another question answered',
    { family: { questions }, identity: { variant: 'low' }, answers: { other: 'low' } },
    'hold',
  ],
  [
    'chosen-variant',
    'answered so',
    { family: { questions }, identity: { variant: 'low' }, answers: { channel: 'low' } },
    'go',
  ],
  [
    'chosen-variant',
    'answered otherwise',
    { family: { questions }, identity: { variant: 'low' }, answers: { channel: 'high' } },
    'stop',
  ],

  [
    'built-options',
    'no options in the image',
    { component: { options }, unit: { options: { main: 'none' } } },
    null,
  ],
  [
    'built-options',
    'no options in the family',
    { identity: { options: 'watchdog' }, unit: { options: { main: 'none' } } },
    null,
  ],
  [
    'built-options',
    'not known of the unit',
    { component: { options }, identity: { options: 'watchdog' } },
    'hold',
  ],
  [
    'built-options',
    'known of another component',
    { component: { options }, identity: { options: 'watchdog' }, unit: { options: { panel: 'watchdog' } } },
    'hold',
  ],
  [
    'built-options',
    'the same in another order',
    {
      component: { options },
      identity: { options: 'watchdog+inverted' },
      unit: { options: { main: 'inverted+watchdog' } },
    },
    'go',
  ],
  [
    'built-options',
    'one more',
    {
      component: { options },
      identity: { options: 'watchdog+inverted' },
      unit: { options: { main: 'watchdog' } },
    },
    'hold',
  ],
  [
    'built-options',
    'one less',
    { component: { options }, identity: { options: 'none' }, unit: { options: { main: 'watchdog' } } },
    'hold',
  ],
  [
    'built-options',
    'none on both',
    { component: { options }, identity: { options: 'none' }, unit: { options: { main: 'none' } } },
    'go',
  ],

  ['protected-ranges', 'beside them all', {}, 'go'],
  [
    'protected-ranges',
    'from the first byte after the bootloader to the last before the settings',
    { segments: [{ address: 0x9000, length: 0x1000 }] },
    'go',
  ],
  [
    'protected-ranges',
    'one byte into the bootloader',
    { segments: [{ address: 0x8fff, length: 0x10 }] },
    'stop',
  ],
  [
    'protected-ranges',
    'the last byte of the bootloader alone',
    { segments: [{ address: 0x8fff, length: 1 }] },
    'stop',
  ],
  [
    'protected-ranges',
    'one byte into the settings',
    { segments: [{ address: 0x9ff0, length: 0x11 }] },
    'stop',
  ],
  ['protected-ranges', 'up to the settings', { segments: [{ address: 0x9ff0, length: 0x10 }] }, 'go'],
  [
    'protected-ranges',
    'from the first byte after the settings',
    { segments: [{ address: 0xa100, length: 0x10 }] },
    'go',
  ],
  [
    'protected-ranges',
    'the last byte of the settings',
    { segments: [{ address: 0xa0ff, length: 0x10 }] },
    'stop',
  ],
  ['protected-ranges', 'over everything', { segments: [{ address: 0, length: 0x20000 }] }, 'stop'],
  [
    'protected-ranges',
    'the second of two segments',
    {
      segments: [
        { address: 0x9000, length: 1 },
        { address: 0xa000, length: 1 },
      ],
    },
    'stop',
  ],
  [
    'protected-ranges',
    'nothing guarded',
    { component: { memory: { regions: [region('Application', 'application', 0, 0x1000)] } } },
    null,
  ],

  ['memory-bounds', 'within', {}, 'go'],
  ['memory-bounds', 'the whole of a region', { segments: [{ address: 0x9000, length: 0x1000 }] }, 'go'],
  [
    'memory-bounds',
    'both regions',
    {
      segments: [
        { address: 0x9000, length: 0x1000 },
        { address: 0xb000, length: 0x1000 },
      ],
    },
    'go',
  ],
  ['memory-bounds', 'one byte too many', { segments: [{ address: 0x9000, length: 0x1001 }] }, 'stop'],
  ['memory-bounds', 'one byte too early', { segments: [{ address: 0x8fff, length: 0x10 }] }, 'stop'],
  ['memory-bounds', 'outside all', { segments: [{ address: 0x0, length: 1 }] }, 'stop'],
  [
    'memory-bounds',
    'the second of two segments outside',
    {
      segments: [
        { address: 0x9000, length: 1 },
        { address: 0xc000, length: 1 },
      ],
    },
    'stop',
  ],
  [
    'memory-bounds',
    'across two regions with a gap',
    { segments: [{ address: 0x9800, length: 0x2000 }] },
    'stop',
  ],

  ['image-intact', 'no check in the family', {}, null],
  ['image-intact', 'whole', { identity: { intact: { ok: true, expected: 1, found: 1 } } }, 'go'],
  ['image-intact', 'damaged', { identity: { intact: { ok: false, expected: 1, found: 2 } } }, 'stop'],

  ['manifest-agrees', 'no manifest', {}, null],
  ['manifest-agrees', 'a manifest for an image that nobody knows', { identity: null, claim }, null],
  ['manifest-agrees', 'the same', { claim: { ...claim, version: '2.48' } }, 'go'],
  ['manifest-agrees', 'another version', { claim: { ...claim, version: '2.49' } }, 'stop'],
  ['manifest-agrees', 'another component', { claim: { ...claim, component: 'panel' } }, 'stop'],

  ['test-release', 'not said', {}, null],
  ['test-release', 'production', { identity: { release: 'production' } }, 'go'],
  ['test-release', 'test', { identity: { release: 'test' } }, 'hold'],
  ['test-release', 'anything else', { identity: { release: 'night' } }, 'hold'],

  ['version-direction', 'newer', {}, 'go'],
  ['version-direction', 'the same', { identity: { version: '2.41' } }, 'hold'],
  ['version-direction', 'the same, written otherwise', { identity: { version: '2.41.0' } }, 'hold'],
  ['version-direction', 'older, refused by the family', { identity: { version: '2.40' } }, 'stop'],
  [
    'version-direction',
    'older, held by the family',
    { identity: { version: '2.40' }, component: { version: { scheme: 'dotted', downgrade: 'held' } } },
    'hold',
  ],
  [
    'version-direction',
    'older, allowed by the family',
    { identity: { version: '2.40' }, component: { version: { scheme: 'dotted', downgrade: 'allowed' } } },
    'note',
  ],
  ['version-direction', 'not comparable', { identity: { version: 'x' } }, 'hold'],
  ['version-direction', 'none in the image', { identity: { version: undefined } }, 'hold'],
  ['version-direction', 'none known of the unit', { unit: { versions: {} } }, 'note'],
  ['version-direction', 'known of another component', { unit: { versions: { panel: '9.9' } } }, 'note'],

  ['required-range', 'asks for nothing', {}, null],
  ['required-range', 'from the very version', { identity: { requiresFrom: '2.41' } }, 'go'],
  ['required-range', 'from an older one', { identity: { requiresFrom: '2.40' } }, 'go'],
  ['required-range', 'from a newer one', { identity: { requiresFrom: '2.42' } }, 'stop'],
  ['required-range', 'below a newer one', { identity: { requiresBelow: '2.42' } }, 'go'],
  ['required-range', 'below the very version', { identity: { requiresBelow: '2.41' } }, 'stop'],
  ['required-range', 'below an older one', { identity: { requiresBelow: '2.40' } }, 'stop'],
  ['required-range', 'within both', { identity: { requiresFrom: '2.41', requiresBelow: '2.42' } }, 'go'],
  ['required-range', 'above both', { identity: { requiresFrom: '2.30', requiresBelow: '2.40' } }, 'stop'],
  ['required-range', 'not comparable from below', { identity: { requiresFrom: 'x' } }, 'stop'],
  ['required-range', 'not comparable from above', { identity: { requiresBelow: 'x' } }, 'stop'],
  [
    'required-range',
    'not known of the unit',
    { identity: { requiresFrom: '2.41' }, unit: { versions: {} } },
    'hold',
  ],

  ['precursor-digest', 'asks for none', { unit: { digests: { main: digest } } }, null],
  [
    'precursor-digest',
    'the very image',
    { identity: { precursor: digest }, unit: { digests: { main: digest } } },
    'go',
  ],
  [
    'precursor-digest',
    'as far as the shorter says',
    { identity: { precursor: digest.slice(0, 8) }, unit: { digests: { main: digest } } },
    'go',
  ],
  [
    'precursor-digest',
    'another image',
    { identity: { precursor: digest }, unit: { digests: { main: `${digest.slice(0, -1)}1` } } },
    'stop',
  ],
  [
    'precursor-digest',
    'one that differs in its first digit',
    { identity: { precursor: digest }, unit: { digests: { main: `b${digest.slice(1)}` } } },
    'stop',
  ],
  ['precursor-digest', 'not known of the unit', { identity: { precursor: digest } }, 'hold'],
  [
    'precursor-digest',
    'known of another component',
    { identity: { precursor: digest }, unit: { digests: { panel: digest } } },
    'hold',
  ],
  [
    'precursor-digest',
    'too short to tell one image from another',
    { identity: { precursor: digest }, unit: { digests: { main: 'ab12cd3' } } },
    'hold',
  ],
  ['precursor-digest', 'empty', { identity: { precursor: digest }, unit: { digests: { main: '' } } }, 'hold'],

  ['sequence-number', 'not said by the image', { unit: { sequences: { main: 7 } } }, null],
  ['sequence-number', 'not known of the unit', { identity: { sequence: 8 } }, null],
  ['sequence-number', 'the next', { identity: { sequence: 8 }, unit: { sequences: { main: 7 } } }, 'go'],
  ['sequence-number', 'the same', { identity: { sequence: 7 }, unit: { sequences: { main: 7 } } }, 'stop'],
  [
    'sequence-number',
    'an older one',
    { identity: { sequence: 6 }, unit: { sequences: { main: 7 } } },
    'stop',
  ],
  [
    'sequence-number',
    'an older one where older versions are allowed',
    {
      identity: { sequence: 6 },
      unit: { sequences: { main: 7 } },
      component: { version: { scheme: 'dotted', downgrade: 'allowed' } },
    },
    'hold',
  ],
]

// LINKS.md, "Image without a label inside": block, text, manifest, list of releases, a named person; the last is a hold.
const ladder: typeof cases = [
  ['image-known', 'told by a text', { component: unlabelled, identity: { toldBy: 'text' } }, 'go'],
  ['image-known', 'told by its digest', { component: unlabelled, identity: { toldBy: 'release' } }, 'go'],
  ['image-known', 'told by a manifest that nobody signed', { identity: { toldBy: 'manifest' } }, 'note'],
  ['image-known', 'told by a person alone', { component: unlabelled, identity: byWord }, 'hold'],
  [
    'image-known',
    'a person’s word about another part',
    { identity: { ...byWord, componentId: 'panel' } },
    'stop',
  ],
  [
    'image-known',
    'nothing tells it, and its like has no block',
    { component: unlabelled, identity: null },
    'stop',
  ],
  ['ways-agree', 'two that say the same', { identity: { alsoToldBy: ['release'] } }, 'go'],
  ['ways-agree', 'one alone', {}, null],
  [
    'ways-agree',
    'two that differ',
    { identity: { contradictions: ['version: one says 1, one says 2'] } },
    'stop',
  ],
  [
    'device-identifier',
    'images carry none, and the text ties it to the family',
    { component: unlabelled, identity: { toldBy: 'text', deviceIdentifier: undefined } },
    'go',
  ],
  [
    'device-identifier',
    'images carry none, and the unit is another one',
    {
      component: unlabelled,
      identity: { toldBy: 'text', deviceIdentifier: undefined },
      unit: { deviceIdentifier: 'LM-2' },
    },
    'stop',
  ],
  [
    'hardware-major',
    'nobody says it, and there are two',
    { component: unlabelled, identity: { toldBy: 'text', hardwareMajor: undefined } },
    'hold',
  ],
  [
    'hardware-major',
    'nobody says it, and there is one',
    {
      component: unlabelled,
      identity: { toldBy: 'text', hardwareMajor: undefined },
      family: { hardware: { ...family.hardware, revisions: family.hardware.revisions.slice(0, 1) } },
    },
    'note',
  ],
  [
    'hardware-major',
    'one there is, and the unit is another',
    {
      component: unlabelled,
      identity: { toldBy: 'text', hardwareMajor: undefined },
      unit: { hardwareMajor: 4 },
      family: { hardware: { ...family.hardware, revisions: family.hardware.revisions.slice(0, 1) } },
    },
    'stop',
  ],
  [
    'hardware-major',
    'told by the list',
    { component: unlabelled, identity: { toldBy: 'text', filledBy: { hardwareMajor: 'release' } } },
    'go',
  ],
  [
    'hardware-major',
    'told by a person where the rest is told by a text',
    { component: unlabelled, identity: { toldBy: 'text', filledBy: { hardwareMajor: 'person' }, statement } },
    'hold',
  ],
  [
    'hardware-major',
    'a person says another than the unit’s',
    {
      component: unlabelled,
      identity: { toldBy: 'text', hardwareMajor: 4, filledBy: { hardwareMajor: 'person' }, statement },
    },
    'stop',
  ],
  [
    'hardware-major',
    'all stands on one person’s word, which is held already',
    { component: unlabelled, identity: byWord },
    'go',
  ],
  [
    'version-direction',
    'the version is a person’s word where the rest is told by a text',
    { identity: { toldBy: 'text', filledBy: { version: 'person' }, statement } },
    'hold',
  ],
  [
    'version-direction',
    'the version stands in the list',
    { identity: { toldBy: 'text', filledBy: { version: 'release' } } },
    'go',
  ],
]
cases.push(...ladder)

describe('every rule of fit', () => {
  it('says what it rests on where that is no identity block', () => {
    const text = {
      component: unlabelled,
      identity: { toldBy: 'text', filledBy: { hardwareMajor: 'release' } },
    }
    expect(judge('image-known', text)!.because).toMatch(/text in it/)
    expect(judge('hardware-major', text)!.because).toMatch(/list of releases/)
    expect(judge('version-direction', text)!.because).toMatch(/text in it/)
    const word = judge('image-known', { component: unlabelled, identity: byWord })!
    expect(word.says).toContain('A. Lund')
    expect(word.because).toContain('the label on the stick')
  })
  it.each(cases)('%s: %s', (rule, _why, form, level) => {
    expect(judge(rule, form)?.level ?? null).toBe(level)
  })
  it('is driven here on its refusing side and, where it has one, on its passing side', () => {
    for (const { id } of fitRules) {
      const levels = cases.filter(([rule]) => rule === id).map(([, , , level]) => level)
      expect(
        levels.some((level) => level === 'stop' || level === 'hold'),
        id,
      ).toBe(true)
      expect(levels, id).toContain('go')
    }
  })
  it('stands in one list: on the image and unit, or on the step', () => {
    expect(fitRules).toEqual([...standingRules, ...stepRules])
    expect(new Set(fitRules.map(({ id }) => id)).size).toBe(fitRules.length)
  })
  it('names the figures it rests on', () => {
    expect(judge('memory-bounds', { segments: [{ address: 0x9000, length: 0x1001 }] })).toMatchObject({
      says: 'The image lies outside the memory that may be written.',
      because: expect.stringMatching(
        /^It sets 0x00009000 to 0x0000A000; the application is 0x00009000 to 0x00009FFF, 0x0000B000 to 0x0000BFFF\.$/,
      ),
      numbers: { imageBytes: 0x1001, roomBytes: 0x2000 },
    })
    expect(judge('memory-bounds', { segments: [{ address: 0x9000, length: 0x2001 }] })!.says).toMatch(
      /^The image is larger than the memory: 8\s193 bytes in 8\s192 bytes\.$/,
    )
    expect(judge('protected-ranges', { segments: [{ address: 0x8fff, length: 2 }] })).toMatchObject({
      says: 'The image would write over the bootloader.',
      because: 'It sets 0x00008FFF to 0x00009000; the bootloader is 0x00008000 to 0x00008FFF.',
    })
    expect(judge('protected-ranges', {})!.says).toBe('It leaves bootloader and settings alone.')
    expect(judge('hardware-major', { identity: { hardwareMajor: 4 } })!.numbers).toEqual({
      imageMajor: 4,
      unitMajor: 3,
    })
    expect(judge('hardware-major', { unit: { hardware: 'R4', hardwareMajor: 4 } })!.says).toMatch(
      /this unit is R4\.$/,
    )
    expect(judge('hardware-major', { unit: { hardware: '4.2', hardwareMajor: 4 } })!.says).toMatch(
      /this unit is hardware 4\.2\.$/,
    )
    expect(judge('hardware-major', { unit: { hardware: undefined, hardwareMajor: 4 } })!.says).toMatch(
      /hardware 4\.$/,
    )
    expect(judge('hardware-major', { unit: { hardwareMajor: undefined } })!.remedy).toBe(
      'Read the unit. Look at the mark. Or at the chip.',
    )
    expect(
      judge('required-range', { identity: { requiresFrom: '2.42', requiresBelow: '3.0' } }),
    ).toMatchObject({
      says: 'The image goes on versions from 2.42 and below 3.0; the unit has 2.41.',
      remedy: 'Bring the unit to 2.42 first.',
    })
    expect(judge('required-range', { identity: { requiresBelow: '2.41' } })!.remedy).toBe(
      'Choose an image that goes on 2.41.',
    )
    expect(
      judge('built-options', {
        component: { options },
        identity: { options: 'watchdog+odd' },
        unit: { options: { main: 'none' } },
      })!.says,
    ).toBe('The image is built with Watchdog, odd; the unit has no options.')
    expect(judge('image-known', { identity: { componentId: 'panel' } })!.says).toBe(
      'x.hex is for another part of it: Panel.',
    )
    expect(judge('image-known', { identity: { componentId: 'x' } })!.says).toBe(
      'x.hex is for another part of it: x.',
    )
    expect(judge('image-known', { identity: { familyId: 'horn' } })!.says).toBe(
      'x.hex is for other equipment: horn, main.',
    )
    expect(judge('chosen-variant', { family: { questions }, identity: { variant: 'middle' } })!.because).toBe(
      'Known: low, high.',
    )
    expect(judge('chosen-variant', { identity: { variant: 'middle' } })!.because).toBe('Known: none.')
    expect(
      judge('chosen-variant', {
        family: { questions },
        identity: { variant: 'low' },
        answers: { channel: 'odd' },
      })!.says,
    ).toMatch(/used with odd\.$/)
    expect(judge('model-size', { family: withModels, identity: { model: 'L' } })!.because).toBe(
      'The image is for the L.',
    )
    expect(judge('model-size', { family: withModels, component: { onlyOn: ['L', 'X'] } })!.because).toBe(
      'Only the L and X has a main processor.',
    )
    expect(
      judge('sequence-number', { identity: { sequence: 8 }, unit: { sequences: { main: 7 } } })!.numbers,
    ).toEqual({ imageSequence: 8, unitSequence: 7 })
    expect(judge('version-direction', { identity: { version: '2.40' } })!.remedy).toBe(
      'Choose 2.41 or newer.',
    )
  })
})
