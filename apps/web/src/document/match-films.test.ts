/** Colours of a file brought together and given films. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { colourDifference } from '@lorvek/core/colour';
import { filmLike, groupColours, nearestFilm, reachFor, TAKEN_WITHIN } from './match-films.ts';

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

test('a film is taken only for a colour that it is like; the nearest is told however far it is', () => {
  const films = [
    { id: 'red', hex: '#c4281f' },
    { id: 'navy', hex: '#16325c' },
  ];
  expect(filmLike('#c83020', films)).toBe('red');
  expect(filmLike('#00ff00', films)).toBeNull();
  expect(nearestFilm('#00ff00', films)).toMatchObject({ film: expect.any(String) });
  expect(nearestFilm('#00ff00', films).difference).toBeGreaterThan(TAKEN_WITHIN);
  expect(nearestFilm('#c4281f', []).film).toBeNull();
});

test('law: colours merge to as many as are asked for at most', () => {
  fc.assert(
    fc.property(
      fc.array(fc.integer({ min: 0, max: 0xffffff }), { minLength: 1, maxLength: 30 }),
      fc.integer({ min: 1, max: 12 }),
      (numbers, most) => {
        const counts = counted(numbers.map((n) => `#${n.toString(16).padStart(6, '0')}`));
        expect(groupColours(counts, reachFor(counts, most)).length).toBeLessThanOrEqual(Math.max(most, 1));
      },
    ),
    { numRuns: 60 },
  );
});
