/** Artwork from a file stays where somebody put it, however its newer saving looks. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { boxShape, compose, mapPoint, rotation, scaling, translation, type Matrix } from '@lorvek/core/geometry';
import { film, run, shapeOf } from '../drawing.support.ts';
import {
  addFilm,
  addItems,
  emptyDrawing,
  groupItems,
  layersByColour,
  leavesOf,
  movedSince,
  removeItems,
  setFilmOfItems,
  transformItems,
  wayToPlaceOf,
  witnessesOf,
  type Drawing,
  type Item,
} from '../index.ts';

const anyMap = fc
  .record({
    deg: fc.integer({ min: -180, max: 180 }),
    size: fc.double({ min: 0.2, max: 4, noNaN: true }),
    mirrored: fc.boolean(),
    dx: fc.integer({ min: -400, max: 400 }),
    dy: fc.integer({ min: -400, max: 400 }),
  })
  .map(({ deg, size, mirrored, dx, dy }): Matrix =>
    compose(translation(dx, dy), compose(rotation(deg), scaling(mirrored ? -size : size, size))),
  );

/** So many shapes on two films, in one group. */
function placed(count: number): { drawing: Drawing; ids: string[]; items: Item[] } {
  let drawing = emptyDrawing();
  for (const id of ['film-a', 'film-b']) drawing = run(drawing, addFilm, { film: film(id) });
  const items = Array.from({ length: count }, (_, i) => ({
    ...shapeOf(`item-${i}`, i % 2 ? 'film-b' : 'film-a', boxShape(20, 12)),
    matrix: [1, 0, 0, 1, 30 * i, 10 * (i % 3)] as [number, number, number, number, number, number],
  }));
  const ids = items.map(({ id }) => id);
  drawing = run(drawing, addItems, { items, roots: ids });
  return { drawing: count > 1 ? run(drawing, groupItems, { ids, groupId: 'item-whole' }) : drawing, ids, items };
}
const rootOf = (count: number): string => (count > 1 ? 'item-whole' : 'item-0');

describe('artwork that was laid', () => {
  test('is followed through whatever was done to the whole, as long as one of its parts is left', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 40 }), fc.array(anyMap, { minLength: 1, maxLength: 3 }), fc.nat(), (count, maps, pick) => {
        const { drawing, items, ids } = placed(count);
        const witnesses = witnessesOf(items as never);
        expect(witnesses.length).toBeGreaterThan(0);
        expect(witnesses.length).toBeLessThanOrEqual(12);
        let now = maps.reduce((before, map) => run(before, transformItems, { ids: [rootOf(count)], map }), drawing);
        // all witnesses but one are taken away
        const stays = witnesses[pick % witnesses.length]!.id;
        const gone = ids.filter((id) => id !== stays);
        if (gone.length > 0) now = run(now, removeItems, { ids: gone });
        const moved = movedSince(now, witnesses);
        const whole = maps.reduce((all, map) => compose(map, all));
        for (const p of [
          { x: 0, y: 0 },
          { x: 100, y: 7 },
        ]) {
          const [a, b] = [mapPoint(moved!, p), mapPoint(whole, p)];
          // places are kept to a tenth of a micrometre, three times over, in whatever size the last one made of it
          expect(Math.hypot(a.x - b.x, a.y - b.y)).toBeLessThan(0.01);
        }
      }),
      { seed: 8 },
    );
  });

  test('of which nothing is left tells nothing', () => {
    const { drawing, items, ids } = placed(3);
    expect(movedSince(run(drawing, removeItems, { ids }), witnessesOf(items as never))).toBeUndefined();
    expect(movedSince(drawing, [])).toBeUndefined();
  });

  test('keeps its corner when all of its parts are others: the newer saving lies where the older one lay', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 9 }), fc.nat(300), fc.nat(300), (count, dx, dy) => {
        const { drawing, items } = placed(count);
        const moved = run(drawing, transformItems, { ids: [rootOf(count)], map: translation(dx + 1, dy) });
        const way = wayToPlaceOf(moved, rootOf(count), items as never);
        expect(way[4]).toBeCloseTo(dx + 1, 3);
        expect(way[5]).toBeCloseTo(dy, 3);
        expect(way.slice(0, 4)).toEqual([1, 0, 0, 1]);
      }),
    );
    expect(wayToPlaceOf(placed(2).drawing, 'item-whole', [])).toEqual([1, 0, 0, 1, 0, 0]);
  });

  test('its colours stay on the films that somebody gave them since, and a colour that is gone has none', () => {
    const { drawing, ids } = placed(4);
    const byColour = { '#112233': ['item-0', 'item-2'], '#445566': ['item-1', 'item-3'], '#778899': ['item-gone'] };
    const now = run(run(drawing, removeItems, { ids: ['item-0'] }), setFilmOfItems, { ids: ['item-2'], film: 'film-b' });
    expect(layersByColour(now, byColour)).toEqual(
      new Map([
        ['#112233', 'film-b'],
        ['#445566', 'film-b'],
      ]),
    );
    expect(layersByColour(run(now, removeItems, { ids: leavesOf(now).map(({ id }) => id) }), byColour).size).toBe(0);
    expect(ids).toHaveLength(4);
  });
});
