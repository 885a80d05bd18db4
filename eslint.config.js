import js from '@eslint/js'
import prettier from 'eslint-config-prettier'
import vue from 'eslint-plugin-vue'
import globals from 'globals'
import tseslint from 'typescript-eslint'
import house from './scripts/lint/house.js'

/** Each screen makes the types begin anew, five minutes in all: `npm run lint:screens` asks for them. */
const screensToo = process.env.LINT_SCREENS === '1'

/** Parts of the page that may write such an element themselves. */
const byHand = [
  // A scroll bar over four million rows; a browser's own cannot be so long.
  'parts/shelf/HexView',
  // Cells that are a drawing: a colour each, a row and a column that stand.
  'parts/rounds/FigureMap',
]

// The screens. Everything else is read by oxlint, by the same rules in a tenth of the time: .oxlintrc.json.
export default tseslint.config(
  {
    ignores: [
      '**/*.{ts,js,mjs}',
      '**/dist/**',
      '**/node_modules/**',
      'data/**',
      'test-results/**',
      '.mutate/**',
    ],
  },
  js.configs.recommended,
  ...tseslint.configs.recommended,
  ...vue.configs['flat/recommended'],
  {
    files: ['**/*.vue'],
    plugins: { house },
    languageOptions: { parserOptions: { parser: tseslint.parser }, globals: globals.browser },
    rules: {
      'house/boundaries': 'error',
      // Figures and dates are written as the person chose, in one place.
      'house/written': 'error',
      eqeqeq: 'error',
      'no-console': 'error',
      '@typescript-eslint/no-non-null-assertion': 'off',
      '@typescript-eslint/no-unused-vars': [
        'error',
        { argsIgnorePattern: '^_', varsIgnorePattern: '^_', ignoreRestSiblings: true },
      ],
      'vue/multi-word-component-names': 'off',
      'vue/require-default-prop': 'off',
    },
  },
  // What only the types and all files together can tell of the screens.
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
  prettier,
)
