import type * as portsTypes from '../ports/ports'
import * as v from 'valibot'
import { held } from './held'

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
