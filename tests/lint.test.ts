/** Each layer rule finds a planted violation. */
import { describe, expect, test } from '@jest/globals';
import { ESLint, Linter } from 'eslint';
import { rmSync, writeFileSync, mkdirSync } from 'node:fs';
import { dirname } from 'node:path';
import { countOf } from '../scripts/lint/parameters.mjs';

const PLANTED: [string, string, string, string][] = [
  [
    'the core imports the model',
    'packages/core/src/geometry/planted.ts',
    "import '../../../model/src/index.ts';",
    'import-x/no-restricted-paths',
  ],
  [
    'a lower folder of the core imports a higher one',
    'packages/core/src/geometry/planted.ts',
    "import '../check/index.ts';",
    'import-x/no-restricted-paths',
  ],
  ['the core uses the platform', 'packages/core/src/geometry/planted.ts', 'export const title = document.title;', 'no-restricted-globals'],
  ['the core imports Node', 'packages/core/src/geometry/planted.ts', "import 'node:fs';", 'no-restricted-imports'],
  [
    'the core takes chance from nowhere',
    'packages/core/src/geometry/planted.ts',
    'export const n = Math.random();',
    'no-restricted-syntax',
  ],
  ['the page imports the server', 'apps/web/src/ui/planted.ts', "import '../../../server/src/config.ts';", 'import-x/no-restricted-paths'],
  ['the server imports the page', 'apps/server/src/planted.ts', "import '../../web/src/app.tsx';", 'import-x/no-restricted-paths'],
  ['a station imports another', 'apps/web/src/stations/draw/planted.ts', "import '../layup/lanes.ts';", 'import-x/no-restricted-paths'],
  [
    'shared code imports a station',
    'apps/web/src/document/planted.ts',
    "import '../stations/draw/drag.ts';",
    'import-x/no-restricted-paths',
  ],
  [
    'two files import each other',
    'packages/core/src/geometry/planted.ts',
    "import { twin } from './planted-twin.ts';\nexport const planted = () => twin;",
    'import-x/no-cycle',
  ],
  [
    'nobody waits for an answer',
    'apps/web/src/ui/planted.ts',
    'export function ask(): void {\n  Promise.resolve(1);\n}',
    '@typescript-eslint/no-floating-promises',
  ],
  [
    'a switch forgets a case',
    'packages/core/src/geometry/planted.ts',
    "export const f = (k: 'a' | 'b'): number => {\n  switch (k) {\n    case 'a':\n      return 1;\n  }\n  return 2;\n};",
    '@typescript-eslint/switch-exhaustiveness-check',
  ],
  ['what is thrown is no error', 'apps/server/src/planted.ts', "throw 'away';", '@typescript-eslint/only-throw-error'],
  [
    'a function takes too much to be read',
    'packages/core/src/geometry/planted.ts',
    'export const sum = (a: number, b: number, c: number, d: number, e: number, f: number): number => a + b + c + d + e + f;',
    'house/parameters',
  ],
  ['anything goes', 'packages/core/src/geometry/planted.ts', 'export const x: any = 1;', '@typescript-eslint/no-explicit-any'],
];

describe('lint', () => {
  test('parameters are counted as readers take them: places, sizes and colours as one each', () => {
    const counted = (code: string): number[] => {
      const found: number[] = [];
      const linter = new Linter();
      const rule = {
        create: () => ({
          ArrowFunctionExpression: (node: unknown) => void found.push(countOf((node as { params: never[] }).params)),
        }),
      };
      linter.verify(code, [{ plugins: { own: { rules: { rule } } }, rules: { 'own/rule': 'error' } }]);
      return found;
    };
    expect(
      counted('((x, y) => 0); ((x0, y0, x1, y1) => 0); ((px, py, dx) => 0); ((a, width, height, b) => 0); ((r, g, b, one) => 0);'),
    ).toEqual([1, 2, 2, 3, 2]);
    // names that only look like coordinates, halves of a group, and what has a default
    expect(counted('((box, way, key) => 0); ((width, r, g) => 0); ((a = 1, x = 2, y = 3, { z }) => 0);')).toEqual([3, 3, 3]);
  });

  test('every layer rule finds what is planted', async () => {
    const eslint = new ESLint();
    const twin = 'packages/core/src/geometry/planted-twin.ts';
    for (const [, path, code, rule] of PLANTED) {
      mkdirSync(dirname(path), { recursive: true });
      writeFileSync(path, `${code}\n`);
      if (rule === 'import-x/no-cycle')
        writeFileSync(twin, "import { planted } from './planted.ts';\nexport const twin = () => planted;\n");
      try {
        const [result] = await eslint.lintFiles([path]);
        expect([path, result?.messages.map((m) => m.ruleId)]).toEqual([path, expect.arrayContaining([rule])]);
      } finally {
        rmSync(path, { force: true });
        rmSync(twin, { force: true });
      }
    }
  }, 120_000);
});
