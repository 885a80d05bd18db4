import { AxeBuilder } from '@axe-core/playwright'
import { expect, test } from './program'

/* Images that carry no label a profile knows (LINKS.md): made here byte by byte, with a text of their own. */
const image = (seed: number, version: string): Buffer<ArrayBuffer> => {
  const bytes = Buffer.from(
    Uint8Array.from({ length: 0x2000 }, (_, at) => (at * 31 + seed * 7 + (at >> 8) * 13) & 0xff),
  )
  bytes.write(`\0HORN DRIVER fw ${version} (mole)\0`, 0x240, 'latin1')
  return bytes
}

test('an image without a label: a person says what it is, takes it back; two of them give their text to the profile', async ({
  page,
  program,
}) => {
  const ids: string[] = []
  for (const [seed, version] of [
    [1, '7.3'],
    [5, '7.4'],
  ] as const) {
    const form = new FormData()
    form.set('file', new Blob([image(seed, version)]), `horn-${version}.bin`)
    form.set('address', '0x08008000')
    const answer = await fetch(`${program.address}/api/images`, { method: 'POST', body: form })
    ids.push(((await answer.json()) as { id: string }).id)
  }
  await page.goto(`${program.address}/shelf/${ids[0]}`)
  const known = page.getByRole('region', { name: 'How it is known' })
  await expect(known).toContainText('Nothing tells what it is')
  await known.getByRole('button', { name: 'Say what it is' }).click()
  await known.getByLabel('Equipment').click()
  await page.keyboard.type('Fog')
  await page.keyboard.press('Enter')
  await known.getByLabel('Version').fill('7.3')
  await known.getByLabel('Where you know it from').fill('The label on the stick.')
  // Nobody has said who they are: it cannot be saved, and says so.
  await known.getByLabel('Your name').fill('')
  await expect(known.getByRole('button', { name: 'Save' })).toBeDisabled()
  await expect(known).toContainText('Say who you are.')
  await known.getByLabel('Your name').fill('B. Quill')
  const { violations } = await new AxeBuilder({ page })
    .withTags(['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa'])
    .analyze()
  expect(violations.map(({ id, nodes }) => `${id}: ${nodes[0]?.html}`)).toEqual([])
  await known.getByRole('button', { name: 'Save' }).click()
  await expect(page.getByRole('heading', { level: 1 })).toContainText(
    'Fog-signal controller, main processor 7.3',
  )
  await expect(known).toContainText('B. Quill says so. Where from: The label on the stick.')
  // A word is no proof: the shelf holds it.
  await expect(page.getByText('Hold:').first()).toBeVisible()
  await known.getByRole('button', { name: 'Undo' }).click()
  await expect(known).toContainText('Nothing tells what it is')

  await page.goto(`${program.address}/shelf/${ids[0]}/against/${ids[1]}`)
  const finder = page.getByRole('region', { name: 'Find their label' })
  await finder.getByLabel('Version of horn-7.3.bin').fill('7.3')
  await finder.getByLabel('Version of horn-7.4.bin').fill('7.4')
  await finder.getByRole('button', { name: 'Look for it' }).click()
  await expect(finder.locator('[data-label=text]')).toContainText('HORN DRIVER fw {version}')
  await finder.getByLabel('For the profile of').click()
  await page.keyboard.type('Fog')
  await page.keyboard.press('Enter')
  await finder.getByRole('button', { name: 'Use in the profile' }).first().click()
  await expect(page.getByRole('heading', { name: 'Fog-signal controller' })).toBeVisible()
  await expect(page.locator('aside')).toContainText('components.main.versionText')

  // The supplier's list of digests comes in beside it, and the row that is wrong is named.
  await page.getByRole('button', { name: 'Releases' }).first().click()
  const digest = 'ab'.repeat(32)
  await page.setInputFiles('input[type=file][accept*=csv]', {
    name: 'releases.csv',
    mimeType: 'text/csv',
    buffer: Buffer.from(`version;sha256;hardware\n7.2;${digest};3\n7.1;12;3\n`),
  })
  await expect(page.getByRole('region', { name: 'What the list holds' })).toContainText(
    /1 new release, 1 row that cannot be read/,
  )
  await page.getByRole('button', { name: 'Add 1 release' }).click()
  await page.getByRole('button', { name: 'Save revision 2' }).click()
  await expect(page.getByText(/· revision 2,/)).toBeVisible()
  // Both images are known now, by their own text.
  await page.goto(`${program.address}/shelf/${ids[1]}`)
  await expect(page.getByRole('heading', { level: 1 })).toContainText(
    'Fog-signal controller, main processor 7.4',
  )
  await expect(known).toContainText('A text in it says so')
})
