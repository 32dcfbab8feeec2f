/**
 * `npm test`: installs what it needs, lints, type-checks, runs unit and browser tests,
 * and ends with a line "N passed, N failed". `npm test -- --quick` leaves out the browser.
 */
import { spawn, spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ensureBuilt, ensureTools, ensureInstalled, forgetBuilt, root, say } from './lib.mjs';

const quick = process.argv.includes('--quick');
let passed = 0;
let failed = 0;
const count = (ok, bad) => {
  passed += ok;
  failed += bad;
};

/** A check that counts as one. What it says is shown when it is done, so that two at a time can be read. */
async function check(name, args) {
  const child = spawn(process.execPath, args, { cwd: root, stdio: ['ignore', 'pipe', 'pipe'] });
  const said = [];
  for (const stream of [child.stdout, child.stderr]) stream.on('data', (chunk) => said.push(chunk));
  const status = await new Promise((resolve) => child.on('close', resolve).on('error', resolve));
  say(`${name}: ${status === 0 ? 'clean' : 'not clean'}`);
  process.stdout.write(Buffer.concat(said));
  count(status === 0 ? 1 : 0, status === 0 ? 0 : 1);
}

/** A runner that writes its result as JSON; when it breaks before that, one failure. */
function tests(name, args, env, read) {
  say(name);
  const { status } = spawnSync(process.execPath, args, { cwd: root, stdio: 'inherit', env: { ...process.env, ...env } });
  try {
    const [ok, bad] = read();
    count(ok, bad + (status !== 0 && bad === 0 ? 1 : 0));
  } catch {
    count(0, 1);
  }
}

const bin = (path) => join('node_modules', path);
const out = mkdtempSync(join(tmpdir(), 'lorvek-test-'));
const json = (name) => JSON.parse(readFileSync(join(out, name), 'utf8'));

ensureInstalled();
forgetBuilt();
// lint takes one core for two minutes: what is short goes on beside it
const lint = check('Lint', [bin('eslint/bin/eslint.js'), '.', '--max-warnings', '0']);
await check('Format', [bin('prettier/bin/prettier.cjs'), '--check', '.', '--log-level', 'warn']);
await check('Types', ['scripts/typecheck.mjs']);
await check('Kernels', ['scripts/kernels.mjs', '--check']);
await check('Third parties', ['scripts/third-party.mjs', '--check']);
ensureBuilt();
await lint;
ensureTools();
tests('Unit tests', ['scripts/unit.mjs', '--json', `--outputFile=${join(out, 'unit.json')}`, '--silent'], {}, () => {
  const result = json('unit.json');
  return [result.numPassedTests, result.numFailedTests + result.numRuntimeErrorTestSuites];
});
if (!quick) {
  tests(
    'Browser tests',
    [bin('@playwright/test/cli.js'), 'test', '-c', 'tests/e2e/playwright.config.ts', '--reporter=line,json'],
    { PLAYWRIGHT_JSON_OUTPUT_NAME: join(out, 'browser.json') },
    () => {
      const { stats } = json('browser.json');
      if (stats.flaky > 0) process.stdout.write(`\n${stats.flaky} browser tests went well at the second try only.\n`);
      return [stats.expected + stats.flaky, stats.unexpected];
    },
  );
}
process.stdout.write(`\n${passed} passed, ${failed} failed\n`);
process.exit(failed === 0 ? 0 : 1);
