import type { Component, DrivenLink, Family } from '../../family'
import { Problem, type Clock } from '../../kernel'
import type { Channel, LinkDriver } from './link-driver'
import { protocolOf } from './protocols'

/** What kind of channel a link goes over. */
export const channelOf = (link: DrivenLink): Channel['kind'] => protocolOf(link).over

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
  const protocol = protocolOf(link)
  const opening = { clock, family, link, component }
  if (protocol.over === 'serial' && channel.kind === 'serial') return protocol.open(channel.port, opening)
  if (protocol.over === 'usb' && channel.kind === 'usb') return protocol.open(channel.port, opening)
  const words = { serial: 'a serial port', usb: 'a USB device' }
  throw new Problem({
    kind: 'wrong-channel',
    thing: channel.port.name,
    says: `${link.name} does not go over this port`,
    expected: words[protocol.over],
    found: words[channel.kind],
    remedy: 'Choose the port that the unit or its adapter is plugged into.',
  })
}
