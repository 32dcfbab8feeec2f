/** Items as they are made: where they were drawn, on the film that is meant. */
import { beforeAll, beforeEach, describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { area, bounds, mapOutline, parsePath, pathLength, polygonShape, translation, type Point } from '@lorvek/core/geometry';
import { arcShape } from '@lorvek/core/geometry';
import { addFilm, emptyDrawing, isRecord, pageOf, setFilmFields, type Asset, type Drawing } from '@lorvek/model';
import { film, run } from '../../../../../packages/model/src/drawing.support.ts';
import { standInForBrowser } from '../../browser.support.ts';
import type * as NewItems from './new-items.ts';
import type * as View from '../../drawing/view.ts';

standInForBrowser({ navigator: {} });
let made: typeof NewItems;
let view: typeof View;
beforeAll(async () => {
  made = await import('./new-items.ts');
  view = await import('../../drawing/view.ts');
});
beforeEach(() => view.useView.setState({ film: undefined }));

const place = fc.record({
  x: fc.double({ min: -2000, max: 2000, noNaN: true }),
  y: fc.double({ min: -2000, max: 2000, noNaN: true }),
});
const films = (...ids: string[]): Drawing => ids.reduce((drawing, id) => run(drawing, addFilm, { film: film(id) }), emptyDrawing());

describe('an arc over a chord', () => {
  test('begins and ends where it was drawn, and rises a quarter of the chord on one side', () => {
    fc.assert(
      fc.property(place, place, (from, to) => {
        const chord = Math.hypot(to.x - from.x, to.y - from.y);
        fc.pre(chord > 1);
        const { centre, radius, samples } = made.arcBetween(from, to);
        const apart = (a: Point, b: Point): number => Math.hypot(a.x - b.x, a.y - b.y);
        expect(apart(samples[0]!, from)).toBeLessThan(1e-6 * (1 + chord));
        expect(apart(samples.at(-1)!, to)).toBeLessThan(1e-6 * (1 + chord));
        for (const sample of samples) expect(Math.abs(apart(sample, centre) - radius)).toBeLessThan(1e-6 * (1 + chord));
        const middle = samples[12]!;
        expect(apart(middle, { x: (from.x + to.x) / 2, y: (from.y + to.y) / 2 })).toBeCloseTo(chord / 4, 4);
      }),
    );
  });

  test('is an item whose outline runs the same way, to a hundredth', () => {
    fc.assert(
      fc.property(place, place, (from, to) => {
        fc.pre(Math.hypot(to.x - from.x, to.y - from.y) > 5);
        const item = made.newArc(emptyDrawing(), from, to);
        expect(isRecord(item)).toBe(true);
        const drawn = mapOutline(item.matrix, arcShape(item.radiusMm, item.fromDeg, item.sweepDeg, 'open'));
        const box = bounds(drawn);
        const shown = made.arcBetween(from, to).samples;
        // angles are kept to a hundredth of a degree, places to a hundredth of a mm
        const slack = 0.05 + item.radiusMm * 4e-4;
        for (const { x, y } of shown) {
          expect(x).toBeGreaterThan(box.minX - slack);
          expect(x).toBeLessThan(box.maxX + slack);
          expect(y).toBeGreaterThan(box.minY - slack);
          expect(y).toBeLessThan(box.maxY + slack);
        }
      }),
    );
  });
});

describe('new items', () => {
  test('of an outline lie where the outline lies, and are as long and as large', () => {
    fc.assert(
      fc.property(place, fc.integer({ min: 3, max: 12 }), fc.double({ min: 1, max: 300, noNaN: true }), (at, sides, radius) => {
        const outline = mapOutline(translation(at.x, at.y), polygonShape(sides, radius));
        const item = made.shapeOf(emptyDrawing(), 'Piece', outline);
        expect(isRecord(item)).toBe(true);
        const again = mapOutline(item.matrix, parsePath(item.path));
        const [was, is] = [bounds(outline), bounds(again)];
        for (const side of ['minX', 'minY', 'maxX', 'maxY'] as const) expect(is[side]).toBeCloseTo(was[side], 3);
        expect(pathLength(again)).toBeCloseTo(pathLength(outline), 1);
        expect(area(again) / area(outline)).toBeCloseTo(1, 3);
      }),
    );
  });

  test('are records as the document takes them, however small they were drawn', () => {
    fc.assert(
      fc.property(place, fc.double({ min: 0, max: 500, noNaN: true }), fc.integer({ min: 3, max: 60 }), (at, size, sides) => {
        const drawing = films('film-a');
        const all = [
          made.newLettering(drawing, at),
          made.newShape(drawing, 'box', { ...at, width: size, height: size / 3 }),
          made.newShape(drawing, 'oval', { ...at, width: size, height: size / 3 }),
          made.newPolygon(drawing, at, size, sides, null),
          made.newPolygon(drawing, at, size, sides, 40),
        ];
        for (const item of all) expect([item.kind, isRecord(item)]).toEqual([item.kind, true]);
        expect(new Set(all.map(({ id }) => id)).size).toBe(all.length);
        for (const { layer } of all) expect(layer).toBe('film-a');
      }),
    );
  });

  test('go onto the film that is chosen, else onto the topmost that can be worked on', () => {
    const drawing = films('film-a', 'film-b', 'film-c');
    expect(made.filmForNew(drawing)).toBe('film-c');
    view.useView.setState({ film: 'film-a' });
    expect(made.filmForNew(drawing)).toBe('film-a');
    // one that is locked or hidden is not drawn on, chosen or not
    expect(made.filmForNew(run(drawing, setFilmFields, { id: 'film-a', fields: { locked: true } }))).toBe('film-c');
    const away = run(drawing, setFilmFields, { id: 'film-c', fields: { visible: false } });
    view.useView.setState({ film: 'film-c' });
    expect(made.filmForNew(away)).toBe('film-b');
    expect(made.filmForNew(emptyDrawing())).toBeNull();
  });

  test('pictures are as large as their file states, else as wide as the surface, upright pixels or not', () => {
    const drawing = emptyDrawing();
    const asset = { asset: 'a'.repeat(64), widthPx: 600, heightPx: 300 } as Asset;
    const stated = made.newPicture(drawing, 'Gulls', { ...asset, dpi: 300 });
    expect(stated.mmPerPx * stated.widthPx).toBeCloseTo(50.8, 6);
    const plain = made.newPicture(drawing, '', asset);
    expect(plain.name).toBe('Picture');
    expect(plain.mmPerPx * plain.widthPx).toBeCloseTo(pageOf(drawing).surface.widthMm, 6);
    expect(plain.layer).toBeNull();
    const fax = made.newPicture(drawing, 'Fax', { ...asset, pixelAspect: 2 });
    expect(fax.matrix).toEqual([1, 0, 0, 2, 0, 0]);
  });
});
