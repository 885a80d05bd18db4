import { demoFamily, taughtFieldsOf, placed } from '@bench-wake/demo'
import { searchCard } from '@bench-wake/standins'
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, describe, expect, it } from 'vitest'
import { componentOf, type Family } from '../family'
import { writeFatVolume } from '../image'
import { isProblem } from '../kernel'
import type { StepContext } from './step-context'
import { cardFiles, planMedium, zipOfCard } from '.'
import { stepActs } from './steps'

const folder = mkdtempSync(join(tmpdir(), 'bench-wake-card-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))

const helm = demoFamily('helm-display')
const base = demoFamily('davit-base')
const mediumOf = (family: Family) => family.links[0]!.medium!
const imagesOf = (family: Family, component: string, version: string) => [
  {
    component: componentOf(family, component),
    memory: placed(family, taughtFieldsOf(family.id, component, { version, hardwareMajor: 2 })),
  },
]

describe.each([
  ['helm display, card', helm, 'display', '3.2'],
  ['davit’s base, stick', base, 'base', '2.6'],
] as const)('%s', (_, family, id, version) => {
  const medium = mediumOf(family)
  const files = cardFiles(medium, imagesOf(family, id, version))
  it('is found by the unit when its files lie in their order, and taken in byte by byte', () => {
    expect(files.map(({ name }) => name)).toEqual(medium.files.map(({ name }) => name))
    const search = searchCard(family, medium, writeFatVolume(files))
    expect(search.shows).toMatch(/^Update found/)
    const image = files.find((file) => file.name.endsWith('.BIN'))!
    expect(search.takes).toEqual([{ component: id, bytes: image.bytes }])
  })
  it('is not found in the other order', () => {
    expect(searchCard(family, medium, writeFatVolume([...files].reverse())).takes).toEqual([])
  })
  it('is not found with a byte changed, or half of it', () => {
    const bent = files.map(({ name, bytes }) => {
      const own = bytes.slice()
      own[own.length >> 1]! ^= 1
      return { name, bytes: own }
    })
    expect(searchCard(family, medium, writeFatVolume(bent)).takes).toEqual([])
    const half = files.map(({ name, bytes }) => ({ name, bytes: bytes.slice(0, bytes.length >> 1) }))
    expect(searchCard(family, medium, writeFatVolume(half)).takes).toEqual([])
  })
  it('with another file before its own is found only where the unit does not mind', () => {
    const other = { name: 'PHOTO.JPG', bytes: new Uint8Array(40) }
    const found = searchCard(family, medium, writeFatVolume([other, ...files])).takes.length > 0
    expect(found).toBe(medium.othersAllowed)
  })
  // mtools (Debian) fills the card in the order of the archive, as a person would by hand.
  it('is found on a card that mtools filled in that order, and not on one filled in another', () => {
    for (const [order, found] of [
      [files, true],
      [[...files].reverse(), false],
    ] as const) {
      const image = join(folder, `${family.id}.img`)
      execFileSync('mformat', ['-C', '-T', '32768', '-h', '64', '-s', '32', '-i', image, '::'])
      for (const { name, bytes } of order) {
        writeFileSync(join(folder, name), bytes)
        execFileSync('mcopy', ['-i', image, join(folder, name), `::${name}`])
      }
      const card = new Uint8Array(readFileSync(image))
      expect(searchCard(family, medium, card).takes.length > 0).toBe(found)
      rmSync(image)
    }
  })
  it('needs the image of each component that it names', () => {
    let problem: unknown
    try {
      cardFiles(medium, [])
    } catch (error) {
      problem = error
    }
    expect(isProblem(problem, 'card-image')).toBe(true)
  })
  // The archive is read by another program: Python's zipfile lists it in its order.
  it('goes into an archive in its order', () => {
    const path = join(folder, 'card.zip')
    writeFileSync(path, zipOfCard(files))
    const listed = execFileSync('/usr/bin/python3', [
      '-c',
      'import sys,zipfile; z=zipfile.ZipFile(sys.argv[1]); print(z.testzip()); print("\\n".join(z.namelist()))',
      path,
    ])
      .toString()
      .trim()
      .split('\n')
    expect(listed).toEqual(['None', ...files.map(({ name }) => name)])
  })
  it('has the unit’s questions and its long time in the plan', () => {
    const plan = planMedium(family, componentOf(family, id), medium)
    expect(plan.map(({ kind }) => kind)).toEqual(['power-up', 'media', 'look'])
    expect(plan[1]!.predictedMs).toBe(medium.update!.minutes * 60_000)
    expect(plan[1]!.says).toContain(`${medium.update!.prompts.length} questions`)
  })
})

describe('the unit’s own questions in a run', () => {
  const ask = async (answers: Record<string, string>) => {
    const asked: string[] = []
    const context = {
      medium: mediumOf(helm),
      component: componentOf(helm, 'display'),
      step: 1,
      wake: { record: async () => {} },
      ask: async ({ id, caution }: { id: string; caution?: string }) => {
        asked.push(caution ? `${id}!` : id)
        return answers[id] ?? 'done'
      },
    }
    const outcome = await stepActs.media(context as unknown as StepContext).then(
      () => 'done',
      (error: unknown) => (isProblem(error) ? error.facts.kind : 'odd'),
    )
    return { asked, outcome }
  }
  it('come in their order, each caution with its own', async () => {
    expect(await ask({ 'media.found': 'shown' })).toEqual({
      asked: [
        'media.in!',
        'media.found',
        'media.prompt-1',
        'media.prompt-2!',
        'media.prompt-3',
        'media.prompt-4',
      ],
      outcome: 'done',
    })
  })
  it('are not asked where the unit did not find its files', async () => {
    for (const answer of ['other', 'done']) {
      expect(await ask({ 'media.found': answer })).toEqual({
        asked: ['media.in!', 'media.found'],
        outcome: 'media-not-found',
      })
    }
  })
})
