/** Corners weighed against the pixels, and what explains a pixel: small lettering, tips, mixtures. */
import { readFileSync } from 'node:fs';
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { rgbOf } from '../colour/index.ts';
import {
  area,
  bounds,
  flatten,
  keepOverlap,
  mapOutline,
  nodeCount,
  parsePath,
  translation,
  weld,
  type Outline,
} from '../geometry/index.ts';
import { joinFonts, loadFont, setLettering } from '../lettering/index.ts';
import { Coverage } from './coverage.ts';
import { fitCurves } from './fit-curves.ts';
import { paint } from './painting.support.ts';
import { traceImage, type Pixels, type Traced } from './index.ts';
import { colourOf } from './palette.ts';
import { planeOf } from './pixels.ts';
import { unmix } from './unmix.ts';

const options = { mode: 'colours', stacking: 'overlaid' } as const;
const INK = '#17324f';
const layerOf = ({ layers }: Traced, hex: string): Outline => layers.find((layer) => layer.hex === hex)?.outline ?? { contours: [] };
/** Area that is in one of two shapes only. */
const apart = (a: Outline, b: Outline): number => area(weld([a, b])) - area(keepOverlap([a, b]));
type Rgb = readonly [number, number, number];
type Point = readonly [number, number];
const pairs = (xy: ArrayLike<number>): Point[] =>
  Array.from({ length: xy.length / 2 }, (_, i) => [xy[2 * i] as number, xy[2 * i + 1] as number] as const);
/** How far a point lies from a line between two. */
function offEdge([x, y]: Point, [ax, ay]: Point, [bx, by]: Point): number {
  const [dx, dy] = [bx - ax, by - ay];
  const length = dx * dx + dy * dy;
  const t = length === 0 ? 0 : Math.min(1, Math.max(0, ((x - ax) * dx + (y - ay) * dy) / length));
  return Math.hypot(x - ax - t * dx, y - ay - t * dy);
}

describe('coverage', () => {
  test('of any triangle: every pixel between none and all of it, and together its area', () => {
    const coordinate = fc.double({ min: 0.1, max: 19.9, noNaN: true });
    const corner = fc.tuple(coordinate, coordinate);
    fc.assert(
      fc.property(corner, corner, corner, (a, b, c) => {
        const cover = new Coverage(0, 0, 20, 20);
        for (const [p, q] of [
          [a, b],
          [b, c],
          [c, a],
        ] as const)
          cover.line(p[0], p[1], q[0], q[1], 1);
        const sums = cover.sums();
        // with y down, what lies left of the way as one sees it
        const twice = (c[0] - a[0]) * (b[1] - a[1]) - (b[0] - a[0]) * (c[1] - a[1]);
        let [all, least, most] = [0, 0, 0];
        for (let y = 0; y < 20; y++)
          for (let x = 0; x < 20; x++) {
            const one = sums[y * cover.stride + x] as number;
            all += one;
            [least, most] = [Math.min(least, one * Math.sign(twice)), Math.max(most, one * Math.sign(twice))];
          }
        expect(most).toBeLessThan(1.001);
        expect(least).toBeGreaterThan(-0.001);
        expect(Math.abs(all - twice / 2)).toBeLessThan(0.001);
      }),
      { numRuns: 200 },
    );
  });
});

describe('small lettering', () => {
  test('letters of a dozen pixels have no spikes: no point lies farther than a pixel from where it belongs', async () => {
    const font = joinFonts([loadFont(readFileSync('assets/fonts/barlow-condensed-latin-600-normal.woff'))]);
    const { outline } = setLettering({ text: 'harbour sea fish', font, capHeightMm: 12 });
    const { minX, minY } = bounds(outline);
    const letters = mapOutline(translation(6.3 - minX, 8.4 - minY), outline);
    const found = await traceImage(
      paint(111, 49, '#ffffff', [
        { hex: INK, outline: letters },
        { hex: INK, outline: parsePath('M4 35L34 35L34 45L4 45Z') },
      ]),
      options,
    );
    const contours = layerOf(found, INK).contours.filter((contour) => bounds({ contours: [contour] }).minY < 34);
    const edges = flatten(letters, 0.02).flatMap(({ xy }) =>
      pairs(xy).map((p, i, all) => [p, all[(i + 1) % all.length] as Point] as const),
    );
    const far = flatten({ contours }, 0.05).flatMap(({ xy }) => pairs(xy).map((p) => Math.min(...edges.map(([a, b]) => offEdge(p, a, b)))));
    expect(far.length).toBeGreaterThan(500);
    expect(Math.max(...far)).toBeLessThan(1);
    expect(far.filter((d) => d > 0.7).length).toBeLessThan(0.01 * far.length);
  });
});

describe('what explains a pixel', () => {
  test('between two colours their mixture is not taken for a third one that is like it and not seen around', () => {
    const hexes = ['#0b2545', '#ffffff', '#13808a', '#e0a526', '#f6e7c1'];
    const [navy, white, teal, gold] = hexes.map((hex) => rgbOf(hex)) as [Rgb, Rgb, Rgb, Rgb];
    const mixed = (a: Rgb, b: Rgb, share: number): number[] => a.map((v, c) => v * share + (b[c] as number) * (1 - share));
    const size = 40;
    const data = new Uint8ClampedArray(size * size * 4).fill(255);
    // a gold line between two white ones, wholly gold in the upper rows only
    for (let y = 0; y < size; y++)
      for (let x = 0; x < size; x++) {
        const line = [
          mixed(navy, white, 0.8),
          white,
          y < 10 ? gold : mixed(gold, white, 0.75),
          mixed(gold, white, 0.69),
          white,
          mixed(white, teal, 0.2),
        ];
        data.set([...(line[x - 18] ?? (x < 18 ? navy : teal))], 4 * (y * size + x));
      }
    const plane = planeOf({ width: size, height: size, data });
    const shares = unmix(plane, hexes.map(colourOf), { reach: 2, pureLevels: 6, clear: undefined });
    for (const y of [12, 13, 14])
      for (const x of [20, 21]) {
        const i = y * size + x;
        expect([shares.first[i], shares.second[i]]).toEqual([3, 1]);
        expect(Math.abs(shares.shareAt(i) - (x === 20 ? 0.75 : 0.69))).toBeLessThan(0.02);
      }
  });

  test('a tip that comes out beyond a line on clear ground is of its own colour and no part of the line', async () => {
    const tip = parsePath('M10 34L58 40L10 46Z');
    const bar = parsePath('M40 10L47 10L55 70L48 70Z');
    const over = paint(80, 80, '#000000', [
      { hex: '#d7263d', outline: tip },
      { hex: '#2e294e', outline: bar },
    ]);
    const shape = paint(80, 80, '#000000', [
      { hex: '#ffffff', outline: tip },
      { hex: '#ffffff', outline: bar },
    ]);
    const found = await traceImage(withAlpha(over, shape), options);
    expect(found.layers.map(({ hex }) => hex).sort()).toEqual(['#2e294e', '#d7263d']);
    const dark = layerOf(found, '#2e294e');
    expect(nodeCount(dark)).toBe(4);
    expect(apart(dark, bar)).toBeLessThan(1);
  });
});

/** A picture painted on black, its share of light taken for how little is clear. */
function withAlpha({ width, height, data }: Pixels, { data: shares }: Pixels): Pixels {
  const out = new Uint8ClampedArray(data.length);
  for (let i = 0; i < data.length; i += 4) {
    const a = (shares[i] as number) / 255;
    for (let c = 0; c < 3; c++) out[i + c] = a > 0 ? (data[i + c] as number) / a : 0;
    out[i + 3] = shares[i] as number;
  }
  return { width, height, data: out };
}

test('a tight bow between long straight sides is few curves, wherever its direction turns fastest', () => {
  fc.assert(
    fc.property(fc.double({ min: 1.6, max: 2.2, noNaN: true }), fc.double({ min: 240, max: 280, noNaN: true }), (radius, sweepDeg) => {
      const at = (t: number): [number, number] => [radius * Math.sin(t), radius * (1 - Math.cos(t))];
      const sweep = (sweepDeg * Math.PI) / 180;
      const end = at(sweep);
      const steps = (count: number, step: number): number[] => Array.from({ length: count }, (_, k) => k * step);
      const points = [
        ...steps(25, 0.8).map((x): [number, number] => [x - 20, 0]),
        ...steps(Math.floor((sweep * radius) / 0.7), 0.7 / radius).map(at),
        ...steps(25, 0.8).map((far): [number, number] => [end[0] + far * Math.cos(sweep), end[1] + far * Math.sin(sweep)]),
      ];
      const settings = { tol: 0.42, cornerDeg: 34, window: 6, rounded: 1.1, steps: 0.8, calm: 5 };
      expect(fitCurves(points, undefined, undefined, settings).length).toBeLessThanOrEqual(5);
    }),
    { numRuns: 40 },
  );
});
