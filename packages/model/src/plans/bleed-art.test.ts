/** What is carried outward beyond an edge cut: how far, in whose colours, and for which pass. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  boxShape,
  flatten,
  IDENTITY,
  joinOutlines,
  mapOutline,
  offset,
  translation,
  windingNumber,
  type Outline,
} from '@lorvek/core/geometry';
import type { PrintItem } from '@lorvek/core/print';
import { bleedArt, endOf } from './bleed-art.ts';

const at = (x: number, y: number, w: number, h: number): Outline => mapOutline(translation(x, y), boxShape(w, h));
const shape = (outline: Outline, fields: object = {}): PrintItem => ({ kind: 'shape', outline, fill: { hex: '#aa0000' }, ...fields });
const endsOf = (art: readonly PrintItem[]): Outline => joinOutlines(art.flatMap((item) => endOf(item, [])));
const holds = (item: PrintItem, x: number, y: number): boolean => {
  const outline = item.kind === 'shape' ? item.outline : item.clip;
  return outline !== undefined && windingNumber(flatten(outline, 0.01), x, y) !== 0;
};
/** What is seen at a place: what is painted last. */
const seenAt = (items: readonly PrintItem[], x: number, y: number): PrintItem | undefined => items.findLast((item) => holds(item, x, y));
const hexAt = (items: readonly PrintItem[], x: number, y: number): string | undefined => {
  const seen = seenAt(items, x, y);
  return seen?.kind === 'shape' ? seen.fill?.hex : undefined;
};

describe('bleed', () => {
  test('law: within its width of the line no ground is bare, and beyond that nothing is painted', () => {
    const distance = fc.double({ min: -2, max: 1.4, noNaN: true });
    fc.assert(
      fc.property(distance, fc.double({ min: 1.5, max: 4, noNaN: true }), (off, bleedMm) => {
        const art = [shape(at(0, 0, 40, 25))];
        const line = offset(at(0, 0, 40, 25), off, { join: 'round' });
        const under = bleedArt(art, endsOf(art), line, bleedMm);
        const all = [...under, ...art];
        for (let k = 0; k < 24; k++) {
          // straight out from the middles of the sides
          const beyond = off + (bleedMm * k) / 24;
          const places = [
            [20, -beyond],
            [40 + beyond, 12],
            [-beyond, 12],
            [20, 25 + beyond],
          ] as const;
          for (const [x, y] of places) expect(hexAt(all, x, y)).toBe('#aa0000');
        }
        const far = off + bleedMm + 0.1;
        expect(under.some((item) => holds(item, 20, -far) || holds(item, 40 + far, 12))).toBe(false);
      }),
      { numRuns: 25 },
    );
  });

  test('where two colours meet, the nearer one is carried', () => {
    const art = [shape(at(0, 0, 20, 20), { of: 'red' }), shape(at(20, 0, 20, 20), { fill: { hex: '#0000aa' }, of: 'blue' })];
    const under = bleedArt(art, endsOf(art), at(0, 0, 40, 20), 4);
    for (const y of [-3.5, -1, 21, 23.5]) {
      expect(hexAt(under, 14, y)).toBe('#aa0000');
      expect(hexAt(under, 26, y)).toBe('#0000aa');
    }
    // what is laid down in passes is laid down with its own
    expect(seenAt(under, 10, -2)).toMatchObject({ of: 'red' });
    expect(seenAt(under, 30, -2)).toMatchObject({ of: 'blue' });
  });

  test('the edge of what has a line is its line; a course of colours is carried as a course, with a fill or without', () => {
    const gradient = {
      kind: 'linear' as const,
      matrix: IDENTITY,
      spread: 'pad' as const,
      stops: [
        { offset: 0, hex: '#000000' },
        { offset: 1, hex: '#ffffff' },
      ],
    };
    const lined = [shape(at(0, 0, 20, 20), { stroke: { hex: '#00aa00', widthMm: 2, spot: 'Leaf' }, gradient })];
    expect(seenAt(bleedArt(lined, endsOf(lined), at(-1, -1, 22, 22), 3), 10, -3)).toMatchObject({ fill: { hex: '#00aa00', spot: 'Leaf' } });
    for (const fill of [{ hex: '#aa0000' }, null]) {
      const course = [shape(at(0, 0, 20, 20), { fill, gradient })];
      expect(seenAt(bleedArt(course, endsOf(course), at(0, 0, 20, 20), 3), 10, -2)).toMatchObject({ gradient });
    }
  });

  test('where the line runs farther off than the bleed is wide, and where nothing is painted, nothing is carried', () => {
    const art = [shape(at(0, 0, 20, 20))];
    expect(bleedArt(art, endsOf(art), at(-5, -5, 30, 30), 3)).toEqual([]);
    const bare = [shape(at(0, 0, 20, 20), { fill: null })];
    expect(bleedArt(bare, endsOf(bare), at(0, 0, 20, 20), 3)).toEqual([]);
  });

  test('a picture is set off all round, its pixels as they are, kept to the zone', () => {
    const picture: PrintItem = { kind: 'picture', picture: 'p', matrix: [20, 0, 0, 20, 0, 0], of: 'photo' };
    const under = bleedArt([picture], at(0, 0, 20, 20), at(0, 0, 20, 20), 3);
    expect(under.length).toBeGreaterThan(0);
    for (const item of under) {
      expect(item).toMatchObject({ picture: 'p', of: 'photo' });
      expect([holds(item, 10, 10), holds(item, 10, -3.2), holds(item, 23.2, 10)]).toEqual([false, false, false]);
    }
    for (const [x, y] of [
      [10, -2.8],
      [22.8, 10],
      [-2.8, 10],
      [10, 22.8],
    ] as const)
      expect(seenAt(under, x, y)).toBeDefined();
  });
});
