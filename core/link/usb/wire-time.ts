/*
 * Time on the bus at full speed: 12 Mbit/s, 1 500 bytes in a frame of a millisecond (Universal Serial Bus 2.0, 5.3.3).
 * Protocol overhead by its tables of limits, from memory: a control transfer of one packet 45 bytes (table 5-2), each bulk
 * packet of up to 64 bytes 13 bytes (table 5-9). Bit stuffing and the host's own scheduling are left out.
 */
const bytesPerMs = 1500
const controlBytes = 45
const packetOverhead = 13
const packetBytes = 64

/** A control transfer with its set-up, data and status stages, ms. @param bytes of its data stage. */
export function usbControlMs(bytes: number): number {
  const more = Math.max(0, Math.ceil(bytes / packetBytes) - 1)
  return (controlBytes + bytes + more * packetOverhead) / bytesPerMs
}

/** A bulk transfer, ms; an empty one is a packet all the same. */
export function usbBulkMs(bytes: number): number {
  return (bytes + Math.max(1, Math.ceil(bytes / packetBytes)) * packetOverhead) / bytesPerMs
}
