/** The queue's order, its log, another machine; what is done at a machine beside its runs; lines that are no sockets. */
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { BenchAnswer, Machine, Run, RunEvent, RunTotals } from '@lorvek/model';
import { SimulatedCutter, startFrontPanel } from '@lorvek/machines';
import { spawn, type ChildProcess } from 'node:child_process';
import { existsSync, mkdtempSync, readlinkSync, rmSync } from 'node:fs';
import { once } from 'node:events';
import type { Server } from 'node:http';
import { createServer, type AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { MachineLine } from '../src/machines/machine-line.ts';
import { addMachines, addStock, change, firstPatch, freePort, startServer, type TestServer } from './support.ts';

let server: TestServer;
let bench: SimulatedCutter;
let camera: SimulatedCutter;
let panels: Server[];
let jobId: string;
const OFF = { x: 0.7, y: -0.3 };

beforeAll(async () => {
  const port = await freePort();
  server = await startServer();
  await addMachines(server, port);
  await addStock(server);
  bench = new SimulatedCutter({ name: 'Bench', port, widthMm: 610, timeScale: 60 });
  camera = new SimulatedCutter({
    name: 'Camera',
    port: port + 2,
    widthMm: 1400,
    timeScale: 60,
    hasCamera: true,
    cameraOff: OFF,
    corrects: false,
  });
  panels = [await startFrontPanel(bench, port + 1), await startFrontPanel(camera, port + 3)];
  await bench.switchOn();
  await camera.switchOn();
  jobId = ((await server.http.post('/api/jobs').send({ name: 'To be cut' })).body as { id: string }).id;
  await server.http
    .post(`/api/jobs/${jobId}/changes`)
    .send(change(firstPatch(['item-1', 'item-2']), 0))
    .expect(200);
});
afterAll(async () => {
  for (const panel of panels) panel.close();
  await bench.switchOff();
  await camera.switchOff();
  await server.close();
});

let orders = 0;
async function send(fields: object = {}, cutter: object = {}): Promise<Run> {
  const order = {
    orderId: `bench-${++orders}-${process.pid}`,
    revision: 1,
    layers: ['film-a'],
    cutter: { machineId: 'machine-bench-610', setupId: 'film', ...cutter },
    ...fields,
  };
  return ((await server.http.post(`/api/jobs/${jobId}/send`).send(order).expect(201)).body as Run[])[0]!;
}
const all = async (): Promise<Run[]> => (await server.http.get('/api/runs').expect(200)).body as Run[];
const runOf = async (id: string): Promise<Run> => (await all()).find((run) => run.id === id)!;
const act = (id: string, action: string, count = 1) => server.http.post(`/api/runs/${id}/actions`).send({ action, count });
const atBench = async (machine: string, order: object): Promise<BenchAnswer> =>
  (await server.http.post(`/api/machines/${machine}/bench`).send({ order }).expect(200)).body as BenchAnswer;

async function until(id: string, state: Run['state']): Promise<Run> {
  for (let k = 0; k < 400; k++) {
    const run = await runOf(id);
    if (run.state === state) return run;
    await wait(50);
  }
  throw new Error(`never ${state}: ${JSON.stringify(await runOf(id))}`);
}

describe('the order of the queue', () => {
  test('runs change places among those that wait for the same machine, and are worked in the new order', async () => {
    const runs = [];
    for (let i = 0; i < 4; i++) runs.push(await send({ hold: true }));
    const [a, b, c, d] = runs.map(({ id }) => id) as [string, string, string, string];
    const waiting = async (): Promise<string[]> =>
      (await all())
        .filter(({ id }) => [a, b, c, d].includes(id))
        .sort((x, y) => x.place - y.place)
        .map(({ id }) => id);
    await server.http.post(`/api/runs/${d}/place`).send({ before: b }).expect(200);
    expect(await waiting()).toEqual([a, d, b, c]);
    await server.http.post(`/api/runs/${a}/place`).send({ before: null }).expect(200);
    expect(await waiting()).toEqual([d, b, c, a]);
    await act(c, 'first').expect(200);
    await act(c, 'first').expect(200);
    expect(await waiting()).toEqual([c, d, b, a]);
    await server.http.post(`/api/runs/${a}/place`).send({ before: 'run-nobody' }).expect(409);
    await server.http.post(`/api/runs/${a}/place`).send({ before: a }).expect(409);
    await act(b, 'cancel').expect(200);
    await server.http.post(`/api/runs/${b}/place`).send({ before: a }).expect(409);
    for (const id of [a, d, c]) await act(id, 'release').expect(200);
    for (const id of [a, d, c]) await until(id, 'done');
    const ended = (await all()).filter(({ id }) => [a, c, d].includes(id)).sort((x, y) => x.endedAt!.localeCompare(y.endedAt!));
    // the first that was let go was under way when the others were
    expect(ended.map(({ id }) => id)).toEqual([a, c, d]);
  });

  test('a run is repeated several times, each with a name of its own; what happened is in its log and in the totals of the day', async () => {
    const run = await until((await send()).id, 'done');
    const before = (await all()).length;
    await act(run.id, 'repeat', 3).expect(200);
    const again = (await all()).slice(0, 3);
    expect((await all()).length).toBe(before + 3);
    expect(new Set(again.map(({ id }) => id)).size).toBe(3);
    await act(run.id, 'repeat', 51).expect(400);
    for (const { id } of again) await until(id, 'done');
    const log = (await server.http.get(`/api/runs/${run.id}/log`).expect(200)).body as RunEvent[];
    expect(log.map(({ text }) => text)).toEqual(['Sent to Bench cutter 610. Waits for its turn.', 'Goes to the machine.', 'Done.']);
    const [from, to] = [new Date(Date.now() - 3600_000), new Date(Date.now() + 3600_000)];
    const totals = (await server.http.get(`/api/runs/totals?from=${from.toISOString()}&to=${to.toISOString()}`).expect(200))
      .body as RunTotals;
    const done = (await all()).filter(({ state }) => state === 'done');
    expect(totals.cuts).toBe(done.length);
    expect(totals.filmMm).toBeCloseTo(
      done.reduce((sum, { lengthMm }) => sum + lengthMm, 0),
      6,
    );
    await server.http.get(`/api/runs/totals?from=${to.toISOString()}&to=${from.toISOString()}`).expect(400);
    expect(await (await server.http.get(`/api/runs?before=${run.place}`).expect(200)).body).not.toContainEqual(
      expect.objectContaining({ id: run.id }),
    );
  });

  test('another machine takes a run when it can, with a file of its own setups, and says why when it cannot', async () => {
    const run = await send({ hold: true });
    const told = async (): Promise<string> =>
      ((await server.http.get(`/api/runs/${run.id}/cut.plt`).responseType('blob').expect(200)).body as Buffer).toString('latin1');
    expect(await told()).toContain('SP1;VS40;FS90;');
    const moved = (await server.http.post(`/api/runs/${run.id}/machine`).send({ machineId: 'machine-camera-1400' }).expect(200))
      .body as Run;
    expect([moved.machineName, moved.state]).toEqual(['Camera cutter 1400', 'held']);
    expect(await told()).toContain('SP1;VS60;FS90;');
    const refused = await server.http.post(`/api/runs/${run.id}/machine`).send({ machineId: 'machine-wide-1600' }).expect(400);
    expect((refused.body as { detail: string }).detail).toMatch(/prints and does not cut/);
    await server.http.patch('/api/machines/machine-bench-610').send({ widthMm: 300 }).expect(200);
    const narrow = await server.http.post(`/api/runs/${run.id}/machine`).send({ machineId: 'machine-bench-610' }).expect(400);
    expect((narrow.body as { detail: string }).detail).toMatch(/610 mm wide; Bench cutter 610 takes 300 mm/);
    await server.http.patch('/api/machines/machine-bench-610').send({ widthMm: 610 }).expect(200);
    await act(run.id, 'release').expect(200);
    await until(run.id, 'done');
    expect(camera.report().sheet).toBeGreaterThan(0);
    await server.http.post(`/api/runs/${run.id}/machine`).send({ machineId: 'machine-bench-610' }).expect(409);
  });

  test('a cut begins where the tool stands when it is told to, all of it moved by as much, and the frame run with it', async () => {
    await atBench('machine-bench-610', { do: 'jog', dx: -2000, dy: -2000 });
    const plain = await until((await send()).id, 'done');
    const pathOf = async (id: string): Promise<number[]> =>
      (
        ((await server.http.get(`/api/runs/${id}/picture.svg`).expect(200)).body as Buffer).toString('utf8').match(/ d="([^"]*)"/)?.[1] ??
        ''
      )
        .match(/-?[\d.]+/g)!
        .map(Number);
    const run = await send({ hold: true });
    await atBench('machine-bench-610', { do: 'jog', dx: 60, dy: 15 });
    const told = (await server.http.post(`/api/runs/${run.id}/origin`).send({ at: 'tool' }).expect(200)).body as Run;
    const { x, y } = (told as Extract<Run, { kind: 'cut' }>).origin!;
    await server.http
      .post(`/api/runs/${run.id}/camera`)
      .send({ order: { do: 'frame' } })
      .expect(200);
    expect(bench.report().x).toBeGreaterThanOrEqual(x);
    await act(run.id, 'release').expect(200);
    await until(run.id, 'done');
    const [before, after] = [await pathOf(plain.id), await pathOf(run.id)];
    expect(after).toHaveLength(before.length);
    for (let i = 0; i < before.length; i += 2) {
      expect(after[i]! - before[i]!).toBeCloseTo(x, 1);
      // pictures are y down
      expect(before[i + 1]! - after[i + 1]!).toBeCloseTo(y, 1);
    }
    await server.http.post(`/api/runs/${run.id}/origin`).send({ at: 'machine' }).expect(409);
  });

  test('kinds of lines with their own setups are looked up on the machine, and refused by name when they are gone', async () => {
    const cutting = { kinds: { film: 'own' } };
    const run = await send({ hold: true }, { cutting });
    const file = await server.http.get(`/api/runs/${run.id}/cut.plt`).responseType('blob').expect(200);
    expect((file.body as Buffer).toString('latin1')).toMatch(/^IN;PA;SP4;\n/);
    const asked = `machine=machine-bench-610&setup=film&cutting=${encodeURIComponent(JSON.stringify(cutting))}`;
    const same = await server.http.get(`/api/jobs/${jobId}/sheets/film-a/cut.plt?${asked}`).responseType('blob').expect(200);
    expect((same.body as Buffer).equals(file.body as Buffer)).toBe(true);
    await server.http.get(`/api/jobs/${jobId}/sheets/film-a/cut.plt?machine=machine-bench-610&setup=film&cutting={`).expect(400);
    const gone = encodeURIComponent(JSON.stringify({ kinds: { film: 'gone' } }));
    await server.http.get(`/api/jobs/${jobId}/sheets/film-a/cut.plt?machine=machine-bench-610&setup=film&cutting=${gone}`).expect(404);
    await act(run.id, 'cancel').expect(200);
  });
});

describe('at the machine', () => {
  test('it is asked who is there, its tool is moved, a small piece is cut; nothing of it while it has a run', async () => {
    expect((await atBench('machine-bench-610', { do: 'try' })).text).toMatch(/^“Bench” answers at 127\.0\.0\.1:\d+ after \d+ ms\.$/);
    const moved = await atBench('machine-bench-610', { do: 'jog', dx: 30, dy: 12.5 });
    expect(moved.place).toEqual({ x: bench.report().x, y: bench.report().y });
    const cut = await atBench('machine-bench-610', { do: 'test-cut', setupId: 'transfer', x: 40, y: 20 });
    expect(cut.ok).toBe(true);
    expect(cut.picture?.match(/<path/g)?.length).toBe(2);
    expect(bench.report().forceGrams).toBe(70);
    await server.http
      .post('/api/machines/machine-bench-610/bench')
      .send({ order: { do: 'test-cut', setupId: 'none', x: 0, y: 0 } })
      .expect(404);
    await server.http
      .post('/api/machines/machine-wide-1600/bench')
      .send({ order: { do: 'jog', dx: 1, dy: 1 } })
      .expect(400);
    bench.options.timeScale = 0.3;
    const run = await send();
    await until(run.id, 'working');
    await server.http
      .post('/api/machines/machine-bench-610/bench')
      .send({ order: { do: 'jog', dx: 1, dy: 1 } })
      .expect(409);
    await act(run.id, 'cancel').expect(200);
    bench.options.timeScale = 60;
    await bench.switchOff();
    expect(await atBench('machine-bench-610', { do: 'jog', dx: 1, dy: 1 })).toMatchObject({
      ok: false,
      text: expect.stringMatching(/does not answer/),
    });
    await bench.switchOn();
  });

  test('where the camera looks is found by a square that the tool drew, stored, and checked by a second one', async () => {
    await server.http.patch('/api/machines/machine-camera-1400').send({ calibration: null }).expect(200);
    const place = { x: 60, y: 60 };
    expect(await atBench('machine-camera-1400', { do: 'calibrate-check', setupId: 'film', ...place })).toMatchObject({ ok: false });
    await atBench('machine-camera-1400', { do: 'calibrate-draw', setupId: 'film', ...place });
    await server.http.get('/api/machines/machine-camera-1400/camera.svg').expect(200);
    const found = await atBench('machine-camera-1400', { do: 'calibrate-find', ...place });
    expect(found.machine?.calibration?.dx).toBeCloseTo(OFF.x, 1);
    expect(found.machine?.calibration?.dy).toBeCloseTo(OFF.y, 1);
    const checked = await atBench('machine-camera-1400', { do: 'calibrate-check', setupId: 'film', ...place });
    expect(checked).toMatchObject({ ok: true, machine: { calibration: { checked: true } } });
    // an offset that is wrong is found out by the second look
    await server.http
      .patch('/api/machines/machine-camera-1400')
      .send({ calibration: { dx: 2, dy: 0, checked: true } })
      .expect(200);
    expect(await atBench('machine-camera-1400', { do: 'calibrate-check', setupId: 'film', ...place })).toMatchObject({
      ok: false,
      machine: { calibration: { checked: false } },
    });
  });

  test('a blade test tries offsets about the one that is set, and what can go wrong is switched where it is simulated', async () => {
    const tried = await atBench('machine-camera-1400', { do: 'blade-test', setupId: 'film', x: 10, y: 10 });
    expect(tried.offsets).toEqual([0.15, 0.2, 0.25, 0.3, 0.35]);
    expect(tried.picture).toContain('<path');
    const faults = await atBench('machine-bench-610', { do: 'faults' });
    expect(faults.faults?.map(({ name }) => name)).toContain('line-lost');
    const set = await atBench('machine-bench-610', { do: 'fault', name: 'slow', value: 3 });
    expect(set.faults?.find(({ name }) => name === 'slow')?.value).toBe(3);
    expect(bench.faults.get('slow')).toBe(3);
    await atBench('machine-bench-610', { do: 'fault', name: 'slow', value: null });
    expect(bench.faults.has('slow')).toBe(false);
    expect((await atBench('machine-bench-610', { do: 'fault', name: 'unheard-of', value: 1 })).ok).toBe(false);
  });
});

test('what a machine does not take any more keeps nobody waiting who has given it up', async () => {
  const full = createServer((socket) => socket.pause().on('error', () => undefined)).listen(0, '127.0.0.1');
  await once(full, 'listening');
  const { port } = full.address() as AddressInfo;
  const line = await MachineLine.open({ host: '127.0.0.1', port, connection: null }, []);
  const stop = new AbortController();
  setTimeout(() => stop.abort(), 100);
  await expect(line.pour(Buffer.alloc(64 * 2 ** 20), stop.signal)).rejects.toMatchObject({ fault: 'aborted' });
  await expect(line.flush(stop.signal)).rejects.toMatchObject({ fault: 'aborted' });
  await line.close();
  full.close();
});

const SOCAT = '/usr/bin/socat';
(existsSync(SOCAT) ? describe : describe.skip)('lines that are no sockets (skipped without socat)', () => {
  let dir: string;
  let line: ChildProcess;
  let device: string;

  beforeAll(async () => {
    dir = mkdtempSync(join(tmpdir(), 'lorvek-line-'));
    const link = join(dir, 'line');
    line = spawn(SOCAT, [`pty,raw,echo=0,link=${link}`, `TCP:127.0.0.1:${bench.options.port}`]);
    for (let k = 0; k < 100 && !existsSync(link); k++) await wait(20);
    device = readlinkSync(link);
  });
  afterAll(() => {
    line.kill();
    rmSync(dir, { recursive: true, force: true });
  });

  const connect = (connection: object) => server.http.patch('/api/machines/machine-bench-610').send({ connection });

  test.each([
    ['a serial line', { by: 'serial', baud: 9600, flow: 'none', answers: true }, null],
    ['a device file', { by: 'device', answers: true }, null],
    ['a device file that never answers', { by: 'device', answers: false }, /look whether it has done it/],
  ])('%s takes a run to its end', async (_name, connection, reason) => {
    await connect({ ...connection, path: device }).expect(200);
    const sheets = bench.report().sheet;
    const run = await until((await send()).id, 'done');
    for (let k = 0; k < 100 && (bench.report().sheet === sheets || bench.report().state !== 'ready'); k++) await wait(20);
    expect(bench.report().sheet).toBeGreaterThan(sheets);
    expect(bench.report().cutMm).toBeGreaterThan(100);
    if (reason) expect(run.reason).toMatch(reason);
    else expect(run.reason).toBeNull();
    expect((await atBench('machine-bench-610', { do: 'try' })).ok).toBe(true);
    await server.http.patch('/api/machines/machine-bench-610').send({ connection: null }).expect(200);
  });

  test('nothing of the system but machines is opened', async () => {
    for (const path of ['/etc/passwd', '/dev/sda', '/dev/pts/../sda', '/dev/mem', `${dir}/line`])
      await connect({ by: 'device', path, answers: true }).expect(400);
    await connect({ by: 'device', path: '/dev/ttyNobody', answers: true }).expect(200);
    expect(await atBench('machine-bench-610', { do: 'try' })).toMatchObject({ ok: false });
    await connect({ by: 'network' }).expect(200);
    const [machine] = (await server.http.get('/api/machines').expect(200)).body as Machine[];
    expect(machine?.connection).toEqual({ by: 'network' });
  });
});
