/** `npm run bench`: the core's benches; `npm run bench -- canvas` the page's, against a running demo. */
import { ensureInstalled, run } from './lib.mjs';

ensureInstalled();
const what = process.argv[2] === 'canvas' ? 'canvas' : 'core';
run(process.execPath, ['--expose-gc', '--conditions=source', '--import', 'tsx', `bench/${what}.bench.ts`]);
