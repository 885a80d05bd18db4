import {
  drivenLink,
  emptyDraft,
  profileOf,
  readFamily,
  transfers,
  type TeachDraft,
} from '@bench-wake/core/family'
import { seeded, type DisturbanceForm } from '@bench-wake/standins'
import { disturbedWriteOf, type Outcome } from './disturbed.test-support'

/** A kind of equipment that nobody made: its pieces are drawn by a seed, as a person could have taught them. */
export function generatedDraft(seed: number): TeachDraft {
  const random = seeded(seed)
  const one = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)]!
  const by = one(transfers)
  const prompt = random() < 0.5
  const lines = by === 'ihex-lines' || by === 'srec-lines'
  const plain = by === 'plain'
  const proved = one(['check', 'read', 'both'] as const)
  const check = proved !== 'read'
  return {
    ...emptyDraft(),
    about: {
      name: `Kind ${seed}`,
      id: `kind-${seed}`,
      summary: 'Drawn by a seed.',
      deviceIdentifier: `K-${seed}`,
    },
    line: { baudRate: one([9600, 57_600, 115_200]), dataBits: 8, parity: 'none', stopBits: 1 },
    lineKnown: true,
    lineEnd: one(['\r', '\n', '\r\n'] as const),
    ends: prompt ? { by: 'prompt', text: '=> ' } : { by: 'line', text: 'ok' },
    refused: random() < 0.8 ? '?{reason}' : null,
    page: {
      sends: 'ver',
      facts: [{ field: 'version.main', label: 'Firmware', reads: 'fw {value}', seen: '1.0' }],
    },
    memory: { address: '0x8000', length: '0x4000', sectorBytes: one([512, 1024, 4096]) },
    entry: { how: 'hand', does: 'Hold the key.', settleMs: 500 },
    attach: prompt
      ? { sends: '', by: 'prompt', text: 'boot> ' }
      : { sends: '', by: 'line', text: 'boot ready' },
    erase: {
      sends: 'erase {address:hex8} {length:hex8}',
      progress: random() < 0.5 ? 'at {done}/{total}' : '',
      withinMs: 60_000,
    },
    write: {
      sends: plain ? 'stage {length}' : lines ? 'load' : 'load {address:hex8}',
      announces: lines ? '' : 'send',
      by,
      then: plain ? 'burn {address:hex8}' : '',
      pieceBytes: plain ? one([64, 256, 1024]) : null,
    },
    check: check
      ? {
          sends: 'sum {address:hex8} {length:hex8}',
          answers: 'sum {sum:hex8}',
          checksum: one(['crc32', 'CRC-16/IBM-3740', 'CRC-32/MPEG-2', 'adler32'] as const),
        }
      : null,
    read:
      proved === 'check'
        ? null
        : { sends: 'dump {address:hex8} {length:hex8}', line: '{at:hex8}: {row:bytes} |' },
    start: { sends: 'go' },
    power: { nominalVolts: 12, floorVolts: 11, ceilingVolts: 15 },
  }
}

/** A disturbed write on a generated kind. @throws Error for a hang, for anything but a Problem, for a proof that is none. */
export function generatedWrite(
  seed: number,
  form: DisturbanceForm,
  turn: () => Promise<void>,
): Promise<Outcome> {
  const family = readFamily(profileOf(generatedDraft(seed)))
  return disturbedWriteOf(`kind ${seed}`, family, drivenLink(family)!, form, turn)
}
