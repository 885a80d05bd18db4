import type { FamilyLink } from '../../../family'
import { bitsPerCharacter, type SerialSettings } from '../../../link'
import { judgeLineSpeed } from '../../sums/baud'
import type { WiringRule } from '../question'

/** How the unit's own line is set; behind other adapters the serial line is the adapter's affair. */
function unitLine(link: FamilyLink): SerialSettings | undefined {
  return link.kind === 'rs485' || link.kind === 'kline' || link.kind === 'serial' ? link.line : undefined
}

/** Speed and clocks of both ends, where both are known: does the last bit of a character still fall into its place? */
export const baudError: WiringRule = {
  id: 'baud-error',
  judge({ link, adapter }) {
    const line = unitLine(link)
    if (!line || !link.clock || !adapter.clock) return null
    const { rule: _rule, ...found } = judgeLineSpeed(
      adapter.clock,
      link.clock,
      line.baudRate,
      bitsPerCharacter(line),
    )
    return found
  },
}
