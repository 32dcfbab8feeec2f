import { defineConfig } from '@playwright/test';
import { rmSync } from 'node:fs';
import { panelOf, root, shopOf, SHOPS } from './shops.ts';
import { join } from 'node:path';

/** The real application on the demo data, in Debian's Chromium; machines run nine times faster than real ones. */
const shops = Array.from({ length: SHOPS }, (_, nth) => shopOf(nth));
if (!process.env.TEST_WORKER_INDEX) for (const { data } of shops) rmSync(data, { recursive: true, force: true });

export default defineConfig({
  testDir: '.',
  outputDir: join(root, 'test-results', 'browser'),
  workers: SHOPS,
  timeout: 150_000,
  expect: { timeout: 20_000 },
  // a busy machine may let one slip; which ones needed it is said at the end
  retries: 1,
  use: {
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
  webServer: shops.flatMap((shop) => {
    const env = {
      LORVEK_PORT: String(shop.port),
      LORVEK_MACHINE_PORT: String(shop.machinePort),
      LORVEK_TIME_SCALE: '9',
      LORVEK_DATA: shop.data,
      LORVEK_LOG: 'warn',
      LORVEK_HOSTS: 'workshop.test',
    };
    return [
      { command: 'node packages/machines/dist/main.js', cwd: root, env, url: `${panelOf(shop, 0)}/report`, stdout: 'ignore' as const },
      {
        command: 'node apps/server/dist/seed.js && exec node apps/server/dist/main.js',
        cwd: root,
        env,
        url: `http://127.0.0.1:${shop.port}/api/health`,
        timeout: 60_000,
      },
    ];
  }),
});
