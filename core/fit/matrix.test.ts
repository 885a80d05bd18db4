import { demoFamily } from '@bench-wake/demo'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { UnitFacts } from '../unit'
import { judgeFit, type ShelfEntry } from '.'
import { heaviestFirst } from '../kernel'
import { fog, unit as fogUnit } from './fog-need.test-support'
import { fitMatrix, revisionColumns, type MatrixColumn } from './matrix'

/*
 * Every cell of the matrix against judging that image and that unit alone: what is shared between rows and columns must
 * change no verdict and no sentence.
 */
const radio = demoFamily('marine-radio')
const families = [fog, radio]
const region = fog.components[0]!.memory.regions.find(({ use }) => use === 'application')!
const image = (id: number, change: object | null): ShelfEntry => ({
  id: `i${id}`,
  name: `image ${id}`,
  contentSha256: `digest ${id}`,
  segments: [{ address: region.address, length: 0x1000 }],
  identity:
    change === null
      ? null
      : ({
          familyId: fog.id,
          componentId: 'main',
          deviceIdentifier: fog.hardware.deviceIdentifier,
          hardwareMajor: 3,
          release: 'production',
          version: '2.48',
          ...change,
        } as unknown as NonNullable<ShelfEntry['identity']>),
})
const unit = (
  change: Partial<UnitFacts> = {},
  familyId: string = fog.id,
  answers?: object,
): MatrixColumn => ({
  familyId,
  unit: { ...fogUnit, ...change },
  ...(answers ? { answers: answers as NonNullable<MatrixColumn['answers']> } : {}),
})

/** One pair by itself, as the screen of a unit judges it. */
function alone(one: ShelfEntry, { familyId, unit: facts, answers }: MatrixColumn): string {
  if (!one.identity) return 'stop image-known No profile knows this image.'
  const family = families.find(({ id }) => id === familyId)
  if (one.identity.familyId !== familyId || !family) {
    const own = families.find(({ id }) => id === one.identity!.familyId)?.name ?? one.identity.familyId
    return `stop image-known The image is for another family: ${own}.`
  }
  const component = family.components.find(({ id }) => id === one.identity!.componentId)
  if (!component) return `stop image-known The image is for another family: ${family.name}.`
  const { findings } = judgeFit({
    family,
    component,
    unit: facts,
    image: one,
    ...(answers ? { answers } : {}),
  })
  const [worst] = heaviestFirst(findings)
  return `${worst!.level} ${worst!.rule} ${worst!.says}`
}
const cellsOf = (images: ShelfEntry[], columns: MatrixColumn[]) => {
  const { cells, reasons, rows, columns: wide } = fitMatrix(images, columns, families)
  expect([rows, wide, cells.length]).toEqual([images.length, columns.length, images.length * columns.length])
  return images.map((_, row) =>
    columns.map((__, column) => {
      const { level, rule, says } = reasons[cells[row * wide + column]!]!
      return `${level} ${rule} ${says}`
    }),
  )
}
const expectAlone = (images: ShelfEntry[], columns: MatrixColumn[]) =>
  expect(cellsOf(images, columns)).toEqual(images.map((one) => columns.map((column) => alone(one, column))))

const someImage = fc.oneof(
  fc.constant(null),
  fc.record(
    {
      familyId: fc.constantFrom(fog.id, radio.id, 'none-such'),
      componentId: fc.constantFrom('main', 'horn'),
      hardwareMajor: fc.constantFrom(2, 3),
      version: fc.constantFrom('2.41', '2.45', '2.48'),
      serial: fc.constantFrom('FS3-00417', 'FS3-00900'),
      release: fc.constantFrom('production', 'test'),
      deviceIdentifier: fc.constantFrom(fog.hardware.deviceIdentifier, 'FS-21'),
    },
    { requiredKeys: [] },
  ),
)
const someUnit = fc.record(
  {
    serial: fc.constantFrom('FS3-00417', 'FS3-00418', undefined),
    hardwareMajor: fc.constantFrom(2, 3),
    hardware: fc.constantFrom('3.1', '2.0'),
    batch: fc.constantFrom('K7', 'K8'),
    versions: fc.constantFrom({ main: '2.41' }, { main: '2.48' }, {}),
  },
  { requiredKeys: [] },
)

describe('the matrix', () => {
  it('says of every pair what is said of that pair alone', () => {
    fc.assert(
      fc.property(
        fc.array(someImage, { minLength: 1, maxLength: 6 }),
        fc.array(fc.tuple(someUnit, fc.constantFrom(fog.id, radio.id, 'gone')), {
          minLength: 1,
          maxLength: 8,
        }),
        (images, units) => {
          // What is not said of a unit is not there at all.
          const bare = (facts: object) =>
            Object.fromEntries(Object.entries(facts).filter(([, value]) => value !== undefined))
          expectAlone(
            images.map((change, index) => image(index, change)),
            units.map(([facts, familyId]) => {
              const column = unit({}, familyId)
              const { serial: _, ...rest } = column.unit
              return { ...column, unit: { ...rest, ...bare(facts) } as UnitFacts }
            }),
          )
        },
      ),
      { numRuns: 150 },
    )
  })
  it('tells units of other serials by their own serial, and the right one as it is', () => {
    const issued = image(1, { serial: 'FS3-00417' })
    const columns = [
      unit(),
      unit({ serial: 'FS3-00418' }),
      unit({ serial: 'FS3-00419' }),
      unit({ serial: 'FS3-00418' }),
    ]
    expectAlone([issued, image(2, { serial: 'FS3-00418' })], columns)
    const [row] = cellsOf([issued], columns)
    expect(row![1]).toContain('FS3-00418')
    expect(row![2]).toContain('FS3-00419')
    expect(row![1]).toBe(row![3])
    // Where none of them says its serial, all are alike.
    const { serial: _, ...unsaid } = unit().unit
    const nobody = { ...unit(), unit: unsaid as UnitFacts }
    expectAlone([issued], [nobody, nobody, unit()])
  })
  it('counts a reason once, however many cells it stands in', () => {
    const { reasons } = fitMatrix([image(1, null), image(2, null)], [unit(), unit({ serial: 'x' })], families)
    expect(
      reasons.filter(({ rule, says }) => rule === 'image-known' && says.startsWith('No profile')),
    ).toHaveLength(1)
  })
  it('asks what a person answered of a unit, and of no other', () => {
    const low = { 'signal-output': { answer: 'low-channel', by: 'T. Reader', at: 1 } }
    const radioUnit = (answers?: object) => ({
      ...unit({}, radio.id, answers),
      unit: { ...unit().unit, deviceIdentifier: radio.hardware.deviceIdentifier },
    })
    const own = image(1, {
      familyId: radio.id,
      componentId: radio.components[0]!.id,
      deviceIdentifier: radio.hardware.deviceIdentifier,
    })
    expectAlone([own], [radioUnit(), radioUnit(low), radioUnit()])
  })
})

describe('columns of hardware revisions', () => {
  it('are one for each revision, and each model of it', () => {
    const columns = revisionColumns([fog])
    expect(columns.map(({ says }) => says)).toEqual(fog.hardware.revisions.map(({ name }) => name))
    for (const [at, { unit: facts, familyId, familyName }] of columns.entries()) {
      const revision = fog.hardware.revisions[at]!
      expect([familyId, familyName]).toEqual([fog.id, fog.name])
      expect(facts).toEqual({
        deviceIdentifier: fog.hardware.deviceIdentifier,
        hardware: revision.name,
        hardwareMajor: revision.major,
        versions: {},
      })
    }
    const twoModels = {
      ...fog,
      hardware: { ...fog.hardware, models: [{ id: 'A' }, { id: 'B' }] },
    } as typeof fog
    const [first, second] = revisionColumns([twoModels])
    const name = fog.hardware.revisions[0]!.name
    expect([first!.says, second!.says]).toEqual([`${name}, A`, `${name}, B`])
    expect([first!.unit.model, second!.unit.model]).toEqual(['A', 'B'])
  })
})
