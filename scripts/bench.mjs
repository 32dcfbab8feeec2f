/** `npm run bench`: the core's benches; `npm run bench -- canvas` the page's, against a running demo; `-- changes` what crosses the line. */
import { ensureInstalled, run } from './lib.mjs';

ensureInstalled();
const what = ['canvas', 'changes'].includes(process.argv[2]) ? process.argv[2] : 'core';
run(process.execPath, ['--expose-gc', '--conditions=source', '--import', 'tsx', `bench/${what}.bench.ts`]);
