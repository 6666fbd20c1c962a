import js from '@eslint/js';
import tseslint from 'typescript-eslint';
import hooks from 'eslint-plugin-react-hooks';

export default tseslint.config(
  { ignores: ['**/dist/**', '.local/**', 'bench/results/**', 'node_modules/**', 'test-results/**'] },
  js.configs.recommended,
  ...tseslint.configs.strict,
  {
    rules: {
      '@typescript-eslint/no-explicit-any': 'error',
      '@typescript-eslint/consistent-type-imports': 'error',
      '@typescript-eslint/no-non-null-assertion': 'error',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      // Members are removed from copies that were made a line before.
      '@typescript-eslint/no-dynamic-delete': 'off',
      'no-console': 'error',
      eqeqeq: 'error',
    },
  },
  {
    // What needs the types of the program: a kind that is forgotten, a promise that nobody waits for.
    files: ['**/*.{ts,tsx}'],
    languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname } },
    rules: {
      '@typescript-eslint/switch-exhaustiveness-check': [
        'error',
        // A default that is written down is a decision; a switch without one names every kind.
        { considerDefaultExhaustiveForUnions: true },
      ],
      '@typescript-eslint/no-floating-promises': 'error',
      '@typescript-eslint/no-misused-promises': ['error', { checksVoidReturn: { attributes: false } }],
    },
  },
  { files: ['web/**/*.{ts,tsx}'], ...hooks.configs.flat['recommended-latest'] },
  {
    files: ['e2e/browser/*.spec.ts'],
    rules: {
      'no-restricted-properties': [
        'error',
        ...['newContext', 'newPage'].map((property) => ({
          object: 'browser',
          property,
          message:
            'Nobody closes what is opened so, and it goes on beside all stories after it. Take inWindow.',
        })),
      ],
    },
  },
  { files: ['scripts/**', 'bench/**', '*.cjs', '.*.cjs'], rules: { 'no-console': 'off' } },
  { files: ['**/*.cjs'], rules: { '@typescript-eslint/no-require-imports': 'off' } },
  {
    files: ['**/*.mjs', '**/*.cjs'],
    languageOptions: {
      globals: {
        process: 'readonly',
        console: 'readonly',
        URL: 'readonly',
        module: 'readonly',
        setTimeout: 'readonly',
        setInterval: 'readonly',
        clearInterval: 'readonly',
        clearTimeout: 'readonly',
        fetch: 'readonly',
        Buffer: 'readonly',
        AbortSignal: 'readonly',
        TextEncoder: 'readonly',
        TextDecoder: 'readonly',
        Headers: 'readonly',
        structuredClone: 'readonly',
        require: 'readonly',
      },
    },
  },
);
