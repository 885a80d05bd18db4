import { demoFamilies, demoFamily } from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import { checkFamily, linksOn, onHardware, type Family } from '.'

const launch = demoFamily('launch-motor')
const ids = (family: Pick<Family, 'links'>) => family.links.map(({ id }) => id)

// PRACTICE A3, C1, common practice: the cable depends on the controller line; the board decides, not the name on the case.
describe('the hardware that was read selects the link', () => {
  it('each generation has its own, and not the other’s', () => {
    expect(ids(onHardware(launch, 1))).toEqual(['line'])
    expect(ids(onHardware(launch, 2))).toEqual(['bus'])
  })
  it('while it is not known all are offered, and a family that says nothing keeps all', () => {
    expect(ids(onHardware(launch, undefined))).toEqual(['bus', 'line'])
    const radio = demoFamily('marine-radio')
    expect(onHardware(radio, 12)).toBe(radio)
  })
  it('hardware that no link names is left with all, for nobody said that it has none', () => {
    expect(linksOn(launch, 9).map(({ id }) => id)).toEqual(['bus', 'line'])
  })
})

describe('a profile that ties links to hardware', () => {
  const faultsOf = (revisions: (number[] | undefined)[]) => {
    const told = demoFamilies.find(({ id }) => id === 'launch-motor')
    const document = JSON.parse(JSON.stringify(told)) as { links: Record<string, unknown>[] }
    document.links.forEach((link, index) => {
      if (revisions[index]) link['revisions'] = revisions[index]
      else delete link['revisions']
    })
    return checkFamily(document).faults
  }
  it('names a revision that is not there, and one that is left without a link', () => {
    expect(faultsOf([[2], [1]])).toEqual([])
    expect(faultsOf([undefined, [1]])).toEqual([])
    expect(faultsOf([[2], [3]])).toEqual([
      { at: 'links.1.revisions.0', says: 'Major 3 is not among the hardware revisions' },
      { at: 'links', says: 'Hardware of major 1 is left without a link' },
    ])
  })
})
