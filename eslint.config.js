import js from '@eslint/js'
import prettier from 'eslint-config-prettier'
import vue from 'eslint-plugin-vue'
import globals from 'globals'
import tseslint from 'typescript-eslint'
import { boundaries } from './scripts/lint/boundaries.js'
import { documented } from './scripts/lint/documented.js'

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

/** Each screen makes the types begin anew, five minutes in all: `npm run lint:screens` asks for them. */
const screensToo = process.env.LINT_SCREENS === '1'

/** Parts of the page that may write such an element themselves. */
const byHand = [
  // A scroll bar over four million rows; a browser's own cannot be so long.
  'parts/shelf/HexView',
  // Cells that are a drawing: a colour each, a row and a column that stand.
  'parts/rounds/FigureMap',
]

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
    plugins: { house: { rules: { boundaries, documented } } },
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
  // What only the types and all files together can tell of the screens. For other files .oxlintrc.json asks it, in a tenth of the time.
  ...(screensToo
    ? [
        {
          files: ['web/**/*.vue'],
          languageOptions: { parserOptions: { projectService: true, extraFileExtensions: ['.vue'] } },
          rules: {
            '@typescript-eslint/no-floating-promises': 'error',
            '@typescript-eslint/no-misused-promises': ['error', { checksVoidReturn: { attributes: false } }],
            '@typescript-eslint/switch-exhaustiveness-check': [
              'error',
              { considerDefaultExhaustiveForUnions: true },
            ],
          },
        },
      ]
    : []),
  {
    files: ['core/**/*.ts'],
    ignores: ['**/*.test.ts', '**/*.test-support.ts'],
    rules: { 'house/documented': 'error' },
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
  {
    // Figures and dates are written as the person chose, in one place.
    files: ['web/**/*.vue', 'web/**/*.ts'],
    ignores: ['web/parts/written.ts', 'web/parts/written.test.ts'],
    rules: {
      'no-restricted-syntax': [
        'error',
        {
          selector:
            'MemberExpression[property.name=/^to(Locale(String|DateString|TimeString)|Fixed|Precision)$/]',
          message: 'Take a text of parts/written.ts.',
        },
        {
          selector: "MemberExpression[object.name='Intl'][property.name=/Format$/]",
          message: 'Take a text of parts/written.ts.',
        },
      ],
    },
  },
  {
    // A control of the kit brings its states with it: names, keys, focus, both themes. Written by hand each has its own faults.
    files: ['web/**/*.vue'],
    rules: {
      'vue/no-restricted-html-elements': [
        'error',
        { element: 'select', message: 'Take PickOne.' },
        { element: 'dialog', message: 'Take NModal.' },
        { element: 'progress', message: 'Take NProgress.' },
        { element: 'textarea', message: 'Take NInput of type textarea.' },
        { element: 'datalist', message: 'Take PickOne, filterable.' },
        { element: 'table', message: 'Take NTable or NDataTable.' },
      ],
      'vue/no-restricted-static-attribute': [
        'error',
        ...[
          ['checkbox', 'NCheckbox'],
          ['radio', 'NRadio'],
          ['date', 'PickDay'],
          ['file', 'FilePick'],
          ['range', 'NSlider'],
          ['number', 'NInputNumber'],
        ].map(([value, kit]) => ({ key: 'type', value, element: 'input', message: `Take ${kit}.` })),
      ],
    },
  },
  {
    // By name: what is written by hand for now, or for good.
    files: byHand.map((name) => `web/${name}.vue`),
    rules: { 'vue/no-restricted-html-elements': 'off', 'vue/no-restricted-static-attribute': 'off' },
  },
  { files: ['scripts/**', 'e2e/**', 'server/main.ts', 'server/restore.ts'], rules: { 'no-console': 'off' } },
  { files: ['**/*.{js,mjs}'], languageOptions: { globals: globals.node } },
  prettier,
)
