// Types of the screens, and of all else that sees a page: each screen is put into TypeScript as the Vue compiler understands
// it, the native compiler reads them, and what it finds is said at its place in the screen.
import { spawnSync } from 'node:child_process'
import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { dirname, join, relative } from 'node:path'
import { root } from './need.mjs'

const require = createRequire(import.meta.url)
const ts = require('typescript')
const { createParsedCommandLine, createVueLanguagePlugin } = require('@vue/language-core')

const web = join(root, 'web')
/** Beside the pages, so that a screen in it finds the packages that it finds at its own place. */
const made = join(web, '.screens')

/**
 * Checks them.
 * @param compiler the path of the native compiler
 * @returns whether all types hold; what does not is printed.
 */
export function checkScreens(compiler) {
  rmSync(made, { recursive: true, force: true })
  try {
    const screens = writeScreens()
    writeFileSync(
      join(made, 'tsconfig.json'),
      JSON.stringify({
        extends: '../tsconfig.json',
        // A screen is imported from beside it, and imports what is beside it.
        compilerOptions: { rootDirs: ['..', '.'], allowJs: true },
        include: ['**/*.ts', '../**/*.ts', '../../e2e/**/*.ts', '../../scripts/**/*.ts', '../../*.config.ts'],
        exclude: ['../dist', '../../**/node_modules'],
      }),
    )
    const { stdout, stderr, status, error } = spawnSync(process.execPath, [compiler, '-p', made], {
      cwd: root,
      encoding: 'utf8',
      maxBuffer: 2 ** 28,
    })
    if (error || stderr) console.error(error?.message ?? stderr)
    const found = stdout
      .split(/\n(?=\S)/)
      .map((text) => placed(text.trimEnd(), screens))
      .filter((text) => text)
    if (found.length > 0) console.error(found.join('\n'))
    // A compiler that fails without a word, or with none that could be read, has not said that they hold.
    const unread = status !== 0 && !/error TS\d+/.test(stdout)
    if (unread) console.error(`The compiler ended with ${status}: ${stdout}`)
    return found.length === 0 && !unread && !error
  } finally {
    rmSync(made, { recursive: true, force: true })
  }
}

/** Puts each screen into TypeScript. @returns for the path of each, its own path, its text and what lies where. */
function writeScreens() {
  const { options, vueOptions } = createParsedCommandLine(ts, ts.sys, join(web, 'tsconfig.json'))
  // By name: its place as seen from the screen is not its place as seen from here.
  vueOptions.typesRoot = '@vue/language-core/types'
  const plugin = createVueLanguagePlugin(ts, options, vueOptions, (id) => id)
  const screens = new Map()
  for (const path of ts.sys.readDirectory(web, ['.vue'], ['**/dist/**', '**/node_modules/**'])) {
    const source = readFileSync(path, 'utf8')
    const code = plugin.createVirtualCode(path, 'vue', ts.ScriptSnapshot.fromString(source), {
      getAssociatedScript: () => undefined,
    })
    const script = plugin.typescript.getServiceScript(code)
    const { snapshot, mappings } = script.code
    const text = snapshot.getText(0, snapshot.getLength())
    const to = join(made, `${relative(web, path)}${script.extension}`)
    mkdirSync(dirname(to), { recursive: true })
    writeFileSync(to, text)
    screens.set(relative(root, to), { path: relative(root, path), source, text, mappings })
  }
  if (screens.size === 0) throw new Error(`There are no screens in ${web}.`)
  return screens
}

/** What the compiler says of a screen, at its place in it; empty for what is about the words put around it. */
function placed(said, screens) {
  const [, file, line, column, rest] = /^(.+?)\((\d+),(\d+)\): ([^]*)$/.exec(said) ?? []
  const screen = screens.get(file)
  if (!screen) return said
  const offset = offsetOf(screen.text, Number(line), Number(column))
  const code = /TS(\d+)/.exec(rest)?.[1]
  for (const { sourceOffsets, generatedOffsets, lengths, generatedLengths, data } of screen.mappings) {
    const { verification } = data
    const asks =
      typeof verification === 'object' ? (verification.shouldReport?.('ts', code) ?? true) : verification
    if (!asks) continue
    for (const [index, start] of generatedOffsets.entries()) {
      const past = offset - start
      if (past < 0 || past > (generatedLengths ?? lengths)[index]) continue
      const before = screen.source.slice(0, sourceOffsets[index] + Math.min(past, lengths[index]))
      return `${screen.path}(${before.split('\n').length},${before.length - before.lastIndexOf('\n')}): ${rest}`
    }
  }
  return ''
}

function offsetOf(text, line, column) {
  let at = 0
  for (let passed = 1; passed < line; passed++) at = text.indexOf('\n', at) + 1
  return at + column - 1
}
