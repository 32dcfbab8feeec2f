import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { randomFrom, shuffled } from './random.ts';

describe('numbers by lot', () => {
  test('come again with the same seed, lie from 0 up and below 1, and differ with another seed', () => {
    fc.assert(
      fc.property(fc.integer(), (seed) => {
        const [a, b, other] = [randomFrom(seed), randomFrom(seed), randomFrom(seed + 1)];
        const numbers = Array.from({ length: 20 }, a);
        expect(Array.from({ length: 20 }, b)).toEqual(numbers);
        for (const n of numbers) expect(n >= 0 && n < 1).toBe(true);
        // seeds 0 and 1 are the same: a generator that stands at 0 is given another place
        if ((seed + 1) >>> 0 > 1) expect(Array.from({ length: 20 }, other)).not.toEqual(numbers);
      }),
    );
  });

  test('lie evenly: each tenth holds a tenth of many', () => {
    const random = randomFrom(7);
    const tenths = new Array<number>(10).fill(0);
    for (let i = 0; i < 20_000; i++) tenths[Math.floor(10 * random())]!++;
    for (const count of tenths) expect(Math.abs(count - 2000)).toBeLessThan(200);
  });

  test('an order by lot holds everything once, and every order comes about as often', () => {
    fc.assert(
      fc.property(fc.array(fc.integer(), { maxLength: 30 }), fc.integer(), (list, seed) => {
        const order = shuffled(list, randomFrom(seed));
        expect(order.slice().sort((a, b) => a - b)).toEqual(list.slice().sort((a, b) => a - b));
      }),
    );
    const random = randomFrom(3);
    const times = new Map<string, number>();
    for (let i = 0; i < 6000; i++) {
      const order = shuffled('abc', random).join('');
      times.set(order, (times.get(order) ?? 0) + 1);
    }
    expect(times.size).toBe(6);
    for (const count of times.values()) expect(Math.abs(count - 1000)).toBeLessThan(150);
  });
});
