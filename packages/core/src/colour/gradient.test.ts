/** Gradients: unrolled, through files and back they keep their colours at every place. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { readPdf, readSvg, writePdf, writeSvg, type Artwork, type ImportedArtwork } from '../format/index.ts';
import { boxShape } from '../geometry/shapes.ts';
import { colourAt } from './gradient.support.ts';
import { mapGradient, meanColour, unrolled, type Gradient } from './gradient.ts';

const SIDE = 60;
const BOX = { minX: 0, minY: 0, maxX: SIDE, maxY: SIDE };

const hex = fc.integer({ min: 0, max: 0xffffff }).map((n) => `#${n.toString(16).padStart(6, '0')}`);
const stops = fc
  .array(fc.record({ offset: fc.double({ min: 0, max: 1, noNaN: true }), hex }), { minLength: 2, maxLength: 5 })
  .map((list) => list.sort((a, b) => a.offset - b.offset))
  // steep courses jump at a place that rounding moves
  .filter((list) => list.every(({ offset }, i) => i === 0 || offset - (list[i - 1]?.offset ?? 0) > 0.08));
const place = fc.double({ min: 0, max: SIDE, noNaN: true });
const matrix = fc
  .tuple(fc.double({ min: 12, max: 50, noNaN: true }), fc.double({ min: 0, max: 6.28, noNaN: true }), place, place)
  .map(([size, turn, x, y]): [number, number, number, number, number, number] => {
    const [c, s] = [size * Math.cos(turn), size * Math.sin(turn)];
    return [c, s, -s, c, x, y];
  });
const gradient = (spreads: readonly Gradient['spread'][]): fc.Arbitrary<Gradient> =>
  fc
    .record({
      kind: fc.constantFrom('linear' as const, 'radial' as const),
      matrix,
      stops,
      spread: fc.constantFrom(...spreads),
      inner: fc.record({
        x: fc.double({ min: -0.5, max: 0.5, noNaN: true }),
        y: fc.double({ min: -0.5, max: 0.5, noNaN: true }),
        r: fc.constantFrom(0, 0.2),
      }),
    })
    // within its inner circle a repeated course has its first colour, while its definition goes on inwards
    .filter(({ inner, spread }) => spread === 'pad' || inner.r === 0);

/** Greatest difference of a channel at a place; jumps of a repeated course are looked at beside. */
function differs(one: Gradient, two: Gradient, at: readonly (readonly [number, number])[]): number {
  const near = (x: number, y: number): number =>
    Math.max(...colourAt(one, x, y).map((v, i) => Math.abs(v - (colourAt(two, x, y)[i] ?? 0))));
  return Math.max(...at.map(([x, y]) => Math.min(near(x, y), near(x + 0.05, y), near(x, y + 0.05), near(x - 0.05, y - 0.05))));
}

const places = fc.array(fc.tuple(place, place), { minLength: 5, maxLength: 5 });

const artwork = (course: Gradient): Artwork => ({
  widthMm: SIDE,
  heightMm: SIDE,
  items: [{ outline: boxShape(SIDE, SIDE), closed: true, fill: meanColour(course), gradient: course }],
});

function courseOf({ items }: ImportedArtwork): Gradient {
  const course = items[0]?.gradient;
  if (!course) throw new Error('the gradient is gone');
  return course;
}

describe('gradients', () => {
  test('unrolled over a box, the colours within it are the same', () => {
    fc.assert(
      fc.property(gradient(['reflect', 'repeat']), places, (course, at) => {
        const flat = unrolled(course, BOX);
        expect(flat.spread).toBe('pad');
        expect(differs(course, flat, at)).toBeLessThan(1);
      }),
      { numRuns: 150 },
    );
  });

  test('written as SVG and read again, every place has its colour', async () => {
    await fc.assert(
      fc.asyncProperty(gradient(['pad', 'reflect', 'repeat']), places, async (course, at) => {
        const back = courseOf(await readSvg(writeSvg(artwork(course))));
        expect(differs(course, back, at)).toBeLessThan(1.5);
      }),
      { numRuns: 60 },
    );
  });

  test('written as PDF and read again, every place has its colour within a few steps', async () => {
    await fc.assert(
      fc.asyncProperty(gradient(['pad', 'reflect']), places, async (course, at) => {
        const back = courseOf(await readPdf(await writePdf(artwork(course)), { page: 1 }));
        // the parser takes 840 samples of the course and drops those within one step of colour
        expect(differs(course, back, at)).toBeLessThan(12);
      }),
      { numRuns: 12 },
    );
  });

  test('the mean colour weighs stops by their share of the course', () => {
    expect(
      meanColour({
        stops: [
          { offset: 0, hex: '#000000' },
          { offset: 0.5, hex: '#000000' },
          { offset: 0.5, hex: '#ffffff' },
          { offset: 1, hex: '#ffffff' },
        ],
      }),
    ).toBe('#808080');
    expect(
      meanColour({
        stops: [
          { offset: 0.9, hex: '#ff0000' },
          { offset: 1, hex: '#0000ff' },
        ],
      }),
    ).toBe('#f2000d');
  });

  test('moved with its shape, it has its colours where the shape has them', () => {
    fc.assert(
      fc.property(gradient(['pad', 'repeat']), matrix, place, place, (course, map, x, y) => {
        const moved = mapGradient(map, course);
        const [a, b, c, d, e, f] = map;
        const there = colourAt(moved, a * x + c * y + e, b * x + d * y + f);
        const here = colourAt(course, x, y);
        const off = Math.max(...there.map((v, i) => Math.abs(v - (here[i] ?? 0))));
        // at the jump of a repeated course rounding decides
        expect(off < 0.01 || course.spread === 'repeat').toBe(true);
      }),
    );
  });
});
