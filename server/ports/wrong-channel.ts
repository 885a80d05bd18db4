import { Problem } from '@bench-wake/core/kernel'

export function wrongChannel(portId: string): Problem {
  return new Problem({
    kind: 'wrong-channel',
    thing: portId,
    says: 'this is no serial port',
    remedy: 'Choose the port that the adapter of the bus is plugged into.',
  })
}
