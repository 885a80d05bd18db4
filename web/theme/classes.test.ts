import { createGenerator } from '@unocss/core'
import { readdirSync, readFileSync } from 'node:fs'
import { expect, test } from 'vitest'
import config from '../uno.config'

const root = new URL('../../', import.meta.url).pathname
const read = (folder: string, end: string) =>
  readdirSync(root + folder, { recursive: true })
    .map((name) => `${folder}/${String(name)}`)
    .filter((path) => path.endsWith(end) && !/node_modules|\/dist\//u.test(path))
    .map((path) => ({ path, text: readFileSync(root + path, 'utf8') }))

const templates = read('web', '.vue')
const sheets = [
  ...templates.map(({ text }) =>
    [...text.matchAll(/<style[^>]*>(.*?)<\/style>/gsu)].map(([, css]) => css ?? '').join('\n'),
  ),
  ...read('web/theme', '.css').map(({ text }) => text),
]

test('CSS of our own stays layout, tokens and drawings: a third of what the page began with, 3 400 lines', () => {
  const lines = sheets.flatMap((css) => css.split('\n')).filter((line) => line.trim() !== '')
  expect(lines.length).toBeLessThan(3400 / 3)
})

test('every class in a template is a utility, has a rule, or is what a test or a picture finds a thing by', async () => {
  const uno = await createGenerator(config)
  const used = new Map<string, string>()
  for (const { path, text } of templates)
    for (const [, classes] of text.slice(text.indexOf('<template>')).matchAll(/\sclass="([^"]*)"/gu))
      for (const name of classes!.split(/\s+/u).filter(Boolean)) used.set(name, path)
  const { matched } = await uno.generate([...used.keys()].join(' '), { preflights: false })
  const code = [...read('e2e', '.ts'), ...read('scripts', '.ts'), ...read('web', '.ts'), ...templates]
  const written = [...sheets, ...code.map(({ text }) => text.split('<template>')[0]!)].join('\n')
  const without = [...used].filter(
    ([name]) => !matched.has(name) && !new RegExp(`\\.${name}(?![\\w-])`, 'u').test(written),
  )
  expect(without).toEqual([])
})

test('code finds a thing on the page by a class only where a template has it', () => {
  const had = new Set(
    templates.flatMap(({ text }) =>
      [...text.matchAll(/\s:?class="([^"]*)"/gu)].flatMap(([, own]) => own!.match(/[a-z][\w-]*/giu) ?? []),
    ),
  )
  const asked = [...read('web', '.ts'), ...templates].flatMap(({ path, text }) =>
    [
      ...(text.split('<template>')[0] ?? '').matchAll(
        /(?:querySelector(?:All)?(?:<\w+>)?|closest|matches)\(\s*'([^']*)'/gu,
      ),
    ].flatMap(([, selector]) =>
      [...selector!.matchAll(/\.([a-z][\w-]*)/gu)].map(([, name]) => ({ path, name: name! })),
    ),
  )
  expect(asked.length).toBeGreaterThan(3)
  expect(asked.filter(({ name }) => !had.has(name) && !name.startsWith('n-'))).toEqual([])
})
