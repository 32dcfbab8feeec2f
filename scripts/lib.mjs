/** What the commands share: installing, building, finding the browser; each step says what it does and does it once. */
import { execFileSync, spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import { copyFileSync, existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { homedir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = join(dirname(fileURLToPath(import.meta.url)), '..');
export const say = (text) => process.stdout.write(`— ${text}\n`);

/** Native parts are built against this Node's own headers when they are there, so that nothing is downloaded. */
const headers = join(dirname(process.execPath), '..', 'include', 'node', 'node.h');
const buildEnv = {
  ...process.env,
  ...(existsSync(headers) && !process.env.npm_config_nodedir ? { npm_config_nodedir: join(dirname(process.execPath), '..') } : {}),
};

/** Runs a command with its output shown; a failure ends the script with the command's name. */
export function run(command, args, options = {}) {
  try {
    execFileSync(command, args, { cwd: root, stdio: 'inherit', env: buildEnv, ...options });
  } catch (error) {
    process.stderr.write(`\nThis did not work: ${command} ${args.join(' ')}\n`);
    process.exit(typeof error.status === 'number' && error.status > 0 ? error.status : 1);
  }
}

const hash = (parts) =>
  parts
    .reduce((sum, part) => sum.update(part), createHash('sha256'))
    .digest('hex')
    .slice(0, 24);
const readIf = (path) => (existsSync(path) ? readFileSync(path, 'utf8') : '');

function ensureDependencies() {
  const stamp = join(root, 'node_modules', '.installed');
  const wanted = hash([readFileSync(join(root, 'package-lock.json')), process.version]);
  if (readIf(stamp) === wanted) return;
  say('Installing packages (a minute or two the first time)');
  run('npm', ['ci', '--ignore-scripts', '--no-audit', '--no-fund', '--loglevel=error']);
  writeFileSync(stamp, wanted);
}

/** The database driver is compiled once a machine and Node version, and kept for the next clone. */
function ensureDatabaseDriver() {
  const folder = join(root, 'node_modules', 'better-sqlite3');
  const built = join(folder, 'build', 'Release', 'better_sqlite3.node');
  const { version } = JSON.parse(readFileSync(join(folder, 'package.json'), 'utf8'));
  const kept = join(
    homedir(),
    '.cache',
    'lorvek',
    `better-sqlite3-${version}-${process.versions.modules}-${process.platform}-${process.arch}.node`,
  );
  const works = () => {
    try {
      execFileSync(process.execPath, ['-e', "new (require('better-sqlite3'))(':memory:').close()"], { cwd: root, stdio: 'ignore' });
      return true;
    } catch {
      return false;
    }
  };
  if (existsSync(built) && works()) return;
  if (existsSync(kept)) {
    mkdirSync(dirname(built), { recursive: true });
    copyFileSync(kept, built);
    if (works()) return;
  }
  say('Compiling the database driver (about two minutes, once)');
  run('npm', ['rebuild', 'better-sqlite3', '--loglevel=error']);
  mkdirSync(dirname(kept), { recursive: true });
  copyFileSync(built, kept);
}

export function ensureInstalled() {
  ensureDependencies();
  ensureDatabaseDriver();
}

function* filesIn(folder) {
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    if (['node_modules', 'dist', '.demo'].includes(entry.name)) continue;
    const path = join(folder, entry.name);
    if (entry.isDirectory()) yield* filesIn(path);
    else yield path;
  }
}

const vite = () => join(root, 'node_modules', 'vite', 'bin', 'vite.js');

const PARTS = [
  { name: 'the page', folder: 'apps/web', from: ['apps/web', 'packages/core', 'packages/model', 'packages/computations'] },
  { name: 'the server', folder: 'apps/server', from: ['apps/server', 'packages/core', 'packages/model', 'packages/computations', 'demo'] },
  { name: 'the simulated machines', folder: 'packages/machines', from: ['packages/machines', 'packages/core'] },
];

/** Takes away all that was built, so that what follows stands on the sources alone, as on a fresh machine. */
export function forgetBuilt() {
  for (const folder of ['packages/core', 'packages/model', 'packages/computations', ...PARTS.map((part) => part.folder)]) {
    rmSync(join(root, folder, 'dist'), { recursive: true, force: true });
  }
}

/** Builds what has changed since it was last built. */
export function ensureBuilt() {
  for (const { name, folder, from } of PARTS) {
    const stamp = join(root, folder, 'dist', '.stamp');
    const files = from.flatMap((part) => [...filesIn(join(root, part))]).sort();
    const wanted = hash([
      readFileSync(join(root, 'package-lock.json')),
      ...files.flatMap((file) => [file.slice(root.length), readFileSync(file)]),
    ]);
    if (readIf(stamp) === wanted) continue;
    say(`Building ${name}`);
    run(process.execPath, [vite(), 'build', '--logLevel', 'warn'], { cwd: join(root, folder) });
    writeFileSync(stamp, wanted);
  }
}

/** The packages as plain JavaScript, for programs that import the packages. */
export function buildPackages() {
  for (const name of ['core', 'model', 'computations']) {
    say(`Building packages/${name}`);
    run(process.execPath, [
      createRequire(import.meta.url).resolve('typescript/bin/tsc'),
      '-p',
      join('packages', name, 'tsconfig.build.json'),
    ]);
  }
}

export const CHROMIUM = process.env.LORVEK_CHROMIUM ?? '/usr/bin/chromium';

/** What the tests need besides Node: the browser, and programs of others that read what was written. By the file that tells. */
const TOOLS = [
  [CHROMIUM, 'chromium'],
  ['/usr/bin/gs', 'ghostscript'],
  ['/usr/bin/qpdf', 'qpdf'],
  ['/usr/bin/socat', 'socat'],
  ['/usr/bin/ipptool', 'cups-ipp-utils'],
  ['/usr/lib/python3/dist-packages/pikepdf', 'python3-pikepdf'],
  ['/usr/lib/python3/dist-packages/numpy', 'python3-numpy'],
  ['/usr/lib/python3/dist-packages/PIL', 'python3-pil'],
];

/** Installs what is missing of them, as Debian has it. */
export function ensureTools() {
  const missing = TOOLS.flatMap(([file, name]) => (existsSync(file) ? [] : [name]));
  if (missing.length === 0) return;
  if (process.getuid?.() !== 0) {
    process.stderr.write(`The tests need ${missing.join(', ')}. Install them (Debian: sudo apt-get install ${missing.join(' ')}).\n`);
    process.exit(1);
  }
  say(`Installing ${missing.join(', ')} for the tests`);
  const wait = ['-o', 'DPkg::Lock::Timeout=600'];
  run('apt-get', [...wait, 'update', '-qq'], { stdio: ['ignore', 'ignore', 'inherit'] });
  run('apt-get', [...wait, 'install', '-y', '-qq', '--no-install-recommends', ...missing], {
    stdio: ['ignore', 'ignore', 'inherit'],
    env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
  });
}

/** Starts a Node program that ends with this one. */
export function start(args, env) {
  return spawn(process.execPath, args, { cwd: root, env: { ...process.env, ...env }, stdio: ['ignore', 'pipe', 'pipe'] });
}
