import { RuleTester, type Rule } from 'eslint'
import { afterAll, describe, it } from 'vitest'
import { written } from './written.js'

Object.assign(RuleTester, { afterAll, describe, it })

const errors = [{ messageId: 'byItself' }]

// Source: docs/architecture.md, figures and dates as the person chose.
new RuleTester().run('written', written as unknown as Rule.RuleModule, {
  valid: ['voltsText(volts)', 'name.toLocaleLowerCase()', 'value.toString(16)', 'new Intl.Collator()'],
  invalid: [
    'volts.toFixed(2)',
    'count.toPrecision(3)',
    'count.toLocaleString()',
    'day.toLocaleDateString()',
    'day.toLocaleTimeString()',
    'new Intl.NumberFormat()',
    'new Intl.DateTimeFormat()',
  ].map((code) => ({ code, errors })),
})
