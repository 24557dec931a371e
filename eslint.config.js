import ts from 'typescript-eslint'
import vue from 'eslint-plugin-vue'
import sizes from './scripts/eslint-sizes.mjs'

/** Functions of Math whose bits differ between JavaScript engines; see core/src/dsp/math.ts. */
const inexact = [
  'sin',
  'cos',
  'tan',
  'asin',
  'acos',
  'atan',
  'atan2',
  'sinh',
  'cosh',
  'tanh',
  'asinh',
  'acosh',
  'atanh',
  'exp',
  'expm1',
  'log',
  'log2',
  'log10',
  'log1p',
  'pow',
  'cbrt',
  'hypot',
  'random',
]

const columns = {
  code: 110,
  ignoreUrls: true,
  ignoreStrings: true,
  ignoreTemplateLiterals: true,
  ignoreRegExpLiterals: true,
}

export default ts.config(
  { ignores: ['**/.nuxt/**', '**/.output/**', '**/dist/**', '**/node_modules/**', 'test-results/**'] },
  ...ts.configs.recommended,
  ...vue.configs['flat/essential'],
  { files: ['**/*.vue'], languageOptions: { parserOptions: { parser: ts.parser } } },
  {
    rules: {
      '@typescript-eslint/no-non-null-assertion': 'off',
      '@typescript-eslint/no-unused-expressions': ['error', { allowTernary: true, allowShortCircuit: true }],
      'vue/multi-word-component-names': 'off',
    },
  },
  {
    // 110 columns: prettier wraps code, this holds comments; a string stays whole, so that it is found
    files: ['**/*.ts', '**/*.mjs', '**/*.js'],
    ignores: ['**/*.wasm.ts'],
    rules: { 'max-len': ['error', columns] },
  },
  {
    files: ['**/*.vue'],
    rules: { 'vue/max-len': ['error', { ...columns, template: 110, ignoreHTMLAttributeValues: true }] },
  },
  {
    // demo projects are data, as long as they need to be
    files: ['{core,bench,cli}/src/**/*.ts', 'app/**/*.{ts,vue}', 'server/**/*.ts', 'scripts/*.mjs'],
    ignores: ['**/test/**', '**/*.wasm.ts'],
    plugins: { sizes },
    rules: { 'sizes/function-size': 'error', 'sizes/class-fields': 'error' },
  },
  {
    // whatever can reach the sound gives the same bits everywhere
    files: ['core/src/**/*.ts', 'demo/src/**/*.ts'],
    rules: {
      'no-restricted-properties': [
        'error',
        ...inexact.map((property) => ({
          object: 'Math',
          property,
          message: 'Use core/src/dsp/math: the built-in one gives other bits in other engines.',
        })),
      ],
      'no-restricted-syntax': [
        'error',
        {
          selector: "BinaryExpression[operator='**'] > :not(Literal).right",
          message: 'Use pow of core/src/dsp/math.',
        },
      ],
    },
  },
  {
    // the package of headless parts can be exchanged in one folder
    files: ['app/**'],
    ignores: ['app/components/ui/parts/**'],
    rules: {
      'no-restricted-imports': [
        'error',
        { name: '@headlessui/vue', message: 'Use app/components/ui/parts.' },
      ],
    },
  },
  { files: ['core/src/analysis/**', 'core/src/units/text.ts'], rules: { 'no-restricted-syntax': 'off' } },
)
