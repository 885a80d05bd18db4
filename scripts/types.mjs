// Type-checks every package with the libraries it may use: core and stand-ins see neither DOM nor Node, the server no DOM.
import { join } from 'node:path'
import { root, run } from './need.mjs'
import { checkScreens } from './screens.mjs'

// One project for the three that see neither, one for what runs on Node alone, one for what sees a page: what several of them
// import is checked once in each.
const projects = ['tsconfig.pure.json', 'tsconfig.node.json']
// The compiler of the seventh version is ten times as fast as the one before, which reads the screens' scripts.
const compiler = join(root, 'node_modules/typescript7/bin/tsc')
const failed = projects.filter((project) => run(process.execPath, [compiler, '-p', project]) !== 0)
if (!checkScreens(compiler)) failed.push('web, e2e, scripts')
if (failed.length > 0) console.error(`Types do not hold in: ${failed.join(', ')}`)
process.exit(failed.length > 0 ? 1 : 0)
