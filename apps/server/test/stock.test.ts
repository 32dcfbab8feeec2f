/** Stock: offcuts that come back, inks that are used up, lists in and out, labels, what was used. */
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { PDFDocument } from '@cantoo/pdf-lib';
import { SimulatedCutter } from '@lorvek/machines';
import type { Leftover, Run, StockFilm, StockReading, Supply, Usage } from '@lorvek/model';
import { setTimeout as wait } from 'node:timers/promises';
import { RunRow } from '../src/db/entities.ts';
import { Tx } from '../src/db/tx.ts';
import { RunsStore } from '../src/queue/runs.store.ts';
import { addMachines, addStock, change, firstPatch, startServer, type TestServer } from './support.ts';

let server: TestServer;
let cutter: SimulatedCutter;
let jobId: string;
const stock = async (): Promise<StockFilm[]> => (await server.http.get('/api/stock').expect(200)).body as StockFilm[];

beforeAll(async () => {
  server = await startServer();
  await addMachines(server, 1);
  await addStock(server);
  cutter = new SimulatedCutter({ name: 'Bench', port: 0, widthMm: 610, timeScale: 80 });
  await server.http
    .patch('/api/machines/machine-bench-610')
    .send({ port: await cutter.switchOn(), reportPort: null })
    .expect(200);
  jobId = ((await server.http.post('/api/jobs').send({ name: 'Plates' })).body as { id: string }).id;
  await server.http
    .post(`/api/jobs/${jobId}/changes`)
    .send(change(firstPatch(['item-1']), 0))
    .expect(200);
});
afterAll(async () => {
  await cutter.switchOff();
  await server.close();
});

async function cut(): Promise<Run> {
  const sent = await server.http
    .post(`/api/jobs/${jobId}/send`)
    .send({ orderId: `stock-${Date.now()}`, revision: 1, layers: ['film-a'], cutter: { machineId: 'machine-bench-610', setupId: 'film' } })
    .expect(201);
  const [{ id }] = sent.body as [Run];
  for (let k = 0; k < 200; k++) {
    const run = ((await server.http.get('/api/runs').expect(200)).body as Run[]).find((one) => one.id === id)!;
    if (run.state === 'done') return run;
    await wait(40);
  }
  throw new Error('never done');
}

describe('stock', () => {
  test('what is left of a sheet goes back once, with its shape; what was used stands in its month', async () => {
    const run = await cut();
    const { left } = (await server.http.get(`/api/runs/${run.id}/offcut`).expect(200)).body as { left: NonNullable<Leftover['left']> };
    expect(left.widthMm).toBeGreaterThan(500);
    expect(left.lengthMm).toBeCloseTo(run.lengthMm, 0);
    const [one, two] = await Promise.all([1, 2].map(() => server.http.post(`/api/runs/${run.id}/offcut`).send({})));
    expect([one!.status, two!.status].sort()).toEqual([200, 409]);
    const [film] = await stock();
    const offcuts = film!.rolls.filter(({ isOffcut }) => isOffcut);
    expect(offcuts).toHaveLength(1);
    expect(offcuts[0]).toMatchObject({ widthMm: left.widthMm, lengthLeftMm: left.lengthMm, outline: left.path });
    expect((await server.http.get(`/api/runs/${run.id}/offcut`).expect(200)).body).toEqual({ left: null });
    const usage = (await server.http.get('/api/stock/usage?months=3').expect(200)).body as Usage[];
    expect(usage).toHaveLength(3);
    expect(usage.at(-1)).toMatchObject({
      month: new Date().toISOString().slice(0, 7),
      films: [{ title: 'Test Deep teal', hex: '#0f5e66' }],
    });
    expect(usage.at(-1)!.films[0]!.mm).toBeCloseTo(run.lengthMm, 6);
    expect(usage[0]!.films).toEqual([]);
    const label = await server.http.get(`/api/stock/rolls/${offcuts[0]!.id}/label.pdf`).responseType('blob').expect(200);
    const { width, height } = (await PDFDocument.load(label.body as Buffer)).getPage(0).getSize();
    expect([width, height].map((v) => Math.round((v * 25.4) / 72))).toEqual([90, 45]);
    await server.http.get('/api/stock/rolls/none/label.pdf').expect(404);
  });

  test('ink is taken off the one of its plate, never below nothing; a plate has one ink', async () => {
    const add = (fields: object) =>
      server.http.post('/api/stock/supplies').send({ kind: 'ink', name: 'Cyan', plate: 'Cyan', left: 2, ...fields });
    const made = (await add({}).expect(201)).body as Supply;
    await add({ name: 'Another cyan' }).expect(409);
    await add({ name: '', plate: 'Black' }).expect(400);
    const [{ id }] = (await server.http.get('/api/runs').expect(200)).body as [Run];
    const store = server.app.get(RunsStore);
    const use = async (ml: number): Promise<void> => {
      await server.app.get(Tx).run((manager) => manager.update(RunRow, { id }, { state: 'working' }));
      await store.finish(await store.row(id), { pictureFile: null, offMm: null, inkMl: { Cyan: ml, Unheard: 5 }, reason: null });
    };
    await use(0.5);
    expect((await server.http.get('/api/stock/supplies')).body).toMatchObject([{ id: made.id, left: 1.5 }]);
    await use(9);
    expect((await server.http.get('/api/stock/supplies')).body).toMatchObject([{ left: 0 }]);
    await server.http.patch(`/api/stock/supplies/${made.id}`).send({ left: 600, reorderAt: 100 }).expect(200);
    await server.http.delete(`/api/stock/supplies/${made.id}`).expect(200);
    expect((await server.http.get('/api/stock/supplies')).body).toEqual([]);
  });

  test('a print takes its laminate off what is left of it, never below nothing; one that is gone is no error', async () => {
    const fields = { kind: 'laminate', name: 'Matt', widthMm: 1370, left: 500 };
    const { id: laminateId } = (await server.http.post('/api/stock/supplies').send(fields).expect(201)).body as Supply;
    const [{ id }] = (await server.http.get('/api/runs').expect(200)).body as [Run];
    const store = server.app.get(RunsStore);
    const use = async (lengthMm: number): Promise<boolean> => {
      await server.app.get(Tx).run((manager) => manager.update(RunRow, { id }, { state: 'working', laminateId, lengthMm }));
      return store.finish(await store.row(id), { pictureFile: null, offMm: null, inkMl: null, reason: null });
    };
    expect(await use(180)).toBe(true);
    expect((await server.http.get('/api/stock/supplies')).body).toMatchObject([{ id: laminateId, left: 320 }]);
    const [month] = (await server.http.get('/api/stock/usage?months=1').expect(200)).body as [Usage];
    expect(month.films).toContainEqual(expect.objectContaining({ title: 'Matt', mm: 180 }));
    await use(1000);
    expect((await server.http.get('/api/stock/supplies')).body).toMatchObject([{ left: 0 }]);
    await server.http.delete(`/api/stock/supplies/${laminateId}`).expect(200);
    expect(await use(10)).toBe(true);
  });

  test('a list is looked at before it is taken, adds and changes, takes nothing away, and is taken whole or not at all', async () => {
    const send = (text: string, dry: boolean, encoding: BufferEncoding = 'utf8') =>
      server.http.post('/api/stock/list').send({ bytes: Buffer.from(text, encoding).toString('base64'), name: 'stock.csv', dry });
    const text =
      'series;name;colour;kind;price per metre;width mm;length m\nTest;Deep teal;;;14,5;610;8\nNew;Clear;#eef2f1;print clear;9;1370;20\nNew;Clear;;;;1370;11\n';
    const before = await stock();
    expect((await send(text, true).expect(200)).body).toEqual({ fresh: ['New Clear'], changed: ['Test Deep teal'], same: 0, wrong: [] });
    expect(await stock()).toEqual(before);
    await send(text, false).expect(200);
    const after = await stock();
    expect(after.find(({ name }) => name === 'Deep teal')).toMatchObject({ pricePerMetre: 14.5, hex: '#0f5e66' });
    expect(after.find(({ name }) => name === 'Deep teal')!.rolls.find(({ isOffcut }) => !isOffcut)!.lengthLeftMm).toBe(8000);
    expect(after.find(({ name }) => name === 'Clear')).toMatchObject({
      medium: 'clear',
      rolls: [{ lengthLeftMm: 20_000 }, { lengthLeftMm: 11_000 }],
    });
    expect((await send(text, true).expect(200)).body).toMatchObject({ fresh: [], changed: [], same: 2 } satisfies Partial<StockReading>);
    const bad = `${text}Test;Wrong;blue;;1;610;1\n`;
    expect(((await send(bad, true).expect(200)).body as StockReading).wrong).toEqual([
      { row: 5, text: expect.stringMatching(/^colour: /) },
    ]);
    const refused = await send(bad, false).expect(400);
    expect((refused.body as { detail: string }).detail).toMatch(/Row 5: colour.*Nothing was changed/);
    await send('\x89PNG\r\n', true, 'latin1').expect(400);
    // what goes out comes in as the same
    const out = await server.http.get('/api/stock/list.csv').responseType('blob').expect(200);
    expect((await send((out.body as Buffer).toString('utf8'), true).expect(200)).body).toMatchObject({ fresh: [], changed: [], wrong: [] });
  });

  test('a level to order again at is kept', async () => {
    await server.http.patch('/api/stock/films/s').send({ reorderMm: 5000 }).expect(200);
    expect((await stock()).find(({ id }) => id === 's')?.reorderMm).toBe(5000);
    await server.http.patch('/api/stock/films/s').send({ reorderMm: null }).expect(200);
    expect((await stock()).find(({ id }) => id === 's')?.reorderMm).toBeNull();
  });
});
