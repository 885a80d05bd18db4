import { Problem, type Clock } from '../../kernel'
import type { Transport } from '../isotp'
import type { UdsClient } from './client'
import { service, session } from './words'

/*
 * Data that a controller sends by itself (ISO 14229-1, service 2A, read data by periodic identifier; from memory of the
 * published tables): the identifiers are F200 to F2FF, of which the low byte alone is asked for and sent. What is sent is
 * either a message among the usual answers, 6A, the low byte and the data; or a bare frame on an identifier of its own, the
 * low byte and the data. Some leave the 6A out of their messages too.
 */

/** How often a controller sends: transmission modes 1 to 3. */
export const sendModes = { slow: 1, medium: 2, fast: 3 } as const
export type SendMode = keyof typeof sendModes
const stopSending = 4
/** What a positive answer begins with. */
const answered = service.periodicData + 0x40

/** What a controller was told to send by itself. */
export interface DataStream {
  /** The next message. @throws Problem `uds-silent` where none came within `timeoutMs`. */
  next(timeoutMs: number): Promise<{ identifier: number; bytes: Uint8Array }>
  /** Tells the controller to stop. */
  end(): Promise<void>
}

/** Between two words that keep the session open, ms (ISO 14229-2: well below S3). */
const keepsAwakeMs = 2000
/** Most identifiers of one request, so that it stays one message of any controller. */
const perRequest = 6

/**
 * Tells a controller to send data by itself: in its extended session, which is kept open meanwhile.
 * @param frames gives the bare frames of the identifier that the data comes on; absent where it comes as messages.
 * @throws Problem `uds-refused`, `uds-silent`.
 */
export async function periodicData(
  unit: UdsClient,
  transport: Transport,
  clock: Pick<Clock, 'now'>,
  asked: readonly { identifier: number; rate: SendMode }[],
  frames?: (timeoutMs: number) => Promise<Uint8Array | null>,
): Promise<DataStream> {
  const byLow = new Map(asked.map(({ identifier }) => [identifier & 255, identifier]))
  await unit.session(session.extended)
  for (const rate of Object.keys(sendModes) as SendMode[]) {
    const lows = asked.filter((each) => each.rate === rate).map(({ identifier }) => identifier & 255)
    for (let at = 0; at < lows.length; at += perRequest)
      await unit.sendByItself(sendModes[rate], lows.slice(at, at + perRequest))
  }
  let saidAt = clock.now()
  const take = frames ?? ((timeoutMs: number) => transport.receive(timeoutMs))
  return {
    async next(timeoutMs) {
      const until = clock.now() + timeoutMs
      for (;;) {
        if (clock.now() - saidAt >= keepsAwakeMs) {
          saidAt = clock.now()
          await transport.send(Uint8Array.of(service.testerPresent, 0x80))
        }
        const now = clock.now()
        const message = await take(Math.max(0, Math.min(until - now, saidAt + keepsAwakeMs - now)))
        // As a message it mostly has the answer's own byte before it.
        const datum =
          !frames && message?.[0] === answered && byLow.has(message[1]!) ? message.subarray(1) : message
        const identifier = datum ? byLow.get(datum[0]!) : undefined
        if (datum && identifier !== undefined) return { identifier, bytes: datum.subarray(1) }
        if (clock.now() >= until) throw nothingSent(transport.name)
      }
    },
    async end() {
      await unit.sendByItself(stopSending, [])
    },
  }
}

function nothingSent(thing: string): Problem {
  return new Problem({
    kind: 'uds-silent',
    thing,
    says: 'the controller stopped sending',
    expected: 'data by itself (service 2A)',
    found: 'silence',
    remedy: 'Look at key, supply and connector; then begin the recording anew.',
  })
}
