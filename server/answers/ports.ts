import type { AdapterFacts as CoreAdapterFacts } from '@bench-wake/core/link'
import { clipSeats } from '@bench-wake/standins'
import type * as portsTypes from '../ports/ports'
import * as v from 'valibot'
import { held } from './held'

export const StandInCable = held<portsTypes.StandInCable>()(
  'StandInCable',
  v.object({
    id: v.string(),
    name: v.string(),
    joined: v.boolean(),
    lamp: v.exactOptional(v.boolean()),
    clip: v.exactOptional(v.picklist(clipSeats)),
  }),
)

export const AdapterFacts = held<CoreAdapterFacts>()(
  'AdapterFacts',
  v.object({
    maker: v.nullable(v.string()),
    product: v.nullable(v.string()),
    serial: v.nullable(v.string()),
    firmware: v.nullable(v.string()),
    protocol: v.nullable(v.string()),
    packetBytes: v.number(),
    can: v.array(v.picklist(['serial-wire', 'lines'])),
  }),
)

export const PortEntry = held<portsTypes.PortEntry>()(
  'PortEntry',
  v.object({
    id: v.string(),
    name: v.string(),
    kind: v.picklist(['usb', 'serial', 'stand-in', 'lent']),
    channel: v.picklist(['usb', 'serial']),
    unitId: v.exactOptional(v.string()),
    hasMeter: v.boolean(),
    isMeter: v.exactOptional(v.literal(true)),
    usb: v.exactOptional(
      v.object({
        vendorId: v.exactOptional(v.string()),
        productId: v.exactOptional(v.string()),
        serialNumber: v.exactOptional(v.string()),
        maker: v.exactOptional(v.string()),
      }),
    ),
    program: v.exactOptional(v.string()),
    heldBy: v.exactOptional(v.string()),
    present: v.boolean(),
  }),
)
