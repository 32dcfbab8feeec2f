import { describe, expect, test } from '@jest/globals';
import { colourDifference, fromLinear, hexOf, labDifference, labOf, rgbOf, toLinear, type Lab } from './index.ts';

describe('differences of colours', () => {
  // pairs from the implementation notes: hue across zero, greys, near-blue
  test.each([
    [[50, 2.6772, -79.7751], [50, 0, -82.7485], 2.0425],
    [[50, -1.3802, -84.2814], [50, 0, -82.7485], 1],
    [[50, 0, 0], [50, -1, 2], 2.3669],
    [[50, 2.49, -0.001], [50, -2.49, 0.0009], 7.1792],
    [[50, 2.5, 0], [58, 24, 15], 19.4535],
    [[2.0776, 0.0795, -1.135], [0.9033, -0.0636, -0.5514], 0.9082],
  ] as [Lab, Lab, number][])('%j and %j', (a, b, expected) => {
    expect(labDifference(a, b)).toBeCloseTo(expected, 4);
    expect(labDifference(b, a)).toBeCloseTo(expected, 4);
  });

  test('white is L* 100 without hue; hex and light come back', () => {
    const [l, a, b] = labOf([255, 255, 255]);
    expect([l, a, b].map((v) => Math.round(v * 100) / 100 + 0)).toEqual([100, 0, 0].map((v) => expect.closeTo(v, 1)));
    expect(hexOf(rgbOf('#1a2b3c'))).toBe('#1a2b3c');
    expect(fromLinear(toLinear(77))).toBeCloseTo(77, 9);
    expect(colourDifference('#123456', '#123456')).toBe(0);
  });
});
