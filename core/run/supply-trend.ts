/** Fewer readings since the load came on tell no way: the step that it makes is among those that count. */
export const fewestUnderLoad = 6

/**
 * Volts at a later moment, straight on from the readings so far: a least-squares line through the second half of
 * them, since the first half holds the step when the load came on (common practice for a short horizon).
 * @returns null for fewer than three readings, or readings all at one moment.
 */
export function voltsAtLastByte(
  readings: readonly { at: number; volts: number }[],
  endsAt: number,
): number | null {
  if (readings.length < 3) return null
  const used = readings.slice(Math.floor(readings.length / 2))
  const meanAt = mean(used.map(({ at }) => at))
  const meanVolts = mean(used.map(({ volts }) => volts))
  let over = 0
  let under = 0
  for (const { at, volts } of used) {
    over += (at - meanAt) * (volts - meanVolts)
    under += (at - meanAt) ** 2
  }
  if (under === 0) return null
  return meanVolts + (over / under) * (endsAt - meanAt)
}

const mean = (values: readonly number[]) => values.reduce((sum, value) => sum + value, 0) / values.length
