import vue from 'eslint-plugin-vue'
import vueA11y from 'eslint-plugin-vuejs-accessibility'
import ts from 'typescript-eslint'

/** What only the vocabulary may write itself; everybody else uses its controls, or the library's. */
const raw = ['button', 'input', 'select', 'table', 'textarea', 'dialog', 'progress', 'datalist']
/** What the trade says, the server says: units, kinds of record told apart one by one, priorities, limits. */
const rules = [
  {
    selector: 'Literal[value=/^(°C|K|Pa|kPa|ppm|%RH|lux|lx|mA|kW|kWh|m³\\/h|l\\/s|Pt1000)$/]',
    message: 'A unit or signal is the server’s to say; show what it sends.',
  },
  {
    selector: 'SwitchStatement[discriminant.property.name=/^(kind|type|noun|role|signal)$/]',
    message: 'What differs by kind is declared in a registry, not switched over.',
  },
  { selector: 'Literal[value=/^(fan-coil|extract fan|air handler|boiler|kiln|radiator)$/]', message: 'Kinds of equipment are the server’s to tell apart.' },
]

export default ts.config(
  { ignores: ['dist', 'src/shared/api/schema.d.ts', 'src/shared/api/kinds.ts', 'src/components.d.ts'] },
  ...ts.configs.recommended,
  ...vue.configs['flat/recommended'],
  ...vueA11y.configs['flat/recommended'],
  {
    files: ['**/*.{ts,vue}'],
    languageOptions: { parserOptions: { parser: ts.parser, extraFileExtensions: ['.vue'] } },
    rules: {
      'vue/no-restricted-html-elements': ['error', ...raw],
      'no-restricted-syntax': ['error', ...rules],
      'vue/no-restricted-syntax': ['error', ...rules],
      '@typescript-eslint/no-unused-vars': ['error', { varsIgnorePattern: '^_', argsIgnorePattern: '^_' }],
      '@typescript-eslint/no-explicit-any': 'error',
      // The types check what these would; the formatter does how it looks.
      'no-undef': 'off',
      'vue/html-self-closing': 'off',
      'vue/max-attributes-per-line': 'off',
      'vue/singleline-html-element-content-newline': 'off',
      'vue/multiline-html-element-content-newline': 'off',
      'vue/html-indent': 'off',
      'vue/html-closing-bracket-newline': 'off',
      'vue/require-default-prop': 'off',
      'vue/attributes-order': 'off',
      'vue/first-attribute-linebreak': 'off',
      // A label may hold one of the vocabulary's controls; whether it does is seen by the check of the pages as they stand.
      'vuejs-accessibility/label-has-for': 'off',
      'vuejs-accessibility/form-control-has-label': 'off',
      'vuejs-accessibility/no-autofocus': 'off',
      // Keys are heard by what holds the focusable things; a list’s marked row is told by aria-activedescendant.
      'vuejs-accessibility/no-static-element-interactions': 'off',
      'vuejs-accessibility/click-events-have-key-events': 'off',
      'vuejs-accessibility/interactive-supports-focus': 'off',
    },
  },
  { files: ['**/*.vue'], rules: { 'max-lines': ['error', { max: 250, skipBlankLines: false }] } },
  { files: ['src/shared/ui/**'], rules: { 'vue/no-restricted-html-elements': 'off' } },
  { files: ['**/*.test.ts'], rules: { 'no-restricted-syntax': 'off', 'max-lines': 'off' } },
)
