import { demoBenches, unitBenches } from './benches'
import { demoFamily } from './families'
import { demoUnits, firstUnitOf } from './units'

/** The public paths, as an outside tool uses them: an answer's content, or an error. */
export interface Paths {
  // eslint-disable-next-line @typescript-eslint/no-explicit-any -- answers are read by member
  get(path: string): Promise<any>
  // eslint-disable-next-line @typescript-eslint/no-explicit-any -- answers are read by member
  send(method: string, path: string, content: unknown): Promise<any>
}

const today = new Date().toISOString().slice(0, 10)

/**
 * Opens a job with everything right, over the public paths.
 * @param unitId the family's first unit where nothing is said.
 */
export async function rightBench(
  program: Paths,
  familyId: string,
  image: string,
  unitId?: string,
): Promise<string> {
  const unit = demoUnits.find(({ id }) => id === unitId) ?? firstUnitOf(familyId)
  const family = demoFamily(familyId)
  const lines = Object.assign({}, ...unit.pages.map((page) => page.lines)) as Record<string, string>
  await program.send('POST', `/units/${unit.id}/snapshots`, {
    source: 'menu',
    lines: family.snapshot.flatMap(({ field, label }) =>
      lines[field] === undefined ? [] : [{ field, label, value: lines[field] }],
    ),
  })
  if (familyId === 'marine-radio') {
    await program.send('POST', `/units/${unit.id}/answers`, {
      question: 'signal-output',
      answer: 'low-channel',
      by: 'T. Reader',
    })
  }
  const images = (await program.get('/images')) as { id: string; names: string[] }[]
  const imageId = images.find(({ names }) => names.includes(image))!.id
  const { id } = await program.send('POST', '/jobs', {
    unitId: unit.id,
    imageId,
    kind: 'feature',
    reason: 'Judge the bench.',
    day: today,
  })
  await program.send('PUT', `/jobs/${id}/bench`, unitBenches[unit.id] ?? demoBenches[familyId])
  const { kit } = await program.get(`/jobs/${id}`)
  for (const item of kit) await program.send('PUT', `/kit/${today}`, { item: item.id, packed: true })
  return id as string
}
