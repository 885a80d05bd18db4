import { RuleTester, type Rule } from 'eslint'
import tseslint from 'typescript-eslint'
import { afterAll, describe, it } from 'vitest'
import { boundaries } from './boundaries.js'

Object.assign(RuleTester, { afterAll, describe, it })

const tester = new RuleTester({ languageOptions: { parser: tseslint.parser } })
const options = [{ root: '/p' }]

// Source: docs/architecture.md, "Folders": imports go only to faces, and only to folders listed above.
tester.run('boundaries', boundaries as Rule.RuleModule, {
  valid: [
    { filename: '/p/core/fit/a.ts', code: "import { x } from '../kernel'", options },
    { filename: '/p/core/fit/rules/a.ts', code: "import { x } from '../rule'", options },
    { filename: '/p/standins/a.ts', code: "import { x } from '@bench-wake/core/link'", options },
    { filename: '/p/web/a.ts', code: "import type { Api } from '@bench-wake/server'", options },
    { filename: '/p/core/run/a.test.ts', code: "import { x } from '@bench-wake/standins'", options },
    { filename: '/p/server/a.test.ts', code: "import { x } from '../scripts/server.mjs'", options },
  ],
  invalid: [
    {
      filename: '/p/core/kernel/a.ts',
      code: "import { x } from '../fit'",
      options,
      errors: [{ messageId: 'order' }],
    },
    {
      filename: '/p/core/fit/a.ts',
      code: "import { x } from '../kernel/bytes'",
      options,
      errors: [{ messageId: 'inner' }],
    },
    {
      filename: '/p/core/fit/a.ts',
      code: "import { x } from '@bench-wake/server'",
      options,
      errors: [{ messageId: 'package' }],
    },
    {
      filename: '/p/core/fit/a.ts',
      code: "import { x } from 'node:fs'",
      options,
      errors: [{ messageId: 'node' }],
    },
    {
      filename: '/p/web/a.ts',
      code: "import { app } from '@bench-wake/server'",
      options,
      errors: [{ messageId: 'typesOnly' }],
    },
    {
      filename: '/p/web/a.ts',
      code: "import { app } from '../server/index'",
      options,
      errors: [{ messageId: 'package' }],
    },
  ],
})
