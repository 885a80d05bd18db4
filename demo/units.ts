import type { SupplyForm } from '@bench-wake/standins'
import type { SnapshotSource } from '@bench-wake/core/unit'
import { amberDigest, brassAmberDigest } from './shelf'

export interface DemoUnit {
  id: string
  familyId: string
  name: string
  place: string
  serial: string
  /** What was read of it, oldest first: where, when, and the lines by field. */
  pages: { source: SnapshotSource; at: string; lines: Record<string, string> }[]
  /** Present when a stand-in of it sits on the bench, with what is on it. */
  standIn?: { hardware?: string; version?: string; built?: string; linkId?: string; battery?: SupplyForm }
}

/** A 12 V lead-acid battery of some years with five metres of lead. */
const agedBattery: SupplyForm = {
  restVolts: 12.58,
  voltsPerAh: 0.012,
  ohms: 0.11,
  slowOhms: 0.1,
  slowSeconds: 25,
}

const fog = (
  id: string,
  name: string,
  place: string,
  serial: string,
  hardware: string,
  version: string,
  built: string,
  at: string,
): DemoUnit => ({
  id,
  familyId: 'fog-signal',
  name,
  place,
  serial,
  pages: [
    {
      source: 'link',
      at,
      lines: {
        deviceIdentifier: 'FS-20',
        hardware,
        serial,
        bootloader: '1.3',
        'version.main': version,
        'buildTime.main': built,
        horn: '2 blasts every 60 s',
      },
    },
  ],
  standIn: { hardware, version, built, battery: agedBattery },
})

const joints = (version: string) =>
  Object.fromEntries(Array.from({ length: 6 }, (_, joint) => [`version.joint-${joint}`, version]))

export const demoUnits: DemoUnit[] = [
  fog(
    'fog-07',
    'Fog signal 07',
    'Skerrow Point',
    'FS3-00417',
    '3.1',
    '2.41',
    '2025-03-04T10:12Z',
    '2026-11-19T13:20:00Z',
  ),
  fog(
    'fog-02',
    'Fog signal 02',
    'Brann Rock, upper gallery',
    'FS2-00088',
    '2.4',
    '2.30',
    '2023-06-21T07:55Z',
    '2026-11-20T09:05:00Z',
  ),
  fog(
    'fog-11',
    'Fog signal 11',
    'Little Hesper, north mole',
    'FS3-00502',
    '3.2',
    '2.41',
    '2025-03-04T10:12Z',
    '2026-11-17T10:41:00Z',
  ),
  {
    id: 'fog-04',
    familyId: 'fog-signal',
    name: 'Fog signal 04, spare in the store',
    place: 'Corrie Sound depot',
    serial: 'FS3-00391',
    pages: [],
  },
  {
    id: 'radio-3',
    familyId: 'marine-radio',
    name: 'Handheld 3',
    place: 'Pilot launch, wheelhouse',
    serial: 'MR-40117',
    standIn: { hardware: '2.0' },
    pages: [
      { source: 'label', at: '2026-10-02T09:10:00Z', lines: { mark: 'B2217', serial: 'MR-40117' } },
      {
        source: 'boot-screen',
        at: '2026-11-20T15:02:00Z',
        lines: {
          deviceIdentifier: 'MR-6',
          'version.main': '4.07b',
          'version.voice': '1.3',
          channels: 'CS-2026',
        },
      },
    ],
  },
  {
    id: 'inverter-1',
    familyId: 'station-inverter',
    name: 'Inverter, Brann Rock light',
    place: 'Brann Rock, plant room',
    serial: 'LI-20044',
    standIn: { hardware: '5.2', version: '3.4', built: '2025-02-11T00:00Z' },
    pages: [
      {
        source: 'menu',
        at: '2026-11-18T11:30:00Z',
        lines: {
          deviceIdentifier: 'LI',
          model: 'LI-50',
          hardware: '5.2',
          serial: 'LI-20044',
          'version.power': '3.4',
          'version.panel': '3.4',
          country: 'Sound 2',
          programmed: '2025-02-11',
        },
      },
    ],
  },
  {
    id: 'inverter-2',
    familyId: 'station-inverter',
    name: 'Inverter, Tarn Stack',
    place: 'Tarn Stack, hut',
    serial: 'LI-10310',
    pages: [
      {
        source: 'menu',
        at: '2026-11-12T14:00:00Z',
        lines: {
          deviceIdentifier: 'LI',
          model: 'LI-30',
          hardware: '5.0',
          serial: 'LI-10310',
          'version.power': '3.4',
          country: 'Sound 2',
        },
      },
    ],
  },
  {
    id: 'battery-14',
    familyId: 'buoy-battery',
    name: 'Battery of buoy 14',
    place: 'Outer channel, on the quay for service',
    serial: 'BP-02417',
    standIn: { hardware: '31', version: '31.07', built: '2025-02-11T00:00Z' },
    pages: [
      { source: 'label', at: '2026-11-16T08:00:00Z', lines: { serial: 'BP-02417', batch: 'K3' } },
      {
        source: 'app',
        at: '2026-11-21T08:40:00Z',
        lines: { deviceIdentifier: 'BP-5', 'version.bms': '31.07', address: '1' },
      },
    ],
  },
  {
    id: 'battery-21',
    familyId: 'buoy-battery',
    name: 'Battery of buoy 21, new',
    place: 'Corrie Sound depot',
    serial: 'BP-05310',
    standIn: { hardware: '58', version: '58.02', built: '2025-02-11T00:00Z' },
    pages: [{ source: 'label', at: '2026-11-21T08:55:00Z', lines: { serial: 'BP-05310', batch: 'K7' } }],
  },
  {
    id: 'battery-9',
    familyId: 'buoy-battery',
    name: 'Battery of buoy 9, bought second-hand',
    place: 'Corrie Sound depot',
    serial: 'BP-01002',
    pages: [
      {
        source: 'app',
        at: '2026-11-21T09:10:00Z',
        lines: { deviceIdentifier: 'BP-5', serial: 'BP-01002', 'version.bms': '44.10', address: '1' },
      },
    ],
  },
  {
    id: 'launch-2',
    familyId: 'launch-motor',
    name: 'Launch 2, starboard motor',
    place: 'Slip shed',
    serial: 'LM-00815',
    standIn: {},
    pages: [
      {
        source: 'link',
        at: '2026-11-20T10:15:00Z',
        lines: {
          deviceIdentifier: 'LM-80',
          hardware: '2',
          layout: 'L-204',
          serial: 'LM-00815',
          'version.drive': '3.2',
          faults: 'none',
          hours: '412',
        },
      },
    ],
  },
  {
    id: 'launch-3',
    familyId: 'launch-motor',
    name: 'Launch 3, single motor',
    place: 'Slip shed, on the slip’s brake',
    serial: 'LM-01130',
    standIn: {},
    pages: [
      {
        source: 'link',
        at: '2026-10-20T08:10:00Z',
        lines: {
          deviceIdentifier: 'LM-80',
          hardware: '2',
          layout: 'L-204',
          serial: 'LM-01130',
          'version.drive': '4.1',
          faults: 'none',
          hours: '96',
        },
      },
    ],
  },
  {
    id: 'launch-1',
    familyId: 'launch-motor',
    name: 'Launch 1, port motor',
    place: 'Pilot launch, engine box',
    serial: 'LM-00411',
    standIn: { linkId: 'line' },
    pages: [
      {
        source: 'link',
        at: '2026-11-13T14:20:00Z',
        lines: {
          deviceIdentifier: 'LM-80',
          hardware: '1',
          layout: 'L-101',
          serial: 'LM-00411',
          'version.drive': '3.2',
          faults: 'none',
          hours: '1904',
        },
      },
    ],
  },
  {
    id: 'beacon-7',
    familyId: 'beacon-receiver',
    name: 'Beacon receiver 7',
    place: 'Harbour office roof',
    serial: 'BR-77120',
    standIn: { hardware: '2.0' },
    pages: [
      {
        source: 'chip-marking',
        at: '2026-11-10T16:00:00Z',
        lines: { chip: 'Q9-A', deviceIdentifier: 'BR-2', serial: 'BR-77120' },
      },
      {
        source: 'app',
        at: '2026-11-20T16:30:00Z',
        lines: { 'version.radio': '2.3.1', 'sequence.radio': '14', callsign: 'CSL-7' },
      },
    ],
  },
  {
    id: 'beacon-8',
    familyId: 'beacon-receiver',
    name: 'Beacon receiver 8',
    place: 'Harbour office roof, south',
    serial: 'BR-77121',
    pages: [
      {
        source: 'chip-marking',
        at: '2026-11-10T16:20:00Z',
        lines: { chip: 'Q9-A', deviceIdentifier: 'BR-2', serial: 'BR-77121' },
      },
      {
        source: 'app',
        at: '2026-11-20T16:34:00Z',
        lines: { 'version.radio': '2.3.1', 'sequence.radio': '14', callsign: 'CSL-8' },
      },
    ],
  },
  {
    id: 'tide-2',
    familyId: 'tide-logger',
    name: 'Tide logger 2',
    place: 'Inner basin, pile 6',
    serial: 'TL-3302',
    standIn: {},
    pages: [
      {
        source: 'menu',
        at: '2026-11-19T09:00:00Z',
        lines: {
          deviceIdentifier: 'TL-9',
          hardware: '2',
          serial: 'TL-3302',
          'version.logger': '2025-11-03',
          zero: '+0.42 m',
          memory: '18 204',
        },
      },
    ],
  },
  {
    id: 'davit-1',
    familyId: 'boat-davit',
    name: 'Davit, lifeboat slip',
    place: 'Lifeboat slip',
    serial: 'DV-0021',
    standIn: {},
    pages: [
      {
        source: 'menu',
        at: '2026-11-17T13:45:00Z',
        lines: {
          deviceIdentifier: 'DV-6',
          hardware: '3.0',
          serial: 'DV-0021',
          ...joints('5.1'),
          load: '450 kg',
        },
      },
    ],
  },
  {
    id: 'relay-2',
    familyId: 'mains-relay',
    name: 'Shore supply relay, quay 2',
    place: 'Quay 2, box C',
    serial: 'QR-5512',
    standIn: { hardware: '2.0' },
    pages: [
      { source: 'label', at: '2026-11-02T10:00:00Z', lines: { mark: 'R2', serial: 'QR-5512' } },
      {
        source: 'link',
        at: '2026-11-20T10:05:00Z',
        lines: {
          deviceIdentifier: 'QR-4',
          'version.relay': '1.9',
          'options.relay': 'watchdog+hold-last',
          network: 'quay-2',
        },
      },
    ],
  },
  {
    id: 'desk-1',
    familyId: 'signal-desk',
    name: 'Signal desk',
    place: 'Harbour office',
    serial: 'SD-003',
    pages: [
      {
        source: 'menu',
        at: '2026-11-19T17:00:00Z',
        lines: {
          deviceIdentifier: 'SD-1',
          hardware: '2',
          serial: 'SD-003',
          'version.chip': 'AMBER',
          'digest.chip': amberDigest(),
          lines: '12',
        },
      },
    ],
  },
  {
    id: 'desk-2',
    familyId: 'signal-desk',
    name: 'Signal desk, brass keys',
    place: 'Old pilot house',
    serial: 'SD-001',
    standIn: { hardware: '1', linkId: 'clip' },
    pages: [
      {
        source: 'menu',
        at: '2026-11-20T09:00:00Z',
        lines: {
          deviceIdentifier: 'SD-1',
          hardware: '1',
          serial: 'SD-001',
          memory: '5D4012',
          'version.chip': 'AMBER',
          'digest.chip': brassAmberDigest(),
          lines: '12',
        },
      },
    ],
  },
  {
    id: 'gate-1',
    familyId: 'tide-gate-controller',
    name: 'Tide gate, inner basin',
    place: 'Inner basin',
    serial: 'TG-0442',
    standIn: { hardware: '3' },
    pages: [
      {
        source: 'link',
        at: '2026-11-18T11:20:00Z',
        lines: {
          deviceIdentifier: 'TG-6',
          hardware: '3',
          serial: 'TG-0442',
          'version.main': '3.4',
          sill: '+1.20 m',
        },
      },
    ],
  },
  {
    id: 'scale-1',
    familyId: 'crane-scale',
    name: 'Crane scale, quay 1',
    place: 'Quay 1, crane store',
    serial: 'CS-1207',
    standIn: { hardware: '1' },
    pages: [
      {
        source: 'label',
        at: '2026-11-05T08:40:00Z',
        lines: { hardware: '1, round', serial: 'CS-1207', seal: '2026-04' },
      },
      {
        source: 'link',
        at: '2026-11-18T12:05:00Z',
        lines: { deviceIdentifier: 'CS-12', 'version.main': '5.0' },
      },
    ],
  },
  {
    id: 'driver-2',
    familyId: 'relay-driver',
    name: 'Quay relay 2, driver board',
    place: 'East quay',
    serial: 'QD-2-118',
    standIn: { hardware: '2', built: '2024-05-06' },
    pages: [
      {
        source: 'label',
        at: '2026-11-12T10:00:00Z',
        lines: { deviceIdentifier: 'QD-1', hardware: '2', serial: 'QD-2-118' },
      },
      {
        source: 'link',
        at: '2026-11-19T15:20:00Z',
        lines: {
          signature: '3D9307',
          'version.driver': '1.3',
          'fuse.clock': '0xE4',
          'fuse.guard': '0xDC',
          'fuse.lock': '0xFF',
        },
      },
    ],
  },
  {
    id: 'helm-1',
    familyId: 'helm-display',
    name: 'Helm display of launch 1',
    place: 'Launch 1, helm',
    serial: 'HD-7-031',
    pages: [
      {
        source: 'menu',
        at: '2026-11-17T13:10:00Z',
        lines: { deviceIdentifier: 'HD-7', hardware: '2', serial: 'HD-7-031', 'version.display': '3.1' },
      },
    ],
    standIn: {},
  },
  {
    id: 'davit-base-1',
    familyId: 'davit-base',
    name: 'Davit of the tender, base',
    place: 'Tender berth',
    serial: 'DB-3-008',
    pages: [
      {
        source: 'menu',
        at: '2026-11-17T14:30:00Z',
        lines: { deviceIdentifier: 'DB-3', hardware: '2', serial: 'DB-3-008', 'version.base': '2.4' },
      },
    ],
    standIn: {},
  },
]

/** The unit that a family's handful of files is about. */
export const firstUnitOf = (familyId: string) => demoUnits.find((unit) => unit.familyId === familyId)!
