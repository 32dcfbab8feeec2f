/** Cleaning on the drawing: shapes by their paths, others as plain shapes that look as they did, each in steps that go back. */
import { afterEach, beforeAll, beforeEach, describe, expect, test } from '@jest/globals';
import { area, boxShape, mapOutline, parsePath, translation } from '@lorvek/core/geometry';
import {
  addFilm,
  addItems,
  emptyDrawing,
  itemOf,
  leavesOf,
  pageOf,
  transformItems,
  type Drawing,
  type Item,
  type ShapeItem,
} from '@lorvek/model';
import { film, run, shapeOf } from '../../../../packages/model/src/drawing.support.ts';
import { workHere } from '../worker/worker.support.ts';
import type * as Clean from './clean.ts';
import { openDrawing } from './document.support.ts';
import type * as Store from './store.ts';

workHere();
let store: typeof Store;
let clean: typeof Clean;
const realFetch = globalThis.fetch;
beforeAll(async () => {
  store = await import('./store.ts');
  clean = await import('./clean.ts');
});
beforeEach(() => {
  globalThis.fetch = () => Promise.reject(new TypeError('away'));
});
afterEach(() => {
  store.closeDocument();
  globalThis.fetch = realFetch;
});

const now = (): Drawing => store.useDocument.getState().drawing;
const open = (...items: Item[]): void => {
  const drawing = run(emptyDrawing(), addFilm, { film: film('film-a') });
  openDrawing(store, run(drawing, addItems, { items, roots: items.map(({ id }) => id) }));
};
const shape = (id: string, path: string): ShapeItem => ({ ...shapeOf(id, 'film-a', boxShape(1, 1)), path });
/** A box with a speck beside it. */
const SPECKED = 'M0 0L40 0L40 30L0 30ZM50 10L50.2 10L50.2 10.2L50 10.2Z';
const ALL = { others: false, group: 'group-1' };
const oval: Item = {
  type: 'item',
  kind: 'oval',
  id: 'item-o',
  name: 'Sun',
  layer: 'film-a',
  matrix: [1, 0, 0, 1, 10, 20],
  widthMm: 40,
  heightMm: 30,
  paint: { fill: { hex: '#c4281f', spot: 'Signal' } },
  helper: true,
};

describe('cleaning', () => {
  test('takes a speck away, says so, and one step back gives it back', async () => {
    open(shape('item-a', SPECKED));
    const before = now();
    const { answer, shapes } = await clean.clean(['item-a'], clean.CLEAN_LIMITS, ['specks'], ALL);
    expect([shapes, answer.done.map(({ step }) => step)]).toEqual([1, ['specks']]);
    expect(parsePath((itemOf(now(), 'item-a') as ShapeItem).path).contours).toHaveLength(1);
    expect(clean.comparedOf([{ id: 'item-a', path: SPECKED, matrix: [1, 0, 0, 1, 0, 0], film: 'film-a' }], now())).toHaveLength(1);
    store.undo();
    expect(now()).toEqual(before);
    expect(
      clean.comparedOf(
        [{ id: 'item-a', path: (itemOf(before, 'item-a') as ShapeItem).path, matrix: [1, 0, 0, 1, 0, 0], film: 'film-a' }],
        now(),
      ),
    ).toEqual([]);
  });

  test('lines of two items whose ends meet become one shape', async () => {
    open(shape('item-a', 'M0 0L40 0L40 30'), shape('item-b', 'M40 30.1L0 30L0 0.1'));
    await clean.clean(['item-a', 'item-b'], clean.CLEAN_LIMITS, undefined, ALL);
    const leaves = leavesOf(now());
    expect(leaves).toHaveLength(1);
    const outline = parsePath((leaves[0] as ShapeItem).path);
    expect(outline.contours.map(({ closed }) => closed)).toEqual([true]);
    expect(Math.abs(area(outline))).toBeCloseTo(1200, -1);
  });

  test('what changed meanwhile is not written over', async () => {
    open(shape('item-a', SPECKED));
    const cleaning = clean.clean(['item-a'], clean.CLEAN_LIMITS, undefined, ALL);
    store.dispatch(transformItems, { ids: ['item-a'], map: translation(5, 0) }, { origin: 'test' });
    const moved = now();
    await expect(cleaning).rejects.toMatchObject({ code: 'stale' });
    expect(now()).toBe(moved);
  });

  test('items that are no plain shapes are left alone, unless they are asked for', async () => {
    open(oval);
    expect((await clean.clean(['item-o'], clean.CLEAN_LIMITS, undefined, ALL)).shapes).toBe(0);
    expect((await clean.clean(['item-o'], clean.CLEAN_LIMITS, undefined, { ...ALL, others: true })).shapes).toBe(1);
  });
});

test('a plain shape in place of an item has its outline, place, colours and use', () => {
  open(oval);
  const plain = clean.plainOf(oval as never)!;
  const { paint, helper, layer, name, matrix } = plain;
  expect({ paint, helper, layer, name, matrix }).toEqual({
    paint: oval.paint,
    helper: true,
    layer: 'film-a',
    name: 'Sun',
    matrix: oval.matrix,
  });
  expect(Math.abs(area(parsePath(plain.path)))).toBeCloseTo((Math.PI * 40 * 30) / 4, 0);
});

describe('welding what crosses', () => {
  test('each group becomes one, what is gone meanwhile is passed over, and how many is told', async () => {
    const at = (id: string, x: number): ShapeItem => shapeOf(id, 'film-a', mapOutline(translation(x, 0), boxShape(20, 10)));
    open(at('item-a', 0), at('item-b', 10), at('item-c', 100), at('item-d', 300));
    expect(await clean.weldGroups([['item-a', 'item-b'], ['item-c', 'item-gone'], ['item-d']], 'group-1')).toBe(1);
    const leaves = leavesOf(now());
    expect(leaves).toHaveLength(3);
    expect(pageOf(now()).root).toContain('item-c');
    const welded = leaves.find(({ id }) => !['item-c', 'item-d'].includes(id)) as ShapeItem;
    expect(Math.abs(area(parsePath(welded.path)))).toBeCloseTo(300, 3);
  });
});

test('the smallest part of the films in use limits what is a speck, the usual one where none says so', () => {
  open(shape('item-a', SPECKED));
  expect(clean.speckLimit(now(), ['item-a'], () => 2.5)).toBe(2.5);
  expect(clean.speckLimit(now(), ['item-a'], () => undefined)).toBe(clean.CLEAN_LIMITS.speckMm);
  expect(clean.speckLimit(now(), [], () => 2.5)).toBe(clean.CLEAN_LIMITS.speckMm);
});
