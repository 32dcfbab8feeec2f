/** What is done to pictures before they are traced: fringes of screens, half-clear shapes, mixtures of two colours. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { madeSolid } from './half-clear.ts';
import { Mixture, offMixture } from './mixture.ts';
import { colourOf } from './palette.ts';
import type { Pixels } from './pixels.ts';
import { withoutThirds } from './subpixel.ts';

type Rgba = readonly [number, number, number, number];

function picture(width: number, height: number, at: (x: number, y: number) => Rgba): Pixels {
  const data = new Uint8ClampedArray(4 * width * height);
  for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) data.set(at(x, y), 4 * (y * width + x));
  return { width, height, data };
}
const pixelAt = ({ width, data }: Pixels, x: number, y: number): number[] => [
  ...data.subarray(4 * (y * width + x), 4 * (y * width + x) + 4),
];
const within = (v: number): number => Math.min(1, Math.max(0, v));

describe('lettering drawn by the thirds of a pixel', () => {
  const [WIDTH, HEIGHT] = [64, 40];
  /** Slanting bars: how much of a stretch one pixel wide about a place is black. */
  const barsAt = (x: number, y: number): number => {
    const along = (x + 0.27 * y) % 16;
    return within(along + 0.5 - 4) - within(along + 0.5 - 11);
  };
  const shade = (x: number, y: number): number => Math.round(255 * (1 - barsAt(x, y)));
  /** Each channel sees the bars by so much of a pixel farther on. */
  const screen = (third: number): Pixels => picture(WIDTH, HEIGHT, (x, y) => [shade(x - third, y), shade(x, y), shade(x + third, y), 255]);
  const fringes = ({ data }: Pixels): number => {
    let sum = 0;
    for (let i = 0; i < data.length; i += 4) sum += Math.abs((data[i] as number) - (data[i + 2] as number));
    return sum / (data.length / 4);
  };

  test.each([1 / 3, -1 / 3])('red and blue are moved back on each other, whichever lies to the left (%d)', (third) => {
    const before = screen(third);
    const after = withoutThirds(before);
    expect(after).not.toBe(before);
    expect(fringes(before)).toBeGreaterThan(8);
    expect(fringes(after)).toBeLessThan(0.25 * fringes(before));
    // and its middle stays where it was
    const lightOf = ({ data }: Pixels): number => data.reduce((sum, v, i) => sum + (i % 4 < 3 ? v : 0), 0);
    expect(Math.abs(lightOf(after) / lightOf(before) - 1)).toBeLessThan(0.01);
  });

  test('a picture without fringes, or with coloured shapes, is left as it is', () => {
    const plain = screen(0);
    expect(withoutThirds(plain)).toBe(plain);
    const red = picture(WIDTH, HEIGHT, (x, y) => [255, shade(x, y), shade(x, y), 255]);
    expect(withoutThirds(red)).toBe(red);
  });
});

describe('shapes that are half clear all over', () => {
  const [SIZE, RADIUS] = [48, 15];
  const cover = (x: number, y: number): number => within(RADIUS - Math.hypot(x - SIZE / 2, y - SIZE / 2) + 0.5);

  test('become solid, in the colour that they have on white, with edges as they were', () => {
    fc.assert(
      fc.property(fc.tuple(fc.nat(255), fc.nat(255), fc.nat(255)), fc.integer({ min: 40, max: 220 }), ([r, g, b], alpha) => {
        const before = picture(SIZE, SIZE, (x, y) => [r, g, b, Math.round(alpha * cover(x, y))]);
        const after = madeSolid(before);
        const onWhite = [r, g, b].map((v) => (alpha * v + (255 - alpha) * 255) / 255);
        const middle = pixelAt(after, SIZE / 2, SIZE / 2);
        expect(middle[3]).toBe(255);
        onWhite.forEach((v, c) => expect(Math.abs((middle[c] as number) - v)).toBeLessThanOrEqual(1));
        for (let x = 0; x < SIZE; x++) {
          const [, , , a = 0] = pixelAt(after, x, SIZE / 2);
          expect(Math.abs(a / 255 - cover(x, SIZE / 2))).toBeLessThan(0.1);
        }
      }),
      { numRuns: 40 },
    );
  });

  test('solid pictures and soft shadows stay as they are', () => {
    const solid = picture(SIZE, SIZE, (x, y) => [20, 60, 90, cover(x, y) > 0.5 ? 255 : 0]);
    expect(madeSolid(solid)).toBe(solid);
    const shadow = picture(SIZE, SIZE, (x, y) => [0, 0, 0, Math.max(0, Math.round(200 - 7.3 * Math.hypot(x - 24.2, y - 23.7)))]);
    expect(madeSolid(shadow)).toBe(shadow);
  });
});

describe('mixtures of two colours', () => {
  const anyHex = fc
    .tuple(fc.nat(255), fc.nat(255), fc.nat(255))
    .map((rgb) => `#${rgb.map((v) => v.toString(16).padStart(2, '0')).join('')}`);
  const anyPalette = fc.uniqueArray(anyHex, { minLength: 2, maxLength: 6 }).map((list) => list.map(colourOf));

  test('a pixel mixed of two colours is on their mixtures, and is told as no worse a pair with its share', () => {
    fc.assert(
      fc.property(anyPalette, fc.nat(), fc.nat(), fc.double({ min: 0, max: 1, noNaN: true }), (palette, i, j, t) => {
        const [one, two] = [palette[i % palette.length]!, palette[j % palette.length]!];
        const rgb = one.rgb.map((v, c) => t * v + (1 - t) * (two.rgb[c] as number)) as [number, number, number];
        expect(offMixture(...rgb, one, two)).toBeLessThan(1e-6);
        const mixture = new Mixture(palette);
        mixture.start(...rgb);
        mixture.among(palette.map((_, k) => k));
        expect(mixture.off).toBeLessThan(1e-6);
        expect(mixture.t).toBeGreaterThanOrEqual(0.5);
        const [a, b] = [palette[mixture.a]!.rgb, palette[mixture.b]!.rgb];
        rgb.forEach((v, c) => expect(mixture.t * (a[c] as number) + (1 - mixture.t) * (b[c] as number)).toBeCloseTo(v, 4));
      }),
    );
  });

  test('beyond its two colours a pixel is off by its way to the nearer one, less what may lie beyond', () => {
    const [black, grey] = [colourOf('#000000'), colourOf('#646464')];
    const far = Math.hypot(50, 50, 50);
    expect(offMixture(150, 150, 150, black, grey)).toBeCloseTo(far, 6);
    expect(offMixture(150, 150, 150, black, grey, 0.5)).toBeCloseTo(0, 6);
    expect(offMixture(150, 150, 150, black, grey, 0.2)).toBeCloseTo(0.6 * far, 6);
    // two colours that are one
    expect(offMixture(3, 4, 0, black, black)).toBeCloseTo(5, 6);
  });

  test('what has something against it is taken only where it is better by more', () => {
    const palette = ['#000000', '#ffffff', '#ff0000'].map(colourOf);
    const mixture = new Mixture(palette);
    const told = (against: number): number[] => {
      mixture.start(200, 20, 20);
      mixture.among([0, 1]);
      mixture.between([0], [2], 1, [0, 0, against]);
      return [mixture.a, mixture.b].sort();
    };
    expect(told(0)).toEqual([0, 2]);
    expect(told(300)).toEqual([0, 1]);
  });
});
