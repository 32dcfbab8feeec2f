/** Tracing against pictures drawn here with known shapes: exact coverage of every pixel, then noise, light and steps. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { colourDifference, labDifference, labOf, rgbOf } from '../colour/index.ts';
import {
  area,
  bounds,
  deviation,
  knockOut,
  mapOutline,
  nodeCount,
  ovalShape,
  parsePath,
  translation,
  flatten,
  type Outline,
} from '../geometry/index.ts';
import { CancelledError } from '../errors/index.ts';
import { noise, paint, type Painted } from './painting.support.ts';
import { cleanPicture, enlargementFor, proposeColours, retouch, silhouette, traceImage } from './index.ts';

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

  test('large parts of near colours stay apart, and their edges are as smooth as others', async () => {
    const slab = parsePath('M230.3 50.6L390.2 60.1L380 240L225 235Z');
    const picture = paint(420, 260, '#2c6e8f', [
      { hex: '#347a9b', outline: disc(30, 30, 180) },
      { hex: '#26617f', outline: slab },
    ]);
    const { layers } = await traceImage(picture, options);
    const byHex = new Map(layers.map(({ hex, outline }) => [hex, outline]));
    expect([...byHex.keys()].sort()).toEqual(['#26617f', '#347a9b']);
    const [round, straight] = ['#347a9b', '#26617f'].map((hex) => byHex.get(hex) ?? empty) as [Outline, Outline];
    expect(nodeCount(round)).toBe(4);
    expect(deviation(round, disc(30, 30, 180))).toBeLessThan(0.1);
    expect(nodeCount(straight)).toBeLessThan(12);
    expect(deviation(straight, slab)).toBeLessThan(0.5);
  });
});

describe('spoiled pictures', () => {
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
    const cleaned = await cleanPicture(picture);
    expect(cleaned.data[0]).toBeGreaterThan(245);
  });

  test('a rough picture tells how far it is while it is calmed, never less than before, and stops there when asked', async () => {
    const picture = paint(160, 300, '#f4f4f4', [{ hex: '#13808a', outline: disc(30, 60, 100) }]);
    const next = noise(3);
    for (let i = 0; i < picture.data.length; i++) if (i % 4 < 3) picture.data[i] = (picture.data[i] as number) + 12 * next();
    const told: number[] = [];
    await traceImage(picture, options, { onProgress: (done) => told.push(done) });
    expect(told).toEqual([...told].sort((a, b) => a - b));
    expect(told.filter((done) => done > 0 && done < 1).length).toBeGreaterThanOrEqual(3);
    expect(told.at(-1)).toBe(5);
    const stop = new AbortController();
    const half = traceImage(picture, options, { signal: stop.signal, onProgress: (done) => done >= 0.5 && stop.abort() });
    await expect(half).rejects.toThrow(CancelledError);
  });

  test('a dark sign in uneven light keeps its own colour, and what is bright on it', async () => {
    const picture = paint(200, 140, '#1c3d63', [
      { hex: '#f4f1e6', outline: mapOutline(translation(20, 30), ovalShape(60, 60)) },
      { hex: '#e6b23c', outline: parsePath('M110 30L180 40L170 100L115 95Z') },
    ]);
    const random = noise(5);
    for (let i = 0; i < picture.data.length; i += 4) {
      const light = 1 - 0.25 * (((i / 4) % 200) / 200);
      const grain = 14 * random();
      for (let c = 0; c < 3; c++) picture.data[i + c] = (picture.data[i + c] as number) * light + grain;
    }
    const { layers, ground } = await traceImage(picture, options);
    expect(layers.length).toBe(2);
    expect(labDifference(labOf(rgbOf(ground ?? '#ffffff')), labOf(rgbOf('#1c3d63')))).toBeLessThan(8);
    const areas = layers.map(({ outline }) => area(outline)).sort((a, b) => a - b);
    expect(Math.abs((areas[0] as number) / (Math.PI * 900) - 1)).toBeLessThan(0.03);
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

  test('a strip 30 000 pixels wide', async () => {
    const [width, height] = [30_000, 12];
    const data = new Uint8ClampedArray(width * height * 4).fill(255);
    const words = new Uint32Array(data.buffer);
    for (let y = 3; y < 9; y++) words.fill(0xff1f28c4, y * width + 100, y * width + 29_900);
    const { layers } = await traceImage({ width, height, data }, options);
    const { minX, maxX } = bounds(layers[0]?.outline ?? empty);
    expect([layers.length, nodeCount(layers[0]?.outline ?? empty)]).toEqual([1, 4]);
    expect([minX, maxX].map(Math.round)).toEqual([100, 29_900]);
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
      { numRuns: 15 },
    );
  });
});

describe('one colour and centre lines', () => {
  const disc = (radius: number): Outline => mapOutline(translation(100 - radius, 100 - radius), ovalShape(2 * radius, 2 * radius));
  const ring: Painted = { hex: '#202020', outline: knockOut(disc(70), [disc(50)]) };

  test('what is dark is one outline at its place, whatever the threshold between', async () => {
    const picture = paint(200, 200, '#e8e8e8', [ring]);
    for (const threshold of ['auto', 'local', 100] as const) {
      const { layers } = await traceImage(picture, { mode: 'single', stacking: 'inlaid', threshold });
      expect(layers.map(({ hex }) => hex)).toEqual(['#000000']);
      expect(layers[0]?.outline.contours).toHaveLength(2);
      const [wanted, found] = [Math.PI * (70 ** 2 - 50 ** 2), area(layers[0]?.outline ?? { contours: [] })];
      expect(Math.abs(found / wanted - 1)).toBeLessThan(threshold === 'auto' ? 0.01 : 0.04);
    }
    await expect(traceImage(picture, { mode: 'single', stacking: 'inlaid', threshold: 300 })).rejects.toMatchObject({
      code: 'input.threshold',
    });
  });

  test('steps stay known as steps: a ring of two circles, four curves each, as by its colours', async () => {
    const data = new Uint8ClampedArray(90 * 80 * 4).fill(255);
    for (let y = 0; y < 80; y++)
      for (let x = 0; x < 90; x++) {
        const r = Math.hypot(x + 0.5 - 45, y + 0.5 - 40);
        if (r < 33 && r > 18) data.set([21, 41, 77], 4 * (y * 90 + x));
      }
    for (const threshold of ['auto', 90] as const) {
      const { layers } = await traceImage({ width: 90, height: 80, data }, { mode: 'single', stacking: 'inlaid', threshold });
      expect(layers.map(({ outline }) => [outline.contours.length, nodeCount(outline)])).toEqual([[2, 8]]);
    }
  });

  test('uneven light hides a mark from one threshold for all, not from its surroundings', async () => {
    const mark: Painted = { hex: '#505050', outline: parsePath('M150 40L180 40L180 160L150 160Z') };
    const picture = paint(200, 200, '#f0f0f0', [mark]);
    for (let i = 0; i < picture.data.length; i++)
      if (i % 4 !== 3) picture.data[i] = (picture.data[i] as number) * (0.25 + 0.75 * (((i >> 2) % 200) / 200));
    const boxOf = async (threshold: 'auto' | 'local'): Promise<number[]> => {
      const { layers } = await traceImage(picture, { mode: 'single', stacking: 'inlaid', threshold, clean: 'none', smallestPx: 400 });
      const { minX, maxX } = bounds(layers[0]?.outline ?? { contours: [] });
      return [minX, maxX].map(Math.round);
    };
    expect((await boxOf('auto'))[0]).toBeLessThan(20);
    expect(await boxOf('local')).toEqual([150, 180]);
  });

  test('a ring becomes one closed line through its middle, a cross four arms that meet', async () => {
    const round = await traceImage(paint(200, 200, '#ffffff', [ring]), { mode: 'centre', stacking: 'inlaid' });
    const [line] = round.layers[0]?.outline.contours ?? [];
    expect([round.layers[0]?.outline.contours.length, line?.closed]).toEqual([1, true]);
    for (const { xy } of flatten(round.layers[0]?.outline ?? { contours: [] }, 0.05))
      for (let i = 0; i < xy.length; i += 2)
        expect(Math.abs(Math.hypot((xy[i] as number) - 100, (xy[i + 1] as number) - 100) - 60)).toBeLessThan(1);
    const cross: Painted = {
      hex: '#000000',
      outline: parsePath('M96 20L104 20L104 96L180 96L180 104L104 104L104 180L96 180L96 104L20 104L20 96L96 96Z'),
    };
    const crossed = await traceImage(paint(200, 200, '#ffffff', [cross]), { mode: 'centre', stacking: 'inlaid' });
    const arms = crossed.layers[0]?.outline ?? { contours: [] };
    expect(arms.contours.every((contour) => !contour.closed)).toBe(true);
    const box = bounds(arms);
    for (const [found, wanted] of [
      [box.minX, 20],
      [box.maxX, 180],
      [box.minY, 20],
      [box.maxY, 180],
    ] as const)
      expect(Math.abs(found - wanted)).toBeLessThan(6);
  });

  test('colours that are merged are one layer; a trap runs under what lies above', async () => {
    const halves = paint(120, 120, '#ffffff', [
      { hex: '#c03030', outline: parsePath('M20 20L60 20L60 100L20 100Z') },
      { hex: '#3030c0', outline: parsePath('M60 20L100 20L100 100L60 100Z') },
    ]);
    const plain = await traceImage(halves, { mode: 'colours', stacking: 'overlaid' });
    const hexes = plain.layers.map(({ hex }) => hex) as [string, string];
    const merged = await traceImage(halves, { mode: 'colours', stacking: 'inlaid', merge: [[hexes[0], hexes[1]]] });
    expect(merged.layers.map(({ outline }) => Math.round(area(outline) / 100))).toEqual([64]);
    const trapped = await traceImage(halves, { mode: 'colours', stacking: 'overlaid', trapMm: 2 });
    const areas = (traced: typeof plain): number[] => traced.layers.map(({ outline }) => area(outline));
    expect((areas(trapped)[0] as number) - (areas(plain)[0] as number)).toBeCloseTo(2 * 80, -1);
    expect(areas(trapped)[1]).toBeCloseTo(areas(plain)[1] as number, 3);
  });
});

describe('retouching', () => {
  const box: Painted = { hex: '#204080', outline: parsePath('M40 30L160 30L160 90L40 90Z') };
  const picture = paint(200, 120, '#f4e8d0', [box]);

  test('the ground is lifted from the border inwards; a stroke keeps, another takes away; what is left has a silhouette', async () => {
    const lift = { border: true, spots: [], reach: 20, softPx: 0, strokes: [] };
    const { pixels } = retouch(picture, { lift });
    const clear = pixels.data.filter((v, i) => i % 4 === 3 && v === 0).length;
    expect(Math.abs(clear - (200 * 120 - 120 * 60))).toBeLessThan(400);
    const outline = silhouette(pixels, { reach: 12 });
    expect(Math.abs(area(outline) - 7200)).toBeLessThan(200);
    // the same without lifting before: the border tells the ground, or the ground is said
    for (const one of [silhouette(picture, { reach: 20 }), silhouette(picture, { reach: 5, ground: '#f4e8d0' })])
      expect(Math.abs(area(one) - 7200)).toBeLessThan(200);
    expect(silhouette(paint(20, 20, '#f4e8d0', []), { reach: 20 }).contours).toEqual([]);
    const strokes = [
      { keeps: true, radius: 0.1, points: [{ x: 0.1, y: 0.1 }] },
      { keeps: false, radius: 0.05, points: [{ x: 0.5, y: 0.5 }] },
    ];
    const worked = retouch(picture, { lift: { ...lift, strokes } }).pixels;
    const alpha = (x: number, y: number): number => worked.data[4 * (y * 200 + x) + 3] as number;
    expect([alpha(20, 12), alpha(100, 60), alpha(60, 60), alpha(190, 110)]).toEqual([255, 0, 255, 0]);
    const keyed = retouch(picture, { clear: { hex: '#204080', reach: 5 } }).pixels;
    expect([keyed.data[4 * (60 * 200 + 100) + 3], keyed.data[3]]).toEqual([0, 255]);
  });

  test('lifting from the border inwards leaves what is drawn as far as the border, and follows a ground that darkens', () => {
    const drawn: Painted = { hex: '#204080', outline: parsePath('M0 30L160 30L160 90L0 90Z') };
    const bled = paint(200, 120, '#f4e8d0', [drawn]);
    for (let i = 0; i < bled.data.length; i += 4) {
      const light = 1 - 0.35 * (((i / 4) % 200) / 200);
      for (let c = 0; c < 3; c++) bled.data[i + c] = (bled.data[i + c] as number) * light;
    }
    const { pixels } = retouch(bled, { lift: { border: true, spots: [], reach: 12, softPx: 0, strokes: [] } });
    const alpha = (x: number, y: number): number => pixels.data[4 * (y * 200 + x) + 3] as number;
    expect([alpha(0, 60), alpha(3, 33), alpha(80, 60)]).toEqual([255, 255, 255]);
    expect([alpha(0, 5), alpha(100, 2), alpha(199, 60), alpha(0, 110), alpha(170, 60), alpha(100, 20)]).toEqual([0, 0, 0, 0, 0, 0]);
  });

  test('the grain of a ground is lifted with it: one outline, and it is smooth', () => {
    const grainy = paint(160, 160, '#efe4cc', [{ hex: '#265c4a', outline: disc(30, 30, 100) }]);
    const random = noise(9);
    for (let i = 0; i < grainy.data.length; i++) if (i % 4 < 3) grainy.data[i] = (grainy.data[i] as number) + 22 * random();
    const outline = silhouette(grainy, { reach: 12 });
    expect(outline.contours.length).toBe(1);
    expect(nodeCount(outline)).toBeLessThan(12);
    expect(deviation(outline, disc(30, 30, 100))).toBeLessThan(1.5);
  });

  test('tracing and cleaning take the steps first: cropped and enlarged, a box keeps its size in mm', async () => {
    const steps = { crop: { x0: 0.1, y0: 0.1, x1: 0.9, y1: 0.9 }, enlarge: 2 } as const;
    const { layers, widthMm, heightMm } = await traceImage(picture, { ...options, clean: steps, pixelMm: 0.5 });
    expect([widthMm, heightMm]).toEqual([80, 48]);
    expect(Math.abs(area(layers[0]?.outline ?? { contours: [] }) - 60 * 30)).toBeLessThan(20);
    const cleaned = await cleanPicture(picture, steps);
    expect([cleaned.width, cleaned.height]).toEqual([320, 192]);
    await expect(cleanPicture(picture, steps, { signal: { aborted: true } })).rejects.toMatchObject({ code: 'cancelled' });
  });

  test('a colour takes what it reaches, by the difference that is shown', async () => {
    const near: Painted = { hex: '#30508f', outline: parsePath('M160 30L190 30L190 90L160 90Z') };
    const two = paint(200, 120, '#f4e8d0', [box, near]);
    const named = { ...options, colours: ['#f4e8d0', '#204080', '#30508f'] };
    const areasOf = async (reaches: [string, number][]): Promise<number[]> =>
      (await traceImage(two, { ...named, reaches })).layers.map(({ outline }) => Math.round(area(outline) / 100));
    expect((await areasOf([])).sort()).toEqual([18, 72]);
    const between = colourDifference('#204080', '#30508f');
    expect((await areasOf([['#204080', between - 1]])).sort()).toEqual([18, 72]);
    expect(await areasOf([['#204080', between + 1]])).toEqual([90]);
  });

  test('corners make a slanted box upright; cropping, levels and enlarging do what they say', async () => {
    const slanted: Painted = { hex: '#204080', outline: parsePath('M30 20L170 40L160 100L40 90Z') };
    const corners = [
      { x: 40 / 200, y: 30 / 120 },
      { x: 160 / 200, y: 20 / 120 },
      { x: 170 / 200, y: 80 / 120 },
      { x: 30 / 200, y: 100 / 120 },
    ];
    const upright = retouch(paint(200, 120, '#ffffff', [slanted]), { corners }).pixels;
    const inside = upright.data.filter((v, i) => i % 4 === 0 && v < 60).length;
    expect(inside / (upright.width * upright.height)).toBeGreaterThan(0.95);
    const cut = retouch(picture, { crop: { x0: 0.25, y0: 0.25, x1: 0.75, y1: 0.75 } });
    expect([cut.pixels.width, cut.pixels.height, cut.originX, cut.originY]).toEqual([100, 60, 50, 30]);
    const hard = retouch(picture, { levels: { black: 100, white: 200, gamma: 1 } }).pixels;
    expect([hard.data[4 * (60 * 200 + 100)], hard.data[0]]).toEqual([0, 255]);
    expect([enlargementFor({ width: 150, height: 90 }), enlargementFor({ width: 3000, height: 900 })]).toEqual([8, 1]);
    await expect(
      Promise.resolve().then(() => retouch({ width: 9000, height: 9000, data: new Uint8ClampedArray(0) }, { enlarge: 8 })),
    ).rejects.toMatchObject({
      code: 'limit.picture',
    });
  });

  test('enlarged twice: a slanted edge stays where it was and straight, and corners of the picture keep their colour', () => {
    const slope: Painted = { hex: '#000000', outline: parsePath('M0 0L100 0L100 60L0 20Z') };
    const { pixels, scale } = retouch(paint(100, 80, '#ffffff', [slope]), { enlarge: 4 });
    expect([pixels.width, pixels.height, scale]).toEqual([400, 320, 4]);
    for (let x = 20; x < 380; x += 7) {
      let dark = 0;
      for (let y = 0; y < 320; y++) dark += 1 - (pixels.data[4 * (y * 400 + x)] as number) / 255;
      expect(Math.abs(dark / 4 - (20 + (40 * (x + 0.5)) / 400))).toBeLessThan(0.3);
    }
    expect([pixels.data[0], pixels.data[4 * 319 * 400]]).toEqual([255, 0]);
  });
});
