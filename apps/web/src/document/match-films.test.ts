/** Colours of a file brought together and given films. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { colourDifference } from '@lorvek/core/colour';
import { groupColours, nearestFilm } from './match-films.ts';

const hex = fc.integer({ min: 0, max: 0xffffff }).map((n) => `#${n.toString(16).padStart(6, '0')}`);
const counted = (hexes: readonly string[]): Map<string, number> => new Map(hexes.map((one, i) => [one, (i % 7) + 1]));

describe('groups of like colours', () => {
  test('every colour is in one group, its count kept; members are within the difference of the most used one', () => {
    fc.assert(
      fc.property(fc.uniqueArray(hex, { minLength: 1, maxLength: 60 }), fc.double({ min: 0, max: 40, noNaN: true }), (hexes, within) => {
        const counts = counted(hexes);
        const groups = groupColours(counts, within);
        expect(groups.flatMap((group) => [...group.hexes]).sort()).toEqual([...hexes].sort());
        for (const group of groups) {
          expect(group.count).toBe(group.hexes.reduce((sum, one) => sum + (counts.get(one) ?? 0), 0));
          for (const one of group.hexes) {
            expect(colourDifference(group.hex, one)).toBeLessThanOrEqual(within);
            expect(counts.get(one)).toBeLessThanOrEqual(counts.get(group.hex) ?? 0);
          }
        }
      }),
      { numRuns: 40, seed: 5 },
    );
  });

  test('tens of thousands of colours come down to some hundred groups, none lost', () => {
    const hexes = Array.from({ length: 30_000 }, (_, i) => `#${((i * 7919) & 0xffffff).toString(16).padStart(6, '0')}`);
    const groups = groupColours(counted(hexes), 3);
    expect(groups.length).toBeLessThanOrEqual(512);
    expect(groups.reduce((sum, group) => sum + group.hexes.length, 0)).toBe(new Set(hexes).size);
  });
});

test('the nearest film is taken, unless it is another colour altogether', () => {
  const films = [
    { id: 'red', hex: '#c4281f' },
    { id: 'navy', hex: '#16325c' },
  ];
  expect(nearestFilm('#c83020', films).film).toBe('red');
  expect(nearestFilm('#00ff00', films)).toMatchObject({ film: null, difference: expect.any(Number) });
  expect(nearestFilm('#c4281f', []).film).toBeNull();
});
