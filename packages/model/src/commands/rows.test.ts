import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { boxShape } from '@lorvek/core/geometry';
import { film, run, shapeOf } from '../drawing.support.ts';
import {
  addFilm,
  addItems,
  addToRow,
  copyItems,
  emptyDrawing,
  endRow,
  groupItems,
  itemOf,
  pageOf,
  setRow,
  shortenRow,
  type Drawing,
  type GroupItem,
  type Row,
} from '../index.ts';

const ids = ['item-1', 'item-2', 'item-3'];
const row: Row = { axis: 'x', spacing: 'gap', distanceMm: 10 };

function draw(): Drawing {
  let drawing = run(emptyDrawing({ name: 'Wall', hex: '#ffffff', widthMm: 900, heightMm: 500 }), addFilm, { film: film('film-a') });
  drawing = run(drawing, addItems, { items: ids.map((id) => shapeOf(id, 'film-a', boxShape(20, 10))), roots: ids });
  return run(drawing, groupItems, { ids, groupId: 'item-row' });
}
const made = (moves: { id: string; dx: number; dy: number }[] = []): Drawing => run(draw(), setRow, { id: 'item-row', row, moves });
const groupIn = (drawing: Drawing): GroupItem => itemOf(drawing, 'item-row') as GroupItem;
const placeOf = (drawing: Drawing, id: string): number => itemOf(drawing, id)!.matrix[4];
const asks = (drawing: Drawing) => ({ drawing, selection: [] });

describe('rows', () => {
  test('pieces go where they are moved to, in the same change as the distance; ended they stay there', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: -300, max: 300 }), { minLength: 3, maxLength: 3 }), (shifts) => {
        const drawing = made(ids.map((id, i) => ({ id, dx: shifts[i]!, dy: 0 })));
        expect(groupIn(drawing).row).toEqual(row);
        expect(ids.map((id) => placeOf(drawing, id))).toEqual(shifts);
        const ended = run(drawing, endRow, { id: 'item-row' });
        expect(itemOf(ended, 'item-row')).toBeUndefined();
        expect(pageOf(ended).root).toEqual(ids);
        expect(ids.map((id) => placeOf(ended, id))).toEqual(shifts);
      }),
      { numRuns: 20 },
    );
  });

  test('a row grows at its end and is shortened from there, down to two', () => {
    const copy = copyItems(made(), ['item-3'], () => 'item-4');
    const longer = run(made(), addToRow, { id: 'item-row', items: copy.items, roots: copy.roots });
    expect(groupIn(longer).children).toEqual([...ids, 'item-4']);
    const shorter = run(longer, shortenRow, { id: 'item-row', count: 1 });
    expect(groupIn(shorter).children).toEqual(['item-1', 'item-2']);
    expect(itemOf(shorter, 'item-4')).toBeUndefined();
    expect(shortenRow(asks(shorter), { id: 'item-row', count: 1 })).toMatchObject({ enabled: false });
  });

  test('what is no row, is gone, or asks for what cannot be, is refused', () => {
    const plain = draw();
    expect(endRow(asks(plain), { id: 'item-row' })).toMatchObject({ enabled: false });
    expect(addToRow(asks(plain), { id: 'item-row', items: [], roots: [] })).toMatchObject({ enabled: false });
    expect(setRow(asks(plain), { id: 'item-gone', row, moves: [] })).toMatchObject({ enabled: false });
    expect(setRow(asks(plain), { id: 'item-row', row: { ...row, distanceMm: NaN }, moves: [] })).toMatchObject({ enabled: false });
    expect(setRow(asks(plain), { id: 'item-row', row, moves: [{ id: 'item-1', dx: 1e12, dy: 0 }] })).toMatchObject({ enabled: false });
  });
});
