import { concatBytes, crc32, hexNumber, Problem } from '../kernel'

/*
 * The suffix of a DFU file: USB Device Firmware Upgrade 1.1, appendix B. Sixteen bytes or more at the end, written
 * backwards: CRC, length, "DFU" as 55 46 44, version of the format, vendor, product, release of the device.
 */

/** The suffix of a DFU file (DFU 1.1, appendix B): for which device it is. */
export interface DfuSuffix {
  /** 0xFFFF: for any. */
  vendorId: number
  productId: number
  deviceRelease: number
  /** Bytes of the suffix. */
  length: number
}

/** True when the file ends as a DFU file does. */
export function hasDfuSuffix(file: Uint8Array): boolean {
  const at = file.length - 8
  return at >= 8 && file[at] === 0x55 && file[at + 1] === 0x46 && file[at + 2] === 0x44
}

/**
 * Takes the suffix off and checks it.
 * @throws Problem `dfu-crc`, `dfu-length`, `dfu-version` with the byte offset.
 */
export function readDfuSuffix(file: Uint8Array): { payload: Uint8Array; suffix: DfuSuffix } {
  const view = new DataView(file.buffer, file.byteOffset, file.byteLength)
  const end = file.length
  if (!hasDfuSuffix(file)) throw bad('mark', end - 8, 'the file has no DFU suffix', '55 46 44', 'other bytes')
  const length = file[end - 5]!
  if (length < 16 || length > end)
    throw bad('length', end - 5, 'the suffix’s length is impossible', 'at least 16', String(length))
  const version = view.getUint16(end - 10, true)
  if (version !== 0x0100 && version !== 0x011a) {
    throw bad('version', end - 10, 'the suffix is of another format', '0100', hexNumber(version, 4))
  }
  const stored = view.getUint32(end - 4, true)
  const found = dfuCrc(file.subarray(0, end - 4))
  if (stored !== found)
    throw bad(
      'crc',
      end - 4,
      'the checksum of the suffix does not hold',
      hexNumber(stored, 8),
      hexNumber(found, 8),
    )
  return {
    payload: file.subarray(0, end - length),
    suffix: {
      deviceRelease: view.getUint16(end - 16, true),
      productId: view.getUint16(end - 14, true),
      vendorId: view.getUint16(end - 12, true),
      length,
    },
  }
}

/** The payload with a suffix of sixteen bytes after it. */
export function writeDfuSuffix(
  payload: Uint8Array,
  { vendorId, productId, deviceRelease }: Omit<DfuSuffix, 'length'>,
): Uint8Array {
  const file = concatBytes([payload, new Uint8Array(16)])
  const view = new DataView(file.buffer)
  const at = payload.length
  view.setUint16(at, deviceRelease, true)
  view.setUint16(at + 2, productId, true)
  view.setUint16(at + 4, vendorId, true)
  view.setUint16(at + 6, 0x0100, true)
  file.set([0x55, 0x46, 0x44, 16], at + 8)
  view.setUint32(at + 12, dfuCrc(file.subarray(0, at + 12)), true)
  return file
}

/** Appendix B: CRC-32 as of ISO-HDLC, but without the final inversion (CRC-32/JAMCRC of the CRC catalogue). */
export function dfuCrc(bytes: Uint8Array): number {
  return ~crc32(bytes) >>> 0
}

function bad(kind: string, offset: number, says: string, expected: string, found: string): Problem {
  return new Problem({
    kind: `dfu-${kind}`,
    place: { offset },
    says,
    expected,
    found,
    remedy: 'The file is damaged. Fetch it again from where it came.',
  })
}
