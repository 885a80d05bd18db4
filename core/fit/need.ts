import { inSentence, asSentence } from '../kernel'
import { componentsOn, type Advisory, type Family } from '../family'
import type { Finding } from '../kernel'
import { compareVersions, type UnitFacts } from '../unit'
import type { WorkshopRules } from './workshop-rules'
import { serialWithin } from './serials'

/** Why a unit is to be flashed (PRACTICE A6). */
export type ReasonKind = 'fault' | 'feature' | 'currency'

/** A symptom as it was reported, so that somebody can say afterwards whether it is gone. */
export interface Symptom {
  says: string
  /** "about twice a night" */
  often: string
  /** Day since when, `2026-08-12`; empty when nobody knows. */
  since: string
}

/** What it depends on whether a unit needs this update at all. */
export interface NeedQuestion {
  family: Family
  unit: UnitFacts
  workshopRules: WorkshopRules
  reason: ReasonKind
  symptoms: readonly Symptom[]
  /** An image that was chosen for the job, of the version that the unit has and with other bytes than it has. */
  otherBytes?: { component: string; version: string }
  /** True where an image was chosen for the job. */
  chosen?: boolean
  /** Newest production release on the shelf that belongs on the unit, by component id. */
  newest: Readonly<Record<string, string>>
}

/** `nothing`: leave it alone; `do`: go on; `ask`: somebody has to say more; `unknown`: read the unit first. */
export interface Need {
  answer: 'nothing' | 'do' | 'ask' | 'unknown'
  finding: Finding
  /** Known faults and features that this unit has to do with. */
  advisories: { id: string; says: string; fixedIn: string; matched: boolean }[]
}

/**
 * PRACTICE A2, A6, A7: is anything to be done at all? The answer comes before any soldering. Order: what is already
 * there, then what is known of this serial, then the workshop's own rule.
 */
export function judgeNeed(question: NeedQuestion): Need {
  const { family, unit, workshopRules, reason, newest } = question
  const own = (family.advisories ?? []).filter(
    (advisory) => concerns(advisory, unit) !== false && open(family, unit, advisory),
  )
  const matched = own.filter((advisory) => matches(advisory, question))
  const advisories = own.map((advisory) => ({
    id: advisory.id,
    says: advisory.says,
    fixedIn: advisory.fixedIn,
    matched: matched.includes(advisory),
  }))
  const answer = (
    answer: Need['answer'],
    level: Finding['level'],
    says: string,
    because: string,
    remedy?: string,
  ): Need => ({
    answer,
    advisories,
    finding: { rule: 'need', level, says, because, ...(remedy ? { remedy } : {}) },
  })

  const components = componentsOn(family, unit.model)
  const behind = components.filter(({ id, version }) => {
    const [has, could] = [unit.versions[id], newest[id]]
    return has !== undefined && could !== undefined && compareVersions(version.scheme, has, could) === 'older'
  })
  const unread = components.filter(({ id }) => unit.versions[id] === undefined)
  const sold = factoryVersion(family, unit)
  if (unread.length > 0) {
    if (
      sold &&
      compareVersions(sold.scheme, sold.version, newest[sold.component] ?? sold.version) !== 'older'
    ) {
      return answer(
        'nothing',
        'hold',
        `Probably nothing to do: units of this ${sold.by} were brought to ${sold.version} before they were sold.`,
        `${sold.mark}; nothing newer is on the shelf.`,
        'Read its version before you open or solder anything.',
      )
    }
    return answer(
      'unknown',
      'hold',
      `Nobody knows yet: the version of the ${unread.map(({ name }) => inSentence(name)).join(', ')} has not been read.`,
      unit.readAt === undefined ? 'The unit was never read.' : 'The last page does not show it.',
      'Read the unit first.',
    )
  }
  const now = components.map(({ id, name }) => `${inSentence(name)} ${unit.versions[id]}`).join(', ')
  if (behind.length === 0 && matched.length > 0) {
    return answer(
      'do',
      'go',
      `Yes: ${matched.map(({ fixedIn, says }) => `${fixedIn} cures it: ${says}`).join(' ')}`,
      `It has ${now}; no image of ${matched[0]!.fixedIn} that belongs on it is on the shelf. ${scopeText(matched[0]!)}`,
    )
  }
  if (question.otherBytes) {
    const { component, version } = question.otherBytes
    const { name } = components.find(({ id }) => id === component) ?? { name: component }
    return answer(
      'do',
      'go',
      `Yes: ${version} with other bytes is asked for.`,
      `It has ${now}; what was written into the ${inSentence(name)} is not what the chosen image holds.`,
    )
  }
  if (behind.length === 0 && components.some(({ id }) => newest[id] === undefined)) {
    return answer(
      'ask',
      'hold',
      'Nobody can say yet: no image that belongs on this unit is on the shelf.',
      `It has ${now}.`,
      'Ask the supplier what the newest release for it is.',
    )
  }
  if (behind.length === 0 && reason === 'feature' && question.chosen === false) {
    return answer(
      'ask',
      'hold',
      'What is wanted is not here yet: nothing newer that belongs on the unit is on the shelf.',
      `It has ${now}; a feature is asked for.`,
      'Ask the supplier for it, and note the request at the unit: the job then waits for it.',
    )
  }
  if (behind.length === 0) {
    return answer(
      'nothing',
      'hold',
      `Nothing to do: the unit is current.`,
      sold
        ? `It has ${now}; ${inSentence(sold.mark)} was brought up to date before it was sold.`
        : `It has ${now}; nothing newer that belongs on it is on the shelf.`,
      'Leave it as it is, or say why it should be written again.',
    )
  }
  const step = behind
    .map(({ id, name }) => `${inSentence(name)} ${unit.versions[id]} to ${newest[id]}`)
    .join(', ')
  const cured = matched.filter(({ component, fixedIn }) =>
    reaches(family, component, newest[component], fixedIn),
  )
  if (cured.length > 0) {
    return answer(
      'do',
      'go',
      `Yes: ${cured.map(({ fixedIn, says }) => `${fixedIn} cures it: ${says}`).join(' ')}`,
      `${asSentence(step)}. ${scopeText(cured[0]!)}`,
    )
  }
  const spared = (family.advisories ?? []).filter(
    (each) => concerns(each, unit) === false && matches(each, question),
  )
  if (spared.length > 0 && workshopRules.update === 'cure') {
    return answer(
      'nothing',
      'hold',
      `Nothing to do: this unit is not affected by "${spared[0]!.says}"`,
      `${scopeText(spared[0]!)} This one is ${unit.serial ?? unit.batch ?? 'outside'}.`,
      'Look for another cause of the symptom: wiring, supply, sensor.',
    )
  }
  if (workshopRules.update === 'current') {
    return answer(
      'do',
      'go',
      `Yes: a newer release is on the shelf.`,
      `${asSentence(step)}. Workshop rule: keep everything current.`,
    )
  }
  if (reason === 'currency') {
    return answer(
      'ask',
      'hold',
      'Workshop rule: update only to cure something, and nothing is named.',
      `${asSentence(step)} would only make it current.`,
      own.length > 0
        ? `Known for this unit: ${own.map(({ says }) => says).join(' ')} Name the fault, or leave the unit alone.`
        : 'Name the fault or the feature, or leave the unit alone.',
    )
  }
  if (reason === 'feature') {
    const brings = own.filter(({ kind }) => kind === 'feature')
    return answer(
      'do',
      brings.length > 0 ? 'go' : 'note',
      brings.length > 0
        ? `Yes: ${brings.map(({ fixedIn, says }) => `${fixedIn} brings it: ${says}`).join(' ')}`
        : 'It may be done: a feature is asked for that the notes on the shelf do not name.',
      `${asSentence(step)}.`,
    )
  }
  return answer(
    'do',
    'note',
    'It may help, but no release is known to cure this.',
    `${asSentence(step)}. None of the family’s advisories names the symptom.`,
    'Rule out supply, wiring and sensor first; write down the symptom, so that it can be looked for afterwards.',
  )
}

/** Whether an advisory is about this unit, by serial and batch; null when neither is known. */
function concerns(
  { serials, batches }: Pick<Advisory, 'serials' | 'batches'>,
  unit: UnitFacts,
): boolean | null {
  if (!serials && !batches) return true
  if (serials && unit.serial !== undefined && serials.some((range) => serialWithin(unit.serial!, range)))
    return true
  if (batches && unit.batch !== undefined && batches.includes(unit.batch)) return true
  const told = (serials && unit.serial !== undefined) || (batches && unit.batch !== undefined)
  return told ? false : null
}

/** True while the unit's version is older than the one that cures it, or not known. */
function open(family: Family, unit: UnitFacts, { component, fixedIn }: Advisory): boolean {
  const rule = family.components.find(({ id }) => id === component)
  const has = unit.versions[component]
  return !rule || has === undefined || compareVersions(rule.version.scheme, has, fixedIn) === 'older'
}

function reaches(family: Family, component: string, version: string | undefined, fixedIn: string): boolean {
  const rule = family.components.find(({ id }) => id === component)
  return (
    rule !== undefined &&
    version !== undefined &&
    ['same', 'newer'].includes(compareVersions(rule.version.scheme, version, fixedIn))
  )
}

/** A symptom names an advisory when one of its words stands in it. */
function matches({ words, kind }: Advisory, { symptoms, reason }: NeedQuestion): boolean {
  if (reason === 'currency') return false
  if ((kind === 'fault') !== (reason === 'fault')) return false
  const said = symptoms.map(({ says }) => says.toLowerCase()).join(' ')
  return (words ?? []).some((word) => said.includes(word.toLowerCase()))
}

function factoryVersion(family: Family, unit: UnitFacts) {
  for (const { serials, batches, component, version } of family.factory ?? []) {
    const rule = family.components.find(({ id }) => id === component)
    if (
      !rule ||
      (!serials && !batches) ||
      concerns({ ...(serials ? { serials } : {}), ...(batches ? { batches } : {}) }, unit) !== true
    )
      continue
    const byBatch = unit.batch !== undefined && batches?.includes(unit.batch)
    return {
      component,
      version,
      scheme: rule.version.scheme,
      by: byBatch ? 'batch' : 'serial range',
      mark: byBatch ? `Batch ${unit.batch}` : `Serial ${unit.serial}`,
    }
  }
  return null
}

function scopeText({ serials, batches }: Advisory): string {
  const which = [
    ...(serials ?? []).map(({ from, to }) => `serials ${from} to ${to}`),
    ...(batches ?? []).map((batch) => `batch ${batch}`),
  ]
  return which.length > 0 ? `Affected are ${which.join(', ')}.` : 'All units are affected.'
}
