/** Prints and the cuts that wait for them, with a simulated printer and camera cutter; rolls; jobs of older versions. */
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import Database from 'better-sqlite3';
import { readdirSync, readFileSync } from 'node:fs';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Server } from 'node:http';
import sharp from 'sharp';
import {
  layUpIdOf,
  PAGE_ID,
  type CutRun,
  type Drawing,
  type DocRecord,
  type Job,
  type LayUp,
  type Page,
  type PictureItem,
  type Run,
  type SheetPlates,
  type OpenJob,
} from '@lorvek/model';
import { SimulatedCutter, SimulatedPrinter, startFrontPanel, Tray } from '@lorvek/machines';
import { AssetsService } from '../src/assets/assets.module.ts';
import { EventsService } from '../src/events/events.service.ts';
import { RollRow, RunRow } from '../src/db/entities.ts';
import { databasePath } from '../src/db/shop-folder.ts';
import { Tx } from '../src/db/tx.ts';
import { JobsService } from '../src/jobs/jobs.service.ts';
import { addMedium, print, sticker } from './sticker.ts';
import { addMachines, addStock, box, change, film, firstPatch, startServer, type TestServer } from './support.ts';

/** `print.pdf` of a folder as one picture an ink and page, by an independent reader. */
const separate = (dir: string): unknown =>
  execFileSync('gs', [
    '-q',
    '-dNOPAUSE',
    '-dBATCH',
    '-dSAFER',
    '-sDEVICE=tiffsep',
    '-r72',
    '-o',
    join(dir, 'sep%d.tif'),
    join(dir, 'print.pdf'),
  ]);

describe('print, then cut', () => {
  let server: TestServer;
  let printer: SimulatedPrinter;
  let cutter: SimulatedCutter;
  const panels: Server[] = [];
  let job: Job;

  beforeAll(async () => {
    server = await startServer();
    await addStock(server);
    await addMedium(server);
    const tray = new Tray();
    printer = new SimulatedPrinter({ name: 'Printer', port: 0, widthMm: 1600, timeScale: 200 }, tray);
    cutter = new SimulatedCutter({ name: 'Camera', port: 0, widthMm: 1400, timeScale: 60, hasCamera: true }, tray);
    const [printPort, cutPort] = [await printer.switchOn(), await cutter.switchOn()];
    panels.push(await startFrontPanel(printer, 0), await startFrontPanel(cutter, 0));
    const [printPanel, cutPanel] = panels.map((panel) => (panel.address() as { port: number }).port);
    await addMachines(server, 1);
    await server.http.patch('/api/machines/machine-wide-1600').send({ port: printPort, reportPort: printPanel }).expect(200);
    await server.http
      .patch('/api/machines/machine-camera-1400')
      .send({ port: cutPort, reportPort: cutPanel, calibration: null })
      .expect(200);
    job = await server.app.get(JobsService).create({ name: 'Ovals' }, await sticker(server, '#1d6fa5'));
  });
  afterAll(async () => {
    for (const panel of panels) panel.close();
    await printer.switchOff();
    await cutter.switchOff();
    await server.close();
  });

  let orders = 0;
  const order = (fields: object = {}) => ({
    orderId: `order-p${++orders}-${process.pid}`,
    revision: 0,
    layers: [print.id],
    cutter: { machineId: 'machine-camera-1400', setupId: 'film' },
    printer: { machineId: 'machine-wide-1600' },
    ...fields,
  });
  const send = async (fields: object = {}): Promise<Run[]> =>
    (await server.http.post(`/api/jobs/${job.id}/send`).send(order(fields)).expect(201)).body as Run[];
  const runOf = async (id: string): Promise<Run> =>
    ((await server.http.get('/api/runs').expect(200)).body as Run[]).find((run) => run.id === id)!;
  const until = async (id: string, is: (run: Run) => boolean): Promise<Run> => {
    for (let k = 0; k < 300; k++) {
      const run = await runOf(id);
      if (is(run)) return run;
      await new Promise((resolve) => setTimeout(resolve, 50));
    }
    throw new Error(`never: ${JSON.stringify(await runOf(id))}`);
  };
  const camera = async (id: string, what: object) =>
    (await server.http.post(`/api/runs/${id}/camera`).send({ order: what }).expect(200)).body as { ok: boolean; text: string; run: CutRun };
  const asCut = (run: Run): CutRun => run as CutRun;

  test('the cut waits for its print through a restart of the server, is found by its marks, and lies on the print', async () => {
    const sent = await send();
    const [printRun, cutRun] = [sent.find(({ kind }) => kind === 'print')!, sent.find(({ kind }) => kind === 'cut')!];
    expect(cutRun).toMatchObject({ state: 'held', heldFor: 'print', after: printRun.id });
    await server.http.post(`/api/runs/${cutRun.id}/actions`).send({ action: 'release' }).expect(409);
    const done = await until(printRun.id, ({ state }) => state === 'done');
    expect(done.kind === 'print' && (done.inkMl?.['Cyan'] ?? 0)).toBeGreaterThan(0.01);
    server = await server.restart();
    expect(await runOf(cutRun.id)).toMatchObject({ state: 'needs-you', step: 'load' });
    await server.http.post(`/api/runs/${cutRun.id}/actions`).send({ action: 'release' }).expect(409);
    const tray = (await server.http.get('/api/machines/machine-camera-1400/tray').expect(200)).body as { id: string; name: string }[];
    expect(tray[0]!.name).toContain(cutRun.code);
    await server.http.post('/api/machines/machine-camera-1400/load').send({ sheet: tray[0]!.id }).expect(201);
    const answer = await camera(cutRun.id, { do: 'find-marks' });
    expect(answer.text).toMatch(/^All 4 marks found/);
    expect(answer.run.correction!.measured).toHaveLength(4);
    await server.http.post(`/api/runs/${cutRun.id}/actions`).send({ action: 'release' }).expect(200);
    const cut = asCut(await until(cutRun.id, ({ state }) => state === 'done'));
    expect(cut.offMm).toBeLessThan(0.3);
    expect(cut.offMm).toBeGreaterThan(0);
    const file = await server.http
      .get(`/api/runs/${cutRun.id}/cut.plt`)
      .buffer(true)
      .parse((response, done) => {
        let text = '';
        response.on('data', (chunk: Buffer) => (text += chunk.toString('latin1')));
        response.on('end', () => done(null, text));
      });
    expect(String(file.body)).toMatch(/^IN;PA;SP1;/);
  });

  test('the print file is in order for an independent reader', async () => {
    const pdf = (await server.http.get(`/api/jobs/${job.id}/sheets/${print.id}/print.pdf`).buffer().expect(200)).body as Buffer;
    const file = join(mkdtempSync(join(tmpdir(), 'lorvek-pdf-')), 'print.pdf');
    writeFileSync(file, pdf);
    const out = execFileSync('/usr/bin/python3', ['tests/checkers/check_pdf.py', file, '--plates', '50'], { encoding: 'utf8' });
    expect(out).not.toMatch(/^ERROR/m);
    expect(out).toContain('Lorvek Kiss');
  });

  test('plates of a sheet say what an independent reader finds in its file; a sheet that is not there is refused', async () => {
    const base = `/api/jobs/${job.id}/sheets/${print.id}`;
    const { body } = await server.http.get(`${base}/plates`).expect(200);
    const { passes, widthMm, heightMm } = body as SheetPlates;
    expect(passes.map(({ name, kind }) => [name, kind])).toEqual([['', 'colour']]);
    const [{ plates }] = passes as [SheetPlates['passes'][number]];
    const pdf = (await server.http.get(`${base}/print.pdf`).buffer().expect(200)).body as Buffer;
    const dir = mkdtempSync(join(tmpdir(), 'lorvek-plates-'));
    writeFileSync(join(dir, 'print.pdf'), pdf);
    separate(dir);
    expect(plates.map(({ name }) => name)).toEqual(['Cyan', 'Magenta', 'Yellow', 'Black']);
    for (const { name, cover, picture } of plates) {
      const own = await sharp(Buffer.from(picture.slice(picture.indexOf(',') + 1), 'base64'))
        .greyscale()
        .stats();
      expect(own.channels[0]!.mean / 255).toBeCloseTo(cover, 2);
      const found = await sharp(join(dir, `sep1(${name}).tif`))
        .greyscale()
        .stats();
      expect(Math.abs(1 - found.channels[0]!.mean / 255 - cover)).toBeLessThan(0.005);
    }
    expect(widthMm / heightMm).toBeGreaterThan(0);
    await server.http.get(`${base}/plates?sheet=99`).expect(400);
    await server.http.get(`${base}/plates?sheet=0`).expect(400);
    await server.http.get(`/api/jobs/${job.id}/sheets/film-none/plates`).expect(400);
  });

  test('a print carries its laminate; one that is no longer in Stock stops it before anything is made', async () => {
    const kept = (
      await server.http.post('/api/stock/supplies').send({ kind: 'laminate', name: 'Matt', widthMm: 1370, left: 9000 }).expect(201)
    ).body as { id: string };
    const drawing = await sticker(server, '#2f6f4e');
    const layUp = { ...(drawing[layUpIdOf(print.id)] as LayUp), laminate: { id: kept.id, name: 'Matt' } };
    const made = await server.app.get(JobsService).create({ name: 'Laminated' }, { ...drawing, [layUp.id]: layUp });
    const sendIt = (orderId: string) => server.http.post(`/api/jobs/${made.id}/send`).send(order({ orderId, hold: true }));
    const runs = (await sendIt('order-laminated').expect(201)).body as Run[];
    const rows = await server.app.get(Tx).read((manager) => manager.find(RunRow, { where: { jobId: made.id } }));
    expect(rows.map(({ kind, laminateId }) => [kind, laminateId]).sort()).toEqual([
      ['cut', null],
      ['print', kept.id],
    ]);
    await server.http.delete(`/api/stock/supplies/${kept.id}`).expect(200);
    expect((await sendIt('order-laminated-2').expect(404)).body).toMatchObject({ type: 'input.missing' });
    for (const { id } of runs) await server.http.post(`/api/runs/${id}/actions`).send({ action: 'cancel' });
  });

  test('a large print tells how far it is; stopped before it is taken it makes no runs and leaves nothing behind', async () => {
    const [widthPx, heightPx] = [3200, 2000];
    const noise = Buffer.alloc(3 * widthPx * heightPx);
    for (let i = 0, v = 1; i < noise.length; i++) noise[i] = (v = (Math.imul(v, 1664525) + 1013904223) >>> 0) >>> 27;
    const png = await sharp(noise, { raw: { width: widthPx, height: heightPx, channels: 3 } })
      .png({ compressionLevel: 1 })
      .toBuffer();
    const { asset } = await server.app.get(AssetsService).keep(png);
    const drawing = await sticker(server, '#2f6f4e');
    const large = { ...(drawing['item-p'] as PictureItem), asset, widthPx, heightPx, mmPerPx: 0.03 };
    const made = await server.app.get(JobsService).create({ name: 'Large' }, { ...drawing, 'item-p': large });
    const shares: number[] = [];
    let stopAt = 0.3;
    const listening = server.app
      .get(EventsService)
      .stream()
      .subscribe(({ type, data }) => {
        if (type !== 'sending') return;
        const { share } = data as { share: number };
        shares.push(share);
        if (share > stopAt) void server.http.post('/api/orders/order-stopped/stop').then(() => undefined);
      });
    const post = (orderId: string) => server.http.post(`/api/jobs/${made.id}/send`).send(order({ orderId, hold: true }));
    expect((await post('order-stopped').expect(409)).body).toMatchObject({ type: 'cancelled' });
    expect((await server.http.post('/api/orders/order-stopped/stop').expect(200)).body).toEqual({ stopped: false });
    const runsOfIt = () => server.app.get(Tx).read((manager) => manager.find(RunRow, { where: { jobId: made.id } }));
    const left = () => readdirSync(join(server.dataDir, 'incoming')).filter((name) => name.startsWith('print-'));
    for (let k = 0; left().length > 0 && k < 100; k++) await new Promise((resolve) => setTimeout(resolve, 50));
    expect([await runsOfIt(), left()]).toEqual([[], []]);
    stopAt = 2;
    shares.length = 0;
    await post('order-whole').expect(201);
    expect(await runsOfIt()).toHaveLength(2);
    expect(shares.length).toBeGreaterThan(5);
    expect(shares).toEqual([...shares].sort((a, b) => a - b));
    expect(shares.at(-1)).toBeGreaterThan(0.9);
    listening.unsubscribe();
    for (const { id } of await runsOfIt()) await server.http.post(`/api/runs/${id}/actions`).send({ action: 'cancel' });
  });

  test('colour, white and colour again are three pages: each has just its inks, by an independent reader too, and all are laid down', async () => {
    const drawing: Drawing = {
      ...(await sticker(server, '#b0413e')),
      [print.id]: {
        ...print,
        medium: 'clear',
        white: { where: 'between', coverage: 'where-printed', spots: [], bend: 1, strengthPct: 100, spreadMm: -0.2 },
      },
    };
    const made = await server.app.get(JobsService).create({ name: 'Window ovals' }, drawing);
    const base = `/api/jobs/${made.id}/sheets/${print.id}`;
    const { passes } = (await server.http.get(`${base}/plates`).expect(200)).body as SheetPlates;
    expect(passes.map(({ name, plates }) => [name, plates.map((plate) => plate.name)])).toEqual([
      ['1 colour', ['Cyan', 'Magenta', 'Yellow', 'Black']],
      ['2 white', ['White']],
      ['3 colour', ['Cyan', 'Magenta', 'Yellow', 'Black']],
    ]);
    const dir = mkdtempSync(join(tmpdir(), 'lorvek-passes-'));
    writeFileSync(join(dir, 'print.pdf'), (await server.http.get(`${base}/print.pdf`).buffer().expect(200)).body as Buffer);
    separate(dir);
    const found = async (page: number, name: string): Promise<number> => {
      const stats = await sharp(join(dir, `sep${page}(${name}).tif`))
        .greyscale()
        .stats();
      return 1 - stats.channels[0]!.mean / 255;
    };
    for (const [i, { kind, plates }] of passes.entries()) {
      for (const { name, cover } of plates) expect(Math.abs((await found(i + 1, name)) - cover)).toBeLessThan(0.005);
      // a pass of white has nothing else in it
      if (kind === 'white') for (const name of ['Cyan', 'Magenta', 'Yellow', 'Black']) expect(await found(i + 1, name)).toBeLessThan(0.001);
    }
    expect(passes[1]!.plates[0]!.cover).toBeGreaterThan(0.05);
    const check = execFileSync('/usr/bin/python3', ['tests/checkers/check_pdf.py', join(dir, 'print.pdf')], { encoding: 'utf8' });
    expect(check).not.toMatch(/^ERROR/m);
    const sent = await server.http
      .post(`/api/jobs/${made.id}/send`)
      .send({ ...order({ cutter: null }), revision: 0 })
      .expect(201);
    const done = await until((sent.body as Run[])[0]!.id, ({ state }) => state === 'done');
    const ink = (done as Extract<Run, { kind: 'print' }>).inkMl!;
    expect(ink['White']).toBeGreaterThan(0);
    const once = passes[0]!.plates.find(({ name }) => name === 'Magenta')!.cover;
    const areaM2 = (done.lengthMm * done.widthMm) / 1e6;
    // both colours: the same picture twice
    expect(ink['Magenta']! / (2 * once * areaM2 * 10)).toBeCloseTo(1, 1);
  });

  test('a print alone holds no cut, a cut alone asks for its sheet, and a cutter without a camera is refused', async () => {
    const alone = await send({ cutter: null });
    expect(alone.map(({ kind }) => kind)).toEqual(['print']);
    const [cut] = await send({ printer: null });
    expect(cut).toMatchObject({ kind: 'cut', state: 'needs-you', step: 'load' });
    const refused = await server.http
      .post(`/api/jobs/${job.id}/send`)
      .send(order({ cutter: { machineId: 'machine-bench-610', setupId: 'film' } }));
    expect(refused.status).toBe(400);
    expect((refused.body as { detail: string }).detail).toContain('no camera');
    await server.http.post(`/api/runs/${cut!.id}/actions`).send({ action: 'cancel' }).expect(200);
    // a fault that is switched on next is for the next print
    await until(alone[0]!.id, ({ state }) => state === 'done');
  });

  test('a printer that fails says so, the pair stays together; a print that is cancelled takes its cut along', async () => {
    printer.faults.set('end-of-material', 0.3);
    const sent = await send();
    const [printRun, cutRun] = [sent.find(({ kind }) => kind === 'print')!, sent.find(({ kind }) => kind === 'cut')!];
    const failed = await until(printRun.id, ({ state }) => state === 'needs-you');
    expect(failed.reason).toContain('the medium has run out');
    expect(await runOf(cutRun.id)).toMatchObject({ state: 'held', heldFor: 'print' });
    await server.http.post(`/api/runs/${printRun.id}/actions`).send({ action: 'cancel' }).expect(200);
    expect((await until(cutRun.id, ({ state }) => state === 'cancelled')).reason).toContain('print was cancelled');
  });

  test('runs keep their length on the roll: what fits singly and not together is refused in words', async () => {
    const length = (await send({ cutter: null, hold: true }))[0]!.lengthMm;
    await server.app.get(Tx).run((manager) => manager.update(RollRow, { id: 'roll-w' }, { lengthLeftMm: 2.5 * length }));
    await send({ cutter: null, hold: true });
    const refused = await server.http.post(`/api/jobs/${job.id}/send`).send(order({ cutter: null, hold: true }));
    expect(refused.status).toBe(400);
    expect((refused.body as { detail: string }).detail).toMatch(/Together they do not fit/);
    const roll = ((await server.http.get('/api/stock')).body as { rolls: { id: string; reservedMm: number }[] }[])
      .flatMap(({ rolls }) => rolls)
      .find(({ id }) => id === 'roll-w');
    expect(roll!.reservedMm).toBeCloseTo(2 * length, 3);
  });
});

describe('jobs of other versions', () => {
  const old = () =>
    (
      JSON.parse(readFileSync('packages/model/fixtures/version-1.json', 'utf8')) as {
        jobs: { name: string; drawing: Record<string, unknown> }[];
      }
    ).jobs;

  /** A job as the first version left it in the database. */
  async function oldJob(server: TestServer, name: string): Promise<string> {
    const { id } = (await server.http.post('/api/jobs').send({ name })).body as Job;
    await server.app.close();
    const db = new Database(databasePath(server.dataDir));
    const drawing = old().find((one) => one.name === name)!.drawing;
    db.prepare('UPDATE snapshot SET records = ?, version = 1 WHERE job_id = ?').run(JSON.stringify(drawing), id);
    const item = Object.values(drawing).find((record) => (record as { type: string }).type === 'item') as { id: string; name: string };
    const patch = { [item.id]: { before: item, after: { ...item, name: 'Renamed by the first version' } } };
    db.prepare("INSERT INTO change VALUES (?, 1, 'change-old-1', 'do', 'item.name', '', ?, '2026-01-01', 1)").run(
      id,
      JSON.stringify(patch),
    );
    db.prepare('UPDATE job SET revision = 1 WHERE id = ?').run(id);
    db.close();
    return id;
  }

  test('one of the first version opens upgraded, its history is closed behind it, and it goes on', async () => {
    const first = await startServer();
    const id = await oldJob(first, 'Crew shirts');
    const server = await startServer(first.dataDir);
    const opened = (await server.http.get(`/api/jobs/${id}`).expect(200)).body as { revision: number; records: Record<string, DocRecord> };
    expect(opened.revision).toBe(2);
    expect(opened.records[PAGE_ID]).toMatchObject({ version: 2 });
    expect(Object.values(opened.records).some((record) => record.type === 'item' && record.name === 'Renamed by the first version')).toBe(
      true,
    );
    expect((await server.http.get(`/api/jobs/${id}/history?upTo=2`)).body as object).toMatchObject({ changes: [], closed: true });
    const again = await server.restart();
    expect(((await again.http.get(`/api/jobs/${id}`)).body as { revision: number }).revision).toBe(2);
    const { [PAGE_ID]: page } = opened.records;
    await again.http
      .post(`/api/jobs/${id}/changes`)
      .send(change({ [PAGE_ID]: { before: page as Page, after: { ...(page as Page), unit: 'cm' } } }, 2))
      .expect(200);
    await again.close();
  });

  test('an upgrade that was killed in the middle begins again', async () => {
    const first = await startServer();
    const id = await oldJob(first, 'Chandlery peg labels');
    const server = await startServer(first.dataDir);
    const tx = server.app.get(Tx);
    const run = tx.run.bind(tx);
    tx.run = () => Promise.reject(new Error('killed'));
    await server.http.get(`/api/jobs/${id}`).expect(500);
    tx.run = run;
    expect(((await server.http.get(`/api/jobs/${id}`).expect(200)).body as { revision: number }).revision).toBe(2);
    await server.close();
  });

  test('one of a newer version is shown and neither changed, copied nor sent; its data are left as they are', async () => {
    const first = await startServer();
    const { id } = (await first.http.post('/api/jobs').send({ name: 'From the future' })).body as Job;
    await first.app.close();
    const db = new Database(databasePath(first.dataDir));
    const { records } = db.prepare('SELECT records FROM snapshot WHERE job_id = ?').get(id) as { records: string };
    const made = JSON.parse(records) as Record<string, Record<string, unknown>>;
    made[PAGE_ID] = { ...made[PAGE_ID], version: 9 };
    made['hologram'] = { type: 'hologram', id: 'hologram' };
    db.prepare('UPDATE snapshot SET version = 9, records = ? WHERE job_id = ?').run(JSON.stringify(made), id);
    db.close();
    const server = await startServer(first.dataDir);
    const opened = (await server.http.get(`/api/jobs/${id}`).expect(200)).body as OpenJob;
    expect(opened.readOnly).toContain('newer version of Lorvek');
    expect(opened.readOnly).toContain('one thing in it is of a kind');
    expect(Object.keys(opened.records)).not.toContain('hologram');
    await server.http.get(`/api/jobs/${id}/thumbnail.svg`).expect(200);
    const page = opened.records[PAGE_ID] as Page;
    for (const refused of [
      server.http.post(`/api/jobs/${id}/changes`).send(change({ [PAGE_ID]: { before: page, after: { ...page, unit: 'cm' } } }, 0)),
      server.http.post(`/api/jobs/${id}/duplicate`),
      server.http.get(`/api/jobs/${id}/file`),
    ]) {
      const answer = await refused.expect(400);
      expect((answer.body as { detail: string }).detail).toContain('newer version');
    }
    await server.app.close();
    const after = new Database(databasePath(first.dataDir));
    expect(after.prepare('SELECT version, records FROM snapshot WHERE job_id = ?').get(id)).toEqual({
      version: 9,
      records: JSON.stringify(made),
    });
    after.close();
  });

  test('a log that does not fit its snapshot opens in the newest state that is whole, and says so', async () => {
    const first = await startServer();
    const { id } = (await first.http.post('/api/jobs').send({ name: 'Damaged' })).body as Job;
    await first.http
      .post(`/api/jobs/${id}/changes`)
      .send(change(firstPatch(['item-1']), 0))
      .expect(200);
    await first.http
      .post(`/api/jobs/${id}/changes`)
      .send(change({ 'item-1': { before: box('item-1'), after: box('item-1', 77) } }, 1))
      .expect(200);
    await first.app.close();
    const db = new Database(databasePath(first.dataDir));
    db.prepare('UPDATE change SET patch = ? WHERE job_id = ? AND revision = 2').run(
      JSON.stringify({ 'item-9': { before: box('item-9'), after: null } }),
      id,
    );
    db.close();
    const server = await startServer(first.dataDir);
    const opened = (await server.http.get(`/api/jobs/${id}`).expect(200)).body as {
      records: Record<string, DocRecord>;
      note: string;
      revision: number;
    };
    expect(opened.note).toContain('newest state that is whole');
    expect(opened.records['item-1']).toMatchObject({ widthMm: 40 });
    expect(opened.records[film.id]).toBeDefined();
    expect(opened.revision).toBe(3);
    const { note } = (await server.http.get(`/api/jobs/${id}`).expect(200)).body as { note: string | null };
    expect(note).toBeNull();
    await server.close();
  });
});
