import type { BenchInputs } from '@bench-wake/core/ready'

const measured = (volts: number, form: Partial<NonNullable<BenchInputs['measured']>> = {}) => ({
  volts,
  shed: [],
  charger: null,
  ...form,
})
const laptop = { onMains: true, minutesLeft: null }

/** A bench for each family as a careful technician sets it: measured, joined, isolated, in order. */
export const demoBenches: Record<string, BenchInputs> = {
  'fog-signal': {
    laptop,
    measured: measured(12.6),
    wiring: {
      linkId: 'service',
      adapterId: 'fog-cable',
      joins: [
        ['GND', '1'],
        ['TX', '3'],
        ['RX', '2'],
      ],
      unitFed: true,
    },
  },
  'marine-radio': {
    laptop,
    measured: measured(8.1),
    order: ['fresh-cells', 'antenna-off', 'radio-on'],
    wiring: {
      linkId: 'cable',
      adapterId: 'radio-cable',
      joins: [
        ['sleeve', 'sleeve'],
        ['ring', 'ring'],
        ['tip', 'tip'],
      ],
      unitFed: true,
      faces: true,
    },
  },
  'station-inverter': {
    laptop,
    measured: measured(53.2, { shed: ['pumps', 'heater'] }),
    shed: ['pumps', 'heater'],
    order: ['loads-off', 'battery-full', 'panels-off'],
    isolation: { unplugged: ['second-inverter', 'monitor'], alone: true },
    wiring: {
      linkId: 'bus',
      adapterId: 'rs485-screw',
      joins: [
        ['A', 'A'],
        ['B', 'B'],
        ['G', 'G'],
      ],
      unitFed: true,
      ohms: 60,
    },
  },
  'buoy-battery': {
    laptop,
    measured: measured(13.2, { shed: ['lantern'] }),
    shed: ['lantern'],
    order: ['pack-vented', 'pack-on'],
    isolation: {
      unplugged: ['other-packs', 'buoy-controller'],
      levers: [true, false, false, false],
      alone: true,
    },
    wiring: {
      linkId: 'bus',
      adapterId: 'pack-cable',
      joins: [
        ['1', '1'],
        ['2', '2'],
        ['7', '7'],
      ],
      unitFed: true,
      ohms: 61,
    },
  },
  'launch-motor': {
    laptop,
    celsius: 8,
    shed: ['headlamps'],
    charger: { amps: 6, volts: 14.4 },
    measured: measured(12.08),
    order: ['out-of-water', 'key-on'],
    isolation: { alone: true },
    wiring: {
      linkId: 'bus',
      adapterId: 'can-adapter',
      joins: [
        ['H', '6'],
        ['L', '14'],
        ['GND', '5'],
      ],
      unitFed: true,
      ohms: 60,
    },
  },
  'beacon-receiver': {
    laptop,
    measured: measured(3.3),
    order: ['one-supply', 'strap-on'],
    wiring: {
      linkId: 'pads',
      adapterId: 'debug-probe',
      joins: [
        ['3', 'G'],
        ['4', 'C'],
        ['2', 'D'],
        ['5', 'R'],
      ],
      level: 3.3,
      unitFed: true,
      faces: true,
      contact: 'soldered',
    },
  },
  'tide-logger': {
    laptop,
    measured: measured(5),
    order: ['lid-dry', 'cable-in'],
    wiring: { linkId: 'usb', adapterId: 'usb-lead', joins: [['1', '1']], unitFed: true, faces: true },
  },
  'boat-davit': {
    laptop,
    measured: measured(25.4, { shed: ['deck-light'] }),
    shed: ['deck-light'],
    order: ['no-load', 'brake-on', 'main-on'],
    isolation: { unplugged: ['remote-panel'], alone: true },
    wiring: {
      linkId: 'panel',
      adapterId: 'davit-cable',
      joins: [
        ['1', '1'],
        ['2', '2'],
        ['3', '3'],
      ],
      unitFed: true,
    },
  },
  'mains-relay': {
    laptop,
    measured: measured(3.3),
    order: ['mains-dead', 'relay-out', 'feed-on'],
    wiring: {
      linkId: 'header',
      adapterId: 'serial-switched',
      joins: [
        ['VCC', '1'],
        ['TX', '2'],
        ['RX', '3'],
        ['GND', '4'],
      ],
      level: 3.3,
      feeding: true,
      unitFed: false,
      faces: true,
    },
  },
  'tide-gate-controller': {
    laptop,
    measured: measured(25.4),
    order: ['gate-locked', 'supply-on'],
    wiring: {
      linkId: 'console',
      adapterId: 'gate-cable',
      joins: [
        ['5', '1'],
        ['3', '2'],
        ['2', '3'],
      ],
      level: 12,
      unitFed: true,
    },
  },
  'crane-scale': {
    laptop,
    measured: measured(6.5),
    order: ['off-hook', 'scale-on'],
    wiring: {
      linkId: 'cable',
      adapterId: 'serial-switched',
      joins: [
        ['GND', '1'],
        ['TX', '2'],
        ['RX', '3'],
      ],
      level: 3.3,
      unitFed: true,
    },
  },
  'signal-desk': {
    laptop,
    measured: measured(3.3),
    order: ['desk-dead', 'strap-on'],
    wiring: {
      linkId: 'socket',
      adapterId: 'chip-clip',
      joins: [
        ['1', '1'],
        ['2', '2'],
        ['4', '4'],
        ['5', '5'],
        ['6', '6'],
        ['8', '8'],
      ],
      level: 3.3,
      feeding: true,
      unitFed: false,
      faces: true,
    },
  },
}

/** Right benches of units that stand on another link than their family's first. */
export const unitBenches: Readonly<Record<string, BenchInputs>> = {
  'helm-1': {
    laptop,
    measured: measured(12.7),
    order: ['engine-off'],
  },
  'davit-base-1': {
    laptop,
    measured: measured(25.1),
    order: ['lashed'],
  },
  'driver-2': {
    laptop,
    measured: measured(5),
    order: ['relay-dead', 'board-out'],
    wiring: {
      linkId: 'six',
      adapterId: 'six-lead',
      joins: ['G', 'V', 'R', 'C', 'I', 'O'].map((id): [string, string] => [id, id]),
      level: 5,
      feeding: true,
      unitFed: false,
      faces: true,
      contact: 'soldered',
    },
  },
  'desk-2': {
    ...demoBenches['signal-desk']!,
    wiring: { ...demoBenches['signal-desk']!.wiring!, linkId: 'clip' },
  },
}
