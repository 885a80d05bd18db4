import { hexText } from '../../kernel'
/*
 * ISO 14229-1: services, sessions and negative response codes. A positive answer carries the service identifier plus
 * 0x40, a negative one 7F, the service and a code (clause 8). Numbers and names from memory of the published tables.
 */

/** Services that are used, by their identifiers (ISO 14229-1). */
export const service = {
  session: 0x10,
  reset: 0x11,
  clearFaults: 0x14,
  readFaults: 0x19,
  readData: 0x22,
  security: 0x27,
  communication: 0x28,
  periodicData: 0x2a,
  writeData: 0x2e,
  routine: 0x31,
  requestDownload: 0x34,
  requestUpload: 0x35,
  transferData: 0x36,
  transferExit: 0x37,
  testerPresent: 0x3e,
  faultSetting: 0x85,
} as const

/** How they are said. */
export const serviceNames: Readonly<Record<number, string>> = {
  0x10: 'session control',
  0x11: 'reset',
  0x14: 'clear fault codes',
  0x18: 'read fault codes by status',
  0x19: 'read fault codes',
  0x1a: 'read identification',
  0x21: 'read local data',
  0x22: 'read data by identifier',
  0x27: 'security access',
  0x28: 'communication control',
  0x2a: 'read data by periodic identifier',
  0x2e: 'write data by identifier',
  0x31: 'routine control',
  0x33: 'routine result',
  0x34: 'request download',
  0x35: 'request upload',
  0x36: 'transfer data',
  0x37: 'transfer exit',
  0x3e: 'tester present',
  0x85: 'control fault setting',
}

/** Sessions (ISO 14229-1, service 10). */
export const session = { standard: 1, programming: 2, extended: 3 } as const

/** Negative response codes in words (annex A.1). */
export const refusalWords: Readonly<Record<number, string>> = {
  0x10: 'it refuses without a reason',
  0x11: 'it does not know this service',
  0x12: 'it does not know this variant of the service',
  0x13: 'the message has the wrong length or form',
  0x14: 'the answer would be too long',
  0x21: 'it is busy; ask again',
  0x22: 'conditions are not right: is the motor standing, the key on, the supply high enough?',
  0x24: 'the order of requests is wrong',
  0x25: 'another controller that it needs does not answer',
  0x26: 'a fault keeps it from doing so',
  0x31: 'it does not have this identifier or this range',
  0x33: 'access is locked',
  0x34: 'authentication is missing',
  0x35: 'the key is wrong',
  0x36: 'too many wrong keys',
  0x37: 'it wants a rest after a wrong key',
  0x70: 'it accepts no download or upload now',
  0x71: 'the transfer was broken off by a fault',
  0x72: 'programming its memory failed',
  0x73: 'a block number is wrong',
  0x78: 'it has heard and needs longer',
  0x7e: 'not in this session: this variant',
  0x7f: 'not in this session',
  0x81: 'revolutions are too high',
  0x82: 'revolutions are too low',
  0x83: 'the motor runs',
  0x84: 'the motor does not run',
  0x85: 'the motor has not run long enough',
  0x86: 'it is too hot',
  0x87: 'it is too cold',
  0x88: 'it moves too fast',
  0x89: 'it moves too slowly',
  0x8a: 'the pedal is pressed too far',
  0x8b: 'the pedal is not pressed far enough',
  0x8c: 'the gear is not in neutral',
  0x8d: 'the gear is not engaged',
  0x8f: 'the brake is not pressed',
  0x90: 'the lever is not in park',
  0x92: 'the supply is too high',
  0x93: 'the supply is too low',
}

/** The unit needs longer (NRC 78). */
export const pending = 0x78
/** The unit asks to be asked again (NRC 21). */
export const busy = 0x21

/** `0xF189`. */
export const serviceText = (id: number): string => serviceNames[id] ?? `service ${hexText(id)}`
/** A negative response code in words. */
export const refusalText = (code: number): string => refusalWords[code] ?? `code ${hexText(code)}`
