/** Long words in two lines: every letter whole, as even as the spaces allow. */
import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { inTwo } from './series-parts.ts';

const anyText = fc
  .array(fc.string({ unit: fc.constantFrom(...['a', 'N', '7', 'ß', '漢', '👩‍✈️', '𝒜', 'م']), minLength: 1, maxLength: 8 }), {
    minLength: 1,
    maxLength: 6,
  })
  .map((words) => words.join(' '));

test('a text is broken at one of its spaces, letters of any script whole, and its longer line is the shortest there is', () => {
  fc.assert(
    fc.property(anyText, (text) => {
      const lines = inTwo(text).split('\n');
      if (!text.includes(' ')) return expect(lines).toEqual([text]);
      expect(lines).toHaveLength(2);
      expect(lines.join(' ')).toBe(text);
      const words = text.split(' ');
      const longest = (k: number): number => Math.max(words.slice(0, k).join(' ').length, words.slice(k).join(' ').length);
      const best = Math.min(...words.slice(1).map((_, k) => longest(k + 1)));
      expect(Math.max(...lines.map((line) => line.length))).toBeLessThanOrEqual(best + 1);
    }),
  );
});

test('what is in lines already is left so', () => {
  for (const end of ['\n', '\r\n', '\r']) expect(inTwo(`Anna Maria${end}Berth 7`)).toBe(`Anna Maria${end}Berth 7`);
});
