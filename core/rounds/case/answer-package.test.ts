import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import Papa from 'papaparse'
import * as v from 'valibot'
import { afterAll, describe, expect, it } from 'vitest'
import { compareRevisions, readDefinitionDocument } from '../definition'
import { logPicture } from '../view'
import { readCsvLog } from '../log'
import { answerPackage, CaseAgreement, joinRanges, summarizeLog, usualKinds, type PackageContent } from '.'

const folder = mkdtempSync(join(tmpdir(), 'bench-wake-package-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))

const definition = readDefinitionDocument({
  format: 'bench-wake/definition',
  formatVersion: 1,
  name: 'Bench layout',
  signature: { address: '0x0', ascii: 'BL' },
  regions: [{ use: 'calibration', address: '0x10', length: '0x10' }],
  tables: [
    {
      id: 't',
      name: 'Torque, "soft"',
      unit: 'Nm',
      address: '0x10',
      type: 'u8',
      x: { name: 'pedal', values: [0, 50] },
      y: { name: 'speed', values: [100, 200] },
    },
  ],
})
const image = (cell: number) => {
  const bytes = new Uint8Array(0x20)
  bytes[0x13] = cell
  return [{ address: 0, bytes }]
}
const csv = new TextEncoder().encode('time,Pedal\n0,1\n1,5\n2,NaN\n3,9\n')
const content: PackageContent = {
  agreement: v.parse(CaseAgreement, {
    title: 'Surges',
    goal: 'Pull evenly',
    calibrator: 'The calibrator',
    drive: 'electric',
    parts: ['Larger propeller'],
    channels: [{ name: 'Pedal' }],
    kinds: usualKinds('Pedal'),
    limits: [],
    floorVolts: null,
    aim: null,
  }),
  unit: { name: 'Launch', serial: 'L-1' },
  round: 2,
  image: { name: 'rev2.bin', sha256: 'f'.repeat(64), version: '4.1' },
  changes: compareRevisions(definition, image(7), image(9)),
  machineChanges: ['New filter'],
  symptoms: 'Still surges\nat a quarter pedal',
  logs: [
    { kind: 'Idle', name: 'a b.csv', bytes: csv, picture: '<svg/>', says: ['Good.'] },
    { kind: 'Idle', name: 'a b.csv', bytes: csv, picture: null, says: [] },
  ],
}

describe('what goes to the calibrator (PRACTICE K6)', () => {
  const zip = join(folder, 'package.zip')
  const bytes = answerPackage(content)
  writeFileSync(zip, bytes)

  it('unpacks elsewhere, and every digest in it is right by sha256sum', () => {
    // Python's zipfile and coreutils' sha256sum share no code with this program.
    execFileSync('python3', ['-m', 'zipfile', '-e', zip, folder])
    const said = execFileSync('sha256sum', ['-c', 'digests.txt'], { cwd: folder }).toString()
    expect(
      said
        .trim()
        .split('\n')
        .map((line) => line.split(': ')[1]),
    ).toEqual(['OK', 'OK', 'OK', 'OK', 'OK'])
    expect(readFileSync(join(folder, 'logs/Idle-a-b.csv')).equals(csv)).toBe(true)
    expect(readFileSync(join(folder, 'logs/Idle-a-b-2.csv')).equals(csv)).toBe(true)
  })
  it('says what a calibrator has to know', () => {
    const letter = readFileSync(join(folder, 'read-me.txt'), 'utf8')
    for (const words of [
      'round 2',
      'Larger propeller',
      'New filter',
      'at a quarter pedal',
      'f'.repeat(64),
      'L-1',
      'Good.',
    ])
      expect(letter).toContain(words)
  })
  it('names every changed cell by its edges', () => {
    const { data } = Papa.parse(readFileSync(join(folder, 'changes.csv'), 'utf8'), {
      header: true,
      skipEmptyLines: true,
    })
    expect(data).toEqual([
      {
        table: 'Torque, "soft"',
        unit: 'Nm',
        address: '0x00000010',
        row: '200',
        column: '50',
        before: '7.0',
        after: '9.0',
      },
    ])
  })
  it('is the same bytes for the same content', () => {
    expect(Buffer.from(answerPackage(content)).equals(bytes)).toBe(true)
  })
})

describe('a log at a glance', () => {
  const log = readCsvLog(csv)
  it('has rows, time, rate and ranges', () => {
    expect(summarizeLog(log)).toEqual({
      rows: 4,
      seconds: 3,
      hertz: 1,
      channels: [{ name: 'Pedal', unit: '', min: 1, max: 9 }],
    })
  })
  it('shares its scale with another log, channel by channel', () => {
    const range = (name: string, min: number | null, max: number | null) => ({ name, unit: '', min, max })
    expect(
      joinRanges(
        [range('Pedal', 1, 9), range('Speed', null, null), range('Volts', 3, 4)],
        [range('PEDAL', -2, 5), range('Speed', 7, 8), range('Other', 0, 99)],
      ),
    ).toEqual([range('Pedal', -2, 9), range('Speed', 7, 8), range('Volts', 3, 4)])
    expect(joinRanges([range('Speed', null, null)], [])).toEqual([range('Speed', null, null)])
  })
  it('is a picture that another program reads as XML, whatever it is called', () => {
    const svg = logPicture(log, ['Pedal', 'Not there'], 'A < B & "C"')
    const title = execFileSync(
      'python3',
      [
        '-c',
        'import sys,xml.etree.ElementTree as e;r=e.fromstring(sys.stdin.read());print([t.text for t in r if t.tag.endswith("text")][0])',
      ],
      { input: svg },
    )
    expect(title.toString().trim()).toBe('A < B & "C"')
    expect(svg.match(/<path/g)).toHaveLength(1)
  })
})
