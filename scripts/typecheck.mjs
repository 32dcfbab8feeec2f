/** `npm run typecheck`: every package on its own terms. */
import { createRequire } from 'node:module';
import { run } from './lib.mjs';

const tsc = createRequire(import.meta.url).resolve('typescript/bin/tsc');
for (const project of [
  'packages/core',
  'packages/model',
  'packages/machines',
  'packages/tsconfig.tests.json',
  'apps/server',
  'apps/web',
  'tests',
  'bench',
])
  run(process.execPath, [tsc, '-p', project]);
