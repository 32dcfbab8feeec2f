/** Tracing against pictures drawn here with known shapes: exact coverage of every pixel, then noise, light and steps. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  area,
  bounds,
  deviation,
  mapOutline,
  nodeCount,
  ovalShape,
  parsePath,
  translation,
  flatten,
  type Outline,
} from '../geometry/index.ts';
import { colourDifference, rgbOf } from '../colour/index.ts';
import { cleanPicture, proposeColours, traceImage, type Pixels } from './index.ts';

interface Painted {
  readonly hex: string;
  readonly outline: Outline;
}

const FINE = 8;

/** Shares of the pixels of a row that an outline covers: its crossings with some lines through the row, filled by winding. */
function rowOf(lines: ReturnType<typeof flatten>, y: number, width: number): Float64Array {
  const out = new Float64Array(width);
  for (let v = 0; v < FINE; v++) {
    const at = y + (v + 0.5) / FINE;
    const crossings: [number, number][] = [];
    for (const { xy } of lines)
      for (let i = 0; i < xy.length; i += 2) {
        const [ax, ay] = [xy[i] as number, xy[i + 1] as number];
        const [bx, by] = [xy[(i + 2) % xy.length] as number, xy[(i + 3) % xy.length] as number];
        if (ay <= at !== by <= at) crossings.push([ax + ((at - ay) / (by - ay)) * (bx - ax), by > ay ? 1 : -1]);
      }
    crossings.sort((a, b) => a[0] - b[0]);
    let winding = 0;
    crossings.forEach(([x, turn], i) => {
      winding += turn;
      const end = crossings[i + 1]?.[0];
      if (winding === 0 || end === undefined) return;
      for (let u = Math.max(0, Math.floor(x)); u < Math.min(width, Math.ceil(end)); u++)
        out[u] = (out[u] as number) + Math.max(0, Math.min(u + 1, end) - Math.max(u, x)) / FINE;
    });
  }
  return out;
}

/** Paints shapes (pixels, y up) with the share of every pixel that they cover. */
function paint(width: number, height: number, ground: string, shapes: readonly Painted[]): Pixels {
  const data = new Uint8ClampedArray(width * height * 4).fill(255);
  for (let y = 0; y < height; y++) {
    const row = Array.from({ length: width }, () => [...rgbOf(ground)]);
    for (const { hex, outline } of shapes) {
      const shares = rowOf(flatten(outline, 0.01), height - 1 - y, width);
      row.forEach((rgb, x) =>
        rgbOf(hex).forEach((v, c) => (rgb[c] = (rgb[c] as number) * (1 - (shares[x] as number)) + v * (shares[x] as number))),
      );
    }
    row.forEach((rgb, x) => data.set(rgb, 4 * (y * width + x)));
  }
  return { width, height, data };
}

const options = { mode: 'colours', stacking: 'inlaid' } as const;
const disc = (x: number, y: number, d: number): Outline => mapOutline(translation(x, y), ovalShape(d, d));
const empty: Outline = { contours: [] };

describe('clean pictures', () => {
  test('a tilted triangle: three straight sides and its corners, within a tenth of a pixel', async () => {
    const triangle = parsePath('M12.3 14.7L88.1 22.4L41.6 81.9Z');
    const { layers, ground } = await traceImage(paint(100, 100, '#ffffff', [{ hex: '#c4281f', outline: triangle }]), options);
    expect(layers.map(({ hex }) => hex)).toEqual(['#c4281f']);
    expect(ground).toBe('#ffffff');
    expect(nodeCount(layers[0]?.outline ?? empty)).toBe(3);
    expect(deviation(layers[0]?.outline ?? empty, triangle)).toBeLessThan(0.15);
  });

  test('a disc is a circle of four curves, a ring has a hole', async () => {
    const ring: Outline = { contours: [...disc(20, 20, 60).contours, ...parsePath('M35 35L35 65L65 65L65 35Z').contours] };
    const { layers } = await traceImage(paint(100, 100, '#ffffff', [{ hex: '#1b4f72', outline: ring }]), options);
    const traced = layers[0]?.outline ?? empty;
    expect(nodeCount(traced)).toBe(8);
    expect(deviation(traced, ring)).toBeLessThan(0.2);
    expect(area(traced)).toBeCloseTo(area(disc(20, 20, 60)) - 900, -1);
  });

  test('neighbours share their edge exactly; overlaid, the lower one runs through', async () => {
    const shapes = [
      { hex: '#f2a900', outline: disc(15, 15, 70) },
      { hex: '#0b2545', outline: disc(35, 35, 30) },
    ];
    const picture = paint(100, 100, '#ffffff', shapes);
    const inlaid = await traceImage(picture, options);
    const [outer, inner] = ['#f2a900', '#0b2545'].map((hex) => inlaid.layers.find((layer) => layer.hex === hex)?.outline ?? empty);
    const hole = {
      contours: (outer?.contours ?? [])
        .slice()
        .sort((a, b) => area({ contours: [a] }) - area({ contours: [b] }))
        .slice(0, 1),
    };
    expect(deviation(hole, inner ?? empty)).toBeLessThan(1e-9);
    const overlaid = await traceImage(picture, { ...options, stacking: 'overlaid' });
    expect(overlaid.layers.map(({ hex, outline }) => [hex, outline.contours.length])).toEqual([
      ['#f2a900', 1],
      ['#0b2545', 1],
    ]);
  });

  test('colours are left out, told, and found by themselves with their shares', async () => {
    const picture = paint(90, 60, '#ffffff', [
      { hex: '#2f8f4e', outline: parsePath('M10 10L40 10L40 50L10 50Z') },
      { hex: '#d7263d', outline: parsePath('M50 10L80 10L80 50L50 50Z') },
    ]);
    expect(
      proposeColours(picture)
        .map(({ hex }) => hex)
        .sort(),
    ).toEqual(['#2f8f4e', '#d7263d', '#ffffff']);
    const { layers } = await traceImage(picture, { ...options, leaveOut: ['#D7263D'] });
    expect(layers.map(({ hex }) => hex)).toEqual(['#2f8f4e']);
    const told = await traceImage(picture, { ...options, colours: ['#ffffff', '#000000'] });
    expect(told.layers.map(({ hex }) => hex)).toEqual(['#000000']);
  });
});

describe('spoiled pictures', () => {
  /** A small generator, so that noise is the same every time. */
  const noise = (seed: number): (() => number) => {
    let s = seed;
    return () => {
      s = (s * 1_103_515_245 + 12_345) % 2_147_483_648;
      return s / 2_147_483_648 - 0.5;
    };
  };

  test('uneven light and noise: the paper is evened and both colours are found', async () => {
    const picture = paint(150, 125, '#ffffff', [
      { hex: '#13808a', outline: disc(25, 18, 90) },
      { hex: '#e0a526', outline: disc(50, 43, 40) },
    ]);
    const next = noise(7);
    for (let i = 0; i < picture.data.length; i += 4) {
      const [x, y] = [(i / 4) % 150, Math.floor(i / 4 / 150)];
      const light = 0.95 - 0.25 * (x / 150) - 0.1 * (y / 125) ** 2;
      for (let c = 0; c < 3; c++)
        picture.data[i + c] = (picture.data[i + c] as number) * light * [1, 0.97, 0.9][c]! + 14 * (next() + next());
    }
    const { layers } = await traceImage(picture, options);
    expect(layers).toHaveLength(2);
    for (const hex of ['#13808a', '#e0a526']) expect(Math.min(...layers.map((layer) => colourDifference(layer.hex, hex)))).toBeLessThan(7);
    const yellow = layers.find((layer) => colourDifference(layer.hex, '#e0a526') < 7)?.outline ?? empty;
    expect(deviation(yellow, disc(50, 43, 40))).toBeLessThan(1.2);
    const cleaned = cleanPicture(picture);
    expect(cleaned.data[0]).toBeGreaterThan(245);
  });

  test('steps keep their own two colours', async () => {
    const fine = paint(60, 60, '#ffffff', [{ hex: '#c8202f', outline: disc(10, 10, 40) }]);
    const data = fine.data.map(
      (v, i) =>
        [
          [200, 32, 47, 255],
          [255, 255, 255, 255],
        ][(fine.data[i - (i % 4) + 1] as number) > 140 ? 1 : 0]?.[i % 4] ?? v,
    );
    const { layers, ground } = await traceImage({ ...fine, data }, options);
    expect([...layers.map(({ hex }) => hex), ground]).toEqual(['#c8202f', '#ffffff']);
    await expect(traceImage(fine, { ...options, mode: 'centre' })).rejects.toMatchObject({ code: 'input.mode' });
  });

  test('two colours with steps for edges become smooth', async () => {
    const fine = paint(120, 120, '#ffffff', [{ hex: '#000000', outline: disc(20, 20, 80) }]);
    const stepped = { ...fine, data: fine.data.map((v, i) => (i % 4 === 3 ? 255 : v < 128 ? 0 : 255)) };
    const { layers } = await traceImage(stepped, options);
    expect(layers.map(({ hex }) => hex)).toEqual(['#000000']);
    expect(nodeCount(layers[0]?.outline ?? empty)).toBeLessThan(14);
    expect(deviation(layers[0]?.outline ?? empty, disc(20, 20, 80))).toBeLessThan(0.9);
  });
});

describe('whatever comes', () => {
  test('one pixel, nothing but clear, one colour, no pixels', async () => {
    expect((await traceImage({ width: 1, height: 1, data: new Uint8ClampedArray([9, 9, 9, 255]) }, options)).layers).toEqual([]);
    expect((await traceImage({ width: 8, height: 8, data: new Uint8ClampedArray(256) }, options)).layers).toEqual([]);
    expect((await traceImage(paint(20, 20, '#123456', []), options)).layers).toEqual([]);
    await expect(traceImage({ width: 4, height: 4, data: new Uint8ClampedArray(3) }, options)).rejects.toMatchObject({
      code: 'input.picture',
    });
    await expect(
      traceImage({ width: 90_000, height: 90_000, data: { length: Infinity } as Uint8ClampedArray }, options),
    ).rejects.toMatchObject({
      code: 'limit.picture',
    });
  });

  test('any few blocks of colour give closed, finite outlines within the picture', async () => {
    const block = fc.tuple(
      fc.nat(15),
      fc.nat(15),
      fc.integer({ min: 1, max: 9 }),
      fc.integer({ min: 1, max: 9 }),
      fc.constantFrom(0, 90, 170, 255),
      fc.constantFrom(0, 120, 255),
    );
    await fc.assert(
      fc.asyncProperty(fc.array(block, { maxLength: 9 }), fc.boolean(), async (blocks, overlaid) => {
        const data = new Uint8ClampedArray(24 * 24 * 4).fill(255);
        for (const [x0, y0, w, h, r, g] of blocks)
          for (let y = y0; y < Math.min(24, y0 + h); y++)
            for (let x = x0; x < Math.min(24, x0 + w); x++) data.set([r, g, 60, 255], 4 * (y * 24 + x));
        const { layers } = await traceImage({ width: 24, height: 24, data }, { ...options, stacking: overlaid ? 'overlaid' : 'inlaid' });
        for (const { outline } of layers)
          for (const { closed, spans } of outline.contours) {
            expect(closed).toBe(true);
            spans.forEach((span, i) => {
              expect(span.every(Number.isFinite)).toBe(true);
              const next = spans[(i + 1) % spans.length] as readonly number[];
              expect(Math.hypot((span.at(-2) as number) - (next[0] as number), (span.at(-1) as number) - (next[1] as number))).toBeLessThan(
                1e-6,
              );
            });
            const box = bounds({ contours: [{ closed, spans }] });
            expect(Math.min(box.minX, box.minY)).toBeGreaterThan(-2);
            expect(Math.max(box.maxX, box.maxY)).toBeLessThan(26);
          }
      }),
      { numRuns: 25 },
    );
  });
});
