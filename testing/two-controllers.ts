/* eslint-disable @typescript-eslint/no-explicit-any -- profiles are changed by member */
import { readFamily, type Family } from '@bench-wake/core/family'
import { demoFamilies } from '@bench-wake/demo'

/** The launch's motor with a charger beside it on the bus: another controller, with its own key, session and widths. */
export function twoControllersDocument(): any {
  const document: any = structuredClone(demoFamilies.find(({ id }) => id === 'launch-motor'))
  document.id = 'launch-with-charger'
  document.components.push({
    id: 'charger',
    name: 'Charger',
    memory: {
      erasedByte: 255,
      regions: [
        {
          name: 'Program',
          use: 'application',
          address: '0x00010000',
          length: '0x8000',
          sectorBytes: 4096,
          pageBytes: 256,
          eraseMsPerSector: 40,
          programMsPerPage: 1,
        },
      ],
    },
    identity: {
      address: '0x00010100',
      magic: 'LMCHARG1',
      fields: [
        { field: 'deviceIdentifier', offset: '0x8', type: 'ascii', length: 8 },
        { field: 'hardwareMajor', offset: '0x10', type: 'u8' },
        { field: 'version', offset: '0x1C', type: 'ascii', length: 12 },
        { field: 'length', offset: '0x34', type: 'u32be' },
      ],
      integrity: 'crc32-trailer',
    },
    version: { scheme: 'dotted', downgrade: 'refused' },
  })
  document.snapshot.push({
    field: 'version.charger',
    label: 'Charger’s program',
    by: 'link',
    example: '1.0',
    reads: 'Charger: {value}',
    change: 'must',
  })
  document.updates = { path: 'direct', together: true }
  document.advisories = []
  document.hardware.revisions = [document.hardware.revisions[1]]
  document.links = [document.links[0]]
  document.links[0].drive.controllers = [
    {
      component: 'charger',
      requestId: '0x7E2',
      answerId: '0x7EA',
      page: [{ field: 'version.charger', identifier: '0xF195', as: 'ascii' }],
      services: {
        sessions: [2],
        securityLevel: 3,
        key: [{ do: 'add', by: '0x4D' }],
        widths: { address: 3, length: 2 },
        eraseRoutine: '0xFF00',
        checkRoutine: '0x0301',
      },
    },
  ]
  return document
}

export const twoControllers = (): Family => readFamily(twoControllersDocument())
