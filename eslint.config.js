import js from '@eslint/js';
import hooks from 'eslint-plugin-react-hooks';
import ts from 'typescript-eslint';

export default ts.config(
  {
    ignores: [
      '.next/**',
      'dist/**',
      'node_modules/**',
      'reports/**',
      'wasm/**',
      'next-env.d.ts',
      '**/*.mjs',
      '**/*.cjs',
      '*.config.*',
      'src/core/wasm/wasm-bytes.ts',
    ],
  },
  js.configs.recommended,
  ...ts.configs.recommendedTypeChecked,
  {
    languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname } },
    rules: {
      // 22 s of a 60 s run, for a rule the type checker's strike-through already shows
      '@typescript-eslint/no-deprecated': 'off',
      '@typescript-eslint/consistent-type-imports': 'error',
      '@typescript-eslint/switch-exhaustiveness-check': 'error',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      '@typescript-eslint/require-await': 'off',
      '@typescript-eslint/restrict-template-expressions': ['error', { allowNumber: true }],
      'no-console': 'error',
    },
  },
  { files: ['src/app/**', 'src/features/**', 'src/ui/**'], ...hooks.configs.flat.recommended },
  {
    files: ['src/core/**/*.ts'],
    ignores: ['**/*.test.ts'],
    rules: {
      '@typescript-eslint/no-explicit-any': 'error',
      '@typescript-eslint/ban-ts-comment': 'error',
      'no-restricted-globals': [
        'error',
        'self',
        'navigator',
        'fetch',
        'postMessage',
        'OffscreenCanvas',
        'window',
        'document',
      ],
    },
  },
  {
    // every change of a recipe is a named, tested function: nobody else makes one
    files: ['src/**/*.ts', 'src/**/*.tsx'],
    ignores: ['**/*.test.ts', 'src/core/edits/**', 'src/core/recipe/**'],
    rules: {
      'no-restricted-syntax': [
        'error',
        ...[
          'CallExpression[callee.name=/^(editRecipe|choose)$/] :matches(SpreadElement, AssignmentExpression)',
          'SpreadElement[argument.name=/^recipe$/]',
          'ObjectExpression > SpreadElement[argument.object.name="recipe"]',
        ].map((selector) => ({ selector, message: 'Recipes are made in core/edits alone.' })),
      ],
    },
  },
  {
    files: ['tests/**', '**/*.test.ts'],
    rules: {
      '@typescript-eslint/no-non-null-assertion': 'off',
      '@typescript-eslint/no-unsafe-assignment': 'off',
      '@typescript-eslint/no-unsafe-member-access': 'off',
      '@typescript-eslint/no-unsafe-argument': 'off',
    },
  },
);
