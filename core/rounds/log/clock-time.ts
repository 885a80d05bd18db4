/**
 * Seconds that a time of a log stands for: `12:04:31.250`, `04:31,5`, `2026-11-24T12:04:31.250Z`,
 * `24.11.2026 12:04:31`. Days count from 1970 (ISO 8601); a clock without a day from midnight. NaN for anything else.
 */
export function clockSeconds(text: string): number {
  const parts =
    /^(?:(\d{4}-\d{2}-\d{2}|\d{1,2}\.\d{1,2}\.\d{4})[T ]+)?(\d{1,4}:\d{2}(?::\d{2})?)(?:[.,](\d{1,9}))?(Z|[+-]\d{2}:?\d{2})?$/.exec(
      text.trim(),
    )
  if (!parts) return NaN
  const [, day, clock, fraction = '', zone] = parts
  const figures = clock!.split(':').map(Number)
  // Two figures without a day are minutes and seconds, as a stopwatch shows them; with one, hours and minutes.
  const [hours, minutes, seconds] =
    figures.length === 3 ? figures : day ? [figures[0], figures[1], 0] : [0, figures[0], figures[1]]
  if (minutes! > 59 && figures.length === 3) return NaN
  if (seconds! > 60) return NaN
  const ofDay = hours! * 3600 + minutes! * 60 + seconds! + (fraction ? Number(`0.${fraction}`) : 0)
  return (day ? daySeconds(day) : 0) + ofDay - zoneSeconds(zone)
}

function daySeconds(day: string): number {
  const [year, month, date] = day.includes('.')
    ? day.split('.').map(Number).reverse()
    : day.split('-').map(Number)
  return Date.UTC(year!, month! - 1, date) / 1000
}

function zoneSeconds(zone: string | undefined): number {
  if (!zone || zone === 'Z') return 0
  const [hours, minutes] = [Number(zone.slice(1, 3)), Number(zone.slice(-2))]
  return (zone[0] === '-' ? -1 : 1) * (hours * 3600 + minutes * 60)
}
