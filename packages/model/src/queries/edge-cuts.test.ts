/** Lines that are kept are the lines that would be worked out, whoever asks first. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { boxShape, mapOutline, ovalShape, translation, type Outline } from '@lorvek/core/geometry';
import { addEdgeCut, addFilm, addItems, emptyDrawing, leavesOf, transformItems, type Drawing, type EdgeCutItem } from '../index.ts';
import { printLayer, run, shapeOf } from '../drawing.support.ts';
import type { Derived } from './derive.ts';
import { lineRound, roundedBy, outlinesRound } from './edge-cuts.ts';
import { knownIn } from './know.ts';
import type { Kept } from './known-pieces.ts';

/** Keeps everything, and counts what was new. */
function keeping(): Kept & { readonly lines: Map<string, Derived> } {
  const lines = new Map<string, Derived>();
  return { lines, get: (key) => lines.get(key), set: (key, derived) => lines.set(key, derived) };
}

const anyCut = fc.record({
  shape: fc.constantFrom('follow', 'box', 'rounded', 'oval', 'circle'),
  distanceMm: fc.integer({ min: 0, max: 6 }),
  smoothMm: fc.constantFrom(0, 2),
  cornerMm: fc.constantFrom(0, 3),
  holes: fc.boolean(),
  joinWithinMm: fc.constantFrom(0, 5),
});
const cutItem = (fields: object): EdgeCutItem =>
  ({
    type: 'item',
    kind: 'edge-cut',
    id: 'item-cut',
    name: 'Cut',
    layer: null,
    matrix: [1, 0, 0, 1, 0, 0],
    of: ['item-a'],
    line: { kind: 'kiss' },
    ...fields,
  }) as EdgeCutItem;
const anyOutlines = fc
  .array(fc.record({ x: fc.nat(60), y: fc.nat(60), isOval: fc.boolean() }), { minLength: 1, maxLength: 3 })
  .map((all) => all.map(({ x, y, isOval }): Outline => mapOutline(translation(x, y), isOval ? ovalShape(18, 11) : boxShape(14, 9))));

/** Two shapes with a line round the first of them. */
function drawn(): Drawing {
  let drawing = run(emptyDrawing(), addFilm, { film: printLayer('film-a') });
  const items = ['item-a', 'item-b'].map((id) => shapeOf(id, 'film-a', boxShape(20, 12)));
  drawing = run(drawing, addItems, { items, roots: ['item-a', 'item-b'] });
  return run(drawing, addEdgeCut, { id: 'item-cut', of: ['item-a'] });
}

describe('lines that are kept', () => {
  test('are those that would be worked out, and stand for their own settings and outlines alone', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(anyCut, anyOutlines), { minLength: 2, maxLength: 5 }), (asked) => {
        const kept = keeping();
        for (const [fields, outlines] of [...asked, ...asked]) {
          const item = cutItem(fields);
          expect(lineRound(item, outlines, kept).outline).toEqual(lineRound(item, outlines).outline);
        }
        // names, films and places of the item are no matter: what differs in nothing else is the same line
        const [[fields, outlines]] = asked as [(typeof asked)[number]];
        const before = kept.lines.size;
        const other = cutItem({ ...fields, name: 'Another', line: { kind: 'through' } });
        expect(lineRound(other, outlines, kept)).toBe(lineRound(cutItem(fields), outlines, kept));
        expect(kept.lines.size).toBe(before);
      }),
      { numRuns: 30 },
    );
  });

  test('serve the sheets when the screen has asked for them, and are asked for anew when what they go round moves', () => {
    const kept = keeping();
    const drawing = drawn();
    const cut = leavesOf(drawing).find((leaf): leaf is EdgeCutItem => leaf.kind === 'edge-cut')!;
    const known = knownIn(drawing, () => undefined, kept);
    const outlines = roundedBy(drawing, cut).flatMap((leaf) => {
      const of = known(leaf);
      return 'why' in of ? [] : outlinesRound(leaf, of.pieces);
    });
    const shown = lineRound(cut, outlines, kept);
    const onSheet = knownIn(drawing, () => undefined, kept)(cut);
    expect('why' in onSheet ? undefined : onSheet.derived).toBe(shown);
    const away = run(drawing, transformItems, { ids: ['item-b'], map: translation(9, 9) });
    const same = knownIn(away, () => undefined, kept)(cut);
    expect('why' in same ? undefined : same.derived).toBe(shown);
    const moved = run(drawing, transformItems, { ids: ['item-a'], map: translation(9, 9) });
    const next = knownIn(moved, () => undefined, kept)(cut);
    expect('why' in next ? undefined : next.derived).not.toBe(shown);
  });
});
