import js from '@eslint/js'
import tseslint from 'typescript-eslint'
import access from 'eslint-plugin-jsx-a11y'
import hooks from 'eslint-plugin-react-hooks'

// Where a part of the kit is given words.
const said =
  '/^(label|listLabel|title|placeholder|aria-label|aria-description|text|does|tip|words|what|none|head|cancel|hint)$/'

const weight = {
  selector: 'JSXAttribute[name.name="weight"][value.type!="Literal"]',
  message: 'The weight of an icon stands in its tag, so that it ships (vite.config.ts).',
}

export default tseslint.config(
  { ignores: ['src/api/gen'] },
  js.configs.recommended,
  ...tseslint.configs.recommended,
  hooks.configs.flat.recommended,
  access.flatConfigs.recommended,
  {
    rules: {
      'max-len': ['error', { code: 160 }],
      'react-hooks/exhaustive-deps': 'error',
      // It speaks of a compiler that is not used here.
      'react-hooks/incompatible-library': 'off',
      // A tray that was opened by a key begins where one writes.
      'jsx-a11y/no-autofocus': 'off',
    },
  },
  { rules: { 'no-restricted-syntax': ['error', weight] } },
  {
    files: ['src/screens/**', 'src/frame/**'],
    ignores: ['**/sentences*.ts', '**/*.test.*', 'src/frame/keymap.ts', 'src/frame/also.ts'],
    rules: {
      'no-restricted-syntax': [
        'error',
        {
          selector: 'JSXOpeningElement[name.name=/^(button|input|select|textarea|details|dialog)$/]',
          message: 'Controls are made in src/kit.',
        },
        {
          selector: 'JSXAttribute[name.name="className"] > Literal[value=/[a-z0-9\\]]!( |$)/]',
          message: 'A screen says where a control stands; how it looks is said in src/kit.',
        },
        weight,
        ...[
          'JSXText[value=/[A-Za-z]{2}/]',
          `JSXAttribute[name.name=${said}] > Literal[value=/[A-Za-z]{2}/]`,
          `JSXAttribute[name.name=${said}] > JSXExpressionContainer > TemplateLiteral > TemplateElement[value.raw=/[A-Za-z]{2}/]`,
          `JSXAttribute[name.name=${said}] > JSXExpressionContainer > ConditionalExpression > Literal[value=/[A-Za-z]{2}/]`,
          'JSXElement > JSXExpressionContainer > ConditionalExpression > Literal[value=/[A-Za-z]{2}/]',
          'JSXElement > JSXExpressionContainer > LogicalExpression > Literal[value=/[A-Za-z]{2}/]',
          'Property[key.name=/^(text|title|label)$/] > Literal[value=/[A-Za-z]{2}/]',
          'Property[key.name=/^(text|title|label)$/] > TemplateLiteral > TemplateElement[value.raw=/[A-Za-z]{2}/]',
          'CallExpression[callee.name="plural"] > Literal[value=/[A-Za-z]{2}/]',
        ].map((selector) => ({ selector, message: 'What is said stands in sentences.ts.' })),
      ],
    },
  },
)
