import { writeIntelHex, type MemoryMap } from '@bench-wake/core/image'

export { firmwareOf, placed, type MadeUpFirmware as DemoFirmware } from '@bench-wake/standins'

/** The smallest ELF32 executable that carries a memory map: a header, program headers, the bytes. */
export function elfOf(memory: MemoryMap, little: boolean, machine: number): Uint8Array {
  const table = 52
  const from = table + 32 * memory.length
  const file = new Uint8Array(from + memory.reduce((sum, { bytes }) => sum + bytes.length, 0))
  const view = new DataView(file.buffer)
  file.set([0x7f, 0x45, 0x4c, 0x46, 1, little ? 1 : 2, 1])
  const half = (at: number, value: number) => view.setUint16(at, value, little)
  const word = (at: number, value: number) => view.setUint32(at, value, little)
  half(16, 2)
  half(18, machine)
  word(20, 1)
  word(24, memory[0]?.address ?? 0)
  word(28, table)
  half(40, 52)
  half(42, 32)
  half(44, memory.length)
  half(46, 40)
  let place = from
  memory.forEach(({ address, bytes }, index) => {
    const at = table + 32 * index
    const header = [1, place, address, address, bytes.length, bytes.length, 5, 4]
    header.forEach((value, member) => word(at + member * 4, value))
    file.set(bytes, place)
    place += bytes.length
  })
  return file
}

/** An image of the fog-signal controller. */
export interface DemoImage {
  deviceIdentifier: string
  hardware: [major: number, minor: number]
  version: string
  release: 'production' | 'test'
  /** Seconds since 1970 UTC. */
  built: number
  length: number
}

/** The image as the Intel HEX file a supplier sends. */
export function hexOf(memory: MemoryMap): string {
  return writeIntelHex(memory, {
    lineEnd: '\r\n',
    start: { kind: 'linear', address: memory[0]!.address },
  })
}
