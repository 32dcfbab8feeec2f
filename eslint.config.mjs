/** House rules that a machine can check: layers, sizes, types. A test plants one violation a layer rule (tests/lint.test.ts). */
import js from '@eslint/js';
import prettier from 'eslint-config-prettier';
import { createNodeResolver, importX } from 'eslint-plugin-import-x';
import reactHooks from 'eslint-plugin-react-hooks';
import { readdirSync } from 'node:fs';
import tseslint from 'typescript-eslint';
import { parameters } from './scripts/lint/parameters.mjs';

const stations = readdirSync(new URL('apps/web/src/stations', import.meta.url));
const coreFolders = readdirSync(new URL('packages/core/src', import.meta.url), { withFileTypes: true })
  .filter((entry) => entry.isDirectory())
  .map((entry) => entry.name);

/** Which folders of the core a folder may import; nothing points up. */
const CORE_ORDER = [
  'types',
  'errors',
  'units',
  'geometry',
  'placing',
  'lettering',
  'treatment',
  'cut',
  'align',
  'sheet',
  'check',
  'build',
  'format',
  'print',
  'series',
];

const zones = [
  {
    target: './packages/core',
    from: ['./packages/model', './packages/computations', './packages/machines', './apps', './demo'],
    message: 'The core knows nothing above it.',
  },
  {
    target: './packages/model',
    from: ['./packages/computations', './packages/machines', './apps', './demo'],
    message: 'The model knows only the core.',
  },
  {
    target: './packages/computations',
    from: ['./packages/machines', './apps', './demo'],
    message: 'Computations know the core and the model, and their hosts by what they need of them.',
  },
  {
    // geometry, cover and PNG of the core serve them too; how work is written, ordered and corrected is theirs to read anew
    target: './packages/machines',
    from: [
      ...['align', 'cut', 'sheet', 'check'].map((folder) => `./packages/core/src/${folder}`),
      './packages/model',
      './packages/computations',
      './apps',
      './demo',
    ],
    message: 'Machines read for themselves what they are sent.',
  },
  {
    target: './apps/web',
    from: ['./apps/server', './demo', './packages/machines'],
    message: 'The page and the server meet only through the model.',
  },
  {
    target: './apps/server',
    from: ['./apps/web', './packages/machines'],
    message: 'The page and the server meet only through the model; drivers know no simulation.',
  },
  ...stations.map((station) => ({
    target: `./apps/web/src/stations/${station}`,
    from: './apps/web/src/stations',
    except: [`./${station}`],
    message: 'Stations do not import one another.',
  })),
  ...['drawing', 'document', 'ui', 'worker', 'api'].map((shared) => ({
    target: `./apps/web/src/${shared}`,
    from: ['./apps/web/src/stations', './apps/web/src/pages'],
    message: 'Shared folders know no station.',
  })),
];

const platformNames = ['window', 'document', 'navigator', 'process', 'Buffer', 'setTimeout', 'setInterval', 'fetch', 'localStorage'].map(
  (name) => ({ name, message: 'The core and the model run anywhere: no platform here.' }),
);
const pureSyntax = [
  { selector: "MemberExpression[object.name='Math'][property.name='random']", message: 'Take randomness as an argument.' },
  { selector: "MemberExpression[object.name='Date'][property.name='now']", message: 'Take the time as an argument.' },
  { selector: 'Program > VariableDeclaration[kind="let"]', message: 'No state at the top of a module.' },
];

export default tseslint.config(
  {
    ignores: [
      '**/dist/**',
      '**/node_modules/**',
      'test-results/**',
      '.demo/**',
      'data/**',
      'assets/**',
      'apps/web/public/**',
      'coverage/**',
      // AssemblyScript: its compiler checks it
      'packages/core/kernels/**',
    ],
  },
  js.configs.recommended,
  ...tseslint.configs.strict,
  {
    files: ['**/*.{ts,tsx}'],
    plugins: { 'import-x': importX, house: { rules: { parameters } } },
    settings: {
      'import-x/resolver-next': [
        createNodeResolver({ extensions: ['.ts', '.tsx', '.mjs', '.js'], conditionNames: ['source', 'import', 'default'] }),
      ],
      'import-x/parsers': { '@typescript-eslint/parser': ['.ts', '.tsx'] },
    },
    rules: {
      '@typescript-eslint/consistent-type-imports': 'off',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      '@typescript-eslint/no-extraneous-class': 'off',
      'import-x/no-cycle': 'error',
      'import-x/no-restricted-paths': ['error', { zones }],
      'max-lines': ['error', { max: 400, skipBlankLines: true, skipComments: true }],
      'max-lines-per-function': ['error', { max: 60, skipBlankLines: true, skipComments: true }],
      'house/parameters': ['error', 5],
      // a switch over the cases of a union is one decision
      complexity: ['error', { max: 15, variant: 'modified' }],
      '@typescript-eslint/no-dynamic-delete': 'off',
      eqeqeq: ['error', 'always'],
    },
  },
  {
    files: ['packages/core/src/**/*.ts', 'packages/model/src/**/*.ts', 'packages/computations/src/**/*.ts'],
    ignores: ['**/*.test.ts', '**/*.support.ts'],
    rules: {
      '@typescript-eslint/consistent-type-imports': 'error',
      'no-console': 'error',
      'no-restricted-globals': ['error', ...platformNames],
      'no-restricted-imports': [
        'error',
        {
          patterns: [
            { group: ['node:*', 'fs', 'path', 'react', 'react-*'], message: 'The core and the model run anywhere: no platform here.' },
          ],
        },
      ],
      'no-restricted-syntax': ['error', ...pureSyntax],
    },
  },
  {
    // jobs written out, item by item
    files: ['demo/**/*.ts'],
    rules: { 'max-lines-per-function': ['error', 80], 'house/parameters': ['error', 7] },
  },
  ...coreFolders
    .filter((folder) => CORE_ORDER.slice(0, -1).includes(folder))
    .map((folder) => ({
      files: [`packages/core/src/${folder}/**/*.ts`],
      ignores: ['**/*.test.ts'],
      rules: {
        'import-x/no-restricted-paths': [
          'error',
          {
            zones: [
              ...zones,
              {
                target: `./packages/core/src/${folder}`,
                from: CORE_ORDER.slice(CORE_ORDER.indexOf(folder) + 1).map((above) => `./packages/core/src/${above}`),
                message: 'Folders of the core import only those below them.',
              },
            ],
          },
        ],
      },
    })),
  {
    files: ['apps/web/src/**/*.{ts,tsx}'],
    plugins: { 'react-hooks': reactHooks },
    rules: {
      'react-hooks/rules-of-hooks': 'error',
      'react-hooks/exhaustive-deps': 'error',
      '@typescript-eslint/consistent-type-imports': 'error',
    },
  },
  {
    // what only the types tell: answers that nobody waits for, cases that a switch forgot
    files: ['apps/*/src/**/*.{ts,tsx}', 'packages/*/src/**/*.ts'],
    ignores: ['**/*.test.ts', '**/*.support.ts'],
    languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname } },
    rules: {
      '@typescript-eslint/no-floating-promises': 'error',
      '@typescript-eslint/no-misused-promises': ['error', { checksVoidReturn: false }],
      '@typescript-eslint/await-thenable': 'error',
      '@typescript-eslint/only-throw-error': 'error',
      '@typescript-eslint/switch-exhaustiveness-check': ['error', { considerDefaultExhaustiveForUnions: true }],
    },
  },
  {
    files: ['**/*.test.ts', 'tests/**/*.ts', 'bench/**/*.ts'],
    rules: {
      'max-lines-per-function': 'off',
      complexity: 'off',
      'house/parameters': 'off',
      '@typescript-eslint/no-non-null-assertion': 'off',
      'import-x/no-restricted-paths': 'off',
      'max-lines': 'off',
    },
  },
  {
    files: ['**/*.mjs'],
    languageOptions: {
      globals: {
        process: 'readonly',
        Buffer: 'readonly',
        console: 'readonly',
        setTimeout: 'readonly',
        setInterval: 'readonly',
        fetch: 'readonly',
        URL: 'readonly',
        performance: 'readonly',
      },
    },
  },
  prettier,
);
