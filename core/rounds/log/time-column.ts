import type { Finding } from '../../kernel'
import type { LogChannel } from './log'

/** A column of a file, before anybody knows which of them is the time. */
export type Column = LogChannel

const timeNames =
  /^(time|t|timestamp|time ?stamp|elapsed|elapsed ?time|clock|zeit|temps|hora|seconds|sec|ms)$/i
const daySeconds = 86_400

/**
 * Takes the time out of a file's columns: what holds times of a clock, else by name, else the first that rises all along. In ms by its unit, or
 * where it has none and its steps are whole and of five or more. A clock that passes midnight goes on.
 */
export function takeTime(
  columns: readonly Column[],
  clockColumn = -1,
): {
  seconds: Float64Array
  channels: LogChannel[]
  findings: Finding[]
} {
  const findings: Finding[] = []
  const column =
    columns[clockColumn] ??
    columns.find(
      ({ name, unit }) => timeNames.test(name.trim()) || /^(time|timestamp)\b/i.test(`${name} ${unit}`),
    ) ??
    columns.find(({ values }) => rises(values))
  const rows = columns[0]?.values.length ?? 0
  if (!column) {
    findings.push({
      rule: 'log-no-time',
      level: 'hold',
      says: 'The log carries no time.',
      because: 'No column is called time, and none rises from row to row.',
      remedy: 'Switch the time channel on in the logger. Until then rows are counted as seconds.',
    })
    return { seconds: Float64Array.from({ length: rows }, (_, row) => row), channels: [...columns], findings }
  }
  const factor = isMilliseconds(column) ? 1e-3 : /^(us|µs|μs)$/i.test(column.unit) ? 1e-6 : 1
  const seconds = new Float64Array(rows)
  const first = firstFigure(column.values)
  let days = 0
  let last = -Infinity
  for (let row = 0; row < rows; row++) {
    const value = column.values[row]!
    // A row without its time stands where the one before it stood.
    const at = Number.isNaN(value) ? last : (value - first) * factor + days
    if (at < last - daySeconds * 0.9) {
      days += daySeconds
      seconds[row] = last = at + daySeconds
    } else seconds[row] = last = at === -Infinity ? 0 : at
  }
  return { seconds, channels: columns.filter((each) => each !== column), findings }
}

function isMilliseconds({ name, unit, values }: Column): boolean {
  if (/^(ms|msec|millis(econds)?)$/i.test(unit) || /(^|[^a-z])(ms|msec|millis)([^a-z]|$)/i.test(name))
    return true
  if (unit !== '' || values.length < 3) return false
  let whole = 0
  const looked = Math.min(values.length, 1000)
  for (let row = 1; row < looked; row++) {
    const step = values[row]! - values[row - 1]!
    if (Number.isInteger(values[row]!) && step >= 5) whole++
  }
  // A clock of whole seconds steps by one or so; figures that step by five or more count thousandths.
  return whole > (looked - 1) * 0.9
}

const firstFigure = (values: Float64Array) => {
  for (const value of values) if (!Number.isNaN(value)) return value
  return 0
}

function rises(values: Float64Array): boolean {
  if (values.length < 3) return false
  for (let row = 1; row < values.length; row++) if (!(values[row]! > values[row - 1]!)) return false
  return true
}
