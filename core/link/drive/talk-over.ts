import type { Component, DrivenLink, Family } from '../../family'
import { Problem, type Clock } from '../../kernel'
import { debugTalk } from './debug-talk'
import { dfuTalk } from './dfu-talk'
import { modbusTalk } from './modbus-talk'
import { scriptTalk } from './script-talk'
import type { Channel, Talk } from './talk'
import { canTalk, lineTalk } from './uds-talk'

/** What kind of channel a link goes over. */
export const channelOf = (link: DrivenLink): Channel['kind'] =>
  link.kind === 'usb' || link.kind === 'debug' ? 'usb' : 'serial'

/**
 * Drives a family's link over what is plugged in.
 * @param channel not yet opened.
 * @throws Problem `wrong-channel` when a serial link is given a USB device, or the other way round.
 */
export function talkOver(
  channel: Channel,
  clock: Clock,
  family: Family,
  link: DrivenLink,
  component: Component,
): Talk {
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
    if (drive.speaks === 'modbus') return modbusTalk(port, clock, family, link, drive, component)
    if (drive.speaks === 'uds') return canTalk(port, clock, family, link, drive)
    if (drive.speaks === 'kwp') return lineTalk(port, clock, family, link, drive)
    if (drive.speaks === 'script') return scriptTalk(port, clock, family, link, drive, component)
  } else {
    const { drive } = link
    if (drive.speaks === 'dfu') return dfuTalk(port, clock, family, drive)
    if (drive.speaks === 'debug') return debugTalk(port, clock, family, drive)
  }
  throw new TypeError(`no talk for ${link.id}`)
}
