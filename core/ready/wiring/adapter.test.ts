import type { FamilyLink, Pin } from '../../family'
import * as v from 'valibot'
import { describe, expect, it } from 'vitest'
import { Adapter, adapterKindOf, isSignal, pinText, WiringSay } from '.'
import { isLogic } from './question'

/* What a person says of a cable, an adapter and its wires, at the edge of what is taken. */

const cable = {
  id: 'own-cable-2',
  name: 'Service cable',
  kind: 'serial',
  form: 'converter',
  pins: [{ id: '1', name: 'TX', role: 'transmit', volts: 3.3 }],
  levels: [3.3],
  terminator: false,
  ownPart: true,
  standing: 'good',
}
const takes = (change: object) => v.safeParse(Adapter, { ...cable, ...change }).success
const pin = (change: object) => ({ pins: [{ ...cable.pins[0], ...change }] })
const long = (count: number) => 'x'.repeat(count)

describe('an adapter', () => {
  it('is taken as it is written, without blanks around its name', () => {
    expect(v.parse(Adapter, { ...cable, name: '  Service cable ' })).toEqual(cable)
  })
  it.each<[string, object, object]>([
    ['a name of letters, digits and hyphens', { id: 'a1-b2-c3' }, { id: 'A-1' }],
    ['no hyphen at its end', { id: 'a-b' }, { id: 'a-' }],
    ['none at its beginning', { id: 'b' }, { id: '-b' }],
    ['none twice', { id: 'a-b-c' }, { id: 'a--b' }],
    ['a name of 80 characters', { id: long(80) }, { id: long(81) }],
    ['a word for it', { name: 'x' }, { name: ' ' }],
    ['no more than 120 characters of it', { name: long(120) }, { name: long(121) }],
    ['a form that there is', { form: 'pass-through' }, { form: 'other' }],
    ['at least one pin', {}, { pins: [] }],
    ['64 pins', { pins: Array(64).fill(cable.pins[0]) }, { pins: Array(65).fill(cable.pins[0]) }],
    ['20 characters for a pin', pin({ id: long(20) }), pin({ id: long(21) })],
    ['no pin without a name', pin({ name: 'x' }), pin({ name: '' })],
    ['a pin of 1 000 V', pin({ volts: 1000 }), pin({ volts: 1000.1 })],
    ['none below nought', pin({ volts: 0 }), pin({ volts: -0.1 })],
    ['no pin that says more than a pin does', {}, pin({ colour: 'red' })],
    ['levels from half a volt', { levels: [0.5] }, { levels: [0.4] }],
    ['to sixty', { levels: [60] }, { levels: [60.1] }],
    ['six of them', { levels: Array(6).fill(5) }, { levels: Array(7).fill(5) }],
    ['a jack', { jack: long(60) }, { jack: long(61) }],
    ['why it is good or bad', { standingWhy: long(400) }, { standingWhy: long(401) }],
    ['its serial', { serial: long(80) }, { serial: long(81) }],
    [
      'a vendor of four digits',
      { usb: { vendorId: '0aF1', productId: '0001' } },
      { usb: { vendorId: '0aF', productId: '0001' } },
    ],
    ['and no more', {}, { usb: { vendorId: '0aF1b', productId: '0001' } }],
    ['hexadecimal ones', {}, { usb: { vendorId: '0aG1', productId: '0001' } }],
    ['a product likewise', {}, { usb: { vendorId: '0aF1', productId: '00001' } }],
    ['neither longer in front', {}, { usb: { vendorId: '0aF1', productId: 'x0001' } }],
    ['nor without one of them', {}, { usb: { vendorId: '0aF1' } }],
    ['nothing that nobody knows', {}, { weight: 1 }],
  ])('has %s', (_, well, ill) => {
    expect([takes(well), takes(ill)]).toEqual([true, false])
  })
  it.each(['serial', 'rs485', 'can', 'kline', 'debug', 'chip', 'six-line', 'usb'])('may be for %s', (kind) =>
    expect(takes({ kind })).toBe(true),
  )
  it('is for nothing else, and stands as one of three', () => {
    expect(takes({ kind: 'parallel' })).toBe(false)
    for (const standing of ['good', 'bad', 'untried']) expect(takes({ standing })).toBe(true)
    expect(takes({ standing: '' })).toBe(false)
  })
})

describe('what is said of the wiring', () => {
  const said = (change: object) => v.safeParse(WiringSay, { linkId: 'a', joins: [], ...change }).success
  it.each<[string, object, object]>([
    ['pairs of pins', { joins: [['1', '2']] }, { joins: [['1']] }],
    ['no pin without a name', {}, { joins: [['1', '']] }],
    ['80 of them', { joins: Array(80).fill(['1', '2']) }, { joins: Array(81).fill(['1', '2']) }],
    ['a level from nought', { level: 0 }, { level: -1 }],
    ['to sixty volts', { level: 60 }, { level: 61 }],
    ['ohms from nought', { ohms: 0 }, { ohms: -1 }],
    ['to ten million', { ohms: 1e7 }, { ohms: 1e7 + 1 }],
    ['no level, said so', { level: null, adapterId: null, unitFed: null, ohms: null }, { feeding: null }],
    ['a contact that there is', { contact: 'plug' }, { contact: 'glued' }],
    ['nothing that nobody knows', {}, { colour: 'red' }],
  ])('has %s', (_, well, ill) => {
    expect([said(well), said(ill)]).toEqual([true, false])
  })
  it.each(['plug', 'soldered', 'ribbon', 'held'])('is held by %s', (contact) =>
    expect(said({ contact })).toBe(true),
  )
})

describe('a pin', () => {
  const of = (role: string) => ({ id: '3', name: 'RX', role }) as Pin
  // Common practice: what is no supply, no ground and not open carries a signal; volts against ground are told of single
  // wires alone: a pair tells them against each other, and USB brings its own.
  it.each([
    ['ground', false, false],
    ['supply', false, false],
    ['none', false, false],
    ['transmit', true, true],
    ['receive', true, true],
    ['line', true, true],
    ['reset', true, true],
    ['clock', true, true],
    ['data', true, true],
    ['data-in', true, true],
    ['data-out', true, true],
    ['select', true, true],
    ['usb', true, false],
    ['bus-high', true, false],
    ['bus-low', true, false],
  ])('of %s is a signal: %s, told against ground: %s', (role, signal, logic) => {
    expect([isSignal(of(role)), isLogic(of(role))]).toEqual([signal, logic])
  })
  it('is called by its name, with its number where that is another', () => {
    expect(pinText(of('receive'))).toBe('RX (pin 3)')
    expect(pinText({ ...of('receive'), id: 'RX' })).toBe('RX')
  })
})

it.each([
  ['serial', 'serial'],
  ['rs485', 'rs485'],
  ['can', 'can'],
  ['kline', 'kline'],
  ['debug', 'debug'],
  ['chip', 'chip'],
  ['six-line', 'six-line'],
  ['usb', 'usb'],
  ['media', null],
])('a link over %s wants an adapter for %s', (kind, wanted) => {
  expect(adapterKindOf({ kind } as FamilyLink)).toBe(wanted)
})
