/** Desk printers over the Internet Printing Protocol: ours, what its conformance files say of it, and one of others. */
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { PDFDocument } from '@cantoo/pdf-lib';
import { SimulatedDeskPrinter } from '@lorvek/machines';
import type { BenchAnswer, Papers, Run } from '@lorvek/model';
import { execFile, spawn, type ChildProcess } from 'node:child_process';
import { copyFileSync, existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createServer as createWeb } from 'node:http';
import { createServer, type AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { promisify } from 'node:util';
import { gzipSync } from 'node:zlib';
import { JobsService } from '../src/jobs/jobs.service.ts';
import { paperOf } from '../src/machines/paper-names.ts';
import { addMedium, print, sticker } from './sticker.ts';
import { addMachines, addStock, startServer, type TestServer } from './support.ts';

const DESK = 'machine-desk-a4';
const run = promisify(execFile);

let server: TestServer;
let desk: SimulatedDeskPrinter;
let jobId: string;
let orders = 0;

beforeAll(async () => {
  server = await startServer();
  await addMachines(server, 1);
  await addStock(server);
  await addMedium(server);
  desk = new SimulatedDeskPrinter({ name: 'Desk', port: 0, timeScale: 40 });
  await server.http
    .patch(`/api/machines/${DESK}`)
    .send({ port: await desk.switchOn(), reportPort: null })
    .expect(200);
  jobId = (await server.app.get(JobsService).create({ name: 'Ovals' }, await sticker(server, '#1d6fa5'))).id;
});
afterAll(async () => {
  await desk.switchOff();
  await server.close();
});

const send = (printer: object) =>
  server.http.post(`/api/jobs/${jobId}/send`).send({
    orderId: `desk-${++orders}-${process.pid}`,
    revision: 0,
    layers: [print.id],
    cutter: null,
    printer: { machineId: DESK, ...printer },
  });
async function until(id: string, state: Run['state']): Promise<Run> {
  for (let k = 0; k < 300; k++) {
    const found = ((await server.http.get('/api/runs').expect(200)).body as Run[]).find((one) => one.id === id);
    if (found?.state === state) return found;
    await wait(50);
  }
  throw new Error(`never ${state}: ${JSON.stringify(((await server.http.get('/api/runs')).body as Run[]).find((one) => one.id === id))}`);
}

/** What a cancelled run says in the end: the printer is asked after the run is cancelled. */
async function saidOfCancelled({ id }: Run): Promise<string | null> {
  for (let k = 0; k < 100 && (await until(id, 'cancelled')).reason === null; k++) await wait(50);
  return (await until(id, 'cancelled')).reason;
}

/** Whether the name service that the printer of others announces itself with is alive: its pid file may outlive it. */
function avahiRuns(): boolean {
  try {
    const pid = readFileSync('/run/avahi-daemon/pid', 'utf8').trim();
    return readFileSync(`/proc/${pid}/comm`, 'utf8').trim() === 'avahi-daemon';
  } catch {
    return false;
  }
}

describe('a desk printer', () => {
  test('says what paper and trays it has, and prints a sheet that is larger on as many as it needs, without its cut lines', async () => {
    const papers = (await server.http.get(`/api/machines/${DESK}/papers`).expect(200)).body as Papers;
    expect(papers.papers.map(({ name }) => name)).toEqual(['iso_a4_210x297mm', 'iso_a5_148x210mm', 'na_letter_8.5x11in']);
    expect(papers).toMatchObject({ trays: ['tray-1', 'tray-2', 'manual'], usual: 'iso_a4_210x297mm', marginMm: 4.2 });
    expect(
      (
        (
          await server.http
            .post(`/api/machines/${DESK}/bench`)
            .send({ order: { do: 'try' } })
            .expect(200)
        ).body as BenchAnswer
      ).ok,
    ).toBe(true);
    const [made] = (await send({ paper: { name: 'iso_a5_148x210mm', tray: 'tray-2' } }).expect(201)).body as [Run];
    await until(made.id, 'done');
    expect(desk.report()).toMatchObject({ lastMedia: 'iso_a5_148x210mm', lastTray: 'tray-2' });
    const pdf = await PDFDocument.load(desk.printed().at(-1)!);
    expect(pdf.getPageCount()).toBeGreaterThan(1);
    const size = pdf.getPage(0).getSize();
    expect([size.width, size.height].map((v) => Math.round((v * 25.4) / 72)).sort((a, b) => a - b)).toEqual([148, 210]);
    expect(Buffer.from(desk.printed().at(-1)!).toString('latin1')).not.toContain('Lorvek Kiss');
    expect(desk.report().lastPages).toBe(pdf.getPageCount());
  });

  test('a paper that it does not have, a paper that runs out, a printer that is off: each said, nothing printed twice', async () => {
    await send({ paper: { name: 'iso_a0_841x1189mm', tray: null } }).expect(400);
    desk.faults.set('end-of-material', 0.5);
    const [out] = (await send({}).expect(201)).body as [Run];
    expect((await until(out.id, 'needs-you')).reason).toMatch(/paper has run out/);
    await server.http.post(`/api/runs/${out.id}/actions`).send({ action: 'retry' }).expect(200);
    await until(out.id, 'done');
    desk.options.timeScale = 0.2;
    const [stopped] = (await send({}).expect(201)).body as [Run];
    await until(stopped.id, 'working');
    await wait(300);
    await server.http.post(`/api/runs/${stopped.id}/actions`).send({ action: 'cancel' }).expect(200);
    for (let k = 0; k < 60 && desk.report().state !== 'ready'; k++) await wait(50);
    expect(desk.report().state).toBe('ready');
    desk.options.timeScale = 40;
    await desk.switchOff();
    expect(((await server.http.get(`/api/machines/${DESK}/papers`).expect(200)).body as Papers).text).toMatch(/No printer answers/);
    await send({}).expect(400);
    await desk.switchOn();
  });

  test('a printer that does not take the cancelling: the run is cancelled, and says that the printer may go on', async () => {
    desk.options.timeScale = 0.2;
    desk.faults.set('keeps-on', 1);
    const [stopped] = (await send({}).expect(201)).body as [Run];
    await until(stopped.id, 'working');
    await wait(300);
    await server.http.post(`/api/runs/${stopped.id}/actions`).send({ action: 'cancel' }).expect(200);
    expect(await saidOfCancelled(stopped)).toMatch(/did not take the cancelling .*may go on printing.*cancel the job there/);
    expect(desk.report().state).not.toBe('ready');
    const log = (await server.http.get(`/api/runs/${stopped.id}/log`).expect(200)).body as { text: string }[];
    expect(log.at(-1)?.text).toMatch(/did not take the cancelling/);
    // one that is cancelled at the printer meanwhile says nothing of the kind
    desk.faults.set('keeps-on', null);
    desk.options.timeScale = 40;
    for (let k = 0; k < 100 && desk.report().state !== 'ready'; k++) await wait(50);
    expect(desk.report().state).toBe('ready');
  });

  test('a printer that has printed the job before it could be cancelled: the run says that the sheet lies there', async () => {
    desk.options.timeScale = 0.2;
    desk.faults.set('too-late', 1);
    const before = desk.printed().length;
    const [stopped] = (await send({}).expect(201)).body as [Run];
    await until(stopped.id, 'working');
    await wait(300);
    await server.http.post(`/api/runs/${stopped.id}/actions`).send({ action: 'cancel' }).expect(200);
    expect(await saidOfCancelled(stopped)).toMatch(/had printed the job when it was cancelled: the sheet lies there/);
    expect(desk.printed()).toHaveLength(before + 1);
    desk.faults.set('too-late', null);
    desk.options.timeScale = 40;
  });

  test('what answers and is no printer is not taken for one, and nothing of its answer is shown', async () => {
    const secret = 'the secret of another server';
    const web = createWeb((_request, response) => response.writeHead(200, { 'content-type': 'text/html' }).end(secret)).listen(
      0,
      '127.0.0.1',
    );
    const noise = createServer((socket) => void socket.on('error', () => undefined).end(secret)).listen(0, '127.0.0.1');
    const endless = createWeb((_request, response) => {
      response.writeHead(200, { 'content-type': 'application/ipp' });
      const timer = setInterval(() => response.write(Buffer.alloc(65_536)), 5);
      response.on('close', () => clearInterval(timer));
    }).listen(0, '127.0.0.1');
    for (const other of [web, noise, endless]) {
      await wait(20);
      await server.http
        .patch(`/api/machines/${DESK}`)
        .send({ port: (other.address() as AddressInfo).port })
        .expect(200);
      const said = await server.http
        .post(`/api/machines/${DESK}/bench`)
        .send({ order: { do: 'try' } })
        .expect(200);
      expect(said.body).toMatchObject({ ok: false });
      expect(JSON.stringify(said.body)).not.toContain('secret');
      other.close();
    }
    await server.http
      .patch(`/api/machines/${DESK}`)
      .send({ port: await desk.switchOn() })
      .expect(200);
  });

  test('papers are known by their names', () => {
    expect(paperOf('iso_a4_210x297mm')).toEqual({ widthMm: 210, heightMm: 297 });
    expect(paperOf('na_letter_8.5x11in')?.widthMm).toBeCloseTo(215.9, 9);
    for (const name of ['a4', 'custom_max_0x0mm', 'iso_a4_210x297cm', 'x'.repeat(300)]) expect(paperOf(name)).toBeUndefined();
  });

  const FILES = '/usr/share/cups/ipptool';
  (existsSync('/usr/bin/ipptool') ? test : test.skip)(
    'the simulated one passes the conformance files of ipptool (skipped without it)',
    async () => {
      const dir = mkdtempSync(join(tmpdir(), 'lorvek-ipp-'));
      try {
        const pdf = await PDFDocument.create();
        pdf.addPage([595, 842]);
        pdf.addPage([595, 842]);
        const bytes = await pdf.save();
        for (const name of ['document-a4.pdf', 'document-letter.pdf']) {
          writeFileSync(join(dir, name), bytes);
          writeFileSync(join(dir, `${name}.gz`), gzipSync(bytes));
        }
        for (const name of readdirSync(FILES).filter((file) => file.endsWith('.test'))) copyFileSync(join(FILES, name), join(dir, name));
        const { stdout } = await run(
          'ipptool',
          ['-tf', join(dir, 'document-a4.pdf'), `ipp://127.0.0.1:${await desk.switchOn()}/ipp/print`, 'ipp-1.1.test'],
          {
            cwd: dir,
            timeout: 50_000,
          },
        ).catch((error: { stdout: string }) => error);
        expect(stdout).not.toMatch(/\[FAIL\]/);
        expect(stdout).toMatch(/Summary: \d+ tests, \d{2} passed, 0 failed/);
      } finally {
        rmSync(dir, { recursive: true, force: true });
      }
    },
  );

  const OTHER = '/usr/sbin/ippeveprinter';
  const canRun = existsSync(OTHER) && avahiRuns() && process.getuid?.() === 0;
  (canRun ? test : test.skip)('a printer of others takes the file byte for byte (skipped where it cannot run)', async () => {
    const dir = mkdtempSync(join(tmpdir(), 'lorvek-other-'));
    const port = 18_631;
    const other: ChildProcess = spawn(OTHER, ['-p', String(port), '-d', dir, '-k', '-f', 'application/pdf', 'Other printer'], {
      stdio: 'ignore',
    });
    try {
      await server.http.patch(`/api/machines/${DESK}`).send({ port }).expect(200);
      for (let k = 0; k < 50; k++) {
        const said = (await server.http.post(`/api/machines/${DESK}/bench`).send({ order: { do: 'try' } })).body as BenchAnswer;
        if (said.ok) break;
        await wait(100);
      }
      const [made] = (await send({}).expect(201)).body as [Run];
      await until(made.id, 'done');
      const sent = await server.http.get(`/api/runs/${made.id}/print.pdf`).responseType('blob').expect(200);
      const kept = readdirSync(dir).find((name) => name.endsWith('.pdf'))!;
      expect(readFileSync(join(dir, kept)).equals(sent.body as Buffer)).toBe(true);
    } finally {
      other.kill();
      rmSync(dir, { recursive: true, force: true });
      await server.http
        .patch(`/api/machines/${DESK}`)
        .send({ port: await desk.switchOn() })
        .expect(200);
    }
  });
});
