import type { DrivenLink, Speech } from '../../family'
import { dfuProtocol } from '../dfu/protocol'
import { inSystemProtocol } from '../in-system/protocol'
import { kwpProtocol } from '../kwp/protocol'
import { modbusProtocol } from '../modbus/protocol'
import { scriptProtocol } from '../script/protocol'
import { flashProtocol } from '../serial-flash/protocol'
import { debugProtocol } from '../swd/protocol'
import { udsProtocol } from '../uds/protocol'
import type { LinkProtocol } from './protocol'

/** Every protocol that this program drives, by the name that a profile calls it. */
export const protocols: { readonly [S in Speech]: LinkProtocol<S> } = {
  modbus: modbusProtocol,
  dfu: dfuProtocol,
  uds: udsProtocol,
  kwp: kwpProtocol,
  debug: debugProtocol,
  'in-system': inSystemProtocol,
  'spi-flash': flashProtocol,
  script: scriptProtocol,
}

/** The protocol of a link, which takes this link. */
export const protocolOf = (link: DrivenLink): LinkProtocol => protocols[link.drive.speaks] as LinkProtocol
