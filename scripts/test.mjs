// Lint, types, unit and interface tests. Ends with a line "N passed, N failed".
import { spawn } from 'node:child_process'
import {
  accessSync,
  constants,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  rmSync,
  statfsSync,
  writeFileSync,
} from 'node:fs'
import { tmpdir } from 'node:os'
import { basename, delimiter, join, relative } from 'node:path'
import { stripVTControlCharacters } from 'node:util'
import { bin, needPackages, root, run } from './need.mjs'

// Packages and peers are installed side by side: the peers are used by the unit tests first.
const peers = spawn(process.execPath, ['scripts/peers.mjs'], { cwd: root, stdio: 'inherit' })
const peersThere = new Promise((done) => peers.on('close', (code) => done(code === 0)))
needPackages()

// Each event of a record waits for the disk; where memory has room for what tests leave, they wait for none.
const scratch = !process.env.TMPDIR && hasRoom('/dev/shm') ? '/dev/shm' : tmpdir()
const folder = mkdtempSync(join(scratch, 'bench-wake-test-'))
// All that tests leave lies in it, and goes with it, however they end.
process.env.TMPDIR = folder
process.on('exit', () => rmSync(folder, { recursive: true, force: true }))
// Every computer of a test has a serial port of its own, as a laptop with a modem has: no test may take it for the one it set up.
const udev = join(folder, 'bin')
mkdirSync(udev)
writeFileSync(
  join(udev, 'udevadm'),
  `#!/bin/sh
echo 'P: /devices/pnp0/00:05/tty/ttyS77'
echo 'N: ttyS77'
echo 'E: DEVNAME=/dev/ttyS77'
echo
`,
  { mode: 0o755 },
)
process.env.PATH = `${udev}${delimiter}${process.env.PATH}`
// Most of what is made in a test is thrown away at once: with more room for it a tenth of the time is saved.
process.env.NODE_OPTIONS = `${process.env.NODE_OPTIONS ?? ''} --max-semi-space-size=64`.trim()
const total = { passed: 0, failed: 0 }
/** What failed, each with the first lines of why: said again at the end, where it is found. */
const fallen = []
const fell = (name, why) =>
  fallen.push(
    `${name}\n${stripVTControlCharacters(why ?? '')
      .split('\n')
      .slice(0, 6)
      .join('\n')}`.trimEnd(),
  )
const count = (passed, failed) => {
  total.passed += passed
  total.failed += failed
}
const heading = (text) => console.log(`\n${text}`)
const report = (name) => {
  try {
    return JSON.parse(readFileSync(join(folder, name), 'utf8'))
  } catch {
    return null
  }
}

/** Whether a file system may be written to and has four gigabytes left. */
function hasRoom(path) {
  try {
    accessSync(path, constants.W_OK)
    const { bavail, bsize } = statfsSync(path)
    return bavail * bsize > 4 * 2 ** 30
  } catch {
    return false
  }
}

/** Linter and compiler end before they need what they throw away; where memory is short they look for it all the same. */
const short = { ...process.env, GOGC: 'off', GOMEMLIMIT: '2GiB' }

/** A command beside others; what it says is shown whole once it is over. */
const beside = (command, args) =>
  new Promise((done) => {
    const child = spawn(command, args, { cwd: root, env: short, stdio: ['ignore', 'pipe', 'pipe'] })
    const said = []
    child.stdout.on('data', (data) => said.push(data))
    child.stderr.on('data', (data) => said.push(data))
    const end = (good) => {
      process.stdout.write(Buffer.concat(said))
      count(good ? 1 : 0, good ? 0 : 1)
      if (!good) fell([basename(command), ...args].join(' '), Buffer.concat(said).toString())
      done()
    }
    child.on('error', (error) => {
      said.push(Buffer.from(`${error.message}\n`))
      end(false)
    })
    child.on('close', (code) => end(code === 0))
  })

// Each of these works on one processor: side by side they take the time of the longest.
heading('Lint, types, and what the tests start from')
const seeded = join(folder, 'seeded')
await Promise.all([
  beside(bin('eslint'), ['.', '--max-warnings', '0'])
    .then(() => beside(bin('oxfmt'), ['--check', '.']))
    .then(() => beside(bin('oxlint'), ['--type-aware'])),
  beside(process.execPath, ['scripts/types.mjs']),
  beside(process.execPath, ['scripts/seed-tests.mjs', seeded]),
])
if (existsSync(seeded)) process.env.BENCH_WAKE_SEEDED = seeded

if (!(await peersThere)) process.exit(1)

heading('Unit tests')
// What the interface tests are written in is made readable for the browser's runner meanwhile: it takes one processor alone.
spawn(bin('playwright'), ['test', '--list'], { cwd: root, stdio: 'ignore' }).on('error', () => {})
const unitFile = join(folder, 'unit.json')
const unitCode = run(bin('vitest'), [
  'run',
  '--reporter=dot',
  '--reporter=json',
  `--outputFile.json=${unitFile}`,
])
const unit = report('unit.json')
/** Tests that were left out, and those that passed at their second try only: neither hides in the last line. */
const skipped = []
const secondTries = []
if (unit) {
  for (const { name, status: whole, message, assertionResults } of unit.testResults) {
    for (const { status, fullName, failureMessages } of assertionResults)
      if (status === 'failed') fell(`${relative(root, name)}: ${fullName}`, failureMessages[0])
      else if (status !== 'passed') skipped.push(fullName)
    if (whole === 'failed' && assertionResults.every(({ status }) => status !== 'failed'))
      fell(relative(root, name), message)
  }
  const besides = unit.numFailedTests === 0 && unitCode !== 0
  if (besides) fell('Unit tests', `ended with ${unitCode}, and no test failed`)
  count(unit.numPassedTests, unit.numFailedTests + (besides ? 1 : 0))
} else {
  fell('Unit tests', `ended with ${unitCode}, without a report`)
  count(0, 1)
}

heading('Interface tests')
if (existsSync(seeded)) {
  const environment = { ...process.env, PLAYWRIGHT_JSON_OUTPUT_NAME: join(folder, 'e2e.json') }
  const code = run(bin('playwright'), ['test', '--reporter=list,json'], { env: environment })
  const interfaceReport = report('e2e.json')
  const stats = interfaceReport?.stats
  for (const { file, line, title, tests } of specsOf(interfaceReport?.suites ?? []))
    for (const { status, results } of tests) {
      if (status === 'unexpected') fell(`${file}:${line}: ${title}`, results.at(-1)?.error?.message)
      if (status === 'flaky') secondTries.push(title)
      if (status === 'skipped') skipped.push(title)
    }
  const besides = stats?.unexpected === 0 && code !== 0
  if (!stats || besides)
    fell('Interface tests', `ended with ${code}${stats ? ', and no test failed' : ', without a report'}`)
  if (stats) count(stats.expected + stats.flaky, stats.unexpected + (besides ? 1 : 0))
  else count(0, 1)
}

/** Every test of the interface, however deep its suite lies. */
function specsOf(suites) {
  return suites.flatMap(({ specs = [], suites: inner = [] }) => [...specs, ...specsOf(inner)])
}
const named = (list) => (list.length === 0 ? 'none' : `${list.length}: ${list.join('; ')}`)
for (const told of fallen) console.log(`\nFailed: ${told}`)
console.log(`\nSkipped: ${named(skipped)}`)
console.log(`Passed at the second try: ${named(secondTries)}`)
console.log(`\n${total.passed} passed, ${total.failed} failed`)
process.exitCode = total.failed > 0 ? 1 : 0
