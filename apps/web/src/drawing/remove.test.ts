/** What is taken away leaves what measured it where it stood. */
import { afterEach, beforeAll, beforeEach, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { boxShape, compose, rotation, translation } from '@lorvek/core/geometry';
import { addFilm, addItems, emptyDrawing, itemOf, transformItems, type DimensionItem, type Drawing } from '@lorvek/model';
import { film, run, shapeOf } from '../../../../packages/model/src/drawing.support.ts';
import { standInForBrowser } from '../browser.support.ts';
import { openDrawing } from '../document/document.support.ts';
import type * as Store from '../document/store.ts';
import type * as Dimensions from './dimensions.ts';
import type * as Remove from './remove.ts';

standInForBrowser();
let store: typeof Store;
let dimensions: typeof Dimensions;
let remove: typeof Remove.remove;
const realFetch = globalThis.fetch;
beforeAll(async () => {
  store = await import('../document/store.ts');
  dimensions = await import('./dimensions.ts');
  ({ remove } = await import('./remove.ts'));
});
beforeEach(() => {
  globalThis.fetch = () => Promise.reject(new TypeError('away'));
});
afterEach(() => {
  store.closeDocument();
  globalThis.fetch = realFetch;
});

const share = fc.integer({ min: 0, max: 4 }).map((n) => n / 4);
const anyEnd = fc.record({
  x: fc.constant(1),
  y: fc.constant(2),
  item: fc.constantFrom('item-s', 'item-t'),
  u: share,
  v: share,
});
const anyMap = fc
  .tuple(fc.integer({ min: 0, max: 359 }), fc.integer({ min: -900, max: 900 }), fc.integer({ min: -900, max: 900 }))
  .map(([deg, x, y]) => compose(translation(x, y), rotation(deg)));

const lineOf = (drawing: Drawing): DimensionItem => itemOf(drawing, 'item-d') as DimensionItem;
const now = (): Drawing => store.useDocument.getState().drawing;

test('a dimension line stands where it stood when what it was fastened to is taken away, and undo fastens it again', () => {
  fc.assert(
    fc.property(anyEnd, anyEnd, anyMap, fc.subarray(['item-s', 'item-t'], { minLength: 1 }), (from, to, map, gone) => {
      const line: DimensionItem = {
        type: 'item',
        kind: 'dimension',
        id: 'item-d',
        layer: null,
        matrix: [1, 0, 0, 1, 0, 0],
        name: 'Width',
        from,
        to,
        measure: 'straight',
        standOffMm: 10,
      };
      const items = [shapeOf('item-s', 'film-a', boxShape(100, 40)), shapeOf('item-t', 'film-a', boxShape(30, 30)), line];
      const start = run(run(emptyDrawing(), addFilm, { film: film('film-a') }), addItems, { items, roots: items.map(({ id }) => id) });
      // moved since it was fastened
      openDrawing(store, run(start, transformItems, { ids: ['item-s', 'item-t'], map }));
      const before = dimensions.dimensionLine(now(), lineOf(now()));
      expect(remove(gone, { origin: 'item.remove' })).toBe(true);
      const after = dimensions.dimensionLine(now(), lineOf(now()));
      for (const end of ['from', 'to'] as const) {
        expect(after[end].x).toBeCloseTo(before[end].x, 9);
        expect(after[end].y).toBeCloseTo(before[end].y, 9);
        const { item } = lineOf(now())[end];
        expect(item === undefined || !gone.includes(item)).toBe(true);
      }
      store.undo();
      expect([lineOf(now()).from, lineOf(now()).to]).toEqual([from, to]);
      store.closeDocument();
    }),
    { numRuns: 60 },
  );
});

test('where nothing can be taken away nothing is done', () => {
  openDrawing(store, emptyDrawing());
  expect(remove([], { origin: 'item.remove' })).toBe(false);
});
