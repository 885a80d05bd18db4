import { tideGate } from './peer-scripts'

/**
 * The least that can be said of the tide gate of e2e/peers/prompt_console.md: a profile for a unit that nobody here has
 * seen, written from its manual page.
 */
export const tideGateProfile = {
  format: 'bench-wake/family',
  formatVersion: 2,
  id: 'tide-gate',
  revision: 1,
  name: 'Tide gate controller',
  summary: 'Opens and shuts a tide gate; told by its service console.',
  hardware: {
    deviceIdentifier: 'TG-4',
    revisions: [
      {
        major: 2,
        name: 'Board 2',
        identifiedBy: { by: 'link', says: 'The console’s first line ends in its number.' },
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
            eraseMsPerSector: 2,
            programMsPerPage: 0.1,
          },
        ],
      },
      identity: {
        address: '0x8100',
        magic: 'TIDEGATE',
        fields: [
          { field: 'deviceIdentifier', offset: '0x8', type: 'ascii', length: 8 },
          { field: 'hardwareMajor', offset: '0x10', type: 'u8' },
          { field: 'version', offset: '0x14', type: 'ascii', length: 12 },
          { field: 'length', offset: '0x24', type: 'u32le' },
        ],
        integrity: 'crc32-trailer',
      },
      version: { scheme: 'dotted', downgrade: 'held' },
    },
  ],
  snapshot: [
    { field: 'deviceIdentifier', label: 'Device', reads: 'device {value}', change: 'must-not' },
    { field: 'hardware', label: 'Board', reads: 'board {value}', change: 'must-not' },
    { field: 'version.main', label: 'Firmware', reads: 'fw {value}', change: 'must' },
    { field: 'serial', label: 'Serial', reads: 'serial {value}', change: 'must-not' },
  ],
  links: [
    {
      id: 'console',
      name: 'Service jack',
      kind: 'serial',
      protocol: 'script',
      bytesPerSecond: 8000,
      line: { baudRate: 115_200, dataBits: 8, parity: 'none', stopBits: 1 },
      drive: {
        ...tideGate,
        operations: {
          ...tideGate.operations,
          page: {
            steps: [
              { do: 'send', text: 'ver\r' },
              {
                do: 'expect',
                patterns: [
                  { text: '{device} board {board:dec}\nfw {version}\nserial {serial}\n' },
                  { text: '?{reason}\n', means: 'refused' },
                ],
                withinMs: 1000,
              },
              { do: 'tell', field: 'deviceIdentifier', value: '{device}' },
              { do: 'tell', field: 'hardware', value: '{board}' },
              { do: 'tell', field: 'version.main', value: '{version}' },
              { do: 'tell', field: 'serial', value: '{serial}' },
              { do: 'expect', patterns: [{ text: '=> ' }], withinMs: 1000 },
            ],
          },
        },
      },
    },
  ],
  entry: [{ id: 'by-command', name: 'By command', kind: 'command', send: 'boot', settleMs: 100, tries: 3 }],
  updates: { path: 'direct', together: false },
  restart: { readyMs: 200, powerCycle: 'Supply off. Count five. Supply on.' },
  power: {
    nominalVolts: 12,
    floorVolts: 11,
    ceilingVolts: 15,
    amps: { idle: 0.1, erase: 0.2, write: 0.2 },
    supply: { chemistry: 'bench', cells: 1, capacityAh: 0, leadOhms: 0.02, loads: [] },
  },
  stages: Object.fromEntries(
    ['enter', 'erase', 'write', 'verify', 'restart', 'prove'].map((stage) => [stage, { see: [] }]),
  ),
}
