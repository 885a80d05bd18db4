import { Problem, hexText } from '../../kernel'
import { interfacesOf, stringOf, type UsbPort } from '../usb'
import { dapCommand, dapInfo } from './dap-packets'

/** A debug adapter as a channel of packets: one there, one back. */
export interface DapAdapter {
  readonly name: string
  readonly packetBytes: number
  exchange(packet: Uint8Array): Promise<Uint8Array>
}

const humanInterface = 3
const ownClass = 0xff

/**
 * Finds the adapter's interface. Version 2 has bulk endpoints in an interface of its own class whose name holds
 * "CMSIS-DAP"; version 1 carries packets in reports of a human interface device, always of full length.
 * @param usb open device.
 * @throws Problem `dap-not-there`.
 */
export async function dapAdapter(usb: UsbPort): Promise<DapAdapter> {
  const interfaces = await interfacesOf(usb)
  for (const each of interfaces) {
    const [into, outOf] = [false, true].map((fromDevice) =>
      each.endpoints.find(({ address }) => !!(address & 0x80) === fromDevice),
    )
    if (!into || !outOf) continue
    const bulk = each.class === ownClass && into.kind === 2
    const named = ((await stringOf(usb, each.name)) ?? '').includes('CMSIS-DAP')
    if (!named || (!bulk && each.class !== humanInterface)) continue
    await usb.claimInterface(each.number, each.alternate)
    const send = async (packet: Uint8Array, length: number) => {
      const report = bulk ? packet : padded(packet, length)
      await usb.transferOut(into.address, report)
      const answer = await usb.transferIn(outOf.address & 0x7f, length)
      if (answer[0] === packet[0]) return answer
      throw odd(usb.name, packet[0]!, answer[0])
    }
    // The first question goes in the smallest packet there is: how large may they be?
    const size = await send(Uint8Array.of(dapCommand.info, dapInfo.packetSize), into.maxBytes)
    const packetBytes = size[1] === 2 ? size[2]! | (size[3]! << 8) : into.maxBytes
    return { name: usb.name, packetBytes, exchange: (packet) => send(packet, packetBytes) }
  }
  throw new Problem({
    kind: 'dap-not-there',
    thing: usb.name,
    says: 'this is no debug adapter that this program knows',
    expected: 'an interface named CMSIS-DAP',
    found: interfaces.map(({ class: kind }) => `class ${hexText(kind)}`).join(', ') || 'none',
    remedy: 'Choose the adapter’s own port; update the adapter where its manual says so.',
  })
}

function padded(packet: Uint8Array, length: number): Uint8Array {
  const report = new Uint8Array(Math.max(length, packet.length))
  report.set(packet)
  return report
}

function odd(thing: string, expected: number, found: number | undefined): Problem {
  return new Problem({
    kind: 'dap-answer',
    thing,
    says: 'the adapter answers something else than was asked',
    expected: hexText(expected),
    found: found === undefined ? 'nothing' : hexText(found),
    remedy: 'Unplug the adapter, count to five, plug it in again; close other programs that use it.',
  })
}
