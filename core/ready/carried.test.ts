import { describe, expect, it } from 'vitest'
import { carriedBench, carriedText, type BenchInputs } from '.'

/* PRACTICE C2, D1, F4, common practice: cable and battery stay; volts, plugs and switches are looked at each time. */

const whole: BenchInputs = {
  chemistry: 'lead-acid',
  cells: 6,
  capacityAh: 100,
  charge: 0.9,
  celsius: 12,
  leadOhms: 0.02,
  lead: { metres: 2, squareMillimetres: 4 },
  shed: ['lamp'],
  charger: { amps: 10, volts: 14.4 },
  measured: { volts: 12.6, shed: [], charger: null },
  wiring: {
    linkId: 'cable',
    adapterId: 'usb-lead',
    joins: [
      ['TX', 'RX'],
      ['GND', 'GND'],
    ],
    level: 3.3,
    contact: 'soldered',
    feeding: true,
    unitFed: false,
    ohms: 60,
    faces: true,
  },
  isolation: { unplugged: ['other'], alone: true },
  order: ['mains-dead'],
  back: ['cover-on'],
  laptop: { charge: 0.5, at: 1, watts: 20, wattHours: 50 } as never,
}

describe('what a bench carries to the next job', () => {
  it('is cable, wires and what feeds the unit', () => {
    expect(carriedBench(whole, true)).toEqual({
      wiring: {
        linkId: 'cable',
        adapterId: 'usb-lead',
        joins: [
          ['TX', 'RX'],
          ['GND', 'GND'],
        ],
        level: 3.3,
        contact: 'soldered',
      },
      chemistry: 'lead-acid',
      cells: 6,
      capacityAh: 100,
      leadOhms: 0.02,
      lead: { metres: 2, squareMillimetres: 4 },
    })
  })
  it('is never a measurement, a tick, or which supply is on', () => {
    const carried = JSON.stringify(carriedBench(whole, true))
    for (const part of [
      'measured',
      'celsius',
      'charge',
      'charger',
      'shed',
      'isolation',
      'order',
      'back',
      'laptop',
      'feeding',
      'unitFed',
      'ohms',
      'faces',
    ])
      expect(carried, part).not.toContain(`"${part}"`)
  })
  it('of another unit of the family is the cable alone', () => {
    expect(Object.keys(carriedBench(whole, false)!)).toEqual(['wiring'])
    const { wiring: _wiring, ...rest } = whole
    expect(carriedBench(rest, false)).toBeNull()
    expect(carriedBench({ order: ['mains-dead'] }, true)).toBeNull()
  })
  it('is told in words before anybody says yes to it', () => {
    const family = { links: [{ id: 'cable', name: 'Service cable' }] } as never
    const adapters = [{ id: 'usb-lead', name: 'USB lead 3' }]
    expect(carriedText(carriedBench(whole, true)!, family, adapters)).toEqual([
      'USB lead 3',
      'Service cable, 2 wires',
      expect.stringMatching(/, 6 cells, 100 Ah$/),
      'lead of 2 m, 4 mm²',
    ])
    // An adapter that is not in the drawer any more is not named.
    expect(carriedText(carriedBench(whole, false)!, family, [])).toEqual(['Service cable, 2 wires'])
  })
})
