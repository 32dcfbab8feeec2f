import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { spawn, type ChildProcess } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { box, change, firstPatch } from './support.ts';

const dataDir = mkdtempSync(join(tmpdir(), 'lorvek-kill-'));
const port = 20_000 + (process.pid % 20_000);
const base = `http://127.0.0.1:${port}/api`;
let child: ChildProcess;

async function start(): Promise<void> {
  child = spawn(process.execPath, ['apps/server/dist/main.js'], {
    env: { ...process.env, LORVEK_DATA: dataDir, LORVEK_PORT: String(port), LORVEK_LOG: 'silent', NODE_OPTIONS: '' },
    stdio: 'ignore',
  });
  for (let k = 0; k < 240; k++) {
    const answer = await fetch(`${base}/health`).catch(() => undefined);
    if (answer?.ok) return;
    await wait(250);
  }
  throw new Error('the server does not start');
}

beforeAll(() => {
  if (!existsSync('apps/server/dist/main.js')) throw new Error('Build the server first: npm run build.');
});
afterAll(() => {
  child.kill('SIGKILL');
  rmSync(dataDir, { recursive: true, force: true });
});

const post = async (path: string, body: unknown): Promise<Response> =>
  fetch(`${base}${path}`, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) });

test('a server that is killed while it saves loses nothing that it had confirmed', async () => {
  await start();
  const { id } = (await (await post('/jobs', { name: 'Killed' })).json()) as { id: string };
  await post(`/jobs/${id}/changes`, change(firstPatch(['item-1']), 0));
  let confirmed = 1;
  for (let round = 0; round < 4; round++) {
    setTimeout(() => child.kill('SIGKILL'), 150 + 170 * round);
    for (let alive = true; alive;) {
      const patch = { 'item-1': { before: box('item-1', 39 + confirmed), after: box('item-1', 40 + confirmed) } };
      const answer = await post(`/jobs/${id}/changes`, change(patch, confirmed)).catch(() => undefined);
      if (answer?.ok) confirmed = ((await answer.json().catch(() => ({ revision: confirmed }))) as { revision: number }).revision;
      else alive = false;
    }
    await start();
    const now = (await (await fetch(`${base}/jobs/${id}`)).json()) as { revision: number; records: Record<string, unknown> };
    expect(now.revision).toBeGreaterThanOrEqual(confirmed);
    expect(now.records['item-1']).toEqual(box('item-1', 39 + now.revision));
    confirmed = now.revision;
  }
  expect(confirmed).toBeGreaterThan(5);
});
