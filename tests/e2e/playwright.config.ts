import { defineConfig } from '@playwright/test';
import { rmSync } from 'node:fs';
import { join } from 'node:path';

/** The real application on the demo data, in Debian's Chromium; machines run nine times faster than real ones. */
const root = join(import.meta.dirname, '..', '..');
const data = join(root, 'test-results', 'data');
const env = {
  LORVEK_PORT: '7491',
  LORVEK_MACHINE_PORT: '9491',
  LORVEK_TIME_SCALE: '9',
  LORVEK_DATA: data,
  LORVEK_LOG: 'warn',
  LORVEK_HOSTS: 'workshop.test',
};
if (!process.env.TEST_WORKER_INDEX) rmSync(data, { recursive: true, force: true });

export default defineConfig({
  testDir: '.',
  outputDir: join(root, 'test-results', 'browser'),
  workers: 1,
  timeout: 150_000,
  expect: { timeout: 20_000 },
  // a busy machine may let one slip; which ones needed it is said at the end
  retries: 1,
  use: {
    baseURL: `http://127.0.0.1:${env.LORVEK_PORT}`,
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      executablePath: process.env.LORVEK_CHROMIUM ?? '/usr/bin/chromium',
      args: [
        // the same server by a name that is not this machine's own: the browser trusts such a page less
        '--host-resolver-rules=MAP workshop.test 127.0.0.1',
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
      ],
    },
  },
  webServer: [
    {
      command: 'node packages/machines/dist/main.js',
      cwd: root,
      env,
      url: `http://127.0.0.1:${Number(env.LORVEK_MACHINE_PORT) + 1}/report`,
      stdout: 'ignore',
    },
    {
      command: 'node apps/server/dist/seed.js && exec node apps/server/dist/main.js',
      cwd: root,
      env,
      url: `http://127.0.0.1:${env.LORVEK_PORT}/api/health`,
      timeout: 60_000,
    },
  ],
});
