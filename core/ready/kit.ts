import type { Family, KitItem } from '../family'
import { verdictOf, type Finding } from '../kernel'
import type { Gate } from './gate'
import type { Adapter } from './wiring'

/** A thing to take along, and who wants it. */
export interface KitEntry extends KitItem {
  /** Jobs that want it, by their units' names. */
  for: string[]
  packed: boolean
}

/** What a job takes along: the family's list, the adapter that was chosen, the image on disk and its notes. */
export function kitOf(
  family: Family,
  job: { unitName: string; adapter: Adapter | null; imageName: string | null; chargerAmps: number | null },
): Omit<KitEntry, 'packed'>[] {
  const own = [job.unitName]
  const item = (entry: KitItem): Omit<KitEntry, 'packed'> => ({ ...entry, for: own })
  return [
    ...(job.adapter
      ? [
          item({
            id: `adapter-${job.adapter.id}`,
            name: job.adapter.serial ? `${job.adapter.name}, no. ${job.adapter.serial}` : job.adapter.name,
            kind: job.adapter.form === 'converter' ? 'adapter' : 'cable',
            essential: true,
            why: 'Chosen for the wiring',
          }),
        ]
      : []),
    ...(job.imageName
      ? [
          item({
            id: 'image-on-disk',
            name: 'This laptop, with the images on its own disk',
            kind: 'card',
            essential: true,
            why: job.imageName,
          }),
        ]
      : []),
    ...(job.chargerAmps
      ? [
          item({
            id: `charger-${job.chargerAmps}-a`,
            name: `Charger, ${job.chargerAmps} A or more`,
            kind: 'charger',
            essential: true,
            why: 'Planned for the battery',
          }),
        ]
      : []),
    ...(family.kit ?? []).map(item),
  ]
}

/** The lists of several jobs as one: each thing once, wanted by all who want it, essential where one says so. */
export function joinKits(
  kits: readonly (readonly Omit<KitEntry, 'packed'>[])[],
  packed: ReadonlySet<string>,
): KitEntry[] {
  const joined = new Map<string, KitEntry>()
  for (const entry of kits.flat()) {
    const known = joined.get(entry.id)
    joined.set(
      entry.id,
      known
        ? {
            ...known,
            essential: known.essential || entry.essential,
            for: [...new Set([...known.for, ...entry.for])],
            ...(joinedWhy(known.why, entry.why) ? { why: joinedWhy(known.why, entry.why)! } : {}),
          }
        : { ...entry, packed: packed.has(entry.id) },
    )
  }
  return [...joined.values()]
}

const joinedWhy = (one?: string, two?: string) =>
  [...new Set([one, two].flatMap((each) => each?.split('; ') ?? []))].join('; ')

/**
 * PRACTICE C1: a missing one stops the job, so it is looked up before the drive out. What is not packed the day before
 * holds the job then, and not on the quay.
 * @param day of the job and `today`, both `2026-11-24`.
 */
export function judgeKit(entries: readonly KitEntry[], day: string, today: string): Gate {
  const finding = judge(entries, day, today)
  return {
    id: 'kit',
    name: 'Kit',
    verdict: verdictOf([finding]),
    findings: [finding],
    numbers: { items: entries.length, packed: entries.filter(({ packed }) => packed).length },
  }
}

function judge(entries: readonly KitEntry[], day: string, today: string): Finding {
  const rule = 'kit-packed'
  if (entries.length === 0) {
    return { rule, level: 'note', says: 'The profile names no kit.', because: 'Nothing was looked up.' }
  }
  const missing = entries.filter(({ essential, packed }) => essential && !packed)
  const nice = entries.filter(({ essential, packed }) => !essential && !packed)
  const named = (list: readonly KitEntry[]) => list.map(({ name }) => name).join('; ')
  const numbers = { missing: missing.length, items: entries.length }
  if (missing.length === 0) {
    return nice.length === 0
      ? {
          rule,
          level: 'go',
          says: `Everything is packed: ${entries.length} things.`,
          because: named(entries),
          numbers,
        }
      : {
          rule,
          level: 'note',
          says: `All that is essential is packed; ${nice.length} more would be good to have.`,
          because: named(nice),
          numbers,
        }
  }
  const daysLeft = Math.round((Date.parse(day) - Date.parse(today)) / 86_400_000)
  const says = `${missing.length} of ${entries.length} things ${missing.length === 1 ? 'is' : 'are'} not packed.`
  if (daysLeft > 1) {
    return {
      rule,
      level: 'note',
      says,
      because: named(missing),
      remedy: 'Have them by the day before.',
      numbers,
    }
  }
  return {
    rule,
    level: 'hold',
    says,
    because: named(missing),
    remedy:
      daysLeft === 1
        ? 'Tomorrow is the day: find it now, not on the quay.'
        : 'Tick what you have here. What is missing, somebody has to bring.',
    numbers,
  }
}
