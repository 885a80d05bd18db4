// Lint, types, unit and interface tests. Ends with a line "N passed, N failed".
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { bin, needPackages, needPeers, root, run } from './need.mjs'

needPackages()
needPeers()

const folder = mkdtempSync(join(tmpdir(), 'bench-wake-test-'))
const total = { passed: 0, failed: 0 }
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

heading('Lint')
for (const [name, args] of [
  ['eslint', ['.', '--max-warnings', '0']],
  ['prettier', ['--check', '--log-level', 'warn', '.']],
]) {
  const good = run(bin(name), args) === 0
  count(good ? 1 : 0, good ? 0 : 1)
}

heading('Types')
const typed = run(process.execPath, ['scripts/types.mjs']) === 0
count(typed ? 1 : 0, typed ? 0 : 1)

heading('Unit tests')
const unitFile = join(folder, 'unit.json')
const unitCode = run(bin('vitest'), [
  'run',
  '--reporter=dot',
  '--reporter=json',
  `--outputFile.json=${unitFile}`,
])
const unit = report('unit.json')
if (unit)
  count(unit.numPassedTests, unit.numFailedTests + (unit.numFailedTests === 0 && unitCode !== 0 ? 1 : 0))
else count(0, 1)

heading('Interface tests')
const built = run(bin('vite'), ['build', '--logLevel', 'warn'], { cwd: join(root, 'web') }) === 0
count(built ? 1 : 0, built ? 0 : 1)
if (built) {
  const environment = { ...process.env, PLAYWRIGHT_JSON_OUTPUT_NAME: join(folder, 'e2e.json') }
  const code = run(bin('playwright'), ['test', '--reporter=list,json'], { env: environment })
  const stats = report('e2e.json')?.stats
  if (stats)
    count(stats.expected + stats.flaky, stats.unexpected + (stats.unexpected === 0 && code !== 0 ? 1 : 0))
  else count(0, 1)
}

rmSync(folder, { recursive: true, force: true })
console.log(`\n${total.passed} passed, ${total.failed} failed`)
process.exitCode = total.failed > 0 ? 1 : 0
