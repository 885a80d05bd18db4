/** Signatures by place: PNG (ISO/IEC 15948, 5.2), JPEG (ISO/IEC 10918-1, SOI and the next marker), WebP in its RIFF container. */
const signatures: [type: string, bytes: (number | null)[]][] = [
  ['image/png', [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]],
  ['image/jpeg', [0xff, 0xd8, 0xff]],
  // "RIFF", four bytes of length, "WEBP": a sound begins with "RIFF" as well.
  ['image/webp', [0x52, 0x49, 0x46, 0x46, null, null, null, null, 0x57, 0x45, 0x42, 0x50]],
]

/** Type of a photo that a browser shows; undefined for anything else. */
export const photoType = (bytes: Uint8Array): string | undefined =>
  signatures.find(([, signature]) =>
    signature.every((byte, at) => at < bytes.length && (byte === null || bytes[at] === byte)),
  )?.[0]
