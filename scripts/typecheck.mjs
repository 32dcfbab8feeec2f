/** `npm run typecheck`: every package on its own terms, by the native compiler; the linter needs the other one. */
import { join } from 'node:path';
import { root, run } from './lib.mjs';

const tsc = join(root, 'node_modules', 'typescript-native', 'bin', 'tsc');
for (const project of [
  'packages/core',
  'packages/model',
  'packages/computations',
  'packages/machines',
  'packages/tsconfig.tests.json',
  'apps/server',
  'apps/web',
  'tests',
  'bench',
])
  run(process.execPath, [tsc, '-p', project]);
