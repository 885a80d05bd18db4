import {
  awgText,
  dayAt,
  durationText as coreDurationText,
  fixedText,
  rateText as coreRateText,
  sizeText as coreSizeText,
  voltsText as coreVoltsText,
  type Measure,
} from '@bench-wake/core/kernel'
import { useStorage } from '@vueuse/core'

/**
 * How a person wants figures, days and units written; kept in this browser. Everything the screens write of them goes
 * through this file. What is kept and sent stays in SI units with a decimal point.
 */
export interface Writing {
  /** `iso`: 2026-11-24, 14:32 and 12.6 (ISO 8601, ISO 80000-1); else a BCP 47 tag of English as a region writes it. */
  locale: string
  temperature: 'celsius' | 'fahrenheit'
  /** Cross-sections of leads. */
  wire: 'square-millimetres' | 'awg'
}
export const plainWriting: Writing = { locale: 'iso', temperature: 'celsius', wire: 'square-millimetres' }
export const writing = useStorage<Writing>('bench-wake.writing', { ...plainWriting }, undefined, {
  mergeDefaults: true,
})

const made = new Map<string, Intl.DateTimeFormat | Intl.NumberFormat>()
/** A browser takes milliseconds to make a format: each is made once. */
function once<Format extends Intl.DateTimeFormat | Intl.NumberFormat>(
  key: string,
  make: () => Format,
): Format {
  const known = (made.get(key) as Format | undefined) ?? make()
  made.set(key, known)
  return known
}
/** Swedish days and times are written as ISO 8601 wants them. */
const tagOf = (locale: string) => (locale === 'iso' ? 'sv-SE' : locale)
const timeOf = (locale: string) =>
  once(`${locale} time`, () => new Intl.DateTimeFormat(tagOf(locale), { hour: '2-digit', minute: '2-digit' }))
const dayOf = (locale: string) =>
  once(
    `${locale} day`,
    () =>
      new Intl.DateTimeFormat(
        tagOf(locale),
        locale === 'iso'
          ? { year: 'numeric', month: '2-digit', day: '2-digit' }
          : { year: 'numeric', month: 'short', day: 'numeric' },
      ),
  )
/** The decimal mark of a locale. */
const markOf = (locale: string) =>
  locale === 'iso'
    ? '.'
    : once(`${locale} mark`, () => new Intl.NumberFormat(tagOf(locale), { minimumFractionDigits: 1 }))
        .formatToParts(0.1)
        .find(({ type }) => type === 'decimal')!.value
const mark = () => markOf(writing.value.locale)

/** `14:32`, this computer's time. */
export const timeText = (at: number | string) => timeOf(writing.value.locale).format(new Date(at))

/** `14:32:07.412`: of events, for comparing; the same everywhere. */
export const exactTimeText = (at: number) =>
  once(
    'exact',
    () =>
      new Intl.DateTimeFormat('en-GB', {
        hour: '2-digit',
        minute: '2-digit',
        second: '2-digit',
        fractionalSecondDigits: 3,
      }),
  ).format(at)

/** `2026-11-24`. */
export const dayText = (at: number | string) =>
  dayOf(writing.value.locale).format(
    new Date(typeof at === 'string' && at.length === 10 ? `${at}T12:00` : at),
  )

/** `Tuesday, 2026-11-24`, of a day `2026-11-24`. */
export const weekdayText = (day: string) =>
  `${once('weekday', () => new Intl.DateTimeFormat('en', { weekday: 'long' })).format(new Date(`${day}T12:00`))}, ${dayText(day)}`

/** A mark of a time axis: `2026` as a year turns, `2026-11` as a month does, else the day or the time. */
export function markText(at: number, turns: 'hour' | 'day' | 'month' | 'year'): string {
  if (turns === 'hour') return timeText(at)
  if (turns === 'day') return dayText(at)
  const { locale } = writing.value
  const month = locale === 'iso' ? '2-digit' : 'short'
  return once(
    `${locale} ${turns}`,
    () =>
      new Intl.DateTimeFormat(tagOf(locale), {
        year: 'numeric',
        ...(turns === 'month' ? { month } : {}),
      }),
  ).format(at)
}

/** `yesterday`, `today`, `tomorrow`, else the day, of a day `2026-11-24`. */
export function nearDayText(day: string): string {
  const ahead = (days: number) => dayAt(Date.now(), days)
  const words = { [ahead(-1)]: 'yesterday', [ahead(0)]: 'today', [ahead(1)]: 'tomorrow' }
  return words[day] ?? dayText(day)
}

/** `2026-11-24, 14:32`. */
export const whenText = (at: number) => `${dayText(at)}, ${timeText(at)}`

/** `14:32` today, the day before. */
export const agoText = (at: number) =>
  new Date(at).toDateString() === new Date().toDateString() ? timeText(at) : dayText(at)

/** How a day, a time and a figure look in a locale. */
export function sampleOf(locale: string): string {
  const at = new Date(2026, 10, 24, 14, 32)
  return `${dayOf(locale).format(at)}, ${timeOf(locale).format(at)}, ${fixedText(12.6, 1).replace('.', markOf(locale))} V`
}

/** Regions, each with English words; the first is what a person has who chose nothing. */
export const locales = [
  'iso',
  'en-GB',
  'en-US',
  'en-CA',
  'en-AU',
  'en-IN',
  'en-ZA',
  'en-CH',
  'en-DE',
  'en-SE',
]

/** `12.60`: a figure with so many decimals. */
export const fixed = (value: number, decimals: number) => fixedText(value, decimals).replace('.', mark())

/** `12.6`: a figure as short as so many digits give it. */
export const short = (value: number, digits: number) =>
  once(
    `${digits} digits`,
    () => new Intl.NumberFormat('en', { maximumSignificantDigits: digits, useGrouping: false }),
  )
    .format(value)
    .replace('.', mark())

/** Units whose figures a sentence gives with decimals; a version is followed by none of them. */
const unit =
  /(?:[kM]?Hz|k?Wh?|m?V|m?A|Ah|[mk]?ohm|m?s|min|h|m|mm|%|[kM]i?B(?:\/s)?|bytes|MiB|bits|°[CF]|mm²|AWG)(?![\w²])/
const decimals = new RegExp(
  `(?<![\\w.,]|(?:[Vv]ersion|[Rr]evision|[Hh]ardware|[Ff]irmware|[Rr]elease) )(\\d+)\\.(\\d+)(?=(?: to \\d+\\.\\d+)?[ \\u00a0]?${unit.source})`,
  'g',
)
const degrees = /(?:(?<![\w.])([−-]?\d+(?:\.\d+)?) (to|and) )?(?<![\w.])([−-]?\d+(?:\.\d+)?)([ \u00a0])°C/g
const sections = /(?<![\w.]|AWG, )(\d+(?:\.\d+)?)([ \u00a0])mm²/g

const toFahrenheit = (figure: string) => {
  const celsius = Number(figure.replace('−', '-'))
  return String(Number(fixedText((celsius * 9) / 5 + 32, 1)))
}

/** A sentence of the program as this person wants its figures written. */
export function written(sentence: string | null | undefined): string {
  let text = sentence ?? ''
  if (writing.value.temperature === 'fahrenheit')
    text = text.replace(
      degrees,
      (_, from: string | undefined, word: string, to: string, space: string) =>
        `${from === undefined ? '' : `${toFahrenheit(from)} ${word} `}${toFahrenheit(to)}${space}°F`,
    )
  if (writing.value.wire === 'awg')
    text = text.replace(sections, (said, figure: string) => {
      const gauge = awgText(Number(figure))
      return gauge ? `${gauge} (${said})` : said
    })
  return mark() === '.'
    ? text
    : text.replace(decimals, (_, whole: string, part: string) => whole + mark() + part)
}

/** What a person typed, with the unit that they write such figures in where they typed none. */
export function asTyped(text: string, measure: Measure): string {
  if (!/^\s*[-−+]?[\d.,]+(?:\/0)?\s*$/.test(text)) return text
  if (measure === 'celsius' && writing.value.temperature === 'fahrenheit') return `${text.trim()} °F`
  if (measure === 'square-millimetres' && writing.value.wire === 'awg') return `${text.trim()} AWG`
  return text
}

const asWritten =
  <Figures extends unknown[]>(text: (...figures: Figures) => string) =>
  (...figures: Figures) =>
    written(text(...figures))
export const durationText = asWritten(coreDurationText)
export const sizeText = asWritten(coreSizeText)
export const rateText = asWritten(coreRateText)
export const voltsText = asWritten(coreVoltsText)
