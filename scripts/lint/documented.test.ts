import { RuleTester, type Rule } from 'eslint'
import tseslint from 'typescript-eslint'
import { afterAll, describe, it } from 'vitest'
import { documented } from './documented.js'

Object.assign(RuleTester, { afterAll, describe, it })

const tester = new RuleTester({ languageOptions: { parser: tseslint.parser } })
const errors = [{ messageId: 'missing' }]

// Source: STYLE.md, public doc comments.
tester.run('documented', documented as unknown as Rule.RuleModule, {
  valid: [
    '/** Sum of both. */\nexport function sum(a, b) {}',
    '/** A range. */\nexport interface Range { length: number }',
    'export type Kind = (typeof kinds)[number]',
    'export type Drive = v.InferOutput<typeof Drive>',
    'const inner = 1',
    "export * from './other'",
  ],
  invalid: [
    { code: 'export function sum(a, b) {}', errors },
    { code: '// A remark.\nexport const most = 3', errors },
    { code: '/* A remark. */\nexport class Inbox {}', errors },
    { code: 'export interface Range { length: number }', errors },
    { code: "export type Level = 'go' | 'stop'", errors },
  ],
})
