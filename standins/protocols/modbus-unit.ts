import { asciiBytes, isProblem } from '@bench-wake/core/kernel'
import { type Port, readRtu, receiveFrame, silenceMs, writeRtu } from '@bench-wake/core/link'

/** A unit's own half of the protocol: what it answers to a request, function code first; null where it stays silent. */
export interface ModbusUnit {
  address: number
  answer(pdu: Uint8Array): Uint8Array | null | Promise<Uint8Array | null>
}

/** An exception answer (V1.1b3, clause 7). */
export const refuseModbus = (code: number, exception: number): Uint8Array =>
  Uint8Array.of(code | 0x80, exception)

/** The answer to basic device identification with these objects, in order from 0 (V1.1b3, clause 6.21). */
export function answerIdentity(objects: readonly string[]): Uint8Array {
  const list = objects.flatMap((text, id) => [id, text.length, ...asciiBytes(text)])
  return Uint8Array.of(0x2b, 0x0e, 0x01, 0x01, 0x00, 0x00, objects.length, ...list)
}

/**
 * Serves units on one bus until the port is closed. Two units at one address speak at once: on the wire a low bit wins,
 * so what arrives is the one frame and the other, bit by bit, and its CRC does not hold.
 * @param units those that are joined now; asked anew for every frame.
 */
export async function serveModbus(
  port: Port,
  units: () => readonly ModbusUnit[],
  thinkMs: (ms: number) => Promise<void>,
): Promise<void> {
  const silence = silenceMs(port.settings)
  for (;;) {
    const bytes = await receiveFrame(port, Infinity, silence, () => null)
    if (!bytes) continue
    let asked
    try {
      asked = readRtu(bytes)
    } catch (error) {
      // A frame that does not hold is not answered (Serial Line V1.02, clause 2.5.1.2).
      if (isProblem(error, 'modbus-frame')) continue
      throw error
    }
    const answers: Uint8Array[] = []
    for (const unit of units()) {
      if (unit.address !== asked.address) continue
      const pdu = await unit.answer(asked.pdu)
      if (pdu) answers.push(writeRtu({ address: unit.address, pdu }))
    }
    if (answers.length === 0 || asked.address === 0) continue
    await thinkMs(silence)
    await port.write(collide(answers))
  }
}

function collide(frames: readonly Uint8Array[]): Uint8Array {
  const length = Math.max(...frames.map((frame) => frame.length))
  return Uint8Array.from({ length }, (_, at) =>
    frames.reduce((byte, frame) => byte & (frame[at] ?? 0xff), 0xff),
  )
}
