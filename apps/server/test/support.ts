/** A server on a real SQLite file in a folder of its own. */
import type { NestExpressApplication } from '@nestjs/platform-express';
import { mkdtempSync, rmSync } from 'node:fs';
import { createServer, type AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import supertest from 'supertest';
import { PAGE_ID, emptyDrawing, pack, type BoxItem, type Film, type Page, type Patch, type PostChange } from '@lorvek/model';
import { createApp } from '../src/bootstrap.ts';
import type { Config } from '../src/config.ts';
import { MachineRow, RollRow, StockFilmRow } from '../src/db/entities.ts';
import { Tx } from '../src/db/tx.ts';
import { demoMachines } from '../../../demo/stock.ts';

export interface TestServer {
  app: NestExpressApplication;
  http: ReturnType<typeof supertest>;
  dataDir: string;
  close(): Promise<void>;
  restart(): Promise<TestServer>;
}

export async function startServer(
  dataDir = mkdtempSync(join(tmpdir(), 'lorvek-api-')),
  settings: Partial<Config> = {},
): Promise<TestServer> {
  const app = await createApp({
    port: 0,
    host: '127.0.0.1',
    dataDir,
    inboxDir: join(dataDir, 'inbox'),
    assetsDir: 'assets',
    webDir: '/nowhere',
    logLevel: 'silent',
    rateLimit: 100_000,
    hosts: [],
    machineHosts: [],
    backupsKept: 3,
    ...settings,
  });
  await app.init();
  await app.listen(0, '127.0.0.1');
  return {
    app,
    http: supertest(app.getHttpServer()),
    dataDir,
    close: async () => {
      await app.close();
      rmSync(dataDir, { recursive: true, force: true });
    },
    restart: async () => {
      await app.close();
      return startServer(dataDir, settings);
    },
  };
}

/** A port that nobody listens on now. */
export const freePort = (): Promise<number> =>
  new Promise((resolve) => {
    const probe = createServer().listen(0, '127.0.0.1', () => {
      const { port } = probe.address() as AddressInfo;
      probe.close(() => resolve(port));
    });
  });

/** The demo's machines, at a port. */
export async function addMachines({ app }: TestServer, port: number): Promise<void> {
  await app.get(Tx).run((manager) => manager.insert(MachineRow, demoMachines('127.0.0.1', port)));
}

/** The film of the boxes in Stock, with one roll. */
export async function addStock({ app }: TestServer): Promise<void> {
  await app.get(Tx).run(async (manager) => {
    await manager.insert(StockFilmRow, {
      id: 's',
      series: 'Test',
      name: 'Deep teal',
      hex: '#0f5e66',
      transfer: false,
      pricePerMetre: 10,
      press: null,
      position: 0,
      smallestPartMm: 2,
      thinnestMm: 0.8,
      medium: null,
      reorderMm: null,
    });
    await manager.insert(RollRow, { id: 'roll-s', filmId: 's', widthMm: 610, lengthLeftMm: 10_000, isOffcut: false, outline: null });
  });
}

export const film: Film = {
  type: 'film',
  id: 'film-a',
  stockId: 's',
  name: 'Deep teal',
  series: 'Test',
  hex: '#0f5e66',
  transfer: false,
  visible: true,
  locked: false,
};
export const box = (id: string, widthMm = 40): BoxItem => ({
  type: 'item',
  kind: 'box',
  id,
  name: id,
  layer: 'film-a',
  matrix: [1, 0, 0, 1, 0, 0],
  widthMm,
  heightMm: 20,
  cornerMm: 0,
});

const page = emptyDrawing()[PAGE_ID] as Page;

/** The change that makes a film and some boxes on an empty drawing. */
export function firstPatch(ids: string[]): Patch {
  return {
    [PAGE_ID]: { before: page, after: { ...page, layers: ['film-a'], root: ids } },
    'film-a': { before: null, after: film },
    ...Object.fromEntries(ids.map((id) => [id, { before: null, after: box(id) }])),
  };
}

let counter = 0;
export const change = (patch: Patch, baseRevision: number, fields: Partial<PostChange> = {}): object => ({
  changeId: `change-${++counter}-${process.pid}`,
  baseRevision,
  origin: 'test.edit',
  patch: pack(patch),
  ...fields,
});
