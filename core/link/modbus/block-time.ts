import type { DriveOf } from '../../family'
import { bitsPerCharacter, type SerialSettings } from '../port'
import { silenceMs } from './rtu'

/** Characters around the registers of a request and of its answer, by function (V1.1b3, clauses 6.3, 6.5, 6.6, 6.12). */
const around = { write: 9 + 8, command: 8 + 8, state: 8 + 7 }
const maxWords = 123

/**
 * Time the wire itself needs for an image that goes in blocks of registers, ms: each block's registers, its address and
 * length, the command and one look at the state, there and back, with the silences and rests between.
 */
export function blockWireMs(
  length: number,
  { block, timing }: Pick<DriveOf<'modbus'>, 'block' | 'timing'>,
  settings: SerialSettings,
): number {
  if (!block) return 0
  const characterMs = (bitsPerCharacter(settings) * 1000) / settings.baudRate
  const exchange = (characters: number) =>
    characters * characterMs + 2 * silenceMs(settings) + (timing?.pauseMs ?? 0)
  let ms = 0
  for (let at = 0; at < length; at += block.words * 2) {
    const words = Math.ceil(Math.min(block.words * 2, length - at) / 2)
    for (let word = 0; word < words; word += maxWords)
      ms += exchange(around.write + 2 * Math.min(maxWords, words - word))
    ms += 2 * exchange(around.write + 4) + exchange(around.command) + exchange(around.state)
  }
  return ms
}
