import { usbBulkMs } from '../usb'
import { packExchanges } from './sequences'
import type { SpiExchange } from './spi-port'

/**
 * What exchanges take over an adapter, ms: each packet there and back on the bus, and its clocks.
 * @param selects select is let go after each.
 */
export function exchangeMs(
  list: readonly SpiExchange[],
  { packetBytes, hertz }: { packetBytes: number; hertz: number },
  selects = true,
): number {
  const clocks = list.reduce((sum, { send, read }) => sum + 8 * (send.length + read) + Number(selects), 0)
  return packExchanges(list, { packetBytes, held: true, selects }).reduce(
    (ms, { packet, kept }) =>
      ms + usbBulkMs(packet.length) + usbBulkMs(2 + kept.reduce((sum, { bytes }) => sum + bytes, 0)),
    (clocks * 1000) / hertz,
  )
}
