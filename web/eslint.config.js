import prettier from 'eslint-config-prettier'
import vue from 'eslint-plugin-vue'
import ts from 'typescript-eslint'

/** views > features > components/ui, composables > stores > api > lib: each folder and what it must not import. */
const above = (...names) => [
  'error',
  { patterns: [{ group: names.map((n) => `@/${n}/**`), message: 'This layer is above; see CONTRIBUTING.md.' }] },
]
const layers = [
  ['lib', 'api', 'stores', 'composables', 'components', 'features', 'views', 'router'],
  ['api', 'stores', 'composables', 'components', 'features', 'views', 'router'],
  ['stores', 'composables', 'components', 'features', 'views', 'router'],
  ['composables', 'features', 'views', 'router', 'components'],
  ['components/ui', 'api', 'stores', 'features', 'views', 'router'],
  ['features', 'views', 'router'],
  ['views', 'router'],
]

export default ts.config(
  { ignores: ['dist', 'src/api/schema.d.ts'] },
  ...ts.configs.recommended,
  ...vue.configs['flat/recommended'],
  {
    files: ['src/**/*.vue'],
    languageOptions: { parserOptions: { parser: ts.parser } },
  },
  prettier,
  {
    rules: {
      'vue/multi-word-component-names': 'off',
      'vue/attributes-order': 'off',
      'vue/require-default-prop': 'off',
      'no-undef': 'off',
      // Keys have one router with scopes: lib/keyRouter, reached by composables/useKeys.
      'vue/no-restricted-v-on': ['error', 'keydown', 'keyup', 'keypress'],
    },
  },
  {
    // A page shows what it asked for as waiting, failed or there: composables/useAsk says which.
    files: ['src/**/*.{ts,vue}'],
    ignores: ['src/composables/useAsk.ts'],
    rules: {
      'no-restricted-syntax': [
        'error',
        {
          selector: "ImportSpecifier[imported.name='useQuery']",
          message: 'Ask by useAsk, so that a failure is never shown as an empty list.',
        },
      ],
    },
  },
  {
    // Buttons and dialogs know no data; of the composables they use the keys and the focus alone.
    files: ['src/components/ui/*.vue'],
    rules: {
      'no-restricted-syntax': [
        'error',
        {
          selector: 'ImportDeclaration[source.value=/^@.composables.(?!useKeys|useFocusBack)/]',
          message: 'A part of components/ui knows no data.',
        },
      ],
    },
  },
  ...layers.map(([folder, ...upper]) => ({
    files: [`src/${folder}/**/*.{ts,vue}`],
    rules: { 'no-restricted-imports': above(...upper) },
  })),
)
