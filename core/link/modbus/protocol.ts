import { groupedNumber } from '../../kernel'
import type { LinkProtocol } from '../drive/protocol'
import { bitsPerCharacter, wireMs } from '../port'
import { blockWireMs } from './block-time'
import { modbusDriver } from './driver'
import { recordWireMs } from './file-records'
import { modbusAbilities } from './loader'
import { modbusRows } from './trace-rows'

/** Registers and file records on an RS-485 bus. */
export const modbusProtocol: LinkProtocol<'modbus'> = {
  over: 'serial',
  open: (port, { clock, family, link, component }) =>
    modbusDriver(port, clock, family, link, link.drive, component),
  says: ({ line, drive }) =>
    `Modbus ${drive.block ? 'register blocks' : 'file records'} at ${groupedNumber(line!.baudRate)} baud, address ${drive.address}`,
  can: {
    reads: ({ drive }) => modbusAbilities(drive).read,
    verify: ({ drive }) => modbusAbilities(drive).verify,
    resumes: () => true,
    widthBits: 16,
  },
  times: {
    writeMs: ({ drive, line }, bytes) =>
      drive.block ? blockWireMs(bytes, drive, line!) : recordWireMs(bytes, line!),
    pageMs: ({ drive, line }) =>
      drive.page.length * (wireMs(40, line!) + (7 * bitsPerCharacter(line!) * 1000) / line!.baudRate + 10),
  },
  trace: { name: 'Modbus RTU', rows: modbusRows },
}
