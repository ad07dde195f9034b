import js from '@eslint/js'
import tseslint from 'typescript-eslint'
import access from 'eslint-plugin-jsx-a11y'
import hooks from 'eslint-plugin-react-hooks'

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
  {
    files: ['src/screens/**', 'src/frame/**'],
    rules: {
      'no-restricted-syntax': [
        'error',
        {
          selector: 'JSXOpeningElement[name.name=/^(button|input|select|textarea)$/]',
          message: 'Controls are made in src/kit.',
        },
      ],
    },
  },
)
