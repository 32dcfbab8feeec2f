import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { Box } from '@lorvek/core/geometry';
import { BELOW_ALL, emptyDrawing, looseRanks, pageOf, PAGE_ID, type BoxItem, type Drawing, type Film } from '../index.ts';

const film = (id: string): Film =>
  ({
    type: 'film',
    id,
    stockId: null,
    name: id,
    series: 'S',
    hex: '#c4281f',
    visible: true,
    locked: false,
    transfer: false,
  }) as unknown as Film;
const box = (id: string, layer: string | null, x: number, w = 10): BoxItem =>
  ({ type: 'item', kind: 'box', id, name: id, layer, matrix: [1, 0, 0, 1, x, 0], widthMm: w, heightMm: 10, cornerMm: 0 }) as BoxItem;
const boxOf = (leaf: { matrix: readonly number[] }): Box => {
  const item = leaf as unknown as BoxItem;
  return { minX: item.matrix[4], maxX: item.matrix[4] + item.widthMm, minY: 0, maxY: item.heightMm };
};
const drawingOf = (films: readonly Film[], items: readonly BoxItem[]): Drawing => {
  const empty = emptyDrawing();
  return {
    ...empty,
    ...Object.fromEntries([...films, ...items].map((record) => [record.id, record])),
    [PAGE_ID]: { ...pageOf(empty), layers: films.map(({ id }) => id), root: items.map(({ id }) => id) },
  };
};
const films = [film('film-low'), film('film-high')];

test('a plate without a film lies under what comes after it and over what came before', () => {
  const drawing = drawingOf(films, [
    box('item-panel', 'film-low', 0, 100),
    box('item-plate', null, 10, 50),
    box('item-word', 'film-high', 20),
    box('item-dot', null, 22, 3),
    box('item-far', null, 500),
  ]);
  expect(Object.fromEntries(looseRanks(drawing, boxOf))).toEqual({ 'item-plate': 0, 'item-dot': 1, 'item-far': BELOW_ALL });
});

test('law: nothing without a film is hidden by what came before it', () => {
  const item = fc.record({
    layer: fc.constantFrom('film-low', 'film-high', null),
    x: fc.integer({ min: 0, max: 60 }),
    w: fc.integer({ min: 1, max: 40 }),
  });
  fc.assert(
    fc.property(fc.array(item, { minLength: 1, maxLength: 20 }), (list) => {
      const items = list.map(({ layer, x, w }, i) => box(`item-${i}`, layer, x, w));
      const ranks = looseRanks(drawingOf(films, items), boxOf);
      const rankOf = (one: BoxItem): number => (one.layer === null ? (ranks.get(one.id) ?? BELOW_ALL) : one.layer === 'film-low' ? 0 : 1);
      items.forEach((one, i) => {
        if (one.layer !== null) return;
        for (const before of items.slice(0, i)) {
          const meets = before.matrix[4] <= one.matrix[4] + one.widthMm && one.matrix[4] <= before.matrix[4] + before.widthMm;
          if (meets) expect(rankOf(before)).toBeLessThanOrEqual(rankOf(one));
        }
      });
    }),
  );
});
