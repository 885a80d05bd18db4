import js from '@eslint/js'
import prettier from 'eslint-config-prettier'
import vue from 'eslint-plugin-vue'
import globals from 'globals'
import tseslint from 'typescript-eslint'
import { boundaries } from './scripts/lint/boundaries.js'

/** Time and chance reach core as arguments (Clock, seed), never from the system. */
const noSystem = [
  'setTimeout',
  'setInterval',
  'setImmediate',
  'performance',
  'fetch',
  'window',
  'document',
  'process',
  'Buffer',
  'crypto',
  'navigator',
].map((name) => ({ name, message: 'Core and stand-ins get this as an argument.' }))

export default tseslint.config(
  {
    ignores: [
      '**/dist/**',
      '**/node_modules/**',
      'data/**',
      'test-results/**',
      '.mutate/**',
      'server/migrations/**',
    ],
  },
  js.configs.recommended,
  ...tseslint.configs.recommended,
  ...vue.configs['flat/recommended'],
  {
    files: ['**/*.{ts,js,mjs,vue}'],
    plugins: { house: { rules: { boundaries } } },
    rules: {
      'house/boundaries': 'error',
      eqeqeq: 'error',
      'no-console': 'error',
      '@typescript-eslint/no-non-null-assertion': 'off',
      '@typescript-eslint/no-unused-vars': [
        'error',
        { argsIgnorePattern: '^_', varsIgnorePattern: '^_', ignoreRestSiblings: true },
      ],
    },
  },
  {
    files: ['core/**/*.ts', 'standins/**/*.ts', 'demo/**/*.ts'],
    ignores: ['**/*.test.ts', '**/*.test-support.ts'],
    rules: {
      'no-restricted-globals': ['error', ...noSystem],
      'no-restricted-properties': [
        'error',
        { object: 'Date', property: 'now', message: 'Take a Clock.' },
        { object: 'Math', property: 'random', message: 'Take a seed.' },
      ],
    },
  },
  {
    files: ['**/*.vue'],
    languageOptions: { parserOptions: { parser: tseslint.parser }, globals: globals.browser },
    rules: { 'vue/multi-word-component-names': 'off', 'vue/require-default-prop': 'off' },
  },
  { files: ['scripts/**', 'e2e/**', 'server/main.ts', 'server/restore.ts'], rules: { 'no-console': 'off' } },
  { files: ['**/*.{js,mjs}'], languageOptions: { globals: globals.node } },
  prettier,
)
