// npm run mutate -- core/proof [core/kernel …]: plants faults in a folder one at a time and counts those that the tests
// beside it do not notice; `core/fit/*.ts` takes the files of that folder alone. `--json FOLDER` keeps the whole reports,
// `--list` prints every survivor, `--tests A,B` asks other tests than those in the folder. `--sample 4` takes one of four
// declarations, spread evenly over the folder and always the same ones: for folders whose tests take long. A file with lines,
// `core/run/engine.ts:180-240`, has its faults planted in these alone.
import { spawnSync } from 'node:child_process'
import { mkdirSync, mkdtempSync, readFileSync, readdirSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join, resolve } from 'node:path'
import { bin, needPackages, root } from './need.mjs'

needPackages()
const words = process.argv.slice(2)
const list = words.includes('--list')
/** What stands behind an option. */
const said = (option) => {
  const at = words.indexOf(option)
  return at < 0 ? null : (words[at + 1] ?? '')
}
const json = said('--json')
const keep = json === null ? null : resolve(json || '.')
const folders = words.filter(
  (word, at) => !word.startsWith('--') && !['--json', '--tests', '--sample'].includes(words[at - 1] ?? ''),
)
if (folders.length === 0) {
  console.error(
    'Usage: npm run mutate -- core/proof [core/kernel …] [--list] [--json FOLDER] [--tests A,B] [--sample N]',
  )
  process.exit(2)
}

/** Folders whose tests take long: faults that only a fresh start of everything would show are left out there. */
const long = new Set(['core/link', 'core/run'])
/** One of how many declarations is taken; 1: all of them. */
const oneOf = Number(said('--sample') ?? 1)
if (!Number.isInteger(oneOf) || oneOf < 1) {
  console.error('--sample wants a whole number from 1')
  process.exit(2)
}

/** Where the declarations of the files lie that are taken, as the mutation package writes ranges of lines. */
function sampled(asked, folder) {
  const isFolder = statSync(join(root, folder)).isDirectory()
  const inside = isFolder
    ? readdirSync(join(root, folder), { recursive: asked === folder }).map((name) => `${folder}/${name}`)
    : [asked]
  const paths = inside
    .filter((path) => path.endsWith('.ts') && !/\.test(-support)?\.ts$/u.test(path))
    .toSorted()
  const declarations = paths.flatMap((path) => {
    const lines = readFileSync(join(root, path), 'utf8').split('\n')
    const starts = lines.flatMap((line, at) =>
      /^(export |async |function |const |class |let )/u.test(line) ? [at + 1] : [],
    )
    return starts.map((from, index) => `${path}:${from}-${(starts[index + 1] ?? lines.length + 1) - 1}`)
  })
  return declarations.filter((_, index) => index % oneOf === 0)
}
/** What a folder has to reach, percent. */
const wanted = (folder) => (folder.startsWith('core/link') ? 75 : 85)

const scratch = mkdtempSync(join(tmpdir(), 'bench-wake-mutate-'))
const rows = []
for (const asked of folders) {
  const folder = asked.replace(/\/\*\.ts$|:\d+-\d+$/u, '')
  const files = folder === asked && !asked.endsWith('.ts') ? `${folder}/**/*.ts` : asked
  const report = join(scratch, `${folder.replaceAll('/', '-')}.json`)
  const config = {
    packageManager: 'npm',
    testRunner: 'vitest',
    vitest: { configFile: 'scripts/mutate/vitest.config.ts' },
    plugins: ['@stryker-mutator/vitest-runner', join(root, 'scripts/mutate/words.mjs')],
    // The wording of a sentence is read by people; levels, rules, numbers and conditions are what is mutated.
    ignorers: ['sentences'],
    mutate: [...(oneOf > 1 ? sampled(asked, folder) : [files]), '!**/*.test.ts', '!**/*.test-support.ts'],
    reporters: ['json'],
    jsonReporter: { fileName: report },
    coverageAnalysis: 'perTest',
    ignoreStatic: [...long].some((each) => folder.startsWith(each)),
    timeoutMS: 2500,
    tempDirName: '.mutate',
    ignorePatterns: ['docs', 'data', 'e2e', 'web', 'test-results'],
    clearTextReporter: { allowColor: false },
  }
  const file = join(scratch, 'stryker.json')
  writeFileSync(file, JSON.stringify(config))
  const environment = {
    ...process.env,
    // So many cases of those that are drawn by chance, as of the random ones.
    BENCH_WAKE_FAULTS: '20',
    BENCH_WAKE_SCRIPTS: '200',
    MUTATE_TESTS: said('--tests') ?? `${folder.replace(/\/[^/]+\.ts$/u, '')}/**/*.test.ts`,
  }
  const { status } = spawnSync(bin('stryker'), ['run', file, '--logLevel', 'warn'], {
    cwd: root,
    env: environment,
    stdio: ['ignore', 'ignore', 'inherit'],
  })
  if (status !== 0) {
    console.error(`${folder}: the mutation run did not come to its end`)
    process.exitCode = 1
    continue
  }
  const { files: faults } = JSON.parse(readFileSync(report, 'utf8'))
  const mutants = Object.entries(faults).flatMap(([path, { mutants: own }]) =>
    own.map((mutant) => ({ ...mutant, path })),
  )
  const count = (...states) => mutants.filter(({ status: state }) => states.includes(state)).length
  const found = count('Killed', 'Timeout')
  const late = count('Timeout')
  const all = found + count('Survived', 'NoCoverage')
  const share = all === 0 ? 100 : (found * 100) / all
  rows.push({ folder: asked, found, late, all, share })
  if (share < wanted(folder)) process.exitCode = 1
  if (keep) {
    mkdirSync(keep, { recursive: true })
    writeFileSync(
      join(keep, `${asked.replaceAll('/', '-').replaceAll('*', 'all')}.json`),
      JSON.stringify(mutants),
    )
  }
  if (list)
    for (const { path, location, mutatorName, replacement, status: state } of mutants)
      if (state === 'Survived' || state === 'NoCoverage')
        console.log(
          `${path}:${location.start.line} ${state === 'NoCoverage' ? 'not reached' : mutatorName}: ${(replacement ?? '').replaceAll('\n', ' ').slice(0, 80)}`,
        )
}
rmSync(scratch, { recursive: true, force: true })
for (const { folder, found, late, all, share } of rows)
  console.log(
    `${folder}: ${share.toFixed(1)} % (${found} of ${all} found, ${late} of them by a time-out; ${wanted(folder)} wanted)`,
  )
