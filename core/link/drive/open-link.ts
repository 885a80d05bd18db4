import type { Component, DrivenLink, Family } from '../../family'
import { Problem, type Clock } from '../../kernel'
import { debugDriver } from './debug-driver'
import { dfuDriver } from './dfu-driver'
import { flashDriver } from './flash-driver'
import { inSystemDriver } from './in-system-driver'
import { modbusDriver } from './modbus-driver'
import { scriptLinkDriver } from './script-link-driver'
import type { Channel, LinkDriver } from './link-driver'
import { canDriver, singleLineDriver } from './services-driver'

/** Kinds of link that a USB device stands at the near end of: the unit itself, or an adapter. */
const overUsb: ReadonlySet<DrivenLink['kind']> = new Set(['usb', 'debug', 'chip', 'six-line'])
/** What kind of channel a link goes over. */
export const channelOf = (link: DrivenLink): Channel['kind'] => (overUsb.has(link.kind) ? 'usb' : 'serial')

/**
 * Drives a family's link over what is plugged in.
 * @param channel not yet opened.
 * @throws Problem `wrong-channel` when a serial link is given a USB device, or the other way round.
 */
export function openLink(
  channel: Channel,
  clock: Clock,
  family: Family,
  link: DrivenLink,
  component: Component,
): LinkDriver {
  const { kind, port } = channel
  if (kind !== channelOf(link)) {
    throw new Problem({
      kind: 'wrong-channel',
      thing: port.name,
      says: `${link.name} does not go over this port`,
      expected: channelOf(link) === 'usb' ? 'a USB device' : 'a serial port',
      found: kind === 'usb' ? 'a USB device' : 'a serial port',
      remedy: 'Choose the port that the unit or its adapter is plugged into.',
    })
  }
  if (kind === 'serial') {
    const { drive } = link
    if (drive.speaks === 'modbus') return modbusDriver(port, clock, family, link, drive, component)
    if (drive.speaks === 'uds') return canDriver(port, clock, family, link, drive)
    if (drive.speaks === 'kwp') return singleLineDriver(port, clock, family, link, drive)
    if (drive.speaks === 'script') return scriptLinkDriver(port, clock, family, link, drive, component)
  } else {
    const { drive } = link
    if (drive.speaks === 'dfu') return dfuDriver(port, clock, family, drive)
    if (drive.speaks === 'debug') return debugDriver(port, clock, family, drive)
    if (drive.speaks === 'in-system') return inSystemDriver(port, clock, family, drive, component)
    if (drive.speaks === 'spi-flash') return flashDriver(port, clock, family, drive, component)
  }
  throw new TypeError(`no driver for ${link.id}`)
}
