// Type-checks every package with the libraries it may use: core and stand-ins see neither DOM nor Node.
import { join } from 'node:path'
import { bin, root, run } from './need.mjs'

// One project for the three that see neither: what they share is checked once.
const projects = ['tsconfig.pure.json', 'server', '.']
// The compiler of the seventh version is ten times as fast; screens still need the one before.
const compiler = join(root, 'node_modules/typescript7/bin/tsc')
const failed = projects.filter((project) => run(process.execPath, [compiler, '-p', project]) !== 0)
if (run(bin('vue-tsc'), ['-p', 'web', '--noEmit']) !== 0) failed.push('web')
if (failed.length > 0) console.error(`Types do not hold in: ${failed.join(', ')}`)
process.exit(failed.length > 0 ? 1 : 0)
