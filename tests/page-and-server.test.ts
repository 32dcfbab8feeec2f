/** The page's worker and the server's, asked the same: what is found, what stops, and the bytes that go out are the same. */
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  addFilm,
  addItems,
  emptyDrawing,
  PAGE_ID,
  pageOf,
  setBuild,
  setFilmFields,
  stopsOf,
  USUAL_SETTINGS,
  type BoxItem,
  type Drawing,
  type StockFilm,
  type ToolSetup,
  setLayUp,
  setField,
  newField,
  takeList,
  correctCell,
  USUAL_PANELS,
} from '@lorvek/model';
import type { CheckedJob } from '../packages/model/src/plans/check-job.ts';
import { cutFile, cuttingWith, sheetToSvg } from '@lorvek/model/cut-file';
import { ComputeService } from '../apps/server/src/compute/compute.service.ts';
import { startServer, type TestServer } from '../apps/server/test/support.ts';
import { demoMachines } from '../demo/stock.ts';
import { film, randomDrawing, randomEdit, words, run } from '../packages/model/src/drawing.support.ts';

let server: TestServer;
let answer: typeof import('../apps/web/src/worker/engine.ts').answer;
const realFetch = globalThis.fetch;

beforeAll(async () => {
  server = await startServer();
  const { port } = server.app.getHttpServer().address() as { port: number };
  globalThis.fetch = ((path: string | URL | Request, init?: RequestInit) =>
    realFetch(typeof path === 'string' && path.startsWith('/') ? `http://127.0.0.1:${port}${path}` : path, init)) as typeof fetch;
  ({ answer } = await import('../apps/web/src/worker/engine.ts'));
});
afterAll(async () => {
  globalThis.fetch = realFetch;
  await server.close();
});

const setup = demoMachines('127.0.0.1', 1)[0]!.setups[0] as ToolSetup;
const roll = (id: string, filmId: string, widthMm: number, lengthLeftMm = 30_000) => ({
  id,
  filmId,
  widthMm,
  lengthLeftMm,
  isOffcut: false,
});
/** One film with a roll, one with two, one with none. */
const stock: StockFilm[] = ['film-a', 'film-b', 'film-c'].map((id, i) => ({
  id,
  series: 's',
  name: id,
  hex: '#112233',
  transfer: false,
  pricePerMetre: 1,
  press: null,
  smallestPartMm: 2,
  thinnestMm: 0.8,
  medium: null,
  rolls: [[roll('roll-a', id, 1370)], [roll('roll-b1', id, 1370), roll('roll-b2', id, 60)], []][i] as StockFilm['rolls'],
}));

/** The sheets as the page's worker has them. */
async function onPage(drawing: Drawing): Promise<CheckedJob> {
  const { answered } = await answer({ id: 1, op: 'sheets', input: { drawing, stock, jobId: 'job-t', jobName: 'Job' } }, () => undefined);
  if (!answered.ok) throw new Error(answered.error.message);
  return answered.output as CheckedJob;
}

async function both(drawing: Drawing): Promise<void> {
  const page = await onPage(drawing);
  const layers = page.sheets.map((sheet) => sheet.layer.id);
  const own = await server.app
    .get(ComputeService)
    .run('plan', { jobId: 'job-t', jobName: 'Job', drawing, layers, stock, cutting: cuttingWith(setup) });
  const plain = (value: unknown): unknown => JSON.parse(JSON.stringify(value));
  expect(plain(own.findings)).toEqual(plain([...page.sheets.flatMap((sheet) => sheet.findings), ...page.whole]));
  const stops = stopsOf(page);
  expect(plain(own.stops)).toEqual(plain(stops));
  if (stops.length > 0) return expect(own.sheets).toEqual([]);
  expect(own.sheets.map(({ layer }) => layer.id)).toEqual(layers);
  page.sheets.forEach((sheet, i) => {
    expect(Buffer.compare(Buffer.from(own.sheets[i]!.cut!.hpgl), Buffer.from(cutFile(sheet.lines, cuttingWith(setup)).hpgl))).toBe(0);
    expect(Buffer.compare(Buffer.from(own.sheets[i]!.svg), Buffer.from(sheetToSvg(sheet)))).toBe(0);
    expect(own.sheets[i]!.rollId).toBe(sheet.roll.roll?.id);
  });
}

const anyBuild = fc.constantFrom('laid over', 'let in', 'left out', 'kept in place');

/** The drawing with its films put together in another way. */
function built(drawing: Drawing, how: string): Drawing {
  const [lowest, ...others] = pageOf(drawing).layers.filter((id) => drawing[id]?.type === 'film');
  if (lowest === undefined) return drawing;
  if (how === 'left out') return run(drawing, setFilmFields, { id: lowest, fields: { leftOut: true } });
  const fields = how === 'let in' ? ({ build: 'inlay', trapMm: 0.5 } as const) : how === 'kept in place' ? { placeMarks: true } : {};
  const next = others.reduce((sum, id) => run(sum, setFilmFields, { id, fields }), drawing);
  return how === 'kept in place' ? run(next, setBuild, { fields: { place: 'keep' } }) : next;
}

test('random drawings, some with hidden films and fonts that are not there', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.nat(),
      fc.array(fc.nat(), { maxLength: 4 }),
      fc.boolean(),
      fc.boolean(),
      anyBuild,
      async (seed, edits, hides, lacksFont, build) => {
        let drawing = edits.reduce(randomEdit, randomDrawing(seed, 8));
        const [first] = pageOf(drawing).layers;
        const record = first === undefined ? undefined : drawing[first];
        if (hides && record?.type === 'film') drawing = { ...drawing, [record.id]: { ...record, visible: false } };
        drawing = built(drawing, build);
        if (lacksFont && first !== undefined)
          drawing = run(drawing, addItems, {
            items: [words('item-lost', first, [1, 0, 0, 1, 5, 5], 30, 'no-such-font')],
            roots: ['item-lost'],
          });
        await both(drawing);
      },
    ),
    { numRuns: 10, seed: 81 },
  );
});

test('a series and panels: the same sheets, row by row and panel by panel', async () => {
  let drawing = run(emptyDrawing(), addFilm, { film: film('film-a') });
  drawing = run(drawing, addItems, { items: [words('item-name', 'film-a', [1, 0, 0, 1, 20, 20], 40)], roots: ['item-name'] });
  const panels = run(drawing, setLayUp, {
    film: 'film-a',
    fields: { fill: { ...USUAL_PANELS, way: 'count', columns: 3 } },
  });
  await both(panels);
  drawing = run(drawing, takeList, {
    list: { fileName: 'a.csv', columns: ['Boat'], rows: [['Tern'], ['Sandpiper of the Bay'], ['Knot']] },
  });
  drawing = run(drawing, setField, {
    item: 'item-name',
    field: { ...newField('item-name', '{n} {Boat}'), long: 'narrower', leastPct: 20 },
  });
  await both(drawing);
  await both(run(drawing, setLayUp, { film: 'film-a', fields: { sheetLengthMm: 150 } }));
  // a row that stops the one stops the other
  await both(run(drawing, correctCell, { row: 1, column: 0, text: '東京' }));
});

test('a word whose font is missing stops page and server, and the file is not given', async () => {
  let drawing = run(emptyDrawing(), addFilm, { film: film('film-a') });
  drawing = run(drawing, addItems, { items: [words('item-lost', 'film-a', [1, 0, 0, 1, 5, 5], 30, 'no-such-font')], roots: ['item-lost'] });
  const page = await onPage(drawing);
  expect(stopsOf(page).map(({ code }) => code)).toEqual(['missing-letters', 'nothing-to-cut']);
  await both(drawing);
  const scope = {} as const;
  const job = { id: 'job-t', name: 'n', customer: '', dueOn: null, revision: 1 };
  const asked = {
    kind: 'svg' as const,
    drawing,
    scope,
    job,
    stock,
    settings: USUAL_SETTINGS,
    dimensions: [],
    dpi: 100,
    today: '2026-01-01',
  };
  const { answered } = await answer({ id: 2, op: 'write-out', input: asked }, () => undefined);
  expect(answered).toMatchObject({ ok: false, error: { code: 'input.unknown' } });
});

test('six thousand different boxes: every one is on the sheet', async () => {
  let drawing = run(emptyDrawing(), addFilm, { film: film('film-a') });
  const items = Array.from({ length: 6000 }, (_, i): BoxItem => ({
    type: 'item',
    kind: 'box',
    id: `item-${i}`,
    name: 'Box',
    layer: 'film-a',
    matrix: [1, 0, 0, 1, 12 * (i % 100), 9 * Math.floor(i / 100)],
    widthMm: 5 + i / 1000,
    heightMm: 4 + i / 3000,
    cornerMm: 0,
  }));
  drawing = run(drawing, addItems, { items, roots: items.map(({ id }) => id) });
  const page = await onPage(drawing);
  const perimeters = items.reduce((sum, { widthMm, heightMm }) => sum + 2 * (widthMm + heightMm), 0);
  const [sheet] = page.sheets;
  expect(sheet!.parts[0]!.sources).toHaveLength(6000);
  const weed = sheet!.frame.box;
  expect(sheet!.cutMm).toBeCloseTo(perimeters + 2 * (weed.maxX - weed.minX + weed.maxY - weed.minY), 0);
  expect(drawing[PAGE_ID]).toBeDefined();
});
