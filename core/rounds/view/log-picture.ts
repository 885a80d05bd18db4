import { channelNamed, durationOf, type Log } from '../log'
import { columnEdges, columnsOf, Extremes } from './extremes'

const [width, laneHeight, left, right, foot] = [960, 96, 150, 16, 28]

/**
 * A log as a picture for whoever answers it (SVG 1.1): one lane a channel, lowest and highest of every column, so that
 * nothing short disappears.
 * @param names channels to draw, in their order; those the log does not have are left out.
 */
export function logPicture(log: Log, names: readonly string[], title: string): string {
  const channels = names.flatMap((name) => channelNamed(log, name) ?? [])
  const height = 36 + channels.length * laneHeight + foot
  const columns = width - left - right
  const first = log.seconds[0] ?? 0
  const lasts = durationOf(log) || 1
  const edges = columnEdges(log.seconds, first, first + lasts, columns)
  const lanes = channels.map(({ name, unit, values }, index) => {
    const top = 36 + index * laneHeight
    const extremes = new Extremes(values)
    const [min, max] = extremes.within(0, values.length)
    const span = max > min ? max - min : 1
    const y = (figure: number) =>
      (top + laneHeight - 14 - ((figure - min) / span) * (laneHeight - 28)).toFixed(1)
    const drawn = columnsOf(extremes, edges)
    let path = ''
    for (let column = 0; column < columns; column++) {
      const low = drawn[column * 2]!
      if (Number.isNaN(low)) continue
      path += `${path === '' ? 'M' : 'L'}${left + column} ${y(drawn[column * 2 + 1]!)}L${left + column} ${y(low)}`
    }
    const figure = (value: number) => (Number.isFinite(value) ? String(Number(value.toPrecision(4))) : '')
    return [
      `<rect x="${left}" y="${top + 6}" width="${columns}" height="${laneHeight - 12}" fill="none" stroke="#c9c4b8"/>`,
      `<text x="12" y="${top + 30}">${escaped(name)}</text>`,
      `<text x="12" y="${top + 48}" fill="#5c574d">${escaped(unit)}</text>`,
      `<text x="${left - 6}" y="${top + 18}" text-anchor="end">${figure(max)}</text>`,
      `<text x="${left - 6}" y="${top + laneHeight - 10}" text-anchor="end">${figure(min)}</text>`,
      path === '' ? '' : `<path d="${path}" fill="none" stroke="#1d4e63" stroke-width="1"/>`,
    ].join('')
  })
  return [
    `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${width} ${height}" font-family="sans-serif" font-size="13" fill="#1c1a16">`,
    `<rect width="${width}" height="${height}" fill="#ffffff"/>`,
    `<text x="12" y="22" font-weight="bold">${escaped(title)}</text>`,
    ...lanes,
    `<text x="${left}" y="${height - 8}">0 s</text>`,
    `<text x="${width - right}" y="${height - 8}" text-anchor="end">${Number(lasts.toFixed(1))} s</text>`,
    '</svg>',
  ].join('\n')
}

const escaped = (text: string) =>
  text.replace(/[&<>"]/g, (mark) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[mark]!)
