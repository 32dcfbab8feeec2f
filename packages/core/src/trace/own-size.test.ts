/** Pictures that were enlarged, or brought down to few colours, before they were handed in. */
import { describe, expect, test } from '@jest/globals';
import { colourDifference } from '../colour/index.ts';
import { area, bounds, deviation, mapOutline, nodeCount, ovalShape, parsePath, translation, type Outline } from '../geometry/index.ts';
import { traceImage, type Pixels, type TraceOptions } from './index.ts';
import { paint, type Painted } from './painting.support.ts';

const leaf = parsePath('M12 14C30 6 62 16 68 44C52 62 22 52 12 14Z');
const shapes: Painted[] = [
  { hex: '#1d4f7a', outline: leaf },
  { hex: '#c8342b', outline: parsePath('M74 10L92 14L84 34Z') },
];
const small = paint(100, 70, '#ffffff', shapes);
const options = { mode: 'colours', stacking: 'inlaid' } as const;

/** Each pixel so many times along and down. */
function repeated({ width, height, data }: Pixels, times: number): Pixels {
  const [w, h] = [width * times, height * times];
  const out = new Uint8ClampedArray(w * h * 4);
  for (let i = 0; i < w * h; i++) {
    const from = 4 * (Math.floor(i / w / times) * width + Math.floor((i % w) / times));
    out.set(data.subarray(from, from + 4), 4 * i);
  }
  return { width: w, height: h, data: out };
}

/** Enlarged smoothly: between the middles of pixels in straight slopes. */
function smoothly({ width, height, data }: Pixels, times: number): Pixels {
  const [w, h] = [width * times, height * times];
  const out = new Uint8ClampedArray(w * h * 4);
  const split = (k: number, most: number): [number, number, number] => {
    const at = Math.min(most - 1, Math.max(0, (k + 0.5) / times - 0.5));
    return [Math.floor(at), Math.min(most - 1, Math.floor(at) + 1), at - Math.floor(at)];
  };
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const [[u0, u1, s], [v0, v1, t]] = [split(x, width), split(y, height)];
      for (let c = 0; c < 4; c++) {
        const at = (u: number, v: number): number => data[4 * (v * width + u) + c] as number;
        out[4 * (y * w + x) + c] = (1 - t) * ((1 - s) * at(u0, v0) + s * at(u1, v0)) + t * ((1 - s) * at(u0, v1) + s * at(u1, v1));
      }
    }
  return { width: w, height: h, data: out };
}

const byHex = (layers: readonly { hex: string; outline: Outline }[]): Outline[] =>
  [...layers].sort((a, b) => (a.hex < b.hex ? -1 : 1)).map(({ outline }) => outline);

describe('pictures that were enlarged', () => {
  test('repeated pixels: the very outlines of the small picture', async () => {
    const own = await traceImage(small, { ...options, pixelMm: 4 });
    const large = await traceImage(repeated(small, 4), options);
    expect(large.layers).toEqual(own.layers);
    expect([large.widthMm, large.heightMm]).toEqual([400, 280]);
  });

  test('smooth slopes: the small one’s colours and about its nodes, at its place', async () => {
    const own = await traceImage(small, { ...options, pixelMm: 5 });
    const large = await traceImage(smoothly(small, 5), options);
    expect(large.layers.length).toBe(2);
    const [ours, truth] = [byHex(large.layers), byHex(own.layers)];
    ours.forEach((outline, k) => {
      expect(nodeCount(outline)).toBeLessThan(nodeCount(truth[k] as Outline) + 6);
      // a pixel of the small one, at its points
      expect(deviation(outline, truth[k] as Outline)).toBeLessThan(5);
    });
  });

  test('a size that is no whole multiple keeps the outlines where they are, the lower border too', async () => {
    const large = smoothly(small, 5);
    const height = 333;
    const cut = { width: 500, height, data: large.data.slice(0, 4 * 500 * height) };
    const { layers, heightMm } = await traceImage(cut, options);
    expect(heightMm).toBe(height);
    const up = 350 - height;
    const boxes = byHex(layers).map(bounds);
    expect(Math.abs((boxes[0]?.minX ?? 0) - 60)).toBeLessThan(2.5);
    expect(Math.abs((boxes[1]?.minY ?? 0) - (50 - up))).toBeLessThan(2.5);
  });

  test('a picture as it was drawn is left alone; enlarging one first makes its outlines no rougher', async () => {
    const place = mapOutline(translation(30, 20), ovalShape(120, 90));
    const { layers } = await traceImage(paint(200, 140, '#ffffff', [{ hex: '#1d4f7a', outline: place }]), options);
    expect(deviation(layers[0]?.outline ?? { contours: [] }, place)).toBeLessThan(0.25);
    const nodes = async (clean: TraceOptions['clean']): Promise<number> =>
      (await traceImage(small, { ...options, ...(clean ? { clean } : {}) })).layers.reduce(
        (sum, { outline }) => sum + nodeCount(outline),
        0,
      );
    expect(await nodes({ enlarge: 4 })).toBeLessThanOrEqual((await nodes(undefined)) + 2);
  });
});

describe('pictures of few colours', () => {
  const palette: readonly (readonly [number, number, number])[] = [
    [255, 255, 255],
    [29, 29, 34],
    [47, 138, 87],
    [200, 52, 43],
    [243, 230, 196],
  ];
  const nearest = (r: number, g: number, b: number): readonly [number, number, number] =>
    palette.reduce((best, one) => {
      const far = (p: readonly [number, number, number]): number => (p[0] - r) ** 2 + (p[1] - g) ** 2 + (p[2] - b) ** 2;
      return far(one) < far(best) ? one : best;
    });

  test('edges whose mixtures became a third colour have no fringe of it', async () => {
    const fine = paint(160, 120, '#ffffff', [
      { hex: '#1d1d22', outline: parsePath('M20.4 20.5L70.5 24.3L60.2 90.6L24.6 100.3Z') },
      { hex: '#2f8a57', outline: parsePath('M90 20L140 20L140 60L90 60Z') },
      { hex: '#c8342b', outline: parsePath('M90 70L140 70L140 100L90 100Z') },
      { hex: '#f3e6c4', outline: parsePath('M100 30L130 30L130 50L100 50Z') },
    ]);
    const data = new Uint8ClampedArray(fine.data);
    for (let i = 0; i < data.length; i += 4) data.set(nearest(data[i] as number, data[i + 1] as number, data[i + 2] as number), i);
    const { layers } = await traceImage({ ...fine, data }, { ...options, stacking: 'overlaid' });
    expect(new Map(layers.map(({ hex, outline }) => [hex, outline.contours.length]))).toEqual(
      new Map([
        ['#1d1d22', 1],
        ['#2f8a57', 1],
        ['#c8342b', 1],
        ['#f3e6c4', 1],
      ]),
    );
    const black = layers.find(({ hex }) => hex === '#1d1d22')?.outline ?? { contours: [] };
    expect(nodeCount(black)).toBeLessThan(9);
    expect(Math.abs(area(black) / area(parsePath('M20.4 20.5L70.5 24.3L60.2 90.6L24.6 100.3Z')) - 1)).toBeLessThan(0.02);
  });
});

describe('pixels that are not what they seem', () => {
  test('half clear shapes are traced as they look on white, at their edges too', async () => {
    const round = mapOutline(translation(20, 20), ovalShape(80, 80));
    const { data, ...size } = paint(120, 120, '#000000', [{ hex: '#ffffff', outline: round }]);
    const clear = data.map((_, i) => [220, 30, 30, 0.5 * (data[i - 3] ?? 0)][i % 4] ?? 0);
    const { layers, ground } = await traceImage({ ...size, data: clear }, options);
    expect(ground).toBeUndefined();
    expect(layers.length).toBe(1);
    // half of 220, 30, 30 on white
    expect(colourDifference(layers[0]?.hex ?? '', '#ee8f8f')).toBeLessThan(2);
    expect(deviation(layers[0]?.outline ?? { contours: [] }, round)).toBeLessThan(0.3);
  });

  test('lettering drawn by the thirds of pixels is of one colour', async () => {
    const bar = parsePath('M20.3 20L26.2 20L40.4 90L34.5 90Z');
    const stem = parsePath('M60.2 15L66.9 15L66.9 95L60.2 95Z');
    const wide = mapOutline([3, 0, 0, 1, 0, 0], { contours: [...bar.contours, ...stem.contours] });
    const fine = paint(3 * 90, 110, '#ffffff', [{ hex: '#112233', outline: wide }]);
    const data = new Uint8ClampedArray(90 * 110 * 4).fill(255);
    for (let i = 0; i < 90 * 110; i++)
      for (let c = 0; c < 3; c++) {
        const at = (k: number): number =>
          fine.data[4 * (Math.floor(i / 90) * 270 + Math.min(269, Math.max(0, 3 * (i % 90) + c + k))) + c] ?? 0;
        data[4 * i + c] = (at(-1) + at(0) + at(1)) / 3;
      }
    const { layers } = await traceImage({ width: 90, height: 110, data }, options);
    expect(layers.map(({ hex, outline }) => [hex, outline.contours.length])).toEqual([['#112233', 2]]);
    const [found, truth] = [area(layers[0]?.outline ?? { contours: [] }), area(bar) + area(stem)];
    expect(Math.abs(found / truth - 1)).toBeLessThan(0.03);
  });
});
