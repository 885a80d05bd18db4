import type { Family, FamilyLink, Pin, Wiring } from '../../family'
import type { WorkshopRules } from '../../fit'
import { inSentence, verdictOf, type Finding } from '../../kernel'
import type { Gate } from '../gate'
import { adapterKindOf, type Adapter, type WiringSay } from './adapter'
import type { Wired } from './question'
import { adapterRules, joinRules, wireRules } from './rules'

/** The link that a job goes over: the one that was chosen where this hardware has it, else the first that it has. */
export function linkOfJob(family: Family, say: WiringSay | null | undefined): FamilyLink {
  return family.links.find(({ id }) => id === say?.linkId) ?? family.links[0]!
}

/**
 * The wiring of a job, by seventeen small rules, as far as it is drawn.
 * @param adapters the workshop's cables and adapters.
 */
export function judgeWiring(
  family: Family,
  adapters: readonly Adapter[],
  say: WiringSay | null | undefined,
  workshopRules: WorkshopRules,
): Gate {
  const findings = findingsOf(family, adapters, say, workshopRules)
  return {
    id: 'wiring',
    name: 'Wiring',
    verdict: verdictOf(findings),
    findings,
    numbers: { joins: say?.joins.length ?? 0 },
  }
}

function findingsOf(
  family: Family,
  adapters: readonly Adapter[],
  say: WiringSay | null | undefined,
  workshopRules: WorkshopRules,
): Finding[] {
  const link = linkOfJob(family, say)
  if (say && say.linkId !== link.id) {
    return [
      {
        rule: 'link-of-hardware',
        level: 'stop',
        says: 'The wiring is drawn for a link that this unit does not have.',
        because: `This hardware has: ${family.links.map(({ name }) => name).join(', ')}.`,
        remedy: `Take that adapter off; choose the one for ${inSentence(link.name)}, and draw it anew.`,
      },
    ]
  }
  if (adapterKindOf(link) === null) {
    return [
      {
        rule: 'carried-by-hand',
        level: 'go',
        says: 'Nothing is joined: the files are carried over.',
        because: link.name,
      },
    ]
  }
  const { wiring } = link
  if (!wiring) {
    return [
      {
        rule: 'wiring-described',
        level: 'note',
        says: 'The profile does not say how this link is wired.',
        because: link.name,
        remedy: 'Join it by the unit’s manual, or add the pins to the profile.',
      },
    ]
  }
  const adapter = adapters.find(({ id }) => id === say?.adapterId)
  if (!say || !adapter) {
    return [
      {
        rule: 'adapter-chosen',
        level: 'hold',
        says: 'No adapter is chosen.',
        because: `${wiring.connector}: a ${wiring.form === 'converter' ? 'cable with a converter inside' : 'plain pass-through cable'} for ${adapterKindOf(link)}.`,
        remedy: 'Choose the one on the bench, and join it by the drawing.',
      },
    ]
  }
  const wired: Wired = { link, wiring, adapter, say, workshopRules, pairs: pairsOf(adapter, wiring, say) }
  return [...adapterRules, ...joinRules].flatMap(({ id, judge }) => {
    const found = judge(wired)
    return found ? [{ rule: id, ...found }] : []
  })
}

/** What is joined; a join that names a pin that neither end has counts for nothing. */
export function pairsOf(
  adapter: Pick<Adapter, 'pins'>,
  wiring: Pick<Wiring, 'pins'>,
  say: Pick<WiringSay, 'joins'>,
): { adapter: Pin; target: Pin }[] {
  return say.joins.flatMap(([from, to]) => {
    const one = adapter.pins.find(({ id }) => id === from)
    const two = wiring.pins.find(({ id }) => id === to)
    return one && two ? [{ adapter: one, target: two }] : []
  })
}

/** What is wrong with one wire by itself, for the drawing; null where the wire alone tells nothing. */
export function faultOfWire(wired: Omit<Wired, 'pairs'>, pair: { adapter: Pin; target: Pin }): string | null {
  const alone = { ...wired, pairs: [pair] }
  for (const { judge } of wireRules) {
    const found = judge(alone)
    if (found?.level === 'stop') return found.says
  }
  return null
}

/** The joins that a plug made for this jack makes by itself; null for loose wires or another pinout. */
export function joinsOfPlug(adapter: Adapter, wiring: Wiring): [string, string][] | null {
  if (!adapter.jack || adapter.jack !== wiring.jack) return null
  return wiring.pins.flatMap((pin): [string, string][] => {
    const same = adapter.pins.find(({ id }) => id === pin.id)
    return same && same.role !== 'none' && pin.role !== 'none' ? [[same.id, pin.id]] : []
  })
}
