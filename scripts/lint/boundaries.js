import { dirname, join, relative, sep } from 'node:path'

/*
 * The folder boundary of docs/architecture.md as a lint rule. Two laws:
 *  - a package may import only the packages that stand above it in its own list;
 *  - inside core a folder may import only the face (index.ts) of a folder listed above it.
 */

/** core's folders, in the order of the data's way; each may import only those before it. */
export const coreOrder = [
  'kernel',
  'family',
  'unit',
  'image',
  'link',
  'fit',
  'ready',
  'entry',
  'proof',
  'run',
  'job',
  'record',
  'rounds',
]

/** What each package may import; `types` means `import type` alone. */
export const packages = {
  core: {},
  standins: { core: 'all' },
  demo: { core: 'all', standins: 'all' },
  server: { core: 'all', standins: 'all', demo: 'all' },
  web: { core: 'all', server: 'types' },
  /** What several tests share and no program imports. */
  testing: { core: 'all', standins: 'all', demo: 'all' },
}

/** Packages that must run anywhere: no Node, no file, no socket. */
const portable = new Set(['core', 'standins', 'demo'])

export const boundaries = {
  meta: {
    type: 'problem',
    schema: [{ type: 'object', properties: { root: { type: 'string' } } }],
    messages: {
      package: '{{from}} may not import {{to}}.',
      typesOnly: '{{from}} may import {{to}} for its types only: write `import type`.',
      inner: 'Import the face of {{to}} ({{face}}), not a file inside it.',
      order: 'core/{{from}} may not import core/{{to}}: only folders listed above it ({{above}}).',
      node: '{{from}} runs in server, browser and worker alike: no {{to}} here.',
    },
  },
  create(context) {
    const root = context.options[0]?.root ?? context.cwd
    const path = relative(root, context.filename).split(sep)
    const [from, folder] = path
    const isTest = /\.test(-support)?\.ts$/.test(context.filename)
    if (!(from in packages)) return {}

    function check(node) {
      const source = node.source?.value
      if (typeof source !== 'string') return
      const report = (messageId, data) => context.report({ node: node.source, messageId, data })

      if (portable.has(from) && !isTest && source.startsWith('node:')) {
        return report('node', { from, to: source })
      }
      const named = /^@bench-wake\/([a-z-]+)(?:\/(.*))?$/.exec(source)
      if (named) {
        const [, to] = named
        if (to === from && from !== 'core') return
        const allowed = packages[from][to]
        if (!allowed && !(to === from)) {
          if (!(isTest && to in packages)) report('package', { from, to })
        } else if (allowed === 'types' && node.importKind !== 'type' && node.exportKind !== 'type') {
          report('typesOnly', { from, to })
        }
        return
      }
      if (!source.startsWith('.')) return
      const target = relative(root, join(dirname(context.filename), source)).split(sep)
      const [to, toFolder, ...inside] = target
      if (to !== from) {
        // A test may build and start the program as a person would.
        if (isTest && to === 'scripts') return
        return report('package', { from, to: target.join('/') })
      }
      if (from !== 'core' || !folder?.match(/^[a-z]+$/) || toFolder === folder) return
      // What serves tests is no part of a face; tests may share it.
      if (isTest && source.endsWith('.test-support')) return
      if (inside.length > 0 && inside.join('/') !== 'index') {
        return report('inner', { to: `core/${toFolder}`, face: `../${toFolder}` })
      }
      const above = coreOrder.slice(0, coreOrder.indexOf(folder))
      if (!above.includes(toFolder) && !isTest) {
        report('order', { from: folder, to: toFolder, above: above.join(', ') || 'none' })
      }
    }
    return {
      ImportDeclaration: check,
      ExportNamedDeclaration: check,
      ExportAllDeclaration: check,
      ImportExpression: check,
    }
  },
}
