/** The check of the drawing itself: what is hidden, lies off or on nothing, and what was not looked at, is said. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { boxShape, mapOutline, translation, type Outline } from '@lorvek/core/geometry';
import { addFilm, addItems, emptyDrawing, type Drawing, type Item, type Known, type PlainItem } from '../index.ts';
import { film, run, shapeOf } from '../drawing.support.ts';
import { plainOutline } from '../queries/plain-outline.ts';
import { checkDrawing } from './check-drawing.ts';

const knownOf = Object.assign(
  (item: { kind: string }): Known => {
    const outline = plainOutline(item as PlainItem);
    return { derived: { outline, lines: [], missing: [] }, pieces: [{ layer: (item as PlainItem).layer, outline }] };
  },
  { on: () => knownOf },
) as never;
const drawingOf = (items: readonly Item[], films = ['film-a', 'film-b']): Drawing => {
  const withFilms = films.reduce(
    (drawing, id) => run(drawing, addFilm, { film: film(id) }),
    emptyDrawing({ name: 'Wall', hex: '#ffffff', widthMm: 2000, heightMm: 2000 }),
  );
  return run(withFilms, addItems, { items, roots: items.map(({ id }) => id) });
};
const at = (x: number, y: number, outline: Outline): Outline => mapOutline(translation(x, y), outline);
const codes = (drawing: Drawing): string[] => checkDrawing(drawing, knownOf).map(({ code }) => code);

describe('the check of a drawing', () => {
  test('finds what lies wholly under another film, and nothing where some of it is seen', () => {
    fc.assert(
      fc.property(fc.integer({ min: 5, max: 60 }), fc.integer({ min: 0, max: 100 }), fc.integer({ min: 0, max: 100 }), (side, x, y) => {
        const items = [shapeOf('item-low', 'film-a', at(x, y, boxShape(side, side))), shapeOf('item-high', 'film-b', boxShape(80, 80))];
        const isUnder = x + side <= 80 && y + side <= 80;
        expect(codes(drawingOf(items))).toEqual(isUnder ? ['hidden'] : []);
      }),
    );
  });

  test('finds what lies within a part of its own film, that is on no film, that reaches beyond the surface', () => {
    const inner = [shapeOf('item-plate', 'film-a', boxShape(80, 80)), shapeOf('item-dot', 'film-a', at(20, 20, boxShape(10, 10)))];
    expect(codes(drawingOf(inner))).toContain('inside-same-film');
    const lost = { ...shapeOf('item-lost', 'film-a', boxShape(5, 5)), layer: null };
    expect(codes(drawingOf([lost]))).toEqual(['film-missing']);
    expect(codes(drawingOf([shapeOf('item-out', 'film-a', at(1990, 0, boxShape(40, 40)))]))).toEqual(['off-drawing']);
    expect(checkDrawing(drawingOf([shapeOf('item-off', 'film-a', at(3000, 0, boxShape(40, 40)))]), knownOf)[0]?.text).toMatch(
      /off the surface/,
    );
  });

  test('of very many pieces does not look under them, and says so', () => {
    const many = Array.from({ length: 1501 }, (_, i) =>
      shapeOf(`item-${i}`, 'film-a', at(12 * (i % 100), 12 * Math.floor(i / 100), boxShape(10, 10))),
    );
    const [only, ...others] = checkDrawing(drawingOf(many), knownOf);
    expect(others).toEqual([]);
    expect([only?.code, only?.text]).toEqual(['not-worked-out', expect.stringMatching(/With 1501 pieces/)]);
    expect(codes(drawingOf(many.slice(0, 1500)))).toEqual([]);
  });

  test('of very many findings lists some, and counts the others', () => {
    const out = Array.from({ length: 400 }, (_, i) => shapeOf(`item-${i}`, 'film-a', at(1990, 4 * i, boxShape(30, 3))));
    const found = checkDrawing(drawingOf(out), knownOf);
    expect(found).toHaveLength(300);
    expect(found.at(-1)?.text).toMatch(/^101 more/);
  });

  test('an item that is not known stops, with its reason, and is not looked at further', () => {
    const unknown = Object.assign(() => ({ why: 'Its font is not here.' }), { on: () => knownOf }) as never;
    const found = checkDrawing(drawingOf([shapeOf('item-a', 'film-a', boxShape(10, 10))]), unknown);
    expect(found.map(({ level, parts }) => [level, parts])).toEqual([['stop', ['item-a']]]);
    expect(found[0]?.text).toMatch(/Its font is not here/);
  });
});
