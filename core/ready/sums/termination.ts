import type { Finding } from '../../kernel'

/** Characteristic ohms of the pair and of each terminator (ISO 11898-2: 120 ohm at both ends; RS-485 alike). */
export const terminatorOhms = 120

/** What a meter shows between the two wires of an unpowered bus, by how many terminators are on it. */
export function busOhms(terminators: number): number {
  return terminators === 0 ? Infinity : terminatorOhms / terminators
}

/** How many terminators these ohms are, within 15 % (common practice); null where they are no number of them. */
export function terminatorsOf(measuredOhms: number): number | null {
  if (measuredOhms > 1000) return 0
  return (
    [1, 2, 3, 4].find((count) => Math.abs(measuredOhms - busOhms(count)) <= busOhms(count) * 0.15) ?? null
  )
}

/**
 * Terminators on a bus by the ohms measured between its wires, bus unpowered: 60 is two, as it must be; 120 one; 40
 * three. Within 15 %: resistors of 1 %, leads and the transceivers beside them (common practice).
 */
export function judgeTermination(measuredOhms: number): Finding {
  const numbers = { measuredOhms, wantedOhms: busOhms(2) }
  const near = (ohms: number) => Math.abs(measuredOhms - ohms) <= ohms * 0.15
  const say = (level: Finding['level'], says: string, remedy?: string): Finding => ({
    rule: 'termination',
    level,
    says,
    because: `120 ohm at each end, side by side 60 ohm; measured ${measuredOhms} ohm with the bus unpowered.`,
    ...(remedy ? { remedy } : {}),
    numbers,
  })
  if (near(60)) return say('go', 'Both ends are terminated.')
  if (near(120)) return say('hold', 'One terminator is missing.', 'Put 120 ohm at the other end.')
  if (near(40))
    return say('hold', 'There is a terminator too many.', 'Take out the one that is not at an end.')
  if (measuredOhms < 10)
    return say('stop', 'The two wires touch.', 'Find the short before anything is powered.')
  if (measuredOhms > 1000) return say('hold', 'No terminator is on the bus.', 'Put 120 ohm at both ends.')
  return say(
    'hold',
    'This is no number of terminators.',
    'Look whether the bus is powered, or a unit is joined that loads it.',
  )
}
