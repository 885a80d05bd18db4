import { demoFamily, firmwareOf } from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import { asciiBytes } from '../kernel'
import { identifyImage, labelCandidates, type MemoryMap } from '.'

/* Two images of known versions held side by side. Their texts are written here by hand. */
const at = 0x8000
const holding = (seed: number, ...texts: [offset: number, text: string][]): MemoryMap => {
  const bytes = Uint8Array.from({ length: 0x800 }, (_, index) => 128 + ((index * 37 + seed) % 100))
  for (const [offset, text] of texts) bytes.set(asciiBytes(text), offset)
  return [{ address: at, bytes }]
}
const known = (memory: MemoryMap, version: string) => ({ memory, version })

describe('the label of images that a profile does not know yet', () => {
  it('is a text around the version, wherever it stands in each', () => {
    const found = labelCandidates(
      known(holding(1, [0x100, 'HORN FW v2.41 (c)']), '2.41'),
      known(holding(2, [0x220, 'HORN FW v2.48 (c)']), '2.48'),
    )
    expect(found).toEqual([
      { kind: 'text', template: 'HORN FW v{version} ', addresses: [at + 0x100 + 9, at + 0x220 + 9] },
    ])
  })
  it('takes only what stands alike before both, and no version that goes on', () => {
    const templates = (a: string, b: string) =>
      labelCandidates(known(holding(1, [0, a]), '2.4'), known(holding(2, [0, b]), '2.5')).map((each) =>
        each.kind === 'text' ? each.template : each.kind,
      )
    expect(templates('north gate fw 2.4;', 'south gate fw 2.5;')).toEqual(['th gate fw {version};'])
    expect(templates('gate fw 2.41;', 'gate fw 2.51;')).toEqual([])
    expect(templates('fw 2.4;', 'fw 2.5;')).toEqual([])
    expect(templates('gate {fw 2.4;', 'gate {fw 2.5;')).toEqual([])
    expect(templates('gate fw 2.4;', 'gate fw 2.6;')).toEqual([])
  })
  it('is a block where a mark and the version stand at the same address in both', () => {
    const block = (version: string): [number, string] => [0x40, `\0GATEBLK\0\0\0${version}\0\0\0\0`]
    const found = labelCandidates(
      known(holding(1, block('2.41')), '2.41'),
      known(holding(2, block('2.48')), '2.48'),
    )
    expect(found).toContainEqual({
      kind: 'block',
      address: at + 0x41,
      magic: 'GATEBLK',
      offset: 10,
      length: expect.any(Number),
    })
  })
  it('finds the mark of made-up firmware that has one, and with it the version is read', () => {
    const fog = demoFamily('fog-signal')
    const { address, magic } = fog.components[0]!.identity!
    const image = (version: string): MemoryMap => [
      {
        address: 0x0800_8000,
        bytes: firmwareOf(fog, {
          component: 'main',
          length: 0x4000,
          fields: { deviceIdentifier: 'FS-20', hardwareMajor: 3, version },
        }),
      },
    ]
    const [a, b] = [image('2.41'), image('2.48')]
    const block = labelCandidates(known(a, '2.41'), known(b, '2.48')).find(({ kind }) => kind === 'block')!
    expect(block).toBeDefined()
    if (block.kind !== 'block') return
    const { identity: _, ...component } = fog.components[0]!
    const taught = {
      ...fog,
      components: [
        {
          ...component,
          identity: {
            address: block.address,
            magic: block.magic,
            fields: [
              {
                field: 'version' as const,
                offset: block.offset,
                type: 'ascii' as const,
                length: block.length,
              },
            ],
          },
        },
      ],
    }
    expect(block.address).toBeGreaterThanOrEqual(address!)
    expect(magic.length).toBeGreaterThan(3)
    expect(identifyImage(b, [taught])?.version).toBe('2.48')
  })
  it('asks for two versions that differ', () => {
    const one = holding(1, [0, 'gate fw 2.4;'])
    for (const [a, b] of [
      ['2.4', '2.4'],
      ['', '2.4'],
      ['2.4', ' '],
    ] as const)
      expect(labelCandidates(known(one, a), known(one, b))).toEqual([])
  })
})
