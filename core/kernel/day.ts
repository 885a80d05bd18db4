/** Whether a text `2026-11-24` is a day of the calendar (ISO 8601-1, 5.2.2; proleptic Gregorian, year 1 on). */
export function isDay(text: string): boolean {
  const parts = /^(\d{4})-(\d{2})-(\d{2})$/.exec(text)
  if (!parts) return false
  const [year, month, day] = parts.slice(1).map(Number) as [number, number, number]
  if (year < 1 || month < 1 || month > 12 || day < 1) return false
  const leap = (year % 4 === 0 && year % 100 !== 0) || year % 400 === 0
  return day <= [31, leap ? 29 : 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31][month - 1]!
}

/**
 * The day of a time by the calendar of this computer, `2026-11-24`: what a person there calls today is not the day of
 * universal time for half the world.
 * @param at ms since 1970
 * @param ahead so many days later; a day may last 23 or 25 hours
 */
export function dayAt(at: number, ahead = 0): string {
  const there = new Date(at)
  return new Date(Date.UTC(there.getFullYear(), there.getMonth(), there.getDate() + ahead))
    .toISOString()
    .slice(0, 10)
}
