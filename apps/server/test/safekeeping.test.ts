/** Work is never lost without a word: failed commits, full disks, torn files, second servers, emptied databases, backups. */
import { afterAll, beforeAll, describe, expect, jest, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import {
  copyFileSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  truncateSync,
  unlinkSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { DataSource } from 'typeorm';
import type { Backup, Health, PictureItem } from '@lorvek/model';
import { writePng } from '../../../demo/hull-picture.ts';
import { databasePath, takeFolder } from '../src/db/shop-folder.ts';
import { FilesService } from '../src/files/files.service.ts';
import { box, change, firstPatch, startServer, type TestServer } from './support.ts';

interface Connection {
  exec(sql: string): unknown;
}

const connectionOf = ({ app }: TestServer): Connection =>
  (app.get(DataSource).driver as unknown as { databaseConnection: Connection }).databaseConnection;

const newJob = async (server: TestServer): Promise<string> =>
  ((await server.http.post('/api/jobs').send({ name: 'Kept' }).expect(201)).body as { id: string }).id;
const wider = (from: number) => ({ 'item-1': { before: box('item-1', from), after: box('item-1', from + 1) } });
const revisionOf = async (server: TestServer, id: string): Promise<number> =>
  ((await server.http.get(`/api/jobs/${id}`).expect(200)).body as { revision: number }).revision;

/** A database whose next COMMITs fail as on a full disk, after or before the transaction was given up by itself. */
function failCommits(server: TestServer, times: number, rollsBack: boolean): void {
  const connection = connectionOf(server);
  const real = connection.exec.bind(connection);
  let left = times;
  connection.exec = (sql: string): unknown => {
    if (sql !== 'COMMIT' || left-- <= 0) return real(sql);
    if (rollsBack) real('ROLLBACK');
    throw Object.assign(new Error('database or disk is full'), { code: 'SQLITE_FULL' });
  };
}

describe.each([
  ['that left the transaction open', false],
  ['that gave the transaction up', true],
])('a commit %s', (_, rollsBack) => {
  test('fails alone: it is told, later ones are on disk after a restart, health says how it is', async () => {
    let server = await startServer();
    const id = await newJob(server);
    await server.http
      .post(`/api/jobs/${id}/changes`)
      .send(change(firstPatch(['item-1']), 0))
      .expect(200);
    failCommits(server, 2, rollsBack);
    const failed = await server.http
      .post(`/api/jobs/${id}/changes`)
      .send(change(wider(40), 1))
      .expect(507);
    expect(failed.body).toMatchObject({
      type: 'storage.full',
      since: expect.any(String) as unknown as string,
      remedy: expect.any(String) as unknown as string,
    });
    const health = (await server.http.get('/api/health').expect(503)).body as Health;
    expect(health).toMatchObject({ status: 'trouble', fault: 'full' });
    for (let k = 0; k < 20; k++)
      await server.http
        .post(`/api/jobs/${id}/changes`)
        .send(change(wider(40 + k), 1 + k))
        .expect(200);
    await server.http.get('/api/health').expect(200, { status: 'ok' });
    server = await server.restart();
    expect(await revisionOf(server, id)).toBe(21);
    await server.close();
  });
});

const mayMount = (): boolean => {
  const dir = mkdtempSync(join(tmpdir(), 'lorvek-mount-'));
  try {
    execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=1m', 'tmpfs', dir], { stdio: 'ignore' });
    execFileSync('umount', [dir], { stdio: 'ignore' });
    return true;
  } catch {
    return false;
  } finally {
    rmSync(dir, { recursive: true, force: true });
  }
};

/** Needs a small file system of its own, and so the right to mount one. */
(mayMount() ? test : test.skip)('a disk that runs full and is freed again loses nothing that was confirmed', async () => {
  const dir = mkdtempSync(join(tmpdir(), 'lorvek-full-'));
  execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=3m', 'tmpfs', dir]);
  try {
    let server = await startServer(dir);
    const id = await newJob(server);
    await server.http
      .post(`/api/jobs/${id}/changes`)
      .send(change(firstPatch(['item-1']), 0))
      .expect(200);
    let revision = 1;
    const post = async (): Promise<number> => {
      const answer = await server.http.post(`/api/jobs/${id}/changes`).send(change(wider(39 + revision), revision));
      if (answer.status === 200) revision = (answer.body as { revision: number }).revision;
      return answer.status;
    };
    const filler = join(dir, 'filler');
    writeFileSync(filler, Buffer.alloc(200_000));
    try {
      for (let k = 0; k < 3000; k++) writeFileSync(filler, Buffer.alloc(4096), { flag: 'a' });
    } catch (error) {
      expect((error as { code: string }).code).toBe('ENOSPC');
    }
    let refused = 0;
    for (let k = 0; k < 60 && refused < 5; k++) if ((await post()) === 507) refused++;
    expect(refused).toBeGreaterThan(0);
    unlinkSync(filler);
    const before = revision;
    for (let k = 0; k < 15; k++) expect(await post()).toBe(200);
    expect(revision).toBe(before + 15);
    server = await server.restart();
    expect(await revisionOf(server, id)).toBe(revision);
    await server.app.close();
  } finally {
    execFileSync('umount', [dir]);
    rmSync(dir, { recursive: true, force: true });
  }
});

test('a database that another program holds for a moment is waited for', async () => {
  const server = await startServer();
  const id = await newJob(server);
  const other = new Database(databasePath(server.dataDir));
  other.exec('BEGIN IMMEDIATE');
  setTimeout(() => other.exec('COMMIT'), 700);
  await server.http
    .post(`/api/jobs/${id}/changes`)
    .send(change(firstPatch(['item-1']), 0))
    .expect(200, { revision: 1 });
  other.close();
  await server.close();
});

describe('the data folder', () => {
  test('is taken by one server at a time', async () => {
    const server = await startServer();
    await expect(startServer(server.dataDir)).rejects.toMatchObject({ code: 'start.second' });
    await server.http.get('/api/health').expect(200);
    await server.close();
  });

  test.each([
    ['emptied', (path: string) => truncateSync(path, 0)],
    ['gone', (path: string) => unlinkSync(path)],
    ['overwritten', (path: string) => writeFileSync(path, 'not a database at all, but longer than its head would be'.repeat(40))],
    [
      'of another program',
      (path: string) => {
        unlinkSync(path);
        new Database(path).exec('CREATE TABLE a (b)').close();
      },
    ],
    [
      'damaged in the middle',
      (path: string) => writeFileSync(path, Buffer.concat([readFileSync(path).subarray(0, 8192), Buffer.alloc(40_000, 7)])),
    ],
  ])('whose database is %s is not opened as an empty shop; the newest backup is named', async (_, harm) => {
    const server = await startServer();
    await newJob(server);
    const { name } = (await server.http.post('/api/backups').expect(201)).body as Backup;
    await server.app.close();
    harm(databasePath(server.dataDir));
    const harmed = existsSync(databasePath(server.dataDir)) ? readFileSync(databasePath(server.dataDir)) : undefined;
    await expect(startServer(server.dataDir)).rejects.toMatchObject({
      code: 'start.database',
      message: expect.stringContaining(name) as unknown as string,
    });
    expect(existsSync(databasePath(server.dataDir)) ? readFileSync(databasePath(server.dataDir)) : undefined).toEqual(harmed);
    rmSync(server.dataDir, { recursive: true, force: true });
  });

  test('is copied before its data are upgraded', async () => {
    const server = await startServer();
    await newJob(server);
    await server.app.close();
    const db = new Database(databasePath(server.dataDir));
    db.exec(
      "DELETE FROM migrations WHERE name LIKE 'Safekeeping%'; DROP INDEX run_place; ALTER TABLE run DROP COLUMN place; DROP TABLE session; DROP TABLE kept_text;",
    );
    db.close();
    const again = await startServer(server.dataDir);
    const list = (await again.http.get('/api/backups').expect(200)).body as Backup[];
    expect(list.map(({ why }) => why)).toContain('before-upgrade');
    await again.close();
  });

  test('is given back when the start fails', () => {
    const dir = mkdtempSync(join(tmpdir(), 'lorvek-start-'));
    mkdirSync(join(dir, 'files'));
    expect(() => takeFolder(dir)).toThrow(/has held a shop/);
    rmSync(join(dir, 'files'), { recursive: true });
    takeFolder(dir)();
    rmSync(dir, { recursive: true, force: true });
  });
});

describe('kept files', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await startServer();
  });
  afterAll(() => server.close());

  test('one that is torn on disk heals when it is brought again', async () => {
    const png = writePng(4, 4, () => [90, 80, 70]);
    const first = (await server.http.post('/api/assets').attach('file', png, 'a.png').expect(201)).body as { asset: string };
    const path = server.app.get(FilesService).path(first.asset);
    truncateSync(path, 20);
    await server.http.post('/api/assets').attach('file', png, 'a.png').expect(201);
    expect(readFileSync(path)).toEqual(Buffer.from(png));
    writeFileSync(path, Buffer.alloc(png.length));
    await server.app.get(FilesService).put(png);
    expect(readFileSync(path)).toEqual(Buffer.from(png));
  });

  test('unfinished ones are swept at the start, whole ones stay', async () => {
    const name = await server.app.get(FilesService).put(Buffer.from('whole'));
    const path = server.app.get(FilesService).path(name);
    writeFileSync(`${path}.0000.tmp`, 'half');
    mkdirSync(join(server.dataDir, 'incoming'), { recursive: true });
    writeFileSync(join(server.dataDir, 'incoming', 'left'), 'half');
    server = await server.restart();
    expect(readdirSync(join(path, '..'))).toEqual([name]);
    expect(existsSync(join(server.dataDir, 'incoming'))).toBe(false);
  });
});

describe('backups', () => {
  test('are brought back, what stood before is one of its own, and pages see the shop as it was', async () => {
    let server = await startServer();
    const id = await newJob(server);
    await server.http
      .post(`/api/jobs/${id}/changes`)
      .send(change(firstPatch(['item-1']), 0))
      .expect(200);
    const backup = (await server.http.post('/api/backups').expect(201)).body as Backup;
    await server.http
      .post(`/api/jobs/${id}/changes`)
      .send(change(wider(40), 1))
      .expect(200);
    const before = (await server.http.post(`/api/backups/${backup.name}/restore`).expect(200)).body as Backup;
    expect(before.why).toBe('before-restore');
    expect(await revisionOf(server, id)).toBe(1);
    await server.http.post(`/api/backups/${before.name}/restore`).expect(200);
    expect(await revisionOf(server, id)).toBe(2);
    server = await server.restart();
    expect(await revisionOf(server, id)).toBe(2);
    await server.close();
  });

  test('as one file are brought back into another shop, with their pictures', async () => {
    const [from, to] = [await startServer(), await startServer()];
    const id = await newJob(from);
    const png = writePng(5, 3, () => [40, 90, 20]);
    const { asset } = (await from.http.post('/api/assets').attach('file', png, 'a.png').expect(201)).body as { asset: string };
    const { name } = (await from.http.post('/api/backups').expect(201)).body as Backup;
    const file = (await from.http.get(`/api/backups/${name}/file`).responseType('blob').expect(200)).body as Buffer;
    await to.http.post('/api/backups/file').attach('file', file, 'shop.tar').expect(200);
    expect(await revisionOf(to, id)).toBe(0);
    await to.http.get(`/api/assets/${asset}`).expect(200);
    // bytes of the database may lie where SQLite itself does not look; they count all the same
    const changed = [600, 1400, 2900, 9000, 20_000, 40_000].map((at) => {
      const copy = Buffer.from(file);
      copy[at] = (copy[at] as number) ^ 0xff;
      return copy;
    });
    for (const bad of [file.subarray(0, 3000), Buffer.from('no tar'), ...changed])
      expect((await to.http.post('/api/backups/file').attach('file', bad, 'x.tar')).status).toBe(400);
    expect(await revisionOf(to, id)).toBe(0);
    await to.http.get('/api/backups/..%2F..%2Fetc%2Fpasswd/file').expect(404);
    await from.close();
    await to.close();
  });

  test('are made by themselves once there is a job, and only so many are kept', async () => {
    const server = await startServer();
    await newJob(server);
    const restarted = await server.restart();
    for (let k = 0; k < 100 && daily(restarted).length === 0; k++) await new Promise((resolve) => setTimeout(resolve, 50));
    expect(daily(restarted)).toHaveLength(1);
    const [newest] = daily(restarted);
    const dir = join(restarted.dataDir, 'backups');
    for (const day of ['01', '02', '03', '04']) copyFileSync(join(dir, newest!), join(dir, `2020-01-${day}T00-00-00-000Z-daily.sqlite`));
    unlinkSync(join(dir, newest!));
    const again = await restarted.restart();
    for (let k = 0; k < 100 && daily(again).length !== 3; k++) await new Promise((resolve) => setTimeout(resolve, 50));
    expect(daily(again)).toHaveLength(3);
    expect(statSync(join(dir, daily(again).at(-1)!)).size).toBeGreaterThan(1000);
    await again.close();
  });
});

const daily = ({ dataDir }: TestServer): string[] => {
  const dir = join(dataDir, 'backups');
  return existsSync(dir)
    ? readdirSync(dir)
        .filter((name) => name.endsWith('-daily.sqlite'))
        .sort()
    : [];
};

test('the commands take a backup and bring it back over a database that is damaged', async () => {
  const server = await startServer();
  const id = await newJob(server);
  const png = writePng(6, 2, () => [9, 9, 9]);
  const { asset } = (await server.http.post('/api/assets').attach('file', png, 'a.png').expect(201)).body as { asset: string };
  await server.app.close();
  const file = join(server.dataDir, '..', `lorvek-taken-${process.pid}.tar`);
  const shop = (...args: string[]): string =>
    execFileSync(process.execPath, ['apps/server/dist/shop.js', ...args], {
      env: { ...process.env, LORVEK_DATA: server.dataDir, NODE_OPTIONS: '' },
      stdio: ['ignore', 'pipe', 'pipe'],
    }).toString();
  expect(shop('backup', file)).toContain('kB');
  writeFileSync(databasePath(server.dataDir), Buffer.alloc(9000, 3));
  rmSync(join(server.dataDir, 'files'), { recursive: true, force: true });
  await expect(startServer(server.dataDir)).rejects.toMatchObject({ code: 'start.database' });
  shop('restore', file);
  const again = await startServer(server.dataDir);
  expect(await revisionOf(again, id)).toBe(0);
  await again.http.get(`/api/assets/${asset}`).expect(200);
  expect(() => shop('restore', 'nowhere.tar')).toThrow();
  await again.close();
  rmSync(file, { force: true });
});

test('a job whose pictures do not go onto the disk any more is refused by that cause, not called damaged', async () => {
  const server = await startServer();
  const id = await newJob(server);
  const png = writePng(5, 3, () => [40, 90, 20]);
  const { asset } = (await server.http.post('/api/assets').attach('file', png, 'a.png').expect(201)).body as { asset: string };
  const picture: PictureItem = {
    type: 'item',
    kind: 'picture',
    id: 'item-3',
    name: 'Photo',
    layer: null,
    matrix: [1, 0, 0, 1, 0, 0],
    asset,
    widthPx: 5,
    heightPx: 3,
    mmPerPx: 0.1,
    strengthPct: 100,
    locked: false,
  };
  const patch = firstPatch(['item-1', 'item-3']);
  await server.http
    .post(`/api/jobs/${id}/changes`)
    .send(change({ ...patch, 'item-3': { before: null, after: picture } }, 0))
    .expect(200);
  const file = (await server.http.get(`/api/jobs/${id}/file`).responseType('blob').expect(200)).body as Buffer;
  const full = jest
    .spyOn(server.app.get(FilesService), 'putFile')
    .mockRejectedValue(Object.assign(new Error('ENOSPC: no space left on device'), { code: 'ENOSPC' }));
  const answer = await server.http.post('/api/jobs/file').attach('file', file, 'k.lorvek-job');
  expect([answer.status, answer.text]).toEqual([507, expect.stringContaining('disk of the server is full')]);
  full.mockRestore();
  await server.http.post('/api/jobs/file').attach('file', file, 'k.lorvek-job').expect(201);
  await server.close();
});

test('a job alone is written to a file and read in another shop; what is no job is refused', async () => {
  const [from, to] = [await startServer(), await startServer()];
  const id = await newJob(from);
  await from.http
    .post(`/api/jobs/${id}/changes`)
    .send(change(firstPatch(['item-1', 'item-2']), 0))
    .expect(200);
  const file = (await from.http.get(`/api/jobs/${id}/file`).responseType('blob').expect(200)).body as Buffer;
  const made = (await to.http.post('/api/jobs/file').attach('file', file, 'k.lorvek-job').expect(201)).body as { id: string; name: string };
  expect(made.name).toBe('Kept');
  const { records } = (await to.http.get(`/api/jobs/${made.id}`).expect(200)).body as { records: Record<string, unknown> };
  expect(records['item-2']).toEqual(box('item-2'));
  for (const bad of [Buffer.from('{}'), file.subarray(0, 700)])
    expect((await to.http.post('/api/jobs/file').attach('file', bad, 'x')).status).toBe(400);
  expect(((await to.http.get('/api/jobs').expect(200)).body as unknown[]).length).toBe(1);
  await from.close();
  await to.close();
});
