/** Inks of a separated TIFF: which sample is which, by names, by numbers, beside alpha; what is laid down is what is seen. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { inkPlan, separatedPixels } from './tiff-inks.ts';

const named = (...names: string[]): string => names.map((name) => `${name}\0`).join('');

describe('which sample is which ink', () => {
  test('without names the first four are the process inks, the others are called by their number', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 12 }), (samples) => {
        const { process, alpha, spots } = inkPlan({ samples, inkSet: 1, names: '', extras: [] });
        expect(process).toEqual([0, 1, 2, 3].map((i) => (i < samples ? i : -1)));
        expect(alpha).toBe(-1);
        expect(spots.map(({ sample, name }) => [sample, name])).toEqual(
          Array.from({ length: Math.max(0, samples - 4) }, (_, i) => [4 + i, `Ink ${5 + i}`]),
        );
      }),
    );
  });

  test('names of all inks, or of those beyond the four, are found either way; white looks white', () => {
    const all = inkPlan({ samples: 6, inkSet: 1, names: named('Cyan', 'Magenta', 'Yellow', 'Black', 'White', 'Gold'), extras: [0, 0] });
    const few = inkPlan({ samples: 6, inkSet: 1, names: named('White', 'Gold'), extras: [0, 0] });
    for (const plan of [all, few]) {
      expect(plan.spots.map(({ sample, name }) => [sample, name])).toEqual([
        [4, 'White'],
        [5, 'Gold'],
      ]);
      expect(plan.spots[0]?.hex).toBe('#ffffff');
    }
  });

  test('in a set of inks of its own the process inks are where their names say, in any order', () => {
    fc.assert(
      fc.property(fc.shuffledSubarray(['Cyan', 'Magenta', 'Yellow', 'Black', 'Gold', 'Varnish'], { minLength: 1 }), (inks) => {
        const { process, spots } = inkPlan({ samples: inks.length, inkSet: 2, names: named(...inks), extras: [] });
        expect(process).toEqual(['Cyan', 'Magenta', 'Yellow', 'Black'].map((ink) => inks.indexOf(ink)));
        expect(spots.map(({ name }) => name)).toEqual(inks.filter((ink) => ink === 'Gold' || ink === 'Varnish'));
      }),
    );
  });

  test('alpha is no ink; two of one name are told apart; letters that cannot be seen are left off', () => {
    const plan = inkPlan({ samples: 7, inkSet: 1, names: named('Gold', 'Gold\u0007'), extras: [0, 0, 2] });
    expect(plan.alpha).toBe(6);
    expect(plan.spots.map(({ name }) => name)).toEqual(['Gold', 'Gold 6']);
  });

  test('more inks of their own than become plates: every ink is on a plate or named as left out, none twice', () => {
    fc.assert(
      fc.property(fc.integer({ min: 4, max: 40 }), fc.boolean(), (samples, hasAlpha) => {
        const plan = inkPlan({ samples, inkSet: 1, names: '', extras: hasAlpha && samples > 4 ? [2] : [] });
        const own = samples - 4 - (plan.alpha < 0 ? 0 : 1);
        const names = [...plan.spots.map(({ name }) => name), ...plan.leftOut];
        expect(plan.spots.length).toBe(Math.min(8, own));
        expect(new Set(names).size).toBe(own);
      }),
    );
  });
});

describe('pixels', () => {
  const bytes = (count: number) => fc.array(fc.integer({ min: 0, max: 255 }), { minLength: count, maxLength: count });

  test('of process inks take light away, each its own; black takes of all', () => {
    fc.assert(
      fc.property(bytes(4), (inks) => {
        const plan = inkPlan({ samples: 4, inkSet: 1, names: '', extras: [] });
        const { data, plates } = separatedPixels((i) => inks[i]!, 4, 1, plan);
        const light = (255 - inks[3]!) / 255;
        [0, 1, 2].forEach((c) => expect(Math.abs(data[c]! - (255 - inks[c]!) * light)).toBeLessThanOrEqual(0.51));
        expect(data[3]).toBe(255);
        expect(plates).toEqual([]);
      }),
    );
  });

  test('of inks of their own are plates of one look, as much of it as there is ink; alone, nothing lies below them', () => {
    fc.assert(
      fc.property(bytes(6), (inks) => {
        const plan = inkPlan({ samples: 2, inkSet: 2, names: named('Gold', 'White'), extras: [] });
        const { data, plates } = separatedPixels((i) => inks[i]!, 2, 3, plan);
        expect([...data].filter((_, i) => i % 4 === 3)).toEqual([0, 0, 0]);
        plates.forEach((plate, k) => {
          expect([...plate.data].filter((_, i) => i % 4 === 3)).toEqual([0, 1, 2].map((p) => inks[2 * p + k]));
          const look = [1, 3, 5].map((i) => Number.parseInt(plate.hex.slice(i, i + 2), 16));
          for (let p = 0; p < 3; p++) expect([...plate.data.slice(4 * p, 4 * p + 3)]).toEqual(look);
        });
      }),
    );
  });
});
