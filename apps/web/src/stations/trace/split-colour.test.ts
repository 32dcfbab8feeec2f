/** A colour of a picture taken as two. */
import { expect, test } from '@jest/globals';
import { colourDifference } from '@lorvek/core/colour';
import { splitColour } from './split-colour.ts';

/** Pixels in the given colours, so many of each, with a little noise. */
function picture(...parts: readonly (readonly [readonly [number, number, number], number])[]) {
  const list = parts.flatMap(([rgb, count]) => Array.from({ length: count }, (_, k) => rgb.map((v) => v + ((k * 7) % 5) - 2)));
  const data = new Uint8ClampedArray(list.length * 4).fill(255);
  list.forEach((rgb, i) => data.set(rgb, 4 * i));
  return { width: list.length, height: 1, data };
}

test('two browns that were one are told apart, the third colour left out of it', () => {
  const two = splitColour(picture([[120, 70, 40], 300], [[150, 95, 60], 200], [[20, 40, 120], 400]), '#865238', ['#142878']);
  expect(two).toBeDefined();
  const [a, b] = [...(two ?? [])].sort();
  expect(colourDifference(a ?? '', '#784628')).toBeLessThan(2);
  expect(colourDifference(b ?? '', '#965f3c')).toBeLessThan(2);
});

test('what is one colour, or not in the picture, is not split', () => {
  const plain = picture([[120, 70, 40], 100]);
  plain.data.forEach((_, i) => i % 4 === 3 || (plain.data[i] = [120, 70, 40][i % 4] ?? 0));
  expect(splitColour(plain, '#784628', [])).toBeUndefined();
  expect(splitColour(plain, '#ffffff', ['#784628'])).toBeUndefined();
});
