import type { FamilyDocument } from './schema'

/**
 * The least profile to begin a new kind of equipment from: one processor, one serial link that is data, an example of
 * each operation that a first write needs. Names, addresses and words are to be written over from the unit's manual; what
 * stays empty is pointed at, and what nobody knows may stay out: how its images say what they are can be found later, by
 * comparing two.
 */
export function beginFamily(): FamilyDocument {
  const prompt = [{ text: '> ' }]
  const stage = { see: [] }
  return {
    format: 'bench-wake/family',
    formatVersion: 2,
    id: '',
    revision: 1,
    name: '',
    summary: '',
    hardware: {
      deviceIdentifier: '',
      revisions: [
        {
          major: 1,
          name: 'Board 1',
          identifiedBy: { by: 'link', says: 'The first number of the line “Hardware”.' },
        },
      ],
    },
    components: [
      {
        id: 'main',
        name: 'Main processor',
        memory: {
          erasedByte: 255,
          regions: [
            {
              name: 'Application',
              use: 'application',
              address: '0x8000',
              length: '0x8000',
              sectorBytes: 4096,
              pageBytes: 256,
            },
          ],
        },
        version: { scheme: 'dotted', downgrade: 'held' },
      },
    ],
    snapshot: [
      { field: 'deviceIdentifier', label: 'Device', reads: 'Device: {value}', change: 'must-not' },
      { field: 'hardware', label: 'Hardware', reads: 'Hardware: {value}', change: 'must-not' },
      { field: 'version.main', label: 'Firmware', reads: 'Firmware: {value}', change: 'must' },
      { field: 'serial', label: 'Serial', reads: 'Serial: {value}', change: 'must-not' },
    ],
    links: [
      {
        id: 'service',
        name: 'Service jack',
        kind: 'serial',
        protocol: 'script',
        bytesPerSecond: 1000,
        line: { baudRate: 115_200, dataBits: 8, parity: 'none', stopBits: 1 },
        drive: {
          speaks: 'script',
          operations: {
            page: {
              steps: [
                { do: 'send', text: 'version\r' },
                { do: 'expect', patterns: [{ text: 'Firmware {version}\n' }], withinMs: 1000 },
                { do: 'tell', field: 'version.main', value: '{version}' },
              ],
            },
            attach: {
              steps: [
                { do: 'send', text: '\r' },
                { do: 'expect', patterns: prompt, withinMs: 500 },
              ],
            },
            write: { steps: [{ do: 'transfer', by: 'xmodem' }] },
          },
        },
      },
    ],
    entry: [
      {
        id: 'by-hand',
        name: 'By hand',
        kind: 'by-hand',
        steps: ['Bring the unit into its bootloader as its manual says.'],
        settleMs: 1000,
        tries: 3,
      },
    ],
    updates: { path: 'workshop', together: false },
    restart: { readyMs: 2000, powerCycle: 'Switch the unit’s supply off. Count five. Switch it on again.' },
    power: {
      nominalVolts: 12,
      floorVolts: 11.5,
      ceilingVolts: 15,
      amps: { idle: 0.1, erase: 0.2, write: 0.2 },
    },
    stages: { enter: stage, erase: stage, write: stage, verify: stage, restart: stage, prove: stage },
  }
}
