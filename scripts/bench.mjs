// npm run bench [-- --json FILE] [--only PATTERN]
import { needPackages, root, run } from './need.mjs'
import { join } from 'node:path'

needPackages()
const code = run(process.execPath, [
  '--import',
  'tsx',
  join(root, 'scripts', 'bench', 'main.ts'),
  ...process.argv.slice(2),
])
process.exit(code)
