import type { Component, DriveOf, Family, FamilyLink } from '../../family'
import type { Clock } from '../../kernel'
import { slcanPort, type CanPort } from '../can'
import type { LinkDriver } from '../drive/link-driver'
import { isoTp } from '../isotp'
import type { Port } from '../port'
import { controllersOf, severalControllers } from './controllers'
import { servicesDriver } from './services-driver'

/** A unit on the vehicle bus, with one controller or several, behind a CAN adapter on a serial line. */
export function canDriver(
  port: Port,
  clock: Clock,
  family: Family,
  link: FamilyLink,
  drive: DriveOf<'uds'>,
  component: Component,
): LinkDriver {
  const bus = slcanPort(port, clock)
  const carrier: Pick<LinkDriver, 'open' | 'close'> = {
    async open() {
      await port.open(link.line!)
      await bus.join(drive.bitsPerSecond)
    },
    async close() {
      // What cannot be said any more because the cable is off is not needed any more either.
      await bus.leave().catch(() => {})
      await port.close()
    },
  }
  return severalControllers(
    controllersOf(drive).map(({ drive: own, ...held }) => ({
      ...held,
      driver: controllerDriver(bus, clock, family, own, carrier),
    })),
    component,
  )
}

function controllerDriver(
  bus: CanPort,
  clock: Clock,
  family: Family,
  drive: DriveOf<'uds'>,
  carrier: Pick<LinkDriver, 'open' | 'close'>,
): LinkDriver {
  const { requestId, answerId, extended, padding, functionalId, addresses } = drive
  const wide = {
    ...(extended === undefined ? {} : { extended }),
    ...(padding === undefined ? {} : { padding }),
  }
  const addressed = (sent?: number) =>
    addresses && sent !== undefined ? { addresses: { sent, heard: addresses.source } } : {}
  const transport = isoTp(bus, clock, {
    sendId: requestId,
    receiveId: answerId,
    ...wide,
    ...addressed(addresses?.target),
  })
  // To all of them a message is one frame (ISO 15765-2, 6.3): nobody could give leave for a second.
  const all =
    functionalId === undefined
      ? null
      : isoTp(bus, clock, {
          sendId: functionalId,
          receiveId: answerId,
          ...wide,
          ...addressed(addresses?.functional ?? addresses?.target),
        })
  const ownId = drive.periodic?.answerId
  /** Frames on the identifier that data is sent on by itself; whatever else is on the bus meanwhile is let go. */
  const sent = async (timeoutMs: number): Promise<Uint8Array | null> => {
    const until = clock.now() + timeoutMs
    for (;;) {
      const frame = await bus.receive(Math.max(0, until - clock.now()))
      if (!frame) return null
      if (frame.id === ownId && !!frame.extended === !!extended) return frame.data
      if (clock.now() >= until) return null
    }
  }
  return servicesDriver(
    transport,
    clock,
    family,
    drive,
    async () => {},
    carrier,
    all ? (message) => all.send(message) : undefined,
    ownId === undefined ? undefined : sent,
  )
}
