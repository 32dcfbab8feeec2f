/** Files that are laid on the drawing: on films of the shop, and seen as they are in the file. */
import { afterEach, beforeAll, beforeEach, describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { bounds, boxShape, formatPath, isInside, mapOutline, parsePath, translation, type Outline } from '@lorvek/core/geometry';
import type { Imported, ImportedPart } from '@lorvek/computations';
import {
  emptyDrawing,
  filmsOf,
  itemOf,
  layerOf,
  leavesOf,
  pageOf,
  setFilmOfItems,
  transformItems,
  type Drawing,
  type StockFilm,
} from '@lorvek/model';
import { stockOf } from '../../../../../../packages/model/src/drawing.support.ts';
import { useShop } from '../../../api/shop.ts';
import type * as Reports from '../../../document/import-reports.ts';
import { openDrawing } from '../../../document/document.support.ts';
import type * as Stacking from '../../../document/stacking.ts';
import type * as Store from '../../../document/store.ts';
import { workHere } from '../../../worker/worker.support.ts';
import type * as PlaceArtwork from './place-artwork.ts';

workHere();
let store: typeof Store;
let place: typeof PlaceArtwork;
let stacking: typeof Stacking;
let reports: typeof Reports;
const realFetch = globalThis.fetch;
beforeAll(async () => {
  store = await import('../../../document/store.ts');
  place = await import('./place-artwork.ts');
  stacking = await import('../../../document/stacking.ts');
  reports = await import('../../../document/import-reports.ts');
});

const HEXES = ['#c4281f', '#f2f2ee', '#1d3f8f'] as const;
const [RED, WHITE, BLUE] = HEXES;
const stock = (id: string, hex: string): StockFilm => ({ ...stockOf(id), hex });

beforeEach(() => {
  globalThis.fetch = () => Promise.reject(new TypeError('away'));
  useShop.setState({ stock: [stock('red', RED), stock('white', WHITE), stock('blue', BLUE)] });
  open(emptyDrawing());
});
afterEach(() => {
  store.closeDocument();
  globalThis.fetch = realFetch;
});

const open = (drawing: Drawing): void => openDrawing(store, drawing);
const now = (): Drawing => store.useDocument.getState().drawing;

const partOf = (outline: Outline, hex: string): ImportedPart => ({
  item: { type: 'item', kind: 'shape', name: hex, layer: null, matrix: [1, 0, 0, 1, 0, 0], path: formatPath(outline, 4) },
  hex,
  spot: undefined,
});
const boxAt = (x: number, y: number, width: number, height: number): Outline => mapOutline(translation(x, y), boxShape(width, height));
const fileOf = (parts: readonly ImportedPart[]): Imported => ({
  parts,
  pictures: [],
  widthMm: 100,
  heightMm: 100,
  hasSize: true,
  report: [],
  pages: 1,
  boxes: [],
  hidden: 0,
});
const lay = (parts: readonly ImportedPart[], name = 'boat.svg'): Promise<string | undefined> =>
  place.placeArtwork(new File(['x'], name), fileOf(parts), { x: 0, y: 0 }, 1, undefined);

/** The colour at a place: of the drawing, by its films from the top; of the file, by its parts. */
function seenAt(drawing: Drawing, x: number, y: number): string | undefined {
  const { layers } = pageOf(drawing);
  const there = leavesOf(drawing).filter((item) => item.kind === 'shape' && isInside(mapOutline(item.matrix, parsePath(item.path)), x, y));
  return layers
    .toReversed()
    .map((id) => (there.some((item) => item.layer === id) ? layerOf(drawing, id)?.hex : undefined))
    .find((hex) => hex !== undefined);
}
const inFile = (parts: readonly ImportedPart[], x: number, y: number): string | undefined =>
  parts.toReversed().find(({ item }) => item.kind === 'shape' && isInside(parsePath(item.path), x, y))?.hex;

const anyParts = fc
  .array(
    fc.record({
      x: fc.integer({ min: 0, max: 60 }),
      y: fc.integer({ min: 0, max: 60 }),
      width: fc.integer({ min: 8, max: 40 }),
      height: fc.integer({ min: 8, max: 40 }),
      hex: fc.constantFrom(...HEXES),
    }),
    { minLength: 1, maxLength: 6 },
  )
  .map((list) => list.map(({ x, y, width, height, hex }) => partOf(boxAt(x, y, width, height), hex)));

describe('a file that comes in', () => {
  test('whatever lies over what: every place is seen in the colour of the file', async () => {
    await fc.assert(
      fc.asyncProperty(anyParts, async (parts) => {
        open(emptyDrawing());
        expect(await lay(parts)).toBeDefined();
        // off the whole millimetres, where no outline runs
        for (let x = 1.37; x < 100; x += 6.1)
          for (let y = 1.41; y < 100; y += 6.3) expect([x, y, seenAt(now(), x, y)]).toEqual([x, y, inFile(parts, x, y)]);
      }),
      { numRuns: 25 },
    );
  });

  test('is one group, chosen, on films of Stock that the job takes with it; one step back takes all of it away', async () => {
    const root = await lay([partOf(boxAt(0, 0, 50, 50), RED), partOf(boxAt(10, 10, 20, 20), WHITE)]);
    const group = itemOf(now(), root ?? '');
    expect(group).toMatchObject({ kind: 'group', name: 'boat' });
    expect(store.useDocument.getState().selection).toEqual([root]);
    expect(filmsOf(now()).map(({ stockId }) => stockId)).toEqual(['red', 'white']);
    expect(leavesOf(now()).every(({ layer }) => layer !== null)).toBe(true);
    expect(reports.useReports.getState().reports[root ?? '']).toMatchObject({ file: 'boat.svg', parts: 2 });
    store.undo();
    expect(leavesOf(now())).toEqual([]);
    expect(filmsOf(now())).toEqual([]);
  });

  test('keeps its inks by name and its values in process inks for print', async () => {
    const part = partOf(boxAt(0, 0, 50, 50), RED);
    await lay([
      { ...part, cmyk: [0, 0.9, 0.8, 0.1] },
      { ...part, ...partOf(boxAt(60, 0, 20, 20), BLUE), spot: 'Deep blue' },
    ]);
    expect(leavesOf(now()).map(({ paint }) => paint)).toEqual([
      { fill: { hex: RED, cmyk: [0, 0.9, 0.8, 0.1] } },
      { fill: { hex: BLUE, spot: 'Deep blue' } },
    ]);
  });

  test('a colour that no film is like has none, and keeps its colour', async () => {
    await lay([partOf(boxAt(0, 0, 50, 50), '#00a000')]);
    expect(leavesOf(now())).toMatchObject([{ layer: null, paint: { fill: { hex: '#00a000' } } }]);
    expect(filmsOf(now())).toEqual([]);
  });

  test('parts of which nothing is seen are left out, and how many is said', async () => {
    const root = await lay([
      partOf(boxAt(10, 10, 10, 10), RED),
      partOf(boxAt(30, 10, 10, 10), RED),
      partOf(boxAt(0, 0, 60, 60), WHITE),
      partOf(boxAt(5, 5, 50, 50), RED),
    ]);
    const report = reports.useReports.getState().reports[root ?? ''];
    expect(report?.remarks.find(({ code }) => code === 'hidden-parts')?.count).toBe(2);
    expect(leavesOf(now())).toHaveLength(2);
  });

  test('with nothing in it leaves the drawing as it is', async () => {
    const before = now();
    expect(await lay([])).toBeUndefined();
    expect(now()).toBe(before);
  });
});

describe('films that lie both over and under one another', () => {
  /** Red under white and over it. */
  const knotted = [partOf(boxAt(0, 0, 40, 40), RED), partOf(boxAt(20, 20, 40, 40), WHITE), partOf(boxAt(30, 30, 10, 50), RED)];

  test('are cut out of one another, which is said; laid whole in layers on demand they are seen alike, with one film more', async () => {
    const root = await lay(knotted);
    const report = reports.useReports.getState().reports[root ?? ''];
    expect(report?.remarks.some(({ code }) => code.startsWith('knot'))).toBe(true);
    const areaOf = (drawing: Drawing): number =>
      leavesOf(drawing).reduce((sum, item) => {
        const { minX, minY, maxX, maxY } = item.kind === 'shape' ? bounds(parsePath(item.path)) : { minX: 0, minY: 0, maxX: 0, maxY: 0 };
        return sum + (maxX - minX) * (maxY - minY);
      }, 0);
    const whole = 40 * 40 + 40 * 40 + 10 * 50;
    expect(report?.whole).toHaveLength(3);
    const before = now();
    expect(await stacking.layInLayers(report?.whole ?? [])).toMatch(/layers?: .+ 2 is a layer/);
    expect(filmsOf(now())).toHaveLength(3);
    expect(areaOf(now())).toBeCloseTo(whole, 1);
    for (let x = 1.3; x < 80; x += 3.7) for (let y = 1.7; y < 90; y += 3.7) expect(seenAt(now(), x, y)).toBe(inFile(knotted, x, y));
    store.undo();
    expect(now()).toEqual(before);
  });

  test('that do so no longer need no more layers', async () => {
    const root = await lay(knotted);
    const { whole = [] } = reports.useReports.getState().reports[root ?? ''] ?? {};
    const [red] = filmsOf(now());
    store.dispatch(setFilmOfItems, { ids: leavesOf(now()).map(({ id }) => id), film: red!.id }, { origin: 'test' });
    const before = now();
    expect(await stacking.layInLayers(whole)).toBe('No film lies both over and under another any more.');
    expect(now()).toBe(before);
  });
});

describe('a newer saving', () => {
  const origin = { id: 'file-1', stamp: '2' };
  const first = [partOf(boxAt(0, 0, 30, 20), RED), partOf(boxAt(40, 0, 10, 10), WHITE)];
  const boxOf = (drawing: Drawing) =>
    leavesOf(drawing)
      .map((item) => (item.kind === 'shape' ? bounds(mapOutline(item.matrix, parsePath(item.path))) : undefined))
      .flatMap((box) => (box ? [[box.minX, box.minY, box.maxX, box.maxY].map((v) => Math.round(v))] : []))
      .sort((a, b) => (a[0] ?? 0) - (b[0] ?? 0));

  test('takes the place of the older one where that was moved to, on the films it was given since; one step back gives it back', async () => {
    const root = (await lay(first))!;
    store.dispatch(transformItems, { ids: [root], map: translation(200, 100) }, { origin: 'test' });
    const blue = stock('blue', BLUE);
    store.dispatch(
      (await import('@lorvek/model')).addFilm,
      { film: { ...filmsOf(now())[0]!, id: 'film-blue', stockId: blue.id, name: 'blue', hex: BLUE } },
      { origin: 'test' },
    );
    const reds = leavesOf(now()).filter((item) => item.kind === 'shape' && item.paint?.fill?.hex === RED);
    store.dispatch(setFilmOfItems, { ids: reds.map(({ id }) => id), film: 'film-blue' }, { origin: 'test' });
    const before = now();
    const report = reports.useReports.getState().reports[root]!;
    const newer = [partOf(boxAt(0, 0, 30, 40), RED), partOf(boxAt(40, 0, 10, 10), WHITE), partOf(boxAt(60, 0, 5, 5), RED)];
    await place.replaceArtwork(root, report, new File(['y'], 'boat.svg'), fileOf(newer), origin);
    expect(itemOf(now(), root)).toBeUndefined();
    expect(boxOf(now())).toEqual([
      [200, 100, 230, 140],
      [240, 100, 250, 110],
      [260, 100, 265, 105],
    ]);
    const ofRed = leavesOf(now()).filter((item) => item.kind === 'shape' && item.paint?.fill?.hex === RED);
    expect(ofRed.map(({ layer }) => layer)).toEqual(['film-blue', 'film-blue']);
    store.undo();
    expect(now()).toEqual(before);
  });

  test('with nothing in it is refused, and the older one stays', async () => {
    const root = (await lay(first))!;
    const before = now();
    const report = reports.useReports.getState().reports[root]!;
    await expect(place.replaceArtwork(root, report, new File(['y'], 'boat.svg'), fileOf([]), origin)).rejects.toThrow(/nothing of it/);
    expect(now()).toBe(before);
  });
});
