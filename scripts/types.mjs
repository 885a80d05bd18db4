// Type-checks every package with the libraries it may use: core and stand-ins see neither DOM nor Node.
import { bin, run } from './need.mjs'

// One project for the three that see neither: what they share is checked once.
const projects = ['tsconfig.pure.json', 'server', '.']
const failed = projects.filter((project) => run(bin('tsc'), ['-p', project]) !== 0)
if (run(bin('vue-tsc'), ['-p', 'web', '--noEmit']) !== 0) failed.push('web')
if (failed.length > 0) console.error(`Types do not hold in: ${failed.join(', ')}`)
process.exit(failed.length > 0 ? 1 : 0)
