import js from '@eslint/js';
import boundaries from 'eslint-plugin-boundaries';
import a11y from 'eslint-plugin-jsx-a11y';
import hooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';

/** An import may only go down: apps → contract, formats, core; formats and contract → core; core → nothing. */
const LAYERS = {
  core: [],
  formats: ['core'],
  contract: ['core'],
  server: ['core', 'formats', 'contract'],
  cli: ['core', 'contract'],
  // Of formats only `@stem-trace/formats/drawing`, which runs in browsers; another entry would not be bundled.
  web: ['core', 'contract', 'formats'],
  demo: ['core', 'formats'],
  standins: [],
};

const FOLDERS = {
  core: 'packages/core',
  formats: 'packages/formats',
  contract: 'packages/contract',
  server: 'apps/server',
  cli: 'apps/cli',
  standins: 'apps/standins',
  web: 'apps/web',
  demo: 'demo',
};

export default tseslint.config(
  {
    ignores: [
      '**/dist/**',
      '**/node_modules/**',
      '**/test-results/**',
      '.stem-trace/**',
      '.dependency-cruiser.cjs',
    ],
  },
  js.configs.recommended,
  ...tseslint.configs.strict,
  {
    plugins: { boundaries },
    settings: {
      'boundaries/elements': Object.entries(FOLDERS).map(([type, folder]) => ({
        type,
        pattern: `${folder}/**`,
        partialMatch: false,
      })),
      'import/resolver': {
        typescript: {
          project: ['packages/*/tsconfig.json', 'apps/*/tsconfig.json', 'demo/tsconfig.json'],
          noWarnOnMultipleProjects: true,
        },
      },
    },
    rules: {
      '@typescript-eslint/consistent-type-imports': [
        'error',
        { fixStyle: 'inline-type-imports', disallowTypeAnnotations: false },
      ],
      // What is taken out of an object on purpose is not used.
      '@typescript-eslint/no-unused-vars': ['error', { ignoreRestSiblings: true }],
      '@typescript-eslint/no-extraneous-class': 'off',
      '@typescript-eslint/no-confusing-void-expression': 'off',
      '@typescript-eslint/no-invalid-void-type': 'off',
      'max-params': 'off',
      eqeqeq: 'error',
      'no-console': 'error',
    },
  },
  {
    files: ['{packages,apps,demo}/**/*.{ts,tsx}'],
    ignores: ['**/*.test.ts', '**/testing/**'],
    rules: {
      'boundaries/dependencies': [
        'error',
        {
          default: 'disallow',
          policies: Object.entries(LAYERS).map(([from, to]) => ({
            from: { element: { type: from } },
            allow: { to: { element: { type: [from, ...to] } } },
          })),
        },
      ],
    },
  },
  {
    // Decorated constructors need their parameter classes at run time, which this rule would make type-only.
    files: ['apps/server/**/*.ts'],
    rules: { '@typescript-eslint/consistent-type-imports': 'off' },
  },
  {
    files: ['packages/core/src/**/*.ts'],
    ignores: ['**/*.test.ts', '**/testing/**'],
    rules: {
      'no-restricted-globals': [
        'error',
        'process',
        'window',
        'document',
        'fetch',
        'setTimeout',
        'setInterval',
      ],
      'no-restricted-imports': ['error', { patterns: ['node:*', 'react', '@nestjs/*'] }],
      'no-restricted-properties': [
        'error',
        { object: 'Date', property: 'now' },
        { object: 'Math', property: 'random' },
      ],
    },
  },
  {
    // What is asked of the database is read by `readRows`, which looks at what came.
    files: ['apps/server/src/**/*.ts'],
    ignores: ['**/*.test.ts', '**/testing/**', '**/seed/**', '**/outside/**', '**/migrations/**'],
    rules: {
      'no-restricted-syntax': [
        'error',
        {
          selector:
            "VariableDeclarator[id.typeAnnotation] > AwaitExpression > CallExpression[callee.property.name='query']",
          message: 'Read rows with readRows or readRow (database/read-rows).',
        },
      ],
    },
  },
  {
    files: ['apps/web/src/{frame,screens}/**/*.{ts,tsx}'],
    ignores: ['**/*.test.{ts,tsx}'],
    rules: { 'max-lines-per-function': ['error', 60] },
  },
  {
    files: ['apps/web/**/*.{ts,tsx}'],
    plugins: { 'react-hooks': hooks, 'jsx-a11y': a11y },
    rules: {
      'react-hooks/rules-of-hooks': 'error',
      'react-hooks/exhaustive-deps': 'error',
      ...a11y.configs.recommended.rules,
    },
  },
  {
    files: ['scripts/**/*.mjs', '**/*.config.{ts,js}', 'bench/**/*.ts', 'demo/src/generate.ts'],
    languageOptions: {
      globals: {
        process: 'readonly',
        console: 'readonly',
        setTimeout: 'readonly',
        clearTimeout: 'readonly',
        setInterval: 'readonly',
        URL: 'readonly',
        AbortController: 'readonly',
      },
    },
    rules: { 'no-console': 'off' },
  },
);
