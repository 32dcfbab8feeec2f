/** `npm run unit`: Jest in bare Node, tests and packages from their sources; its options and file patterns as arguments. */
import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { root } from './lib.mjs';

/** A test that never ends would hold everything up: nothing takes this long. */
const LONGEST_MS = 20 * 60_000;
const register = pathToFileURL(join(root, 'scripts', 'unit', 'register.mjs')).href;
const { status } = spawnSync(process.execPath, [join(root, 'node_modules/jest/bin/jest.js'), ...process.argv.slice(2)], {
  cwd: root,
  stdio: 'inherit',
  timeout: LONGEST_MS,
  env: { ...process.env, NODE_OPTIONS: `--conditions=source --import ${register} --no-warnings --enable-source-maps` },
});
process.exit(status ?? 1);
