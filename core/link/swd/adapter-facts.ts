import { asciiText } from '../../kernel'
import { dapCommand, dapInfo } from './dap-packets'
import type { DapAdapter } from './adapter'

/** What an adapter says of itself, and what it can be used for. */
export interface AdapterFacts {
  maker: string | null
  product: string | null
  serial: string | null
  /** Version of its own firmware; this program never writes that. */
  firmware: string | null
  /** Version of the protocol it speaks. */
  protocol: string | null
  packetBytes: number
  /** Serial wire debug, and the JTAG lines, which also clock a chip or a six-line port. */
  can: ('serial-wire' | 'lines')[]
}

/** DAP_Info, capabilities: bit 0 serial wire, bit 1 JTAG (CMSIS-DAP reference). */
const capability = { serialWire: 1, jtag: 2 } as const

/** Asks an adapter who it is. Nothing at its far end is touched. */
export async function adapterFacts(adapter: DapAdapter): Promise<AdapterFacts> {
  const text = async (what: number) => {
    const answer = await adapter.exchange(Uint8Array.of(dapCommand.info, what))
    const said = asciiText(answer.subarray(2, 2 + (answer[1] ?? 0)))
    return said.split('\0')[0]!.trim() || null
  }
  const answer = await adapter.exchange(Uint8Array.of(dapCommand.info, dapInfo.capabilities))
  const bits = answer[1]! > 0 ? answer[2]! : 0
  return {
    maker: await text(dapInfo.maker),
    product: await text(dapInfo.product),
    serial: await text(dapInfo.serial),
    firmware: await text(dapInfo.firmware),
    protocol: await text(dapInfo.version),
    packetBytes: adapter.packetBytes,
    can: [
      ...(bits & capability.serialWire ? (['serial-wire'] as const) : []),
      ...(bits & capability.jtag ? (['lines'] as const) : []),
    ],
  }
}
