/*
 * Cyclic redundancy checks by table, one byte a step; the one that whole images are judged by takes eight at once.
 * Parameters and check values ("123456789") are those of the CRC RevEng catalogue of parametrised CRC algorithms.
 */

const xmodemTable = buildForward16(0x1021)
const modbusTable = buildReflected16(0xa001)
const iso32Tables = sliced(buildReflected32(0xedb88320))

/**
 * CRC-16/XMODEM: polynomial 0x1021, start 0, not reflected, no final XOR. Check value 0x31C3.
 * @param start the CRC of the bytes before these, to go on in pieces.
 */
export function crc16Xmodem(bytes: Uint8Array, start = 0): number {
  let crc = start
  for (let at = 0; at < bytes.length; at++) {
    crc = ((crc << 8) & 0xffff) ^ xmodemTable[(crc >> 8) ^ bytes[at]!]!
  }
  return crc
}

/** CRC-16/MODBUS: polynomial 0x8005 reflected, start 0xFFFF, no final XOR. Check value 0x4B37. */
export function crc16Modbus(bytes: Uint8Array): number {
  let crc = 0xffff
  for (let at = 0; at < bytes.length; at++) {
    crc = (crc >>> 8) ^ modbusTable[(crc ^ bytes[at]!) & 0xff]!
  }
  return crc
}

/**
 * CRC-32/ISO-HDLC (the one of Ethernet and ZIP): polynomial 0x04C11DB7 reflected, start and final XOR
 * 0xFFFFFFFF. Check value 0xCBF43926.
 * @param start the CRC of the bytes before these, to go on in pieces.
 */
export function crc32(bytes: Uint8Array, start = 0): number {
  const [t0, t1, t2, t3, t4, t5, t6, t7] = iso32Tables
  let crc = ~start
  let at = 0
  for (; at + 8 <= bytes.length; at += 8) {
    const low = crc ^ (bytes[at]! | (bytes[at + 1]! << 8) | (bytes[at + 2]! << 16) | (bytes[at + 3]! << 24))
    crc =
      t7[low & 0xff]! ^
      t6[(low >>> 8) & 0xff]! ^
      t5[(low >>> 16) & 0xff]! ^
      t4[low >>> 24]! ^
      t3[bytes[at + 4]!]! ^
      t2[bytes[at + 5]!]! ^
      t1[bytes[at + 6]!]! ^
      t0[bytes[at + 7]!]!
  }
  for (; at < bytes.length; at++) {
    crc = (crc >>> 8) ^ t0[(crc ^ bytes[at]!) & 0xff]!
  }
  return ~crc >>> 0
}

function buildForward16(polynomial: number): Uint16Array {
  return Uint16Array.from({ length: 256 }, (_, byte) => {
    let crc = byte << 8
    for (let bit = 0; bit < 8; bit++) crc = crc & 0x8000 ? (crc << 1) ^ polynomial : crc << 1
    return crc & 0xffff
  })
}

function buildReflected16(polynomial: number): Uint16Array {
  return Uint16Array.from({ length: 256 }, (_, byte) => {
    let crc = byte
    for (let bit = 0; bit < 8; bit++) crc = crc & 1 ? (crc >>> 1) ^ polynomial : crc >>> 1
    return crc
  })
}

function buildReflected32(polynomial: number): Int32Array {
  return Int32Array.from({ length: 256 }, (_, byte) => {
    let crc = byte
    for (let bit = 0; bit < 8; bit++) crc = crc & 1 ? (crc >>> 1) ^ polynomial : crc >>> 1
    return crc | 0
  })
}

type EightTables = readonly [
  Int32Array,
  Int32Array,
  Int32Array,
  Int32Array,
  Int32Array,
  Int32Array,
  Int32Array,
  Int32Array,
]

/** Table `n` is what a byte does to the CRC with `n` zero bytes after it: eight bytes are then eight look-ups, joined by XOR. */
function sliced(first: Int32Array): EightTables {
  const tables = [first]
  for (let n = 1; n < 8; n++)
    tables.push(tables[n - 1]!.map((before) => (before >>> 8) ^ first[before & 0xff]!))
  return tables as unknown as EightTables
}
