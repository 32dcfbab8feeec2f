/** Pictures in steps, each pixel wholly of one colour. */
import { describe, expect, test } from '@jest/globals';
import { rgbOf } from '../colour/index.ts';
import { area, nodeCount, type Outline } from '../geometry/index.ts';
import { silhouette, traceImage, type Pixels } from './index.ts';

const options = { mode: 'colours', stacking: 'inlaid' } as const;
const empty: Outline = { contours: [] };

/** A banana-shaped boat in three colours on cream with a dot, each pixel wholly of one: steps for edges. */
function boatInSteps(): Pixels {
  const [width, height] = [400, 200];
  const data = new Uint8ClampedArray(width * height * 4);
  const hexAt = (x: number, y: number): string => {
    const u = (x - 200) / 185;
    const [middle, half] = [150 - 90 * u * u, 34 * (1 - u ** 4)];
    if (Math.hypot(x - 60, y - 160) < 22) return '#287850';
    if (Math.abs(u) >= 1 || Math.abs(y - middle) >= half) return '#f4ecd6';
    return Math.abs(y - middle) < 0.3 * half ? '#fadc50' : '#c83c28';
  };
  for (let i = 0; i < width * height; i++) data.set([...rgbOf(hexAt((i % width) + 0.5, Math.floor(i / width) + 0.5)), 255], 4 * i);
  return { width, height, data };
}

describe('pictures in steps', () => {
  test('several colours become smooth: few nodes, circles round, areas as drawn, no colour between two', async () => {
    const { layers } = await traceImage(boatInSteps(), { ...options, stacking: 'inlaid' });
    const byHex = new Map(layers.map(({ hex, outline }) => [hex, outline]));
    expect([...byHex.keys()].sort()).toEqual(['#287850', '#c83c28', '#fadc50']);
    const dot = byHex.get('#287850') ?? empty;
    expect(nodeCount(dot)).toBe(4);
    expect(Math.abs(area(dot) / (Math.PI * 22 ** 2) - 1)).toBeLessThan(0.02);
    // two long bows to two points, once round the yellow and on both sides of it
    expect(nodeCount(byHex.get('#fadc50') ?? empty)).toBeLessThan(26);
    expect(nodeCount(byHex.get('#c83c28') ?? empty)).toBeLessThan(40);
    const boat = 2 * 34 * 185 * (2 - 2 / 5);
    const found = ['#fadc50', '#c83c28'].map((hex) => area(byHex.get(hex) ?? empty));
    expect(Math.abs((found[0] as number) / (0.3 * boat) - 1)).toBeLessThan(0.02);
    expect(Math.abs((found[1] as number) / (0.7 * boat) - 1)).toBeLessThan(0.02);
  });

  test('the outline of what stands on a lifted ground is smooth as well', () => {
    const outline = silhouette(boatInSteps(), { reach: 12 });
    expect(outline.contours.length).toBe(2);
    expect(nodeCount(outline)).toBeLessThan(26);
  });

  test('boxes along the pixels keep their sides exactly, and antialiased edges are no steps', async () => {
    const [width, height] = [120, 80];
    const data = new Uint8ClampedArray(width * height * 4).fill(255);
    for (let i = 0; i < width * height; i++) {
      const [x, y] = [i % width, Math.floor(i / width)];
      if (x >= 20 && x < 70 && y >= 10 && y < 50) data.set([200, 30, 30], 4 * i);
      if (x >= 70 && x < 100 && y >= 30 && y < 70) data.set([30, 30, 160], 4 * i);
    }
    const { layers } = await traceImage({ width, height, data }, { ...options, stacking: 'inlaid' });
    expect(layers.map(({ outline }) => [nodeCount(outline), Math.round(area(outline) * 100) / 100])).toEqual([
      [5, 2000],
      [5, 1200],
    ]);
  });
});
