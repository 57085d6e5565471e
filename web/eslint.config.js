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
  ['components/ui', 'api', 'stores', 'features', 'views', 'router', 'composables'],
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
    },
  },
  ...layers.map(([folder, ...upper]) => ({
    files: [`src/${folder}/**/*.{ts,vue}`],
    rules: { 'no-restricted-imports': above(...upper) },
  })),
)
