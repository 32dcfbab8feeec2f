/** Steps of printing that need a picture's pixels: lines that follow what is not clear, grounds that are lifted. */
import { afterEach, beforeAll, beforeEach, describe, expect, test } from '@jest/globals';
import { bounds, parsePath } from '@lorvek/core/geometry';
import { addEdgeCut, addFilm, addItems, emptyDrawing, itemOf, leavesOf, type Drawing, type PictureItem } from '@lorvek/model';
import { printLayer, run } from '../../../../packages/model/src/drawing.support.ts';
import { workHere } from '../worker/worker.support.ts';
import { openDrawing } from './document.support.ts';
import type * as PrintWork from './print-work.ts';
import type * as Store from './store.ts';

workHere();
let store: typeof Store;
let work: typeof PrintWork;
const realFetch = globalThis.fetch;
beforeAll(async () => {
  store = await import('./store.ts');
  work = await import('./print-work.ts');
});

/** A red square of 60 by 40 pixels in the middle of 120 by 80 white ones. */
const SQUARE = 'a'.repeat(64);
const picture = (id: string, fields: Partial<PictureItem> = {}): PictureItem => ({
  type: 'item',
  kind: 'picture',
  id,
  name: 'Badge',
  layer: 'print-p',
  matrix: [1, 0, 0, 1, 0, 0],
  asset: SQUARE,
  widthPx: 120,
  heightPx: 80,
  mmPerPx: 0.5,
  strengthPct: 100,
  locked: false,
  ...fields,
});
const open = (...items: PictureItem[]): void =>
  openDrawing(
    store,
    run(run(emptyDrawing(), addFilm, { film: printLayer('print-p') }), addItems, { items, roots: items.map(({ id }) => id) }),
  );
const now = (): Drawing => store.useDocument.getState().drawing;
const own = (id = 'item-p'): PictureItem => itemOf(now(), id) as PictureItem;
const add = (args: Parameters<typeof addEdgeCut>[1]): boolean => store.dispatch(addEdgeCut, args, { origin: 'edge-cut.add' });
/** In whole pixels, y up. */
const boxOfPath = (path: string): number[] => {
  const { minX, minY, maxX, maxY } = bounds(parsePath(path));
  return [minX, minY, maxX, maxY].map((v) => Math.round(v));
};

beforeEach(() => {
  globalThis.fetch = () => Promise.reject(new TypeError('away'));
});
afterEach(() => {
  store.closeDocument();
  globalThis.fetch = realFetch;
});

describe('an edge cut round pictures', () => {
  test('is put round them in one step, though their silhouettes had to be worked out', async () => {
    open(picture('item-p'), picture('item-q'));
    await work.cutRound(['item-p', 'item-q'], add);
    expect(leavesOf(now()).filter(({ kind }) => kind === 'edge-cut')).toHaveLength(1);
    store.undo();
    expect(leavesOf(now()).map(({ id }) => id)).toEqual(['item-p', 'item-q']);
    expect(own().silhouette).toBeUndefined();
  });

  test('when a picture cannot be read nothing is put round anything', async () => {
    open(picture('item-p'), picture('item-q', { asset: 'b'.repeat(64) }));
    const before = now();
    await work.cutRound(['item-p', 'item-q'], add);
    expect(now()).toBe(before);
  });
});

describe('a picture on a plain ground', () => {
  test('is shown within the outline of what stands on it', async () => {
    open(picture('item-p'));
    await work.clipToOutline(own());
    expect(boxOfPath(own().clip ?? '')).toEqual([30, 20, 90, 60]);
    store.undo();
    expect(own().clip).toBeUndefined();
  });

  test('lifted it is another picture of the shop, with its silhouette; the one before comes back', async () => {
    open(picture('item-p'));
    const sent: FormData[] = [];
    globalThis.fetch = (_url, init) => {
      if (init?.body instanceof FormData) sent.push(init.body);
      const answer = { asset: 'c'.repeat(64), widthPx: 120, heightPx: 80, type: 'image/png' };
      return Promise.resolve(new Response(JSON.stringify(answer), { status: 201, headers: { 'content-type': 'application/json' } }));
    };
    await work.liftGround(own());
    expect(sent).toHaveLength(1);
    expect(own().asset).toBe('c'.repeat(64));
    expect(boxOfPath(own().silhouette ?? '')).toEqual([30, 20, 90, 60]);
    store.undo();
    expect(own()).toMatchObject({ asset: SQUARE });
    expect(own().silhouette).toBeUndefined();
  });

  test('when the shop cannot take the lifted one it stays as it was', async () => {
    open(picture('item-p'));
    const before = now();
    await work.liftGround(own());
    expect(now()).toBe(before);
  });
});
