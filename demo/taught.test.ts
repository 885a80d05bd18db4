import { checkFamily } from '@bench-wake/core/family'
import { identifyImage, readImageFile } from '@bench-wake/core/image'
import { createHash } from 'node:crypto'
import { describe, expect, it } from 'vitest'
import { taughtFamilies, taughtFamilyList, taughtShelf } from '.'

/* Digests are Node's own; the text is looked for byte by byte. */
const files = new Map(taughtShelf().map(({ name, file }) => [name, file]))
const told = (name: string) => {
  const file = files.get(name)!
  const { memory } = readImageFile(file, { families: taughtFamilyList })
  return identifyImage(memory, taughtFamilyList, [createHash('sha256').update(file).digest('hex')])
}

describe('equipment that was taught', () => {
  it.each(taughtFamilies.map((document) => [document.id, document] as const))(
    '%s: its profile has no fault',
    (_, document) => {
      expect(checkFamily(document).faults).toEqual([])
    },
  )
  it('tells the tide gate’s images by the text around their version', () => {
    expect(told('tg6-board3-3.5.hex')).toMatchObject({
      familyId: 'tide-gate-controller',
      toldBy: 'text',
      version: '3.5',
      hardwareMajor: 3,
    })
    expect(told('tg6-board2-3.5.hex')).toMatchObject({ hardwareMajor: 2 })
  })
  it('tells the crane scale’s images by their digest, and of one in no list nothing', () => {
    expect(told('cs12-5.2.bin')).toMatchObject({ familyId: 'crane-scale', toldBy: 'release', version: '5.2' })
    expect(told('cs12-new.bin')).toBeNull()
    // Nothing in it tells it.
    expect(Buffer.from(files.get('cs12-5.2.bin')!).includes('5.2')).toBe(false)
  })
})
