import { asciiBytes, asciiText } from '@bench-wake/core/kernel'
import { decodeSlcan, encodeSlcan, slcanRates, type CanPort, type Port } from '@bench-wake/core/link'

/**
 * The adapter's own half: between a serial line and a bus, until the line is closed.
 * @param setRate called with the rate that was chosen before the bus is joined.
 */
export async function serveSlcan(
  line: Port,
  bus: CanPort,
  setRate: (bitsPerSecond: number) => void = () => {},
): Promise<void> {
  let open = false
  let text = ''
  const say = (answer: string) => line.write(asciiBytes(answer))
  const hear = async () => {
    for (;;) {
      const frame = await bus.receive(Infinity)
      if (frame && open) await say(`${encodeSlcan(frame)}\r`)
    }
  }
  const serve = async () => {
    for (;;) {
      const bytes = await line.read(256, Infinity)
      for (const character of bytes ? asciiText(bytes) : '') {
        if (character !== '\r') {
          if (text.length < 32) text += character
          continue
        }
        const command = text
        text = ''
        const frame = decodeSlcan(command)
        const rate = /^S[0-8]$/.test(command) ? slcanRates[Number(command[1])] : undefined
        if (frame && open) {
          await bus.send(frame)
          await say(frame.extended ? 'Z\r' : 'z\r')
        } else if (rate !== undefined && !open) {
          setRate(rate)
          await say('\r')
        } else if ((command === 'O' && !open) || (command === 'C' && open)) {
          open = command === 'O'
          await say('\r')
        } else if (command === '') await say('\r')
        else await say('\x07')
      }
    }
  }
  await Promise.race([serve(), hear()])
}
