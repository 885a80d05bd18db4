import { hexText } from '../../kernel'
import { cellTypes, type CellType } from '../definition'
import { sendRates, type AgreedChannel, type SendRate } from '../quality'

/** Where a channel is read from. */
export type ChannelSource = NonNullable<AgreedChannel['read']>
/** A figure within the bytes of a data identifier. */
export type ByteSource = Extract<ChannelSource, { identifier: number }>
/** A channel with where it is read from. */
export type ReadChannel = AgreedChannel & { read: ChannelSource }

/** True for a data identifier, whether it is asked for or sent by itself. */
export const isBytes = (source: ChannelSource): source is ByteSource => 'identifier' in source
/** True for what the unit itself gives, and not a second device beside it. */
export const isOwn = (source: ChannelSource): boolean => !('beside' in source)

/** Identifiers that a unit sends by itself are one byte behind F2 (ISO 14229-1, service 2A). */
const periodicHigh = 0xf2
/** Whether an identifier can be sent by itself. */
export const maySend = (identifier: number): boolean => identifier >> 8 === periodicHigh

const factor = String.raw`(?:\s*[*×x]\s*(-?[\d.,]+))?(?:\s*([+-])\s*([\d.,]+))?\s*`
const bytesForm = new RegExp(
  String.raw`^\s*(0x[0-9a-f]{1,4})(?:\s+byte\s+(\d{1,3}))?\s+([uif]\d{1,2})(le|be)?${factor}(?:\s(${sendRates.join('|')})\s*)?$`,
  'i',
)
const lineForm = new RegExp(String.raw`^\s*(line|beside)\s+(?:"([^"]{1,80})"|([^\s"]{1,80}))${factor}$`, 'i')

/**
 * How the bench gets a channel, as a person writes it: `0x2001 u16 × 0.1 - 40`, `0x2001 byte 2 u8`, `0x2001 u16le`; with a
 * rate where the unit sends it by itself, `0xF201 u16 fast`; a line of what the unit shows, `line "Supply" × 0.001`; or of
 * what a second device beside it shows, `beside lambda`. Null for what cannot be read so.
 */
export function channelSourceIn(text: string): ChannelSource | null {
  const line = lineForm.exec(text)
  if (line) {
    const [, kind, quoted, bare, scale, sign, offset] = line
    const figures = figuresIn(scale, sign, offset)
    const name = (quoted ?? bare!).trim()
    if (!figures || name === '') return null
    return kind!.toLowerCase() === 'line' ? { line: name, ...figures } : { beside: name, ...figures }
  }
  const parts = bytesForm.exec(text)
  if (!parts) return null
  const [, identifier, at = '0', type, order, scale, sign, offset, rate] = parts
  const kind = type!.toLowerCase() as CellType
  const figures = figuresIn(scale, sign, offset)
  if (!cellTypes.includes(kind) || Number(at) > 255 || !figures) return null
  if (rate !== undefined && !maySend(Number(identifier))) return null
  return {
    identifier: Number(identifier),
    at: Number(at),
    type: kind,
    order: order?.toLowerCase() === 'le' ? 'little' : 'big',
    ...figures,
    ...(rate === undefined ? {} : { rate: rate.toLowerCase() as SendRate }),
  }
}

/** Factor and offset as they are typed; null where one is no figure. */
function figuresIn(scale = '1', sign = '+', offset = '0'): { scale: number; offset: number } | null {
  const [by, plus] = [scale, offset].map((each) => Number(each.replace(',', '.'))) as [number, number]
  if (Number.isNaN(by) || Number.isNaN(plus)) return null
  return { scale: by, offset: sign === '-' ? 0 - plus : plus }
}

/** The same, written. */
export function channelSourceText(source: ChannelSource): string {
  const { scale, offset } = source
  const parts = isBytes(source)
    ? [
        hexText(source.identifier, 4),
        ...(source.at > 0 ? [`byte ${source.at}`] : []),
        `${source.type}${source.order === 'little' ? 'le' : ''}`,
      ]
    : 'line' in source
      ? ['line', nameText(source.line)]
      : ['beside', nameText(source.beside)]
  if (scale !== 1) parts.push(`× ${scale}`)
  if (offset !== 0) parts.push(`${offset < 0 ? '-' : '+'} ${Math.abs(offset)}`)
  if (isBytes(source) && source.rate) parts.push(source.rate)
  return parts.join(' ')
}

const nameText = (name: string) => (/\s/.test(name) ? `"${name}"` : name)
