import js from '@eslint/js';
import globals from 'globals';

export default [
  { ignores: ['**/vendor/**'] },
  js.configs.recommended,
  {
    languageOptions: { ecmaVersion: 2024, sourceType: 'module', globals: { ...globals.browser } },
    rules: {
      'max-len': ['error', { code: 140 }],
      'max-lines': ['error', 400],
      'no-unused-vars': ['error', { argsIgnorePattern: '^_' }],
      'no-var': 'error',
      'prefer-const': 'error',
      eqeqeq: 'error',
      'no-restricted-globals': ['error', 'event', 'name'],
    },
  },
  { files: ['**/*.test.js'], languageOptions: { globals: { ...globals.node } } },
];
