import { groupedNumber, hexText, Problem } from '../../kernel'
import { dapCommand, dapInfo, dapPin, encodePins, word32, type DapAdapter } from '../swd'
import { packExchanges, unpackExchanges, wholeExchangeBytes } from './sequences'
import type { SpiPort } from './spi-port'

/** DAP_Info capabilities: bit 1 says that the adapter has its JTAG lines. */
const hasJtag = 1 << 1
/** DAP_Connect: the JTAG port. */
const jtagPort = 2

/** How a serial line to a chip is set. */
export interface SpiForm {
  /** Highest clock that the chip, the board and the leads bear, Hz. */
  hertz: number
  /** Which line selects the chip; `none` where reset does, and every clock is meant for the unit. */
  select?: 'tms' | 'none'
}

/**
 * The JTAG lines of an adapter as a plain synchronous port: TCK is the clock, TDI goes to the chip's data in, TDO comes
 * from its data out, TMS is its select, nRESET holds the board. Whether select stays low between two packets is asked of
 * the adapter, not believed: it is set, another packet is sent, and it is looked at again.
 * @throws Problem `spi-not-there` where the adapter does not have these lines.
 */
export async function openSpiPort(adapter: DapAdapter, { hertz, select = 'tms' }: SpiForm): Promise<SpiPort> {
  const info = await adapter.exchange(Uint8Array.of(dapCommand.info, dapInfo.capabilities))
  const connected =
    info[1]! > 0 && info[2]! & hasJtag
      ? await adapter.exchange(Uint8Array.of(dapCommand.connect, jtagPort))
      : null
  if (connected?.[1] !== jtagPort) {
    throw new Problem({
      kind: 'spi-not-there',
      thing: adapter.name,
      says: 'this adapter has no JTAG lines, which the chip would be clocked by',
      expected: 'an adapter that joins as JTAG',
      found: connected ? `it answers ${hexText(connected[1] ?? 0)} when it is joined` : 'serial wire alone',
      remedy: 'Take an adapter that lists JTAG among what it can do.',
    })
  }
  await sure(adapter, concatClock(hertz), 'its clock cannot be set', `${groupedNumber(hertz)} Hz`)
  const pins = async (value: number, mask: number) => (await adapter.exchange(encodePins(value, mask)))[1]!
  // A chip that is selected rests with its clock high (mode 3); one that reset selects wants it low before reset falls.
  const lines = dapPin.select | dapPin.clock
  const rest = select === 'tms' ? lines : dapPin.select
  let held = true
  if (select === 'tms') {
    await pins(dapPin.clock, lines)
    await adapter.exchange(Uint8Array.of(dapCommand.hostStatus, 0, 1))
    held = !((await pins(0, 0)) & dapPin.select)
  }
  await pins(rest, lines)

  return {
    name: adapter.name,
    hertz,
    maxBytes: held ? Infinity : wholeExchangeBytes(adapter.packetBytes),
    async exchange(list) {
      const packets = packExchanges(list, {
        packetBytes: adapter.packetBytes,
        held,
        selects: select === 'tms',
      })
      const answers: Uint8Array[] = []
      for (const { packet } of packets)
        answers.push((await sure(adapter, packet, 'it did not clock')).subarray(2))
      return unpackExchanges(list, packets, answers)
    },
    async reset(down) {
      if (select === 'none') await pins(rest, lines)
      await pins(down ? 0 : dapPin.reset, dapPin.reset)
    },
    async release() {
      await pins(rest | dapPin.reset, lines | dapPin.reset)
      await adapter.exchange(Uint8Array.of(dapCommand.disconnect))
    },
  }
}

const concatClock = (hertz: number) => Uint8Array.of(dapCommand.clock, ...word32(hertz))

/** An answer whose status says that it was done. @throws Problem `dap-refused`. */
async function sure(
  adapter: DapAdapter,
  packet: Uint8Array,
  says: string,
  expected?: string,
): Promise<Uint8Array> {
  const answer = await adapter.exchange(packet)
  if (answer[1] === 0) return answer
  throw new Problem({
    kind: 'dap-refused',
    thing: adapter.name,
    says,
    ...(expected === undefined ? {} : { expected }),
    found: hexText(answer[1] ?? 0),
    remedy: 'Unplug the adapter, count to five, plug it in again.',
  })
}
