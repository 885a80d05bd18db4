const photoTypes: [type: string, first: number[]][] = [
  ['image/png', [0x89, 0x50, 0x4e, 0x47]],
  ['image/jpeg', [0xff, 0xd8, 0xff]],
  ['image/webp', [0x52, 0x49, 0x46, 0x46]],
]

/** Type of a photo that a browser shows, told by its first bytes (PNG, JPEG, RIFF as their formats say); undefined for anything else. */
export const photoType = (bytes: Uint8Array): string | undefined =>
  photoTypes.find(([, first]) => first.every((byte, at) => bytes[at] === byte))?.[0]
