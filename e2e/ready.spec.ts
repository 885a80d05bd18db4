import type { Page } from '@playwright/test'
import { expect, pick, test, unfold } from './program'
import { releaseHolds, rightBench } from './right-bench'

/*
 * Each demo family's job reaches Go as a careful technician sets the bench, and Hold or Stop in the ways in which
 * benches go wrong (PRACTICE C, D, F; common practice), with the figure read from the screen.
 */

test.describe.configure({ mode: 'parallel' })

const part = (page: Page, id: string) => page.locator(`[data-part=${id}]`)
const pin = (page: Page, side: 'adapter' | 'target', id: string) =>
  page.locator(`[data-side=${side}][data-pin="${id}"]`)
/** Joins two pins, or takes the wire off: the same two clicks. */
async function wire(page: Page, from: string, to: string) {
  await pin(page, 'adapter', from).click()
  await pin(page, 'target', to).click()
}
/** One of several names that begin alike. */
const exactly = (name: string) => new RegExp(`^\\s*${name.replace(/[.()]/g, '\\$&')}\\s*$`)
async function adapter(page: Page, name: string) {
  await pick(page, 'Cable or adapter', exactly(name))
}
const volts = (page: Page, text: string) => page.getByLabel('Measured at the unit’s terminals').fill(text)

interface Wrong {
  name: string
  part: string
  verdict: 'hold' | 'stop'
  /** What stands on the screen then: the figure or the words. */
  reads: RegExp
  wrong: (page: Page) => Promise<void>
  right: (page: Page) => Promise<void>
}
const measuredLow = (low: string, good: string, reads: RegExp): Wrong => ({
  name: `supply at ${low}`,
  part: 'power',
  verdict: 'stop',
  reads,
  wrong: (page) => volts(page, low),
  right: (page) => volts(page, good),
})
const neighbour = (label: RegExp, reads: RegExp): Wrong => ({
  name: 'a neighbour left on the bus',
  part: 'isolation',
  verdict: 'stop',
  reads,
  wrong: (page) => page.getByLabel(label).uncheck(),
  right: (page) => page.getByLabel(label).check(),
})
const swapped = (one: [string, string], two: [string, string], reads: RegExp): Wrong => {
  const swap = async (page: Page, before: [string, string][], after: [string, string][]) => {
    for (const [from, to] of [...before, ...after]) await wire(page, from, to)
  }
  const cross: [string, string][] = [
    [one[0], two[1]],
    [two[0], one[1]],
  ]
  return {
    name: 'the pair swapped',
    part: 'wiring',
    verdict: 'stop',
    reads,
    wrong: (page) => swap(page, [one, two], cross),
    right: (page) => swap(page, cross, [one, two]),
  }
}
const choose = (
  label: string,
  wrong: string,
  right: string,
  verdict: Wrong['verdict'],
  reads: RegExp,
): Wrong => ({
  name: `${label}: ${wrong}`,
  part: 'wiring',
  verdict,
  reads,
  wrong: (page) => pick(page, label, exactly(wrong)),
  right: (page) => pick(page, label, exactly(right)),
})
const ohms = (wrong: string, right: string, reads: RegExp): Wrong => ({
  name: `${wrong} between the wires`,
  part: 'wiring',
  verdict: 'hold',
  reads,
  wrong: (page) => page.getByLabel('Between the bus wires, unpowered').fill(wrong),
  right: (page) => page.getByLabel('Between the bus wires, unpowered').fill(right),
})
const untick = (id: string, label: RegExp, verdict: Wrong['verdict'], reads: RegExp): Wrong => ({
  name: `${label.source} not ticked`,
  part: id,
  verdict,
  reads,
  wrong: (page) => part(page, id).getByLabel(label).uncheck(),
  // A step of power that is undone takes those after it along: all are ticked again, in order.
  right: async (page) => {
    if (id !== 'order') return part(page, id).getByLabel(label).check()
    for (const box of await part(page, id).getByRole('checkbox').all()) await box.check()
  },
})

const cases: Record<string, { image: string; wrongs: Wrong[] }> = {
  'fog-signal': {
    image: 'fs20-main-2.48.hex',
    wrongs: [
      swapped(['TX', '3'], ['RX', '2'], /Transmit is joined to transmit/),
      {
        name: 'the battery’s pin joined',
        part: 'wiring',
        verdict: 'stop',
        reads: /12 V \(pin 4\) is joined; it must stay open/,
        wrong: (page) => wire(page, 'VCC', '4'),
        right: (page) => wire(page, 'VCC', '4'),
      },
      {
        name: 'the laptop’s battery low',
        part: 'laptop',
        verdict: 'stop',
        reads: /The laptop lasts 0 min; \d+ min are wanted/,
        wrong: async (page) => {
          await page.getByLabel('The laptop is on mains').uncheck()
          await page.getByLabel('Its battery lasts').fill('0.2 min')
        },
        right: (page) => page.getByLabel('The laptop is on mains').check(),
      },
      choose('The unit’s own supply is', 'not looked at', 'on', 'hold', /Nobody said what feeds the unit/),
    ],
  },
  'marine-radio': {
    image: 'RADIO.BIN',
    wrongs: [
      {
        name: 'the look-alike cable',
        part: 'wiring',
        verdict: 'stop',
        reads: /a plain pass-through; here it must be a cable with a converter inside/,
        wrong: (page) => adapter(page, 'Plain cable with the radio’s plug'),
        right: (page) => adapter(page, 'Radio programming cable'),
      },
      measuredLow('6.6 V', '8.1 V', /floor is 7\.00 V/),
    ],
  },
  'station-inverter': {
    image: 'rel/img1.hex',
    wrongs: [
      swapped(['A', 'A'], ['B', 'B'], /The data pair is swapped/),
      ohms('120 ohm', '60 ohm', /One terminator is missing/),
      neighbour(/second inverter’s bus plug/, /The second inverter still hangs on it/),
      measuredLow('47.2 V', '53.2 V', /floor is 48\.00 V|does not go with this supply/),
    ],
  },
  'buoy-battery': {
    image: 'bp5_update.s19',
    wrongs: [
      neighbour(/Unplug every other pack/, /Every other pack still hangs on it/),
      {
        name: 'the address switch on 2',
        part: 'isolation',
        verdict: 'stop',
        reads: /Lever 2 of the address switch stands wrong/,
        wrong: (page) => page.getByRole('button', { name: /^Lever 2/ }).click(),
        right: (page) => page.getByRole('button', { name: /^Lever 2/ }).click(),
      },
      {
        name: 'a network lead',
        part: 'wiring',
        verdict: 'stop',
        reads: /The plug has pinout network; the jack has BP bus/,
        wrong: (page) => adapter(page, 'Network lead, eight contacts'),
        right: (page) => adapter(page, 'Battery pack cable'),
      },
      ohms('40 ohm', '60 ohm', /a terminator too many/),
    ],
  },
  'launch-motor': {
    image: 'drive-4.1.elf',
    wrongs: [
      {
        name: 'the charger off and the lamps on',
        part: 'power',
        verdict: 'stop',
        reads: /sags to 11\.\d\d V; the floor is 12\.00 V/,
        wrong: async (page) => {
          await page.getByLabel('Charger on the battery').fill('')
          await page.getByLabel(/pull fuse F14/).uncheck()
        },
        right: async (page) => {
          await page.getByLabel('Charger on the battery').fill('6 A')
          await page.getByLabel(/pull fuse F14/).check()
        },
      },
      swapped(['H', '6'], ['L', '14'], /The data pair is swapped/),
    ],
  },
  'beacon-receiver': {
    image: 'for-77120-2.4.0.bin',
    wrongs: [
      choose('Its level switch stands on', '5 V', '3.3 V', 'stop', /drives 5 V into a 3\.3 V part/),
      {
        name: 'two supplies',
        part: 'wiring',
        verdict: 'stop',
        reads: /Two supplies feed the unit/,
        wrong: async (page) => {
          await wire(page, '1', 'V')
          await page.getByText('on: it feeds the unit').click()
        },
        right: async (page) => {
          await page.locator('.feeding').getByText('off', { exact: true }).click()
          await wire(page, '1', 'V')
        },
      },
      {
        name: 'the adapter’s supply wire on, nobody having said whether it gives supply',
        part: 'wiring',
        verdict: 'stop',
        reads: /is joined while the unit runs from its own supply/,
        wrong: (page) => wire(page, '1', 'V'),
        right: (page) => wire(page, '1', 'V'),
      },
      choose('Contact is', 'held in holes', 'soldered', 'hold', /held in their holes by hand/),
      measuredLow('2.7 V', '3.3 V', /floor is 3\.00 V|does not go with this supply/),
    ],
  },
  'tide-logger': {
    image: 'tide-2026-03-16.dfu',
    wrongs: [
      {
        name: 'a charging lead',
        part: 'wiring',
        verdict: 'stop',
        reads: /Charging lead from the wheelhouse is known bad/,
        wrong: (page) => adapter(page, 'Charging lead from the wheelhouse (known bad)'),
        right: async (page) => {
          await adapter(page, 'USB lead, with data wires')
          await wire(page, '1', '1')
        },
      },
      untick('wiring', /Plug fully home/, 'hold', /Nobody looked at how the plug is turned/),
      measuredLow('4.2 V', '5 V', /floor is 4\.60 V|does not go with this supply/),
    ],
  },
  'boat-davit': {
    image: 'j0_520.hex',
    wrongs: [
      {
        name: 'a cable from the office',
        part: 'wiring',
        verdict: 'stop',
        reads: /The plug has pinout nine contacts; the jack has DV service/,
        wrong: (page) => adapter(page, 'Serial cable from the office'),
        right: (page) => adapter(page, 'Davit service cable'),
      },
      neighbour(/Unplug the remote panel/, /The remote panel still hangs on it/),
      measuredLow('22.4 V', '25.4 V', /floor is 23\.00 V|does not go with this supply/),
    ],
  },
  'mains-relay': {
    image: 'quay-relay-2.1.uf2',
    wrongs: [
      choose('Its level switch stands on', '5 V', '3.3 V', 'stop', /drives 5 V into a 3\.3 V part/),
      choose('The unit’s own supply is', 'on', 'off, or taken out', 'stop', /Two supplies feed the unit/),
      swapped(['TX', '2'], ['RX', '3'], /is joined to/),
    ],
  },
  'signal-desk': {
    image: 'birch.rom',
    wrongs: [
      untick('order', /Plug pulled, proved dead/, 'stop', /Mains in the desk/),
      untick('wiring', /Pin 1 at the dot/, 'hold', /Nobody looked at how the plug is turned/),
      {
        name: 'supply on ground: the clip turned',
        part: 'wiring',
        verdict: 'stop',
        reads: /Supply \(pin 8\) is joined to Ground \(pin 4\)/,
        wrong: async (page) => {
          await wire(page, '8', '8')
          await wire(page, '8', '4')
        },
        right: async (page) => {
          await wire(page, '8', '4')
          await wire(page, '8', '8')
        },
      },
      untick('kit', /Wrist strap/, 'hold', /1 of \d+ things is not packed/),
    ],
  },
}

for (const [familyId, { image, wrongs }] of Object.entries(cases)) {
  test(`the bench of a ${familyId}: Go when it is right, Hold or Stop in ${wrongs.length} wrong ways`, async ({
    page,
    shared,
  }) => {
    const id = await rightBench(shared, familyId, image)
    await page.goto(`${shared.address}/jobs/${id}`)
    const ready = page.getByRole('heading', { name: /Ready:/ })
    await releaseHolds(page)
    await expect(ready).toBeVisible()
    for (const each of wrongs) {
      await test.step(each.name, async () => {
        await unfold(part(page, each.part))
        await each.wrong(page)
        await expect(part(page, each.part)).toHaveAttribute('data-verdict', each.verdict)
        await expect(page.locator('.deck')).toContainText(each.reads)
        await expect(ready).toHaveCount(0)
        await each.right(page)
        await expect(part(page, each.part)).toHaveAttribute('data-verdict', /go|note/)
        await expect(ready).toBeVisible()
      })
    }
    // What was said is kept: the server judges as the page does.
    await expect
      .poll(async () => {
        const { gates } = await shared.get(`/jobs/${id}/ready`)
        return gates
          .filter((gate: { id: string }) =>
            ['power', 'order', 'wiring', 'isolation', 'kit', 'laptop'].includes(gate.id),
          )
          .filter(({ verdict }: { verdict: string }) => verdict === 'hold' || verdict === 'stop')
          .map((gate: { id: string; findings: { says: string }[] }) => [
            gate.id,
            ...gate.findings.map(({ says }) => says),
          ])
      })
      .toEqual([])
  })
}
