/**
 * `npm run third-party`: writes the table of libraries in THIRD_PARTY.md from the lock file: every package that what
 * ships stands on, directly or not, with its version and licence. `--check` only says whether the table is as it should be.
 */
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { root } from './lib.mjs';

const BEGIN = '<!-- written by npm run third-party -->';
const END = '<!-- until here -->';

const lock = JSON.parse(readFileSync(join(root, 'package-lock.json'), 'utf8')).packages;
/** Licences that ship with the program on their own terms; anything else has to be looked at by a person. */
const KNOWN =
  /^\(?(MIT|ISC|BSD-2-Clause|BSD-3-Clause|0BSD|Apache-2\.0|BSL-1\.0|BlueOak-1\.0\.0|CC0-1\.0|Unlicense|MIT-0|Python-2\.0|Zlib)\b/;

/** Libraries of one platform that are linked when they run and can be replaced; named in THIRD_PARTY.md by hand. */
const REPLACEABLE = /^@img\/sharp-/;

/** Where a package that another one asks for is found, as Node looks for it. */
function resolve(from, name) {
  for (let at = from; ; at = at.slice(0, Math.max(0, at.lastIndexOf('/node_modules/')))) {
    const path = `${at === '' ? '' : `${at}/`}node_modules/${name}`;
    if (lock[path]) return lock[path].link ? lock[path].resolved : path;
    if (at === '') return undefined;
    if (!at.includes('/node_modules/')) at = '';
  }
}

const shipped = new Set();
function visit(path) {
  if (shipped.has(path)) return;
  shipped.add(path);
  const { dependencies = {}, optionalDependencies = {} } = lock[path];
  for (const name of Object.keys({ ...dependencies, ...optionalDependencies })) {
    const found = resolve(path, name) ?? resolve('', name);
    if (found) visit(found);
  }
}
for (const app of ['apps/web', 'apps/server', 'packages/machines']) visit(app);

const licenceOf = (path) => {
  const { license, licenses } = JSON.parse(readFileSync(join(root, path, 'package.json'), 'utf8'));
  return typeof license === 'string' ? license : (license?.type ?? licenses?.[0]?.type ?? lock[path].license ?? 'not stated');
};
const rows = [...shipped]
  .filter((path) => path.includes('node_modules/') && !REPLACEABLE.test(path.slice(path.lastIndexOf('node_modules/') + 13)))
  .flatMap((path) => {
    try {
      return [{ name: path.slice(path.lastIndexOf('node_modules/') + 13), version: lock[path].version, licence: licenceOf(path) }];
    } catch {
      // of another platform: not installed here, and not in what ships from here
      return [];
    }
  })
  .sort((a, b) => a.name.localeCompare(b.name) || a.version.localeCompare(b.version));
const unknown = rows.filter(({ licence }) => !KNOWN.test(licence));
if (unknown.length > 0) {
  process.stderr.write(`Licences to be looked at: ${unknown.map(({ name, licence }) => `${name} (${licence})`).join(', ')}\n`);
  process.exit(1);
}
const byLicence = new Map();
for (const { name, version, licence } of rows) byLicence.set(licence, [...(byLicence.get(licence) ?? []), `${name} ${version}`]);
const table = [...byLicence]
  .sort((a, b) => b[1].length - a[1].length)
  .map(([licence, names]) => `**${licence}** (${names.length}): ${[...new Set(names)].join(', ')}.`)
  .join('\n\n');
const path = join(root, 'THIRD_PARTY.md');
const text = readFileSync(path, 'utf8');
const [before, rest] = text.split(BEGIN);
const after = rest.split(END)[1];
const wanted = `${before}${BEGIN}\n\n${table}\n\n${END}${after}`;
if (process.argv.includes('--check')) {
  if (wanted !== text) {
    process.stderr.write('THIRD_PARTY.md is not what the lock file says: npm run third-party\n');
    process.exit(1);
  }
} else writeFileSync(path, wanted);
process.stdout.write(`${rows.length} packages in what ships.\n`);
