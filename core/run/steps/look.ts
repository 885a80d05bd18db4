import type { Component, Family } from '../../family'
import { Problem } from '../../kernel'
import { compareSnapshots, judgeProof } from '../../proof'
import type { StepAct, StepContext } from '../step-context'

/** What a person sees that a component says of its version after the write. */
export type Shown = 'none' | 'other' | 'starts' | 'wanted'

/**
 * Asks the person which version the unit shows, where nothing else can read it. Nothing counts as seen that was not chosen.
 * @param wanted the version that it should show; without one it is only asked whether it starts.
 */
export async function askShown(
  { family, ask }: Pick<StepContext, 'family' | 'ask'>,
  component: Component,
  wanted: string | undefined,
): Promise<{ field: string; label: string; line: Family['snapshot'][number] | undefined; seen: Shown }> {
  const field = `version.${component.id}`
  const line = family.snapshot.find((each) => each.field === field)
  const label = line?.label ?? `Version of ${component.name}`
  const seen = await ask({
    id: 'look',
    says: `Which version does the unit show${line?.by ? `, read from its ${line.by.replace('-', ' ')}` : ''}?`,
    answers: [
      { id: 'none', says: 'None, or it does not start' },
      ...(wanted === undefined
        ? [{ id: 'starts', says: 'It starts; I note below what it shows' }]
        : [
            { id: 'other', says: 'Another one' },
            { id: 'wanted', says: wanted },
          ]),
    ],
  })
  return { field, label, line, seen: seen as Shown }
}

/** The proof where no link reads it: what the unit's own screen shows after the power cycle, seen by the person. */
export const look: StepAct = async ({
  family,
  component,
  image,
  chip,
  before,
  lastPage,
  clock,
  ask,
  wake,
  step,
}) => {
  const wanted = image?.identity?.version ?? chip?.version
  const { field, label, line, seen } = await askShown({ family, ask }, component, wanted)
  const source = line?.by ?? 'boot-screen'
  const snapshot = {
    at: clock.now(),
    source,
    lines: seen === 'wanted' ? [{ field, label, value: wanted! }] : [],
  }
  await wake.record({ type: 'snapshot', step, when: 'after', snapshot })
  const page = before ?? lastPage ?? null
  const comparable = page && { ...page, lines: page.lines.filter((each) => each.field === field) }
  const asked = { componentId: component.id, wanted }
  const rows = compareSnapshots(family, comparable, snapshot, [asked])
  const findings = judgeProof(rows, { ...asked, after: snapshot })
  await wake.record({ type: 'compared', step, rows, findings })
  // Where nobody knows which version it should show, that it starts is what can be seen; the closing word says the rest.
  if (seen !== 'wanted' && !(wanted === undefined && seen === 'starts')) {
    throw new Problem({
      kind: 'not-proved',
      says: seen === 'none' ? 'the unit shows no version' : 'the unit shows another version',
      ...(wanted === undefined ? {} : { expected: wanted }),
      remedy: family.chipReplacement
        ? 'Mains off. Put the old chip back, pin 1 at the dot, and look at the new one in the programmer.'
        : 'Leave its supply on. Check the card here once more: names, order, bytes. Then let the unit search again.',
    })
  }
}
