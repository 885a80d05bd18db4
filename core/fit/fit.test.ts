import { demoFirmware, demoImages, fogSignalFamily as family, type DemoImage } from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import { identifyImage, type MemoryMap } from '../image'
import type { UnitFacts } from '../unit'
import { componentOf } from '../family'
import { fitRules, judgeFit, judgeImage } from '.'

const component = componentOf(family)
const unit: UnitFacts = {
  deviceIdentifier: 'FS-20',
  hardware: '3.1',
  hardwareMajor: 3,
  versions: { main: '2.41' },
}
const image248 = demoImages[0]!.image

function fitOf(
  change: Partial<DemoImage> = {},
  facts: UnitFacts = unit,
  at = 0x08008000,
  spoil?: (bytes: Uint8Array) => void,
) {
  const bytes = demoFirmware({ ...image248, length: 0x8000, ...change })
  spoil?.(bytes)
  const memory: MemoryMap = [{ address: at, bytes }]
  return judgeFit({
    family,
    component,
    unit: facts,
    image: { name: 'x.hex', memory, identity: identifyImage(memory, [family]) },
  })
}
const found = (fit: ReturnType<typeof fitOf>, rule: string) =>
  fit.findings.find((finding) => finding.rule === rule)

describe('an image fits', () => {
  it('when every rule says go, and the path is one hop', () => {
    const fit = fitOf()
    expect(fit.verdict).toBe('go')
    expect(fit.findings.map(({ rule }) => rule)).toEqual(fitRules.map(({ id }) => id))
    expect(fit.path).toEqual([{ componentId: 'main', from: '2.41', to: '2.48' }])
  })
  it('says with each finding what it rests on, and with each refusal the way out', () => {
    for (const fit of [
      fitOf(),
      fitOf({ hardware: [2, 0] }),
      fitOf({ version: '2.40' }),
      fitOf({}, { versions: {} }),
    ]) {
      for (const finding of fit.findings) {
        expect(finding.because).not.toBe('')
        if (finding.level === 'stop' || finding.level === 'hold') expect(finding.remedy).toBeTruthy()
      }
    }
  })
})

describe('an image is refused', () => {
  // PRACTICE B1, common practice: hardware major differs; device identifier differs; older where the family refuses.
  it.each([
    ['another device identifier', { deviceIdentifier: 'FS-40' }, 'device-identifier', 'stop'],
    ['another hardware major', { hardware: [2, 9] as [number, number] }, 'hardware-major', 'stop'],
    ['an older version', { version: '2.9' }, 'version-direction', 'stop'],
    ['the same version', { version: '2.41' }, 'version-direction', 'hold'],
    ['versions nobody can order', { version: '2.48-x' }, 'version-direction', 'hold'],
  ] as const)('for %s', (_, change, rule, level) => {
    const fit = fitOf(change)
    expect(found(fit, rule)?.level).toBe(level)
    expect(fit.verdict).toBe(level)
    expect(fit.path).toHaveLength(level === 'stop' ? 0 : 1)
  })
  // PRACTICE A3: hardware that no profile line names must not be flashed with either image.
  it('on hardware that the family does not know', () => {
    expect(found(fitOf({}, { ...unit, hardware: '4.0', hardwareMajor: 4 }), 'hardware-major')?.level).toBe(
      'stop',
    )
  })
  it('and never go while the unit is not known', () => {
    const fit = fitOf({}, { versions: {} })
    expect(fit.verdict).toBe('hold')
    expect(found(fit, 'hardware-major')?.remedy).toMatch(/board is blue/)
    expect(found(fit, 'version-direction')?.level).toBe('note')
  })
  it('when a byte of it is damaged', () => {
    const fit = fitOf({}, unit, 0x08008000, (bytes) => (bytes[0x3000]! ^= 1))
    expect(found(fit, 'image-intact')?.level).toBe('stop')
  })
  // RFC 9124, storage location: outside the application, over the settings, over the bootloader.
  it('where it lies outside the memory that may be written', () => {
    const spoiled: MemoryMap = [
      { address: 0x08008000, bytes: demoFirmware({ ...image248, length: 0x8000 }) },
      { address: 0x08048000, bytes: new Uint8Array(16) },
    ]
    const fit = judgeFit({
      family,
      component,
      unit,
      image: { name: 'x.hex', memory: spoiled, identity: identifyImage(spoiled, [family]) },
    })
    expect(found(fit, 'memory-bounds')).toMatchObject({
      level: 'stop',
      says: expect.stringMatching(/horn settings/),
    })
  })
  it('when nothing in it says what it is for, whatever its name', () => {
    const memory: MemoryMap = [{ address: 0x08008000, bytes: new Uint8Array(1024).fill(0xff) }]
    const fit = judgeFit({
      family,
      component,
      unit,
      image: { name: 'fs20-main-2.48.hex', memory, identity: identifyImage(memory, [family]) },
    })
    expect(fit.verdict).toBe('stop')
    expect(fit.findings).toHaveLength(1)
  })
})

describe('an image on the shelf', () => {
  const judged = (change: Partial<DemoImage>, names: string[] = []) =>
    judgeImage(
      identifyImage([{ address: 0x08008000, bytes: demoFirmware({ ...image248, ...change }) }], [family]),
      [family],
      names,
    )
  // PRACTICE B2, B4, B6, common practice.
  it('is flagged as a test release, as a look-alike, as one image with two names', () => {
    expect(judged({}).every(({ level }) => level === 'go')).toBe(true)
    expect(judged({ release: 'test' }).map(({ rule }) => rule)).toContain('test-release')
    expect(judged({ deviceIdentifier: 'FS-40' }).map(({ rule }) => rule)).toContain('look-alike')
    expect(judged({}, ['update (1).hex']).map(({ rule }) => rule)).toContain('same-bytes')
    expect(judgeImage(null, [family]).map(({ level }) => level)).toEqual(['hold'])
  })
})
