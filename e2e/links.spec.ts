import { firstUnitOf } from '@bench-wake/demo'
import { expect, setSpeed, test } from './program'
import { releaseHolds, rightBench, workNext } from './right-bench'

/*
 * Each demo family whose protocol this program speaks: a run is started on the unit's stand-in, worked through its
 * questions and proved; what went over the link reads like its standard.
 */

test.describe.configure({ mode: 'parallel' })

const links: Record<string, { image: string; filter: string; trace: RegExp }> = {
  'marine-radio': { image: 'RADIO.BIN', filter: 'block 0', trace: /block 0: file "main\.bin"/ },
  'buoy-battery': {
    image: 'bp5_update.s19',
    filter: 'record 0,',
    trace: /write file records, file 1, record 0/,
  },
  'launch-motor': {
    image: 'drive-4.1.elf',
    filter: 'security',
    trace: /security access, key of level 2, done/,
  },
  'beacon-receiver': { image: 'for-77120-2.4.0.bin', filter: 'DPIDR', trace: /read DPIDR/ },
  'tide-logger': { image: 'tide-2026-03-16.dfu', filter: 'dfuDNBUSY', trace: /DFU_GETSTATUS: dfuDNBUSY/ },
  'mains-relay': { image: 'quay-relay-2.1.uf2', filter: 'block 1,', trace: /block 1, 1024 bytes, CRC holds/ },
}

for (const [familyId, { image, filter, trace }] of Object.entries(links)) {
  test(`a run of a ${familyId} over its own link, proved, with its trace`, async ({
    page,
    shared: program,
  }) => {
    test.setTimeout(180_000)
    const unit = firstUnitOf(familyId)
    const id = await rightBench(program, familyId, image)
    await page.goto(`${program.address}/jobs/${id}`)
    await releaseHolds(page)
    await expect(page.getByRole('heading', { name: /Ready:/ })).toBeVisible()
    await setSpeed(page, '0')
    // The first hop of a way of two is a run of its own, and the screen offers the next one when it is proved.
    expect((await workNext(page, program, id)).outcome).toBe('proved')

    await page.goto(`${program.address}/trace?port=stand-in:${unit.id}`)
    await page.getByLabel('Follow the end').uncheck()
    await expect(
      page.getByRole('region', { name: 'Rows of the trace' }).locator('button').first(),
    ).toBeVisible()
    await page.getByLabel('Filter').fill(filter)
    await expect(page.getByRole('region', { name: 'Rows of the trace' })).toContainText(trace)
  })
}
