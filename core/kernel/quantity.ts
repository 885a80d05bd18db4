/** No-break space, so that a figure is never torn at a line's end. */
const thin = '\u00a0'

const whole = new Intl.NumberFormat('en', { maximumFractionDigits: 0, signDisplay: 'negative' })
const forms = new Map<number, Intl.NumberFormat>()
/** `12.60`: a figure with so many decimals, without groups. */
export function fixedText(value: number, decimals: number): string {
  const form =
    forms.get(decimals) ??
    new Intl.NumberFormat('en', {
      minimumFractionDigits: decimals,
      maximumFractionDigits: decimals,
      useGrouping: false,
      signDisplay: 'negative',
    })
  forms.set(decimals, form)
  return form.format(value)
}

/** `262 144`: a whole number in groups of three, kept on one line. */
export function groupedNumber(value: number): string {
  return whole.format(value).replaceAll(',', thin)
}

/** `262 144 bytes`. */
export function bytesText(count: number): string {
  return `${groupedNumber(count)} ${count === 1 ? 'byte' : 'bytes'}`
}

/** `10.4 MiB`: how large a file is, at a glance (multiples by two: IEC 80000-13, clause 4). Below 1 KiB in bytes. */
export function sizeText(count: number): string {
  const units = ['KiB', 'MiB', 'GiB', 'TiB']
  if (count < 1024) return bytesText(count)
  const step = Math.min(units.length, Math.floor(Math.log2(count) / 10))
  const value = count / 1024 ** step
  return `${value < 10 ? fixedText(value, 1) : groupedNumber(value)}${thin}${units[step - 1]}`
}

/** `11.1 kB/s` (1 kB = 1 000 bytes, as link speeds are given). */
export function rateText(bytesPerSecond: number): string {
  return `${fixedText(bytesPerSecond / 1000, 1)} kB/s`
}

/** `1:48` up to an hour, `1:02:05` beyond. Rounded up, so that it reads 0:00 only at the end. */
export function clockText(ms: number): string {
  const seconds = Math.max(0, Math.ceil(ms / 1000))
  const two = (value: number) => value.toString().padStart(2, '0')
  const minutes = Math.floor(seconds / 60)
  if (minutes < 60) return `${minutes}:${two(seconds % 60)}`
  return `${Math.floor(minutes / 60)}:${two(minutes % 60)}:${two(seconds % 60)}`
}

/** `40 s`, `3 min`, `1 h 5 min`: how long a thing takes, as people say it. */
export function durationText(ms: number): string {
  const seconds = ms / 1000
  if (seconds < 1) return `${Math.round(ms)} ms`
  if (seconds < 10) return `${fixedText(seconds, 1)} s`
  if (seconds < 90) return `${Math.round(seconds)} s`
  const minutes = Math.round(seconds / 60)
  if (minutes < 60) return `${minutes} min`
  return minutes % 60 ? `${Math.floor(minutes / 60)} h ${minutes % 60} min` : `${minutes / 60} h`
}

/** `12.41 V`. */
export function voltsText(volts: number): string {
  return `${fixedText(volts, 2)} V`
}
