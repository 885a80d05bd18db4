import { expect, it } from 'vitest'
import { virtualClock } from '../../kernel'
import type { SerialSettings } from '../port'
import { timedPort, type TimedAnswer } from '../timed-port.test-support'
import { modbusUnit, writeRtu } from '.'

/*
 * The answer to a reading does not say of which registers it is (Modbus Application Protocol V1.1b3, clause 6.3: function, count
 * of bytes, values): one that comes late must not be taken for that to the next.
 */

const settings: SerialSettings = { baudRate: 19_200, dataBits: 8, parity: 'even', stopBits: 1 }
const turn = () => new Promise<void>((done) => setImmediate(done))

it('an answer that comes after its time is let go before the question is asked anew', async () => {
  const clock = virtualClock(turn)
  // Each register holds its own number. The first question is answered after its time, all others within it.
  const registers = ([, , high = 0, low = 0]: number[], afterMs: number): TimedAnswer => [
    [afterMs, [...writeRtu({ address: 7, pdu: Uint8Array.of(3, 2, high, low) })]],
  ]
  const { port, written } = timedPort(clock, settings, (bytes, nth) =>
    registers(bytes, nth === 0 ? 260 : 150),
  )
  const unit = modbusUnit(port, clock, { timing: { answerMs: 200 }, address: 7 } as Parameters<
    typeof modbusUnit
  >[2])
  expect([await unit.read(0x10, 1), await unit.read(0x11, 1)]).toEqual([[0x10], [0x11]])
  expect(written).toHaveLength(3)
})
