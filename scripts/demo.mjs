/**
 * `npm run demo`: installs, builds, makes the demo data, starts the simulated machines and the server.
 * `npm run demo -- --fresh` begins anew. Ctrl-C stops everything.
 */
import { rmSync } from 'node:fs';
import { join } from 'node:path';
import { ensureBuilt, ensureInstalled, root, run, say, start } from './lib.mjs';

const port = Number(process.env.LORVEK_PORT ?? 7410);
const data = process.env.LORVEK_DATA ?? join(root, '.demo');
const env = {
  LORVEK_PORT: String(port),
  LORVEK_DATA: data,
  LORVEK_MACHINE_PORT: process.env.LORVEK_MACHINE_PORT ?? '9410',
  LORVEK_LOG: process.env.LORVEK_LOG ?? 'warn',
};

ensureInstalled();
ensureBuilt();
if (process.argv.includes('--fresh')) {
  say('Beginning anew: the demo’s data is removed');
  rmSync(data, { recursive: true, force: true });
}
say('Making the demo data');
run(process.execPath, ['apps/server/dist/seed.js'], { env: { ...process.env, ...env } });

const children = [];
let stopping = false;

function stop(code) {
  if (stopping) return;
  stopping = true;
  for (const child of children) child.kill('SIGTERM');
  setTimeout(() => process.exit(code), 3000).unref();
  void Promise.all(
    children.map((child) => (child.exitCode === null ? new Promise((resolve) => child.once('exit', resolve)) : undefined)),
  ).then(() => process.exit(code));
}

function launch(name, args) {
  const child = start(args, env);
  let tail = '';
  child.stdout.pipe(process.stdout);
  child.stderr.on('data', (bytes) => {
    tail = (tail + bytes).slice(-2000);
    process.stderr.write(bytes);
  });
  child.once('exit', (code) => {
    if (stopping) return;
    const taken = tail.includes('EADDRINUSE')
      ? ' Its port is taken: is the demo running already? Set LORVEK_PORT or LORVEK_MACHINE_PORT to other ports.'
      : '';
    process.stderr.write(`\n${name} ended by itself (${code}).${taken}\n`);
    stop(1);
  });
  children.push(child);
}

async function untilHealthy() {
  for (let attempt = 0; attempt < 240 && !stopping; attempt++) {
    const answer = await fetch(`http://127.0.0.1:${port}/api/health`).catch(() => undefined);
    if (answer?.ok) return true;
    await new Promise((resolve) => setTimeout(resolve, 250));
  }
  return false;
}

for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => stop(0));
// npm does not pass every signal on: when it is gone, so are we
const parent = process.ppid;
setInterval(() => process.ppid !== parent && stop(0), 500).unref();

say('Starting the simulated machines and the server');
launch('The simulated machines', ['packages/machines/dist/main.js']);
launch('The server', ['apps/server/dist/main.js']);
if (await untilHealthy()) process.stdout.write(`\n  Lorvek is open at  http://127.0.0.1:${port}\n  Ctrl-C stops it.\n\n`);
else if (!stopping) {
  process.stderr.write('The server did not answer within a minute.\n');
  stop(1);
}
