/** Shapes that pass over one another, thin lines, shallow corners, specks: what the outlines keep of them. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { fitChain, type FitSettings } from './fit-chain.ts';
import { loopIn } from './loops.ts';
import { crossingPairs } from '../check/cut-check.ts';
import { area, bounds, flatten, mapOutline, nodeCount, ovalShape, parsePath, translation, weld, type Outline } from '../geometry/index.ts';
import { rgbOf } from '../colour/index.ts';
import { asTaken, noise, paint } from './painting.support.ts';
import { traceImage, type Pixels, type Traced } from './index.ts';
import { absorbDoubtful } from './doubtful.ts';
import { endsOf, passingsOf } from './joints.ts';
import { labelsOf } from './labels.ts';
import { absorbSpecks, regionsOf } from './regions.ts';
import { colourOf, colourOfUnexplained } from './palette.ts';
import { planeOf, type Plane } from './pixels.ts';
import { followEnlarged, followingOf } from './prepare.ts';
import { Shares } from './shares.ts';
import { unmix } from './unmix.ts';

const options = { mode: 'colours', stacking: 'overlaid' } as const;
const layerOf = ({ layers }: Traced, hex: string): Outline => layers.find((layer) => layer.hex === hex)?.outline ?? { contours: [] };

/** A slanted bar over a level stripe: four points where edges meet, all of them beside the bar's straight edges. */
const BAR = parsePath('M60 6L76 6L56 94L40 94Z');
const STRIPE = parsePath('M8.3 40.2L110.6 40.2L110.6 61.7L8.3 61.7Z');
const crossing = (): Pixels =>
  paint(120, 100, '#ffffff', [
    { hex: '#1b998b', outline: STRIPE },
    { hex: '#2e294e', outline: BAR },
  ]);

/** What is in one outline and not in the other, pixels. */
const apart = (one: Outline, other: Outline): number => 2 * area(weld([one, other])) - area(one) - area(other);

describe('what passes straight over', () => {
  test('a bar over a stripe has its own four corners only, and the stripe runs on under it', async () => {
    const traced = await traceImage(crossing(), options);
    expect(traced.layers.map(({ hex }) => hex)).toEqual(['#1b998b', '#2e294e']);
    const [stripe, bar] = [layerOf(traced, '#1b998b'), layerOf(traced, '#2e294e')];
    expect(nodeCount(bar)).toBe(4);
    expect(stripe.contours.map((contour) => contour.spans.length)).toEqual([4, 4]);
    // it lies under the bar by more than a pixel on both sides, so the two together have no gap
    const seen = area(weld([stripe, bar]));
    expect(Math.abs(seen - area(weld([STRIPE, BAR])))).toBeLessThan(5);
    expect(area(stripe) + area(bar) - seen).toBeGreaterThan(2 * 21.5);
  });

  /** The bar over the ends of narrow tips: between its two edges with each lies no pixel that is of one or two colours alone. */
  const TIPS = [
    { hex: '#d7263d', outline: parsePath('M8 80L60.5 74.6L67.5 73.5L8 69Z') },
    { hex: '#f46036', outline: parsePath('M6 52.4L70.7 49.7L6 45.2Z') },
    { hex: '#f2c14e', outline: parsePath('M6 34.4L66.2 27.3L6 24.1Z') },
  ];
  const SLIM = parsePath('M66 6L71 6L56 94L51 94Z');

  test('a bar over narrow tips keeps its straight edges, sharp or blurred and with noise', async () => {
    const sharp = paint(540, 100, '#ffffff', [...TIPS, { hex: '#2e294e', outline: SLIM }]);
    const bar = layerOf(await traceImage(sharp, options), '#2e294e');
    expect(nodeCount(bar)).toBe(4);
    expect(apart(bar, SLIM)).toBeLessThan(2);
    let amid = 0;
    for (const seed of [8, 21]) {
      const { layers } = await traceImage(asTaken(sharp, seed), options);
      const [taken = { contours: [] }] = layers
        .map(({ hex, outline }) => ({ outline, light: colourOf(hex).lab[0] }))
        .sort((one, other) => one.light - other.light)
        .map(({ outline }) => outline);
      expect(apart(taken, SLIM)).toBeLessThan(20);
      // blur rounds its ends; between them it has no bends
      amid += taken.contours.flatMap(({ spans }) => spans).filter(([, y = 0]) => y > 12 && y < 88).length;
    }
    expect(amid).toBeLessThanOrEqual(5);
  });

  test('inlaid, both have the same edge and nothing lies over anything', async () => {
    const traced = await traceImage(crossing(), { ...options, stacking: 'inlaid' });
    const [stripe, bar] = [layerOf(traced, '#1b998b'), layerOf(traced, '#2e294e')];
    expect(Math.abs(area(stripe) + area(bar) - area(weld([stripe, bar])))).toBeLessThan(0.05);
    // where the stripe ends on the bar's edges, the bar has nodes too: four more than its corners
    expect(nodeCount(bar)).toBe(8);
  });

  test('a disc that lies over two colours is still a circle of four curves', async () => {
    const disc = parsePath(
      'M80 50C80 66.5685 66.5685 80 50 80C33.4315 80 20 66.5685 20 50C20 33.4315 33.4315 20 50 20C66.5685 20 80 33.4315 80 50Z',
    );
    const half = parsePath('M0 0L100 0L100 50.4L0 50.4Z');
    const traced = await traceImage(
      paint(100, 100, '#ffffff', [
        { hex: '#f2c14e', outline: half },
        { hex: '#d7263d', outline: disc },
      ]),
      options,
    );
    expect(traced.layers.at(-1)?.hex).toBe('#d7263d');
    const circle = layerOf(traced, '#d7263d');
    expect(nodeCount(circle)).toBeLessThanOrEqual(6);
    expect(Math.abs(area(circle) - Math.PI * 900)).toBeLessThan(10);
  });
});

describe('thin lines and shallow corners', () => {
  test('a line that is nowhere wholly of its colour keeps its width and place', async () => {
    for (const width of [1.25, 1.625, 1.875]) {
      const dash = parsePath(`M10 20.25L500 20.25L500 ${20.25 + width}L10 ${20.25 + width}Z`);
      const block = parsePath('M20 30L80 30L80 50L20 50Z');
      const traced = await traceImage(
        paint(540, 60, '#ffffff', [
          { hex: '#17324f', outline: dash },
          { hex: '#17324f', outline: block },
        ]),
        options,
      );
      const found = layerOf(traced, '#17324f').contours.find((contour) => bounds({ contours: [contour] }).maxY < 25);
      const box = bounds({ contours: found ? [found] : [] });
      expect(Math.abs(box.maxY - box.minY - width)).toBeLessThan(0.05);
      expect(Math.abs((box.maxY + box.minY) / 2 - 20.25 - width / 2)).toBeLessThan(0.05);
    }
  });

  test('dots of a few pixels in a small blurred picture are kept, where they are and as large', async () => {
    const bars = [20, 27, 34, 41, 48, 55, 62, 69].map((x) => parsePath(`M${x} 10L${x + 2.6} 10L${x + 2.6} 34L${x} 34Z`));
    const dots = [21, 33, 45].map((x) => mapOutline(translation(x - 1.4, 38.6), ovalShape(2.8, 2.8)));
    const picture = paint(
      120,
      60,
      '#ffffff',
      [...bars, ...dots].map((outline) => ({ hex: '#2b2d42', outline })),
    );
    const { layers } = await traceImage(asTaken(picture, 5), options);
    expect(layers).toHaveLength(1);
    const found = (layers[0]?.outline.contours ?? []).filter((contour) => bounds({ contours: [contour] }).minY > 36);
    expect(found).toHaveLength(3);
    for (const [k, contour] of [...found].sort((a, b) => bounds({ contours: [a] }).minX - bounds({ contours: [b] }).minX).entries()) {
      const { minX, maxX, minY, maxY } = bounds({ contours: [contour] });
      expect(Math.abs((minX + maxX) / 2 - [21, 33, 45][k]!)).toBeLessThan(0.2);
      expect(Math.abs(Math.hypot(maxX - minX, maxY - minY) - 2.8 * Math.SQRT2)).toBeLessThan(1.2);
    }
  });

  test('edges that turn by a few degrees meet in one corner', async () => {
    const arrow = parsePath('M10 12L110 12L190 24L190 40L110 52L10 52Z');
    const traced = await traceImage(paint(200, 64, '#ffffff', [{ hex: '#f46036', outline: arrow }]), options);
    const found = layerOf(traced, '#f46036');
    expect(nodeCount(found)).toBe(6);
    expect(found.contours[0]?.spans.every((span) => span.length === 4)).toBe(true);
  });

  test('a straight edge of steps with noise is one line', async () => {
    const wedge = parsePath('M12 12L208 41L208 70L12 70Z');
    const smooth = paint(220, 84, '#ffffff', [{ hex: '#000000', outline: wedge }]);
    const next = noise(7);
    const data = smooth.data.map((v, i) => (i % 4 === 3 ? 255 : v + 60 * next() > 127 ? 255 : 0));
    // one level for a pixel, not for each of its channels
    for (let i = 0; i < data.length; i += 4) data[i + 1] = data[i + 2] = data[i] as number;
    const traced = await traceImage({ width: 220, height: 84, data: Uint8ClampedArray.from(data) }, options);
    expect(nodeCount(layerOf(traced, '#000000'))).toBeLessThanOrEqual(7);
  });
});

test('whatever bars lie over one another: no outline crosses, all lie within the picture', async () => {
  const place = fc.integer({ min: 6, max: 74 });
  const bar = fc.record({
    x0: place,
    y0: place,
    x1: place,
    y1: place,
    width: fc.integer({ min: 2, max: 14 }),
    hex: fc.constantFrom('#d7263d', '#1b998b', '#2e294e'),
  });
  await fc.assert(
    fc.asyncProperty(fc.array(bar, { minLength: 2, maxLength: 5 }), async (bars) => {
      const shapes = bars.flatMap(({ x0, y0, x1, y1, width, hex }) => {
        const length = Math.hypot(x1 - x0, y1 - y0);
        if (length < 4) return [];
        const [nx, ny] = [(-(y1 - y0) / length) * (width / 2), ((x1 - x0) / length) * (width / 2)];
        const outline = parsePath(`M${x0 + nx} ${y0 + ny}L${x1 + nx} ${y1 + ny}L${x1 - nx} ${y1 - ny}L${x0 - nx} ${y0 - ny}Z`);
        return [{ hex, outline }];
      });
      const picture = paint(80, 80, '#ffffff', shapes);
      for (const stacking of ['overlaid', 'inlaid'] as const) {
        const { layers } = await traceImage(picture, { ...options, stacking });
        for (const { outline } of layers) {
          expect(crossingPairs(outline)).toEqual([]);
          expect(outline.contours.every(({ closed }) => closed)).toBe(true);
          for (const { xy } of flatten(outline, 0.05)) for (const v of xy) expect(v > -2 && v < 82).toBe(true);
        }
      }
    }),
    { numRuns: 8 },
  );
}, 60_000);

test('enlarging a small picture does not make the parts larger that count as specks', () => {
  const plain = { plane: planeOf(crossing()), noise: 1, isSoft: false, isTaken: false, isSqueezed: false } as const;
  for (const seen of [plain, { ...plain, isSoft: true }, { ...plain, isSoft: true, isTaken: true }]) {
    const following = followingOf(seen as Parameters<typeof followingOf>[0]);
    expect(followEnlarged(following, 2).smallestPx).toBeLessThanOrEqual(following.smallestPx);
  }
});

test('an edge of very many points between junctions that lie together is looked at as any other', () => {
  const line = (x0: number, x1: number): number[] => Array.from({ length: 30 }, (_, k) => [x0 + ((x1 - x0) * k) / 29, 0]).flat();
  const junctions = [
    { x: 40, y: 0 },
    { x: 45, y: 0 },
  ];
  const chain = { closed: false, left: 0, right: 1, from: -1, to: -1 };
  const round = Array.from({ length: 400_000 }, (_, k) => [42, k / 100]).flat();
  const graph = {
    junctions,
    chains: [
      { ...chain, xy: line(0, 40), to: 0 },
      { ...chain, xy: line(45, 90), from: 1 },
      { ...chain, xy: [41, 0, 43, 0, 44, 0], right: 2, from: 0, to: 1 },
      { ...chain, xy: round, left: 2, from: 0, to: 1 },
    ],
  };
  const points = graph.chains.map(({ xy }) =>
    Array.from({ length: xy.length / 2 }, (_, k) => [xy[2 * k] ?? 0, xy[2 * k + 1] ?? 0] as const),
  );
  const passings = passingsOf(graph, endsOf(graph, points, 1.1), points, { cornerDeg: 34, rounded: 1.1 });
  expect([0, 1].map((junction) => passings.get(junction)?.ends.map(({ chain: k }) => k))).toEqual([
    [0, 2],
    [2, 1],
  ]);
});

describe('regions', () => {
  const asLabels = (rows: readonly string[]): Uint8Array => Uint8Array.from(rows.join(''), Number);
  const sharesOf = (labels: Uint8Array, width: number): Shares => new Shares(width, labels.length / width, labels);

  test('specks among specks go to what is large around them', () => {
    const labels = asLabels(['0000000', '0012200', '0011200', '0000000', '3333333', '3333333']);
    absorbSpecks(sharesOf(labels, 7), labels, 5);
    expect([...labels.subarray(0, 28)].every((label) => label === 0)).toBe(true);
    expect([...labels.subarray(28)].every((label) => label === 3)).toBe(true);
  });

  test('regions are those that a flood would fill', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: 2 }), { minLength: 48, maxLength: 48 }), (list) => {
        const [width, height] = [8, 6];
        const labels = Uint8Array.from(list);
        const regions = regionsOf(labels, width, height);
        const own = new Int32Array(48);
        for (let run = 0; run < regions.runs; run++)
          for (let i = regions.starts[run] as number; i < (regions.starts[run + 1] as number); i++) own[i] = regions.regionOf(run);
        const seen = new Set<number>();
        for (let start = 0; start < 48; start++) {
          if (seen.has(start)) continue;
          const flood = [start];
          for (let k = 0; k < flood.length; k++) {
            const i = flood[k] as number;
            seen.add(i);
            for (const j of [i % width > 0 ? i - 1 : -1, i % width < width - 1 ? i + 1 : -1, i - width, i + width])
              if (j >= 0 && j < 48 && labels[j] === labels[start] && !flood.includes(j)) flood.push(j);
          }
          expect(regions.sizeOf(own[start] as number)).toBe(flood.length);
          expect(new Set(flood.map((i) => own[i])).size).toBe(1);
        }
        expect(new Set(own).size).toBe(new Set([...seen].map((i) => own[i])).size);
      }),
    );
  });
});

describe('a colour that others could be mixed to', () => {
  const palette = ['#ffffff', '#e0a526', '#13808a', '#f6e7c1'].map(colourOf);
  const CREAM = 3;

  test('between white and gold it is their mixture, on its own it is a colour', () => {
    // from left to right: white, two columns that are cream by chance, gold; then teal with a bar of cream
    const columns = [...'wwwwwccggggggttttttcccttttt'];
    const hexes: Record<string, string> = { w: '#ffffff', g: '#e0a526', t: '#13808a', c: '#f6e7c1' };
    const [width, height] = [columns.length, 20];
    const data = new Uint8ClampedArray(width * height * 4).fill(255);
    for (let y = 0; y < height; y++) columns.forEach((letter, x) => data.set(rgbOf(hexes[letter] ?? ''), 4 * (y * width + x)));
    const shares = unmix(planeOf({ width, height, data }), palette, { reach: 2, pureLevels: 6, clear: undefined });
    const row = 10 * width;
    const { first, second } = shares;
    const isPureCream = (x: number): boolean => first[row + x] === CREAM && (second[row + x] === CREAM || shares.shareAt(row + x) > 0.99);
    expect([5, 6].map(isPureCream)).toEqual([false, false]);
    expect([19, 20, 21].map(isPureCream)).toEqual([true, true, true]);
  });

  test('a thin colour is where its pixels are alike, not where they stand out most', () => {
    const seeded = noise(7);
    const cream = Array.from({ length: 60 }, () => ({ r: 246, g: 231, b: 193, off: 60 }));
    // white and gold mixed in every share stand out from the teal beside them as well, and some of them more
    const mixed = Array.from({ length: 140 }, () => {
      const t = 0.35 + 0.4 * (seeded() + 0.5);
      return { r: 255 - 31 * t, g: 255 - 90 * t, b: 255 - 217 * t, off: 60 + 40 * t };
    });
    expect(colourOfUnexplained([...mixed, ...cream], 20_000, 0.9, 3)?.hex).toBe('#f6e7c1');
  });
});

describe('labels along thin lines', () => {
  const [LINE, GROUND] = [1, 0];
  /** A line in a row of pixels, each of it by so much. */
  const fading = (parts: readonly number[]): Shares => {
    const width = parts.length + 4;
    const shares = new Shares(width, 5, new Uint8Array(5 * width));
    parts.forEach((share, k) => shares.mix(2 * width + 2 + k, GROUND, LINE, 1 - share));
    return shares;
  };
  const followed = (shares: Shares, apart: number): number =>
    labelsOf(shares, { isSharp: false, isRough: true, apart: () => apart }).filter((label) => label === LINE).length;

  test('a tip that fades away is followed on while it stands out, a faint line of its own is not', () => {
    const tip = fading([0.9, 0.7, 0.48, 0.4, 0.32, 0.25, 0.2, 0.17, 0.1]);
    expect(followed(tip, 440)).toBe(8);
    // on a ground that is nearly like it only what is strong counts
    expect(followed(tip, 120)).toBe(5);
    expect(followed(fading([0.25, 0.25, 0.25, 0.25]), 440)).toBe(0);
  });

  test('a line that blur made wider than it was is followed along its crest, the side of something wide is not', () => {
    const across = (parts: readonly number[], isRough: boolean): number => {
      const shares = new Shares(9, 7, new Uint8Array(63));
      for (let y = 1; y < 6; y++) parts.forEach((share, k) => shares.mix(9 * y + 2 + k, GROUND, LINE, 1 - share));
      const followed = labelsOf(shares, { isSharp: false, isRough });
      return [...followed.slice(27, 36)].filter((label) => label === LINE).length;
    };
    expect(across([0.2, 0.4, 0.43, 0.4, 0.26], true)).toBe(1);
    expect(across([0.2, 0.4, 0.43, 0.4, 0.26], false)).toBe(0);
    expect(across([0.1, 0.3, 0.43, 0.49, 0.49], true)).toBe(0);
  });

  test('what is left of the ground between a bar and a pale tip is no line of it, where blur mixes all three', () => {
    const [BESIDE, TIP] = [2, 3];
    const shares = new Shares(14, 7, new Uint8Array(98).fill(BESIDE));
    // along the middle row from the bar on the tip grows paler
    const along = [1, 1, 1, 1, 0.3, 0.3, 0.48, 0.5, 0.7, 0.74, 0.85, 1, 1, 1];
    for (let y = 0; y < 7; y++)
      along.forEach((ground, x) => {
        if (x < 4) return;
        if (y === 3) shares.mix(14 * y + x, TIP, GROUND, 1 - ground);
        else shares.take(14 * y + x, GROUND);
      });
    const row = (isRough: boolean): number[] => [...labelsOf(shares, { isSharp: false, isRough })].slice(42, 56);
    expect(row(true).slice(4, 7)).toEqual([TIP, TIP, TIP]);
    expect(row(false)[4]).toBe(GROUND);
  });
});

describe('regions of a colour that is not needed', () => {
  const palette = ['#141414', '#8a5a2b', '#f3e3c0'].map(colourOf);
  const [BLACK, BROWN, CREAM] = [0, 1, 2];
  /** Black above, brown below, between them a patch that is labelled cream, of a colour that is told. */
  const scene = (patch: readonly number[]): { plane: Plane; shares: Shares; labels: Uint8Array } => {
    const [width, height] = [12, 12];
    const rgb = new Uint8ClampedArray(3 * width * height);
    const labels = new Uint8Array(width * height);
    for (let i = 0; i < labels.length; i++) {
      const [x, y] = [i % width, Math.floor(i / width)];
      const inPatch = x >= 3 && x < 9 && (y === 5 || y === 6);
      labels[i] = inPatch ? CREAM : y < 6 ? BLACK : BROWN;
      rgb.set(inPatch ? patch : (palette[labels[i] ?? 0]?.rgb ?? []), 3 * i);
    }
    return { plane: { width, height, rgb, alpha: undefined }, shares: new Shares(width, height, labels), labels };
  };
  const mix = (a: number, b: number, t: number): number[] =>
    [0, 1, 2].map((c) => t * (palette[a]?.rgb[c] ?? 0) + (1 - t) * (palette[b]?.rgb[c] ?? 0));
  const absorb = (patch: readonly number[], sure: readonly number[] = []): { labels: number[]; shares: Shares } => {
    const { plane, shares, labels } = scene(patch);
    absorbDoubtful(plane, palette, shares, labels, { hue: 1, clear: undefined, sure: new Set(sure) });
    return { labels: [...new Set(labels)].sort(), shares };
  };

  // Law: what two colours around mix to exactly needs no third, whatever they mix to; what they do not keeps its own
  test('go when those around explain them, with the shares that these have', () => {
    fc.assert(
      fc.property(fc.double({ min: 0.3, max: 0.95, noNaN: true }), (t) => {
        const { labels, shares } = absorb(mix(BROWN, BLACK, t));
        expect(labels).toEqual([BLACK, BROWN]);
        expect(Math.abs(shares.of(5 * 12 + 5, BROWN) - t)).toBeLessThan(0.02);
      }),
    );
  });

  test('stay when those around do not, or when they were told by hand', () => {
    expect(absorb(mix(CREAM, BLACK, 0.8)).labels).toEqual([BLACK, BROWN, CREAM]);
    expect(absorb(mix(BROWN, BLACK, 0.5), [CREAM]).labels).toEqual([BLACK, BROWN, CREAM]);
  });
});

test('a long smooth bow with noise is few curves that keep to it', () => {
  const settings: FitSettings = { tol: 0.42, cornerDeg: 34, window: 6, rounded: 1.1, steps: 0.8, smoothPx: 0.15, calm: 5, isRough: true };
  // the noise lies across the bow, as it does where an edge is found between pixels
  const place = (t: number, off: number): readonly [number, number] => [200 + (170 + off) * Math.cos(t), 150 + (110 + off) * Math.sin(t)];
  const nodes = [11, 12, 13].map((seed) => {
    const next = noise(seed);
    const xy = Array.from({ length: 880 }, (_, k) => place((k / 880) * 2 * Math.PI, 1.5 * next())).flat();
    const spans = fitChain({ xy, closed: true }, settings);
    const { xy: flat = [] } = flatten({ contours: [{ closed: true, spans }] }, 0.05)[0] ?? {};
    for (let i = 0; i < flat.length; i += 2) {
      const [u, v] = [((flat[i] as number) - 200) / 170, ((flat[i + 1] as number) - 150) / 110];
      expect(Math.abs(Math.hypot(u, v) - 1) * 110).toBeLessThan(0.9);
    }
    return spans.length;
  });
  expect(Math.max(...nodes)).toBeLessThanOrEqual(9);
});

describe('hairlines', () => {
  test('sides nearer to one another than the tolerance neither cross nor are followed point by point', () => {
    const settings: FitSettings = { tol: 0.2, cornerDeg: 185, window: 4, rounded: 1.1, steps: 0, calm: 0 };
    for (const gap of [0.3, 0.1, 0.06]) {
      const wave = (t: number): number => 20 + 10 * Math.sin(t / 30);
      const xy: number[] = [];
      for (let t = 0; t <= 300; t++) xy.push(t, wave(t));
      for (let t = 300; t >= 0; t--) xy.push(t, wave(t) + gap + 0.04 * Math.sin(1.7 * t));
      const spans = fitChain({ xy, closed: true }, settings);
      expect(loopIn(spans)).toBeUndefined();
      expect(spans.length).toBeLessThan(320);
    }
  });
});
