/** Cutters that stop when they are told, and things at a machine's address that are no cutters. */
import { afterAll, afterEach, beforeAll, describe, expect, test } from '@jest/globals';
import type { Run } from '@lorvek/model';
import fc from 'fast-check';
import { SimulatedCutter, startFrontPanel } from '@lorvek/machines';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Server } from 'node:http';
import { createServer, type Server as NetServer, type Socket } from 'node:net';
import { setTimeout as wait } from 'node:timers/promises';
import { RunRow } from '../src/db/entities.ts';
import { Tx } from '../src/db/tx.ts';
import { cutPieces, PIECE_MM, restOf } from '../src/machines/cut-pieces.ts';
import { CutterDriver } from '../src/machines/cutter.driver.ts';
import { DriverError } from '../src/machines/driver-error.ts';
import { addMachines, addStock, change, firstPatch, startServer, type TestServer } from './support.ts';

const listen = (server: NetServer): Promise<number> =>
  new Promise((resolve) => server.listen(0, '127.0.0.1', () => resolve((server.address() as { port: number }).port)));

const bytesOf = (text: string): Uint8Array => Buffer.from(text, 'latin1');
/** A square and a long line. */
const FILE_PATH = join(mkdtempSync(join(tmpdir(), 'lorvek-file-')), 'cut.plt');
const driverAt = (host: string, port: number): CutterDriver =>
  new CutterDriver({ id: 'm', kind: 'cutter', name: 'Test', host, port, reportPort: null, widthMm: 610, setups: [] }, []);
const FILE = bytesOf('IN;PA;SP1;VS40;FS90;\nPU0,0;PD1600,0,1600,1600,0,1600,0,0;PU;PU4000,0;PD4000,20000;PU;\nPU0,0;SP0;\n');
writeFileSync(FILE_PATH, FILE);

/** Strokes of commands in absolute HP-GL, each with the tool that makes it. */
function strokesOf(text: string, tool = ''): { strokes: Set<string>; tool: string } {
  const strokes = new Set<string>();
  let [at, own] = ['', tool];
  for (const command of text.split(';').map((one) => one.trim())) {
    if (command.startsWith('SP')) own = command;
    if (!/^P[UD]-?\d/.test(command)) continue;
    const to = command.slice(2);
    if (command.startsWith('PD')) strokes.add(`${own} ${[at, to].sort().join(' ')}`);
    at = to;
  }
  return { strokes, tool: own };
}

describe('a cut that goes on', () => {
  test('law: with what was done for certain the rest is the whole, by the same tools, and nothing is initialised', () => {
    const place = fc.integer({ min: 0, max: 12_000 });
    const line = fc.array(fc.tuple(place, place), { minLength: 2, maxLength: 6 });
    const section = fc.record({ tool: fc.integer({ min: 1, max: 4 }), lines: fc.array(line, { minLength: 1, maxLength: 4 }) });
    fc.assert(
      fc.property(fc.array(section, { minLength: 1, maxLength: 3 }), fc.nat(), (sections, at) => {
        const body = sections.map(({ tool, lines }) => {
          const paths = lines.map(([first, ...others]) => `PU${first!.join()};PD${others.map((one) => one.join()).join()};PU;`);
          return `SP${tool};VS40;FS${80 + tool};${paths.join('')}`;
        });
        const pieces = cutPieces(bytesOf(`IN;PA;${body.join('\n')}PU0,0;SP0;\n`));
        const done = at % pieces.length;
        const { from, pieces: rest } = restOf(pieces, done);
        expect(from).toBeLessThanOrEqual(done);
        expect(from + rest.length).toBe(pieces.length);
        const text = rest.map((piece) => piece.text).join('');
        expect(text.startsWith('PU;')).toBe(true);
        expect(text).not.toContain('IN;');
        const before = strokesOf(
          pieces
            .slice(0, done)
            .map((piece) => piece.text)
            .join(''),
        );
        const whole = strokesOf(pieces.map((piece) => piece.text).join('')).strokes;
        const after = strokesOf(text).strokes;
        expect(new Set([...before.strokes, ...after])).toEqual(whole);
        // force and speed come with the tool, once, and no other tool is taken up for nothing
        expect(text.indexOf('SP')).toBeLessThan(text.includes('PD') ? text.indexOf('PD') : Infinity);
        expect(rest.at(-1)!.end).toEqual(pieces.at(-1)!.end);
      }),
      { numRuns: 200 },
    );
  });
});

describe('a cut file in pieces', () => {
  const pieces = cutPieces(FILE);

  test('has no piece longer than a moment of cutting, and goes the same way', () => {
    expect(Math.max(...pieces.map(({ wayMm }) => wayMm))).toBeLessThanOrEqual(2 * PIECE_MM);
    const text = pieces.map((piece) => piece.text).join('');
    expect(text.startsWith('IN;PA;SP1;VS40;FS90;PU0,0;')).toBe(true);
    expect(text.endsWith('PU0,0;SP0;')).toBe(true);
    const places = [...text.matchAll(/P[UD](-?\d+),(-?\d+);/g)].map(([, x, y]) => [Number(x), Number(y)]);
    for (const corner of [
      [1600, 0],
      [1600, 1600],
      [0, 1600],
      [4000, 20000],
    ])
      expect(places).toContainEqual(corner);
    for (const [x, y] of places) expect((x === 4000 && y! <= 20000) || (x! <= 4000 && (y === 0 || y! <= 20000))).toBe(true);
    expect(pieces.reduce((sum, { wayMm }) => sum + wayMm, 0)).toBeCloseTo(160 + 100 + 500 + Math.hypot(100, 500), 3);
  });

  test('says where each piece ends, so that the machine’s answer can be looked at', () => {
    expect(pieces.at(-1)?.end).toEqual([0, 0]);
    expect(pieces.every(({ end }, i) => end !== undefined || i === 0)).toBe(true);
  });
});

describe('what is at the address', () => {
  let server: NetServer | undefined;
  const sockets = new Set<Socket>();
  afterEach(() => {
    for (const socket of sockets) socket.destroy();
    server?.close();
  });

  const deliver = async (behave: (socket: Socket) => void, stop = new AbortController()): Promise<string> => {
    server = createServer((socket) => {
      sockets.add(socket);
      socket.on('error', () => socket.destroy());
      behave(socket);
    });
    const port = await listen(server);
    try {
      await driverAt('127.0.0.1', port).deliver(FILE_PATH, {
        signal: stop.signal,
        mayGoOn: () => Promise.resolve(),
        onDone: () => undefined,
        patienceMs: -PIECE_MM * 125 + 600,
      });
      return 'done';
    } catch (error) {
      return error instanceof DriverError ? error.fault : String(error);
    }
  };
  /** Answers each question as a cutter that is there at once would. */
  const cutter = (socket: Socket, answerOf = (x: string, y: string) => `${x},${y},0\r`): void => {
    let text = '';
    let place = ['0', '0'];
    socket.on('data', (bytes) => {
      text += bytes.toString('latin1');
      for (let end = text.indexOf(';'); end >= 0; end = text.indexOf(';')) {
        const command = text.slice(0, end);
        text = text.slice(end + 1);
        const move = /P[UD](-?\d+),(-?\d+)/.exec(command);
        if (move) place = [move[1] as string, move[2] as string];
        if (command.trim() === 'OA') socket.write(answerOf(place[0] as string, place[1] as string));
      }
    });
  };

  test.each<[string, (socket: Socket) => void, string]>([
    ['a cutter', (s) => cutter(s), 'done'],
    [
      'a cutter with a greeting that looks like an answer',
      (s) => {
        s.write('READY 610\r\n');
        cutter(s);
      },
      'done',
    ],
    [
      'a cutter whose answers come in one packet with more',
      (s) => cutter(s, (x, y) => `${'#'.repeat(300)}\r${x},${y},0\r${'-'.repeat(200)}\r`),
      'done',
    ],
    ['a greeting and nothing more', (s) => void s.write('READY 610\r\n'), 'nonsense'],
    ['numbers that answer nothing', (s) => void s.on('data', () => s.write('24\r')), 'nonsense'],
    ['a web server', (s) => void s.on('data', () => s.write('HTTP/1.1 400 Bad Request\r\n\r\n')), 'web'],
    [
      'answers without end',
      (s) => {
        const timer = setInterval(() => s.write('x'.repeat(4000) + '\r'), 5);
        s.on('close', () => clearInterval(timer));
      },
      'flood',
    ],
    [
      'one long line without end',
      (s) => {
        const timer = setInterval(() => s.write('x'.repeat(4000)), 5);
        s.on('close', () => clearInterval(timer));
      },
      'flood',
    ],
    ['silence', (s) => void s.resume(), 'silent'],
    ['something that never reads', (s) => void s.pause(), 'silent'],
    ['a tool that is elsewhere', (s) => cutter(s, (x) => `${x},77,0\r`), 'astray'],
    ['a line that breaks', (s) => void s.once('data', () => s.destroy()), 'lost'],
  ])('%s', async (_, behave, outcome) => {
    expect(await deliver(behave)).toBe(outcome);
  });

  test.each([
    ['0,0,40000,24400\r', { lengthMm: 1000, widthMm: 610 }],
    ['0,0,0,0\r', undefined],
    ['0,0,999999999,999999999\r', undefined],
  ])('says of its material %j', async (says, expected) => {
    server = createServer((socket) => {
      sockets.add(socket);
      socket.on('data', () => socket.write(says));
    });
    expect(await driverAt('127.0.0.1', await listen(server)).material()).toEqual(expected);
  });

  test('nothing at all, or a place where machines are not spoken to', async () => {
    const control = {
      signal: new AbortController().signal,
      mayGoOn: () => Promise.resolve(),
      onDone: () => undefined,

      patienceMs: 1,
    };
    await expect(driverAt('127.0.0.1', 9).deliver(FILE_PATH, control)).rejects.toMatchObject({ fault: 'unreachable' });
    await expect(driverAt('93.184.216.34', 9).deliver(FILE_PATH, control)).rejects.toMatchObject({ fault: 'forbidden' });
  });

  test('that never reads does not hold up a stop', async () => {
    const stop = new AbortController();
    setTimeout(() => stop.abort(), 50);
    const begun = performance.now();
    expect(await deliver((s) => void s.pause(), stop)).toBe('aborted');
    expect(performance.now() - begun).toBeLessThan(3000);
  });
});

describe('the queue of a machine', () => {
  let server: TestServer;
  let cutter: SimulatedCutter;
  let panel: Server;
  let jobId: string;
  beforeAll(async () => {
    server = await startServer();
    cutter = new SimulatedCutter({ name: 'Test cutter', port: 0, widthMm: 610, timeScale: 1 });
    const port = await cutter.switchOn();
    panel = await startFrontPanel(cutter, 0);
    await addMachines(server, port);
    const reportPort = (panel.address() as { port: number }).port;
    await server.http.patch('/api/machines/machine-bench-610').send({ port, reportPort }).expect(200);
    await addStock(server);
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
  const send = async (): Promise<string> =>
    (
      (
        await server.http
          .post(`/api/jobs/${jobId}/send`)
          .send({
            orderId: `order-m${++orders}-${process.pid}`,
            revision: 1,
            layers: ['film-a'],
            cutter: { machineId: 'machine-bench-610', setupId: 'film' },
          })
          .expect(201)
      ).body as Run[]
    )[0]!.id;
  const runOf = async (id: string): Promise<Run> =>
    ((await server.http.get('/api/runs').expect(200)).body as Run[]).find((run) => run.id === id)!;
  const act = (id: string, action: string) => server.http.post(`/api/runs/${id}/actions`).send({ action }).expect(200);
  const until = async (id: string, state: Run['state']): Promise<Run> => {
    for (let k = 0; k < 600; k++) {
      const run = await runOf(id);
      if (run.state === state) return run;
      await wait(25);
    }
    throw new Error(`never ${state}: ${JSON.stringify(await runOf(id))}`);
  };
  const cutSoFar = async (): Promise<number> => cutter.report().cutMm;

  test('says what lies in it when it is asked; a place that is no sheet is refused', async () => {
    const ask = async (): Promise<unknown> => (await server.http.get('/api/machines/machine-bench-610/material').expect(200)).body;
    expect(await ask()).toEqual({ widthMm: 610, lengthMm: 50_000, text: expect.stringMatching(/ says: 610 mm wide, 50\.00 m long\.$/) });
    const file = (query: string) =>
      server.http.get(`/api/jobs/${jobId}/sheets/film-a/cut.plt?machine=machine-bench-610&setup=film${query}`);
    await file('').expect(200);
    expect((await file('&sheet=1').expect(200)).headers['content-disposition']).not.toContain('sheet');
    expect((await file('&sheet=2').expect(404)).body).toMatchObject({ detail: expect.stringContaining('no such sheet') });
    await file('&sheet=0').expect(400);
    await server.http.get('/api/machines/machine-none/material').expect(404);
  });

  test('a pause comes within 200 mm of cut at 400 mm/s, a cancel at once, and nothing follows over the spoilt sheet', async () => {
    const first = await send();
    const second = await send();
    await until(first, 'working');
    while ((await cutSoFar()) < 30) await wait(5);
    await act(first, 'pause');
    const atPause = await cutSoFar();
    await wait(900);
    const resting = await cutSoFar();
    expect(resting - atPause).toBeLessThan(200);
    await wait(300);
    expect(await cutSoFar()).toBe(resting);
    await act(first, 'resume');
    await until(first, 'working');
    while ((await cutSoFar()) < resting + 10) await wait(5);
    await act(first, 'cancel');
    const { sheet } = cutter.report();
    const atCancel = await cutSoFar();
    await wait(500);
    expect((await cutSoFar()) - atCancel).toBeLessThan(60);
    expect(cutter.report().sheet).toBe(sheet);
    expect(await runOf(second)).toMatchObject({
      state: 'held',
      reason: expect.stringContaining('cancelled while it was cut') as unknown as string,
    });
    cutter.options.timeScale = 40;
    await act(second, 'release');
    await until(second, 'done');
  });

  test('waits while one of its runs needs somebody, also after a restart, and goes on when that is settled', async () => {
    cutter.options.timeScale = 0.5;
    const broken = await send();
    const next = await send();
    while (cutter.report().state !== 'cutting') await wait(10);
    cutter.dropConnections();
    await until(broken, 'needs-you');
    await wait(300);
    expect((await runOf(next)).state).toBe('waiting');
    server = await server.restart();
    await wait(500);
    expect((await runOf(next)).state).toBe('waiting');
    cutter.options.timeScale = 40;
    await act(broken, 'cancel');
    await until(next, 'done');
  });

  test('is worked in the order of sending, whatever the clock says', async () => {
    const held = [await send(), await send(), await send()];
    await server.app.get(Tx).run(async (manager) => {
      for (const [i, id] of held.entries()) await manager.update(RunRow, { id }, { createdAt: new Date(1e12 - i * 1e9).toISOString() });
    });
    for (const id of held) await until(id, 'done');
    const ends = await Promise.all(held.map(async (id) => (await runOf(id)).endedAt!));
    expect([...ends].sort()).toEqual(ends);
    const listed = ((await server.http.get('/api/runs').expect(200)).body as Run[]).map(({ id }) => id).filter((id) => held.includes(id));
    expect(listed).toEqual([...held].reverse());
  });

  test('what a finished run used is booked with it, once', async () => {
    const left = async () =>
      ((await server.http.get('/api/stock').expect(200)).body as { rolls: { lengthLeftMm: number }[] }[])[0]!.rolls[0]!.lengthLeftMm;
    const before = await left();
    const run = await until(await send(), 'done');
    expect(await left()).toBeCloseTo(before - run.lengthMm, 3);
    server = await server.restart();
    expect(await left()).toBeCloseTo(before - run.lengthMm, 3);
  });
});
