/** The watched folder and what films bear, over HTTP. */
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { mkdirSync, symlinkSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Inbox, StockFilm } from '@lorvek/model';
import { startServer, type TestServer } from './support.ts';

let server: TestServer;
beforeEach(async () => {
  server = await startServer();
});
afterEach(() => server.close());

const list = async (): Promise<Inbox> => (await server.http.get('/api/inbox').expect(200)).body as Inbox;

/** Asks until it is so. */
async function until<T>(ask: () => Promise<T>, isSo: (value: T) => boolean): Promise<T> {
  for (let i = 0; i < 60; i++) {
    const value = await ask();
    if (isSo(value)) return value;
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
  throw new Error('it never came');
}

test('what is saved into the folder appears, is handed out by its id, and has another stamp when saved again', async () => {
  const path = join(server.dataDir, 'inbox', 'Möwe logo.svg');
  writeFileSync(path, '<svg/>');
  const [file] = (await until(list, ({ files }) => files.length === 1)).files;
  expect(file).toMatchObject({ name: 'Möwe logo.svg', bytes: 6 });
  const answer = await server.http.get(`/api/inbox/${file?.id ?? ''}`).expect(200);
  expect(answer.headers['content-type']).toContain('octet-stream');
  expect((answer.body as Buffer).toString()).toBe('<svg/>');
  writeFileSync(path, '<svg></svg>');
  const again = await until(list, ({ files }) => files[0]?.bytes === 11);
  expect(again.files[0]?.id).toBe(file?.id);
  expect(again.files[0]?.stamp).not.toBe(file?.stamp);
});

test('folders, links, half-written and hidden files do not appear; an id is no path', async () => {
  const inbox = join(server.dataDir, 'inbox');
  mkdirSync(join(inbox, 'folder'));
  symlinkSync('/etc/hostname', join(inbox, 'link.svg'));
  for (const name of ['.hidden.svg', 'half.svg.part', 'empty.svg']) writeFileSync(join(inbox, name), name === 'empty.svg' ? '' : 'x');
  writeFileSync(join(inbox, 'real.dxf'), 'x');
  const { files } = await until(list, (inboxNow) => inboxNow.files.length > 0);
  expect(files.map(({ name }) => name)).toEqual(['real.dxf']);
  for (const id of ['real.dxf', '..%2Fsecret', encodeURIComponent('../../etc/passwd')])
    expect((await server.http.get(`/api/inbox/${id}`)).status).toBeGreaterThanOrEqual(400);
});

test('limits of a film: usual ones for a new film, changed and kept, refused when impossible', async () => {
  const film = (
    await server.http
      .post('/api/stock')
      .send({ series: 'Tidewater', name: 'Kelp', hex: '#335533', pricePerMetre: 5, widthMm: 610, lengthMm: 5000 })
      .expect(201)
  ).body as StockFilm;
  expect(film).toMatchObject({ smallestPartMm: 2, thinnestMm: 0.8 });
  await server.http.patch(`/api/stock/films/${film.id}`).send({ thinnestMm: 1.25 }).expect(200);
  await server.http.patch(`/api/stock/films/${film.id}`).send({ thinnestMm: -1 }).expect(400);
  await server.http.patch('/api/stock/films/none').send({ thinnestMm: 1 }).expect(404);
  const [kept] = (await server.http.get('/api/stock').expect(200)).body as StockFilm[];
  expect(kept).toMatchObject({ smallestPartMm: 2, thinnestMm: 1.25 });
});
