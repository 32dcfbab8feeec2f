/** Repeats as laws: a gap is the clear way between copies, as many as fit do fit and one more would not. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { copiesWithin, toRepeat, type Asked } from './repeat-plan.ts';

const asked = (fields: Partial<Asked>): Asked => ({
  kind: 'line',
  copies: 3,
  rows: 2,
  dx: 50,
  dy: 0,
  cx: 0,
  cy: 0,
  step: 30,
  turning: true,
  measured: 'pitch',
  ...fields,
});
const MIDDLE = { x: 0, y: 0 };
const size = fc.integer({ min: 1, max: 800 }).map((n) => n / 4);
const step = fc.integer({ min: -800, max: 800 }).map((n) => n / 4);

describe('repeats', () => {
  test('a gap asked for is the clear way between neighbours, either way along', () => {
    fc.assert(
      fc.property(size, size, step, (width, height, gap) => {
        const repeat = toRepeat(asked({ dx: gap, measured: 'gap' }), width, height, MIDDLE);
        if (repeat.kind !== 'line') throw new Error('not a line');
        expect(Math.abs(repeat.dxMm) - width).toBeCloseTo(Math.abs(gap), 9);
        if (gap !== 0) expect(Math.sign(repeat.dxMm)).toBe(Math.sign(gap));
        expect(repeat.dyMm).toBe(0);
      }),
    );
  });

  test('a gap of nothing is edge to edge, to the right unless the line goes up or down', () => {
    expect(toRepeat(asked({ dx: 0, dy: 0, measured: 'gap' }), 40, 20, MIDDLE)).toMatchObject({ dxMm: 40, dyMm: 0 });
    expect(toRepeat(asked({ dx: 0, dy: -5, measured: 'gap' }), 40, 20, MIDDLE)).toMatchObject({ dxMm: 0, dyMm: -25 });
    expect(toRepeat(asked({ kind: 'grid', dx: 0, dy: 0, measured: 'gap' }), 40, 20, MIDDLE)).toMatchObject({
      columns: 3,
      rows: 2,
      dxMm: 40,
      dyMm: 20,
    });
  });

  test('a pitch is taken as it is', () => {
    fc.assert(
      fc.property(step, step, (dx, dy) => {
        expect(toRepeat(asked({ dx, dy }), 10, 10, MIDDLE)).toMatchObject({ dxMm: dx, dyMm: dy });
      }),
    );
  });

  test('as many as there is room for fit into the length, one more would not', () => {
    fc.assert(
      fc.property(
        size,
        fc.integer({ min: 1, max: 400 }).map((n) => n / 4),
        fc.integer({ min: 10, max: 4000 }),
        (width, gap, lengthMm) => {
          const one = asked({ dx: gap, measured: 'gap' });
          const copies = copiesWithin(lengthMm, one, width, 10, MIDDLE);
          const needed = (n: number): number => width + n * (width + gap);
          if (copies > 1 && copies < 5000) expect(needed(copies)).toBeLessThanOrEqual(lengthMm + 1e-5);
          if (copies < 5000) expect(needed(copies + 1)).toBeGreaterThan(lengthMm - 1e-5);
        },
      ),
    );
  });

  test('of a circle and of a line that goes nowhere the number stays as it was', () => {
    expect(copiesWithin(1000, asked({ kind: 'round', copies: 7 }), 10, 10, MIDDLE)).toBe(7);
    expect(copiesWithin(1000, asked({ dx: 0, dy: 0, copies: 7 }), 10, 10, MIDDLE)).toBe(7);
  });
});
