import type { MemoryMap } from '@bench-wake/core/image'
import {
  cellOf,
  errorMap,
  joinBinned,
  readCsvLog,
  readDefinitionDocument,
  tableShape,
  tableValues,
  usualKinds,
  type Aim,
  type CaseAgreementForm,
  type TableDefinitionDocument,
} from '@bench-wake/core/rounds'
import {
  motorLogCsv,
  nextVersion,
  pedalFor,
  placed,
  relabel,
  runMotor,
  tuneTable,
  wantedAmps,
} from '@bench-wake/standins'
import { demoFamily } from './families'

/*
 * The launch motor's case: one launch is tuned with a calibrator on the other island. Its logs are made by the motor model
 * from what is written in the unit, so each answer shows in the next log.
 */

const start = 0x10000
const length = 0x8000
const firstVersion = '4.1.1'

export const roundsDefinition: TableDefinitionDocument = {
  format: 'bench-wake/definition',
  formatVersion: 1,
  name: 'LM-80 drive tables, layout L-204',
  signature: { address: '0x00010114', ascii: 'L-204' },
  regions: [
    { use: 'calibration', address: '0x00014000', length: '0x1000' },
    { use: 'label', address: '0x00010100', length: '0x40' },
    { use: 'checksum', address: '0x00017FFC', length: '0x4' },
  ],
  tables: [
    {
      id: 'current',
      name: 'Current over speed and pedal',
      unit: 'A',
      address: '0x00014000',
      type: 'u16',
      order: 'big',
      scale: 0.1,
      min: 0,
      max: 220,
      x: { name: 'Motor speed', unit: 'rpm', values: [0, 500, 1000, 1500, 2000, 2500, 3000] },
      y: { name: 'Pedal', unit: '%', values: [0, 20, 40, 60, 80, 100] },
    },
    {
      id: 'derating',
      name: 'Current limit over motor temperature',
      unit: 'A',
      address: '0x00014100',
      type: 'u8',
      scale: 1,
      decimals: 0,
      min: 20,
      max: 220,
      x: { name: 'Motor temperature', unit: '°C', values: [20, 60, 90, 105, 120] },
    },
    {
      id: 'ramp',
      name: 'Pedal ramp',
      unit: '%/s',
      address: '0x00014120',
      type: 'u16',
      order: 'big',
      decimals: 0,
      min: 5,
      max: 400,
    },
  ],
}

export const roundsAim: Aim = {
  channel: 'Motor current',
  target: { channel: 'Wanted current' },
  x: { channel: 'Motor speed', points: [0, 500, 1000, 1500, 2000, 2500, 3000] },
  y: { channel: 'Pedal', points: [0, 20, 40, 60, 80, 100] },
  within: 0.4,
  unit: 'A',
}

const ashore =
  'Full load only with the launch held by two lines or on the slip’s brake, nobody in the water, a second person at the laptop. Local codes and licensed people come first.'

export const roundsAgreement: CaseAgreementForm = {
  title: 'Launch 3 surges at a quarter pedal',
  goal: 'The pull follows the pedal from standstill to full speed.',
  calibrator: 'The calibrator on Outer Holm',
  drive: 'electric',
  parts: ['Propeller one size larger than built', 'Traction battery of 2025, 16 cells'],
  channels: [
    { name: 'Motor speed', unit: 'rpm', role: 'speed', read: { identifier: 0x2001, type: 'u16' } },
    {
      name: 'Pedal',
      unit: '%',
      role: 'load',
      min: -1,
      max: 101,
      read: { identifier: 0x2002, type: 'u16', scale: 0.1 },
    },
    {
      name: 'Motor current',
      unit: 'A',
      role: 'other',
      read: { identifier: 0x2003, type: 'u16', scale: 0.1 },
    },
    {
      name: 'Wanted current',
      unit: 'A',
      role: 'other',
      read: { identifier: 0x2004, type: 'u16', scale: 0.1 },
    },
    {
      name: 'Traction battery',
      unit: 'V',
      role: 'supply',
      read: { identifier: 0x2005, type: 'u16', scale: 0.01 },
    },
    { name: 'Motor temperature', unit: '°C', role: 'temperature', read: { identifier: 0x2006, type: 'u8' } },
  ],
  kinds: usualKinds('Pedal').map((kind) => (kind.caution ? { ...kind, caution: ashore } : kind)),
  limits: [
    { channel: 'Motor temperature', max: 105, seconds: 1, says: 'The motor ran hot' },
    {
      channel: 'Motor current',
      max: 215,
      when: { channel: 'Pedal', min: 80 },
      seconds: 0.5,
      says: 'The current stood above its limit at full pedal',
    },
  ],
  floorVolts: 44,
  aim: roundsAim,
}

/** A rope on the propeller until somebody looked, after the second round. */
const ropeFound = { afterRound: 2, says: 'Rope cut off the propeller; it had wound on since spring.' }
const fouledIn = (round: number) => (round <= ropeFound.afterRound ? 0.12 : 0)

/** The base image: too much at a quarter pedal, too little at full, as the larger propeller makes it. */
export function baseImage(): MemoryMap {
  const [first] = placed(demoFamily('launch-motor'), {
    component: 'drive',
    length,
    fields: {
      deviceIdentifier: 'LM-80',
      hardwareMajor: 2,
      layout: 'L-204',
      version: firstVersion,
      requiresFrom: '3.6',
      release: 'production',
      buildTime: Date.parse('2026-10-02T09:00Z') / 1000,
    },
  })
  const bytes = first!.bytes
  const definition = readDefinitionDocument(roundsDefinition)
  const put = (id: string, figures: readonly number[]) => {
    const table = definition.tables.find((each) => each.id === id)!
    const size = cellOf(0, { ...table, offset: 0 })!.length
    figures.forEach((figure, cell) => bytes.set(cellOf(figure, table)!, table.address - start + cell * size))
  }
  const current = definition.tables[0]!
  const { x, y } = { x: [0, 500, 1000, 1500, 2000, 2500, 3000], y: [0, 20, 40, 60, 80, 100] }
  put(
    current.id,
    y.flatMap((pedal) =>
      x.map((speed) => {
        const wrong = pedal === 20 ? 22 : pedal === 40 ? 14 : pedal >= 80 ? -16 : 0
        return Math.max(0, wantedAmps(pedal, speed) + wrong)
      }),
    ),
  )
  put('derating', [200, 200, 180, 120, 40])
  put('ramp', [120])
  return labelled([{ address: start, bytes }], firstVersion, '2026-10-02T09:00Z')
}

/** A log of one kind, as the launch's own logger writes it with this image in the motor controller. */
export function roundsLog(memory: MemoryMap, kind: string, round: number): string {
  const table = readDefinitionDocument(roundsDefinition).tables[0]!
  const rows = runMotor(tableValues(memory, table)!, {
    ...pedalFor(kind),
    hertz: 20,
    celsius: 12,
    fouled: fouledIn(round),
    seed: round * 101 + kind.length,
  })
  return motorLogCsv(rows, 9 * 3600 + round * 600)
}

const labelled = (memory: MemoryMap, version: string, built: string) =>
  relabel(demoFamily('launch-motor'), 'drive', memory, { version, buildTime: Date.parse(built) / 1000 })

/** What the calibrator makes of a round's logs: the next image. */
export function roundsAnswer(
  memory: MemoryMap,
  logs: readonly string[],
  version: string,
  built: string,
): MemoryMap {
  const table = readDefinitionDocument(roundsDefinition).tables[0]!
  const { columns, rows } = tableShape(table)
  const maps = logs.flatMap((log) => errorMap(readCsvLog(asciiOf(log)), roundsAim) ?? [])
  const errors = joinBinned(maps)
  const tuned = errors && errors.count.length === columns * rows ? tuneTable(memory, table, errors) : memory
  return labelled(tuned, nextVersion(version), built)
}

const asciiOf = (log: string) => Uint8Array.from(log, (letter) => letter.charCodeAt(0) & 0xff)

/** The case as it went so far: four rounds that are answered, days before today, and the fifth image that just came. */
export const roundsPast = {
  caseId: 'case-launch-3',
  unitId: 'launch-3',
  definitionId: 'definition-lm80-l204',
  by: 'M. Ferrow',
  openedDaysAgo: 33,
  /** Days before today on which each image came, the base first. */
  imageDaysAgo: [32, 25, 18, 12, 1],
  remarks: [
    'Base for the larger propeller. Log as it is, all three kinds.',
    'Quarter pedal taken down. Something brakes it unevenly: look at the propeller.',
    'Better without the rope. More at full pedal.',
    'Nearly there.',
    'Fine steps now. Three more days of logs, please.',
  ],
  symptoms: [
    'Surges at a quarter pedal, three times in a minute.',
    'Surges less. Humming at half speed.',
    'No humming any more. Pulls late at full pedal.',
    'Good at slow speed.',
  ],
  ropeFound,
  name: (version: string) => `launch3-${version}.bin`,
}
