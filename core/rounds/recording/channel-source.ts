import { hexText } from '../../kernel'
import { cellTypes, type CellType } from '../definition'
import type { AgreedChannel } from '../quality'

/** Where a channel is read from. */
export type ChannelSource = NonNullable<AgreedChannel['read']>

/**
 * How a link gives a channel, as a person writes it: `0x2001 u16 × 0.1 - 40`, `0x2001 byte 2 u8`, `0x2001 u16le`. Null for
 * what cannot be read so.
 */
export function channelSourceIn(text: string): ChannelSource | null {
  const parts =
    /^\s*(0x[0-9a-f]{1,4})(?:\s+byte\s+(\d{1,3}))?\s+([uif]\d{1,2})(le|be)?(?:\s*[*×x]\s*(-?[\d.,]+))?(?:\s*([+-])\s*([\d.,]+))?\s*$/i.exec(
      text,
    )
  if (!parts) return null
  const [, identifier, at = '0', type, order, scale = '1', sign = '+', offset = '0'] = parts
  const kind = type!.toLowerCase() as CellType
  const figures = [scale, offset].map((each) => Number(each.replace(',', '.')))
  if (!cellTypes.includes(kind) || Number(at) > 255 || figures.some(Number.isNaN)) return null
  return {
    identifier: Number(identifier),
    at: Number(at),
    type: kind,
    order: order?.toLowerCase() === 'le' ? 'little' : 'big',
    scale: figures[0]!,
    offset: sign === '-' ? 0 - figures[1]! : figures[1]!,
  }
}

/** The same, written. */
export function channelSourceText({ identifier, at, type, order, scale, offset }: ChannelSource): string {
  const parts = [hexText(identifier, 4)]
  if (at > 0) parts.push(`byte ${at}`)
  parts.push(`${type}${order === 'little' ? 'le' : ''}`)
  if (scale !== 1) parts.push(`× ${scale}`)
  if (offset !== 0) parts.push(`${offset < 0 ? '-' : '+'} ${Math.abs(offset)}`)
  return parts.join(' ')
}
