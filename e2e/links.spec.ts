import { expect, setSpeed, test } from './program'
import { releaseHolds, rightBench, workNext } from './right-bench'
import { expectTrace } from './traces'

/*
 * A whole run in one leg over a bus, with its trace on the screen; another is looked at in run.spec.ts, after the cable that was
 * pulled. The trace of every protocol is in core/run/families.test.ts.
 */

test.describe.configure({ mode: 'parallel' })

const images: Record<string, string> = {
  'buoy-battery': 'bp5_update.s19',
}

for (const [familyId, image] of Object.entries(images)) {
  test(`a run of a ${familyId} over its own link, proved, with its trace`, async ({
    page,
    shared: program,
  }) => {
    const id = await rightBench(program, familyId, image)
    await page.goto(`${program.address}/jobs/${id}`)
    await releaseHolds(page)
    await expect(page.getByRole('heading', { name: /Ready:/ })).toBeVisible()
    await setSpeed(page, '0')
    // The first hop of a way of two is a run of its own, and the screen offers the next one when it is proved.
    expect((await workNext(page, program, id)).outcome).toBe('proved')
    await expectTrace(page, program, familyId)
  })
}
