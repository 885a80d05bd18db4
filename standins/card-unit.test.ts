import { demoFamily, demoStandIn, demoUnits, placed, taughtFieldsOf } from '@bench-wake/demo'
import { componentOf } from '@bench-wake/core/family'
import { readFatRoot, writeFatVolume } from '@bench-wake/core/image'
import { cardFiles, type WakeEvent } from '@bench-wake/core/run'
import { describe, expect, it } from 'vitest'
import { cardUnit } from '.'

const answered = (prompt: string, answer = 'done'): WakeEvent => ({
  seq: 1,
  at: 0,
  prev: '',
  hash: '',
  body: { type: 'prompt.answered', step: 0, prompt, answer },
})

describe.each([
  ['helm-1', 'display', '3.1', '3.2'],
  ['davit-base-1', 'base', '2.4', '2.6'],
])('%s, which takes its files from a card', (unitId, component, before, after) => {
  const demo = demoUnits.find(({ id }) => id === unitId)!
  const family = demoFamily(demo.familyId)
  const medium = family.links[0]!.medium!
  const { prompts, searches } = medium.update!
  const files = cardFiles(medium, [
    {
      component: componentOf(family, component),
      memory: placed(family, taughtFieldsOf(family.id, component, { version: after, hardwareMajor: 2 })),
    },
  ])
  function bench(maxBytes = medium.maxBytes) {
    const { hardware, flash, lines } = demoStandIn(demo)
    const state = { flash, usedAh: 0, inBootloader: false, lines }
    const { id, name, serial } = demo
    return cardUnit({ id, name, family, hardware, serial, state, medium: { ...medium, maxBytes } })
  }
  const version = (unit: ReturnType<typeof bench>) => unit.shows().join('\n')
  const answersAll = (unit: ReturnType<typeof bench>) => {
    unit.follow(answered('media.found', 'shown'))
    for (const [index] of prompts.entries()) unit.follow(answered(`media.prompt-${index + 1}`))
  }

  it('finds them, asks its questions one after the other, and says the new version at the end', () => {
    const unit = bench()
    expect(version(unit)).toContain(before)
    unit.write(writeFatVolume(files))
    // In its slot, and not searched yet.
    expect(version(unit)).toContain(before)
    unit.follow(answered('media.in'))
    expect(unit.shows()).toEqual([searches])
    unit.follow(answered('media.found', 'shown'))
    for (const [index, { shows }] of prompts.entries()) {
      expect(unit.shows()).toEqual([shows])
      unit.follow(answered(`media.prompt-${index + 1}`))
    }
    expect(version(unit)).toContain(after)
    expect(version(unit)).not.toContain(before)
  })
  it.each([
    ['a hand copied the first file anew', (unit: ReturnType<typeof bench>) => unit.touch('copied-anew')],
    ['nothing was ever written', null],
    ['it is larger than the unit reads', 1_000_000],
  ] as const)('takes nothing, and says another page, where %s', (_, how) => {
    const unit = bench(typeof how === 'number' ? how : undefined)
    if (how !== null) unit.write(writeFatVolume(files))
    if (typeof how === 'function') how(unit)
    unit.follow(answered('media.in'))
    expect(unit.shows()).not.toEqual([searches])
    // A person who says that it was found does not make it so.
    answersAll(unit)
    expect(version(unit)).toContain(before)
  })
  it('leaves all as it was where the person says that it shows something else', () => {
    const unit = bench()
    unit.write(writeFatVolume(files))
    unit.follow(answered('media.in'))
    unit.follow(answered('media.found', 'other'))
    for (const [index] of prompts.entries()) unit.follow(answered(`media.prompt-${index + 1}`))
    expect(version(unit)).toContain(before)
  })
  it('has a card that a hand really rewrites, and another makes good', () => {
    const unit = bench()
    unit.touch('old-file')
    expect(unit.read()).toBeNull()
    unit.write(writeFatVolume(files))
    const names = () => readFatRoot(unit.read()!).map(({ name }) => name)
    const own = files.map(({ name }) => name)
    unit.touch('old-file')
    expect(names()).toEqual(['OLD.BIN', ...own])
    unit.touch('copied-anew')
    expect(names()).toEqual([...own.slice(1), own[0]])
    unit.touch('as-written')
    expect(names()).toEqual(own)
  })
})
