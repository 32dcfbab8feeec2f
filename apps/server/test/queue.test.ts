import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { CutRun, Machine, Run } from '@lorvek/model';
import { SimulatedCutter, startFrontPanel } from '@lorvek/machines';
import type { Server } from 'node:http';
import { setTimeout as wait } from 'node:timers/promises';
import { RunRow } from '../src/db/entities.ts';
import { Tx } from '../src/db/tx.ts';
import { RunsStore } from '../src/queue/runs.store.ts';
import { addMachines, addStock, change, firstPatch, freePort, startServer, type TestServer } from './support.ts';

let server: TestServer;
let cutter: SimulatedCutter;
let panel: Server;
let jobId: string;

beforeAll(async () => {
  const port = await freePort();
  server = await startServer();
  await addMachines(server, port);
  cutter = new SimulatedCutter({ name: 'Test cutter', port, widthMm: 610, timeScale: 20 });
  await addStock(server);
  panel = await startFrontPanel(cutter, port + 1);
  await cutter.switchOn();
  jobId = ((await server.http.post('/api/jobs').send({ name: 'To be cut' })).body as { id: string }).id;
  await server.http
    .post(`/api/jobs/${jobId}/changes`)
    .send(change(firstPatch(['item-1', 'item-2']), 0))
    .expect(200);
});
afterAll(async () => {
  panel.close();
  await cutter.switchOff();
  await server.close();
});

let orders = 0;
const order = (fields: object = {}) => ({
  orderId: `order-${++orders}-${process.pid}`,
  revision: 1,
  layers: ['film-a'],
  cutter: { machineId: 'machine-bench-610', setupId: 'film' },
  ...fields,
});
const send = async (fields: object = {}): Promise<Run> =>
  ((await server.http.post(`/api/jobs/${jobId}/send`).send(order(fields)).expect(201)).body as Run[])[0]!;
const runOf = async (id: string): Promise<Run> =>
  ((await server.http.get('/api/runs').expect(200)).body as Run[]).find((run) => run.id === id)!;
const act = (id: string, action: string) => server.http.post(`/api/runs/${id}/actions`).send({ action });

async function until(id: string, state: Run['state']): Promise<Run> {
  for (let k = 0; k < 400; k++) {
    const run = await runOf(id);
    if (run.state === state) return run;
    await wait(50);
  }
  throw new Error(`never ${state}: ${JSON.stringify(await runOf(id))}`);
}

describe('the queue', () => {
  test('cuts a sheet and keeps the picture that the machine left', async () => {
    const run = await until((await send()).id, 'done');
    expect([run.progress, run.hasPicture, run.reason]).toEqual([1, true, null]);
    const picture = (await server.http.get(`/api/runs/${run.id}/picture.svg`).expect(200)).body as Buffer;
    // the same box twice, and the weed box
    expect(String(picture).match(/<path/g)?.length).toBe(3);
    const file = await server.http.get(`/api/runs/${run.id}/cut.plt`).responseType('blob').expect(200);
    expect((file.body as Buffer).toString('latin1')).toMatch(/^IN;PA;SP1;VS40;FS90;/);
  });

  test('takes the same order once, refuses one for another state of the drawing, and what has nothing to cut', async () => {
    const twice = order({ hold: true });
    const [a, b] = await Promise.all([
      server.http.post(`/api/jobs/${jobId}/send`).send(twice),
      server.http.post(`/api/jobs/${jobId}/send`).send(twice),
    ]);
    const again = await server.http.post(`/api/jobs/${jobId}/send`).send(twice);
    expect((again.body as Run[]).map((run) => run.id)).toEqual((a.body as Run[]).map((run) => run.id));
    expect((b.body as Run[]).map((run) => run.id)).toEqual((a.body as Run[]).map((run) => run.id));
    expect([a.status, b.status]).toEqual([201, 201]);
    await server.http
      .post(`/api/jobs/${jobId}/send`)
      .send(order({ revision: 0 }))
      .expect(409);
    await server.http
      .post(`/api/jobs/${jobId}/send`)
      .send(order({ layers: ['film-z'] }))
      .expect(422);
    await server.http
      .post(`/api/jobs/${jobId}/send`)
      .send(order({ cutter: { machineId: 'nobody', setupId: 'film' } }))
      .expect(404);
  });

  test('holds, releases, pauses, resumes, cancels and repeats, and refuses what makes no sense', async () => {
    cutter.options.timeScale = 1;
    const held = await send({ hold: true });
    expect(held.state).toBe('held');
    await act(held.id, 'pause').expect(409);
    await act(held.id, 'release').expect(200);
    await until(held.id, 'working');
    await act(held.id, 'pause').expect(200);
    expect((await runOf(held.id)).state).toBe('paused');
    await act(held.id, 'resume').expect(200);
    await act(held.id, 'cancel').expect(200);
    expect((await runOf(held.id)).state).toBe('cancelled');
    cutter.options.timeScale = 40;
    const again = (await act(held.id, 'repeat').expect(200)).body as Run;
    await until(again.id, 'done');
  });

  test('a machine that is off, and a line that breaks, need a person and are cut on retry', async () => {
    await cutter.switchOff();
    const run = await send();
    expect((await until(run.id, 'needs-you')).reason).toMatch(/does not answer/);
    await cutter.switchOn();
    await act(run.id, 'retry').expect(200);
    await until(run.id, 'done');
    cutter.options.timeScale = 0.5;
    const broken = await send();
    while (cutter.report().state !== 'cutting') await wait(20);
    cutter.dropConnections();
    expect((await until(broken.id, 'needs-you')).reason).toMatch(/broke after/);
    cutter.options.timeScale = 40;
    await act(broken.id, 'cancel').expect(200);
  });

  /** A run that is some way on. */
  async function begun(): Promise<Run> {
    const { sheet } = cutter.report();
    cutter.options.timeScale = 1;
    const run = await send();
    for (let k = 0; (cutter.report().sheet === sheet || cutter.report().cutMm < 130) && k < 1000; k++) await wait(10);
    cutter.options.timeScale = 0.05;
    return run;
  }

  test('a cut whose line broke goes on where it stopped, on the same sheet', async () => {
    const run = await begun();
    const sheet = cutter.report().sheet;
    cutter.dropConnections();
    const stopped = await until(run.id, 'needs-you');
    expect(stopped.reason).toMatch(/go on from there/);
    expect(stopped.progress).toBeGreaterThan(0);
    expect(stopped.progress).toBeLessThan(1);
    cutter.options.timeScale = 40;
    // a machine that does not answer takes nothing away from how far it is
    await cutter.switchOff();
    await act(run.id, 'go-on').expect(200);
    const still = await until(run.id, 'needs-you');
    expect([still.progress, still.reason]).toEqual([stopped.progress, expect.stringMatching(/does not answer.*had been cut before/)]);
    await cutter.switchOn();
    await act(run.id, 'go-on').expect(200);
    const done = await until(run.id, 'done');
    expect([done.hasPicture, cutter.report().sheet]).toEqual([true, sheet]);
    // all of it was cut, and no more twice than the line that was under way
    expect(cutter.report().cutMm).toBeGreaterThan((done as CutRun).cutMm - 1);
    expect(cutter.report().cutMm).toBeLessThan(1.7 * (done as CutRun).cutMm);
    await act(run.id, 'go-on').expect(409);
  });

  test('a cut that was to go on is cut from its beginning when another run comes before it', async () => {
    cutter.options.timeScale = 40;
    const tx = server.app.get(Tx);
    const toGoOn = async (): Promise<string> => {
      const { id } = await send({ hold: true });
      await tx.run((manager) => manager.update(RunRow, { id }, { goOnAt: 0.4, progress: 0.4 }));
      return id;
    };
    const asItIs = async (id: string) => {
      const { goOnAt, progress } = await server.app.get(RunsStore).row(id);
      return { goOnAt, progress };
    };
    const held = await toGoOn();
    await until((await send()).id, 'done');
    expect(await asItIs(held)).toEqual({ goOnAt: null, progress: 0 });
    const next = await toGoOn();
    await act(next, 'release').expect(200);
    await until(next, 'done');
    // its own start is no other run
    expect((await asItIs(next)).goOnAt).toBe(0.4);
    await act(held, 'cancel').expect(200);
  });

  test('what is not known to have begun does not go on', async () => {
    await cutter.switchOff();
    const run = await send();
    await until(run.id, 'needs-you');
    const refused = (await act(run.id, 'go-on').expect(409)).body as { detail: string };
    expect(refused.detail).toMatch(/is not known/);
    await act(run.id, 'cancel').expect(200);
    await cutter.switchOn();
  });

  test('a roll or machine that a run is to use is not taken away; others are', async () => {
    const run = await send({ hold: true });
    expect((await server.http.delete('/api/stock/rolls/roll-s').expect(409)).body).toMatchObject({ type: 'input.state' });
    await server.http.delete('/api/stock/films/s').expect(409);
    await server.http.delete('/api/machines/machine-bench-610').expect(409);
    const roll = (await server.http.post('/api/stock/films/s/rolls').send({ widthMm: 1220, lengthLeftMm: 5000 }).expect(201)).body as {
      id: string;
    };
    // two rolls that would do: none is taken by itself
    await server.http.post(`/api/jobs/${jobId}/send`).send(order()).expect(422);
    await server.http.delete(`/api/stock/rolls/${roll.id}`).expect(200);
    await server.http.post('/api/stock/films/none/rolls').send({ widthMm: 610, lengthLeftMm: 5000 }).expect(404);
    await server.http.post('/api/stock/films/s/rolls').send({ widthMm: 1, lengthLeftMm: 5000 }).expect(400);
    const machines = (await server.http.get('/api/machines').expect(200)).body as Machine[];
    const { id: _id, kind: _kind, ...fields } = machines[0]!;
    const copy = (
      await server.http
        .post('/api/machines')
        .send({ ...fields, name: 'Another' })
        .expect(201)
    ).body as Machine;
    await server.http
      .post('/api/machines')
      .send({ ...fields, host: '93.184.216.34' })
      .expect(400);
    await server.http.delete(`/api/machines/${copy.id}`).expect(200);
    await server.http.patch('/api/stock/films/s').send({ name: 'Deeper teal', hex: '#0A4A50', pricePerMetre: 12.5 }).expect(200);
    const [film] = (await server.http.get('/api/stock').expect(200)).body as { name: string; hex: string; pricePerMetre: number }[];
    expect(film).toMatchObject({ name: 'Deeper teal', hex: '#0a4a50', pricePerMetre: 12.5 });
    await act(run.id, 'cancel').expect(200);
  });

  test('a run under way when the server stops is not sent again by itself', async () => {
    cutter.options.timeScale = 0.2;
    const run = await send();
    await until(run.id, 'working');
    server = await server.restart();
    const after = await until(run.id, 'needs-you');
    expect(after.reason).toMatch(/server stopped|broke after/);
    await act(run.id, 'cancel').expect(200);
    // one that is some way on says how far, and goes on when it is told to
    const other = await begun();
    await wait(1500);
    server = await server.restart();
    const stopped = await until(other.id, 'needs-you');
    expect(stopped.progress).toBeGreaterThan(0);
    expect(stopped.reason).toMatch(/go on from there/);
    cutter.options.timeScale = 40;
    await act(other.id, 'go-on').expect(200);
    await until(other.id, 'done');
  });
});
