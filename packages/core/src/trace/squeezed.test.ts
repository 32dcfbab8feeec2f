/** Pictures squeezed by JPEG, pale fields, lifted blacks: painted shapes, spoiled in a known way. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { mapOutline, nodeCount, ovalShape, parsePath, translation, type Outline } from '../geometry/index.ts';
import { colourDifference, hexOf } from '../colour/index.ts';
import { noise, paint, squeezed } from './painting.support.ts';
import { missingShades, withoutSmears, withTrueHues } from './hue.ts';
import { recolourIslands } from './island-colours.ts';
import { proposeColours, traceImage, TraceMemory, type Pixels } from './index.ts';
import { colourOf, type FlatColour } from './palette.ts';
import { deepen, evenGround, planeOf } from './pixels.ts';
import { absorbFaint } from './regions.ts';
import { Shares } from './shares.ts';
import { hasBlocks } from './squeezed.ts';
import { cutIntoPieces, withoutChords } from './straight-runs.ts';

const options = { mode: 'colours', stacking: 'overlaid' } as const;
const disc = (x: number, y: number, d: number): Outline => mapOutline(translation(x - d / 2, y - d / 2), ovalShape(d, d));
const ring = (x: number, y: number, d: number, width: number): Outline => ({
  contours: [
    ...disc(x, y, d).contours,
    ...disc(x, y, d - 2 * width).contours.map(({ closed, spans }) => ({
      closed,
      spans: [...spans].reverse().map((span) => {
        const out: number[] = [];
        for (let k = span.length - 2; k >= 0; k -= 2) out.push(span[k] as number, span[k + 1] as number);
        return out;
      }),
    })),
  ],
});
/** A found colour that is like one that is meant, ΔE. */
const like = (hexes: readonly string[], hex: string): number => Math.min(...hexes.map((one) => colourDifference(one, hex)));

/** An orange disc with a dark outline of three pixels on a pale blue field. */
const outlined = (): Pixels =>
  paint(160, 120, '#ffffff', [
    { hex: '#cfe6ee', outline: parsePath('M12 12L148 12L148 108L12 108Z') },
    { hex: '#14213d', outline: disc(80, 60, 76) },
    { hex: '#e76f51', outline: disc(80, 60, 70) },
  ]);

describe('squeezed by JPEG', () => {
  test('blocks show in squeezed pictures, not in drawn, noisy or enlarged ones', () => {
    const picture = outlined();
    expect(hasBlocks(planeOf(picture))).toBe(false);
    for (const coarse of [0.8, 1.5]) expect(hasBlocks(planeOf(squeezed(picture, coarse)))).toBe(true);
    const next = noise(3);
    const noisy = { ...picture, data: picture.data.map((v, i) => (i % 4 === 3 ? 255 : v + 12 * next())) };
    expect(hasBlocks(planeOf(noisy))).toBe(false);
  });

  test('a thin dark outline has one colour and no pieces of others, however hue smears over it', async () => {
    const { layers } = await traceImage(squeezed(outlined(), 1.5), options);
    expect(layers).toHaveLength(3);
    for (const [hex, most] of [
      ['#cfe6ee', 3],
      ['#e76f51', 3],
      ['#14213d', 16],
    ] as const)
      expect(
        like(
          layers.map((layer) => layer.hex),
          hex,
        ),
      ).toBeLessThan(most);
    expect(layers.reduce((sum, { outline }) => sum + outline.contours.length, 0)).toBeLessThanOrEqual(5);
    expect(layers.reduce((sum, { outline }) => sum + nodeCount(outline), 0)).toBeLessThan(60);
  });

  test('small parts that are pale, not white, have a colour of their own', () => {
    const bars = [44, 56, 68, 80, 92, 104].map((x, i) => ({
      hex: '#f6e7c1',
      outline: parsePath(`M${x} ${44 + i}L${x + 3} ${44 + i}L${x + 3} ${74 + i}L${x} ${74 + i}Z`),
    }));
    const picture = paint(160, 120, '#ffffff', [{ hex: '#13808a', outline: disc(80, 60, 100) }, ...bars]);
    for (const coarse of [1, 1.5]) {
      const hexes = proposeColours(squeezed(picture, coarse)).map(({ hex }) => hex);
      expect(hexes).toHaveLength(3);
      const pale = hexes.filter((hex) => colourDifference(hex, '#ffffff') > 3);
      expect(like(pale, '#f6e7c1')).toBeLessThan(6);
    }
  });

  test('large parts of a missing colour are put together, however many pixels they have', () => {
    const [width, height] = [1000, 500];
    const data = new Uint8ClampedArray(width * height * 4).fill(230);
    const labels = new Uint8Array(width * height);
    for (let y = 0; y < height; y++) labels[y * width + 500] = 1;
    const [shade] = missingShades(planeOf({ width, height, data }), ['#ffffff', '#000000'].map(colourOf), labels);
    expect(shade?.hex).toBe('#e6e6e6');
    expect(shade?.share).toBeGreaterThan(0.98);
  });

  test('the hue of a thin line comes out nearer to what was drawn than what is seen on it', () => {
    const [width, height] = [64, 48];
    const isLine = (x: number): boolean => x % 16 === 6 || x % 16 === 7;
    const [ground, line] = ['#ffffff', '#6a1f9a'].map(colourOf) as [ReturnType<typeof colourOf>, ReturnType<typeof colourOf>];
    const data = new Uint8ClampedArray(width * height * 4).fill(255);
    const labels = new Uint8Array(width * height);
    labels.forEach((_, i) => {
      labels[i] = isLine(i % width) ? 1 : 0;
      data.set((labels[i] === 1 ? line : ground).rgb, 4 * i);
    });
    const raw = planeOf(squeezed({ width, height, data }, 0.5));
    const at = 3 * (20 * width + 6);
    const seen = hexOf([0, 1, 2].map((c) => raw.rgb[at + c] as number));
    const [, told] = withTrueHues(raw, [ground, colourOf(seen)], labels);
    expect(colourDifference(told?.hex ?? '#000000', line.hex)).toBeLessThan(0.5 * colourDifference(seen, line.hex));
  });
});

describe('regions that stand out too little', () => {
  /** A field with a speck of some size in its middle. */
  const field = (side: number): { labels: Uint8Array; shares: Shares } => {
    const labels = new Uint8Array(400);
    for (let y = 0; y < side; y++) for (let x = 0; x < side; x++) labels[(y + 6) * 20 + x + 6] = 1;
    return {
      labels,
      shares: new Shares(20, 20, labels),
    };
  };

  // Law: a region goes when size × difference² is below its edge, and only then
  test('are taken in; distinct or large ones stay', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 8 }), fc.double({ min: 0.05, max: 3, noNaN: true }), (side, apart) => {
        const { labels, shares } = field(side);
        fc.pre(Math.abs(side * side * apart ** 2 - 4 * side) > 1e-6);
        absorbFaint(shares, labels, () => apart);
        expect(labels.includes(1)).toBe(side * side * apart ** 2 > 4 * side);
        expect([...shares.first]).toEqual([...labels]);
      }),
    );
  });
});

describe('light and ground', () => {
  test('a pale field that covers most of an unevenly lit picture keeps its colour', () => {
    const picture = paint(240, 180, '#ffffff', [{ hex: '#fbeee0', outline: parsePath('M24 24L216 24L216 156L24 156Z') }]);
    const [next, data] = [noise(5), picture.data];
    for (let i = 0; i < data.length; i += 4) {
      const light = 0.7 + (0.25 * ((i / 4) % 240)) / 240;
      for (let c = 0; c < 3; c++) data[i + c] = (data[i + c] as number) * light + 6 * next();
    }
    const { rgb } = evenGround(planeOf(picture));
    const mean = (x: number, y: number): string =>
      hexOf(
        [0, 1, 2].map((c) => {
          let sum = 0;
          for (let v = 0; v < 8; v++) for (let u = 0; u < 8; u++) sum += rgb[3 * ((y + v) * 240 + x + u) + c] as number;
          return sum / 64;
        }),
      );
    for (const [x, y] of [
      [40, 90],
      [120, 60],
      [200, 140],
    ] as const)
      expect(colourDifference(mean(x, y), '#fbeee0')).toBeLessThan(1.5);
    expect(colourDifference(mean(8, 8), '#ffffff')).toBeLessThan(1.5);
  });

  test('lifted blacks are deepened; pictures without anything dark stay as they are', () => {
    const lifted = planeOf(paint(60, 60, '#ffffff', [{ hex: '#3c3c3c', outline: disc(30, 30, 30) }]));
    deepen(lifted);
    expect(lifted.rgb[3 * (30 * 60 + 30)]).toBeCloseTo(24, 0);
    expect(lifted.rgb[0]).toBe(255);
    const pale = planeOf(paint(60, 60, '#ffffff', [{ hex: '#c9b38a', outline: disc(30, 30, 30) }]));
    const before = [...pale.rgb];
    deepen(pale);
    expect([...pale.rgb]).toEqual(before);
  });

  test('dark that runs out of the picture beside a lighter ground is drawn', async () => {
    const picture = paint(80, 80, '#ffffff', [{ hex: '#1d3f72', outline: parsePath('M0 0L80 0L80 60L0 80Z') }]);
    const { layers, ground } = await traceImage(picture, options);
    expect(ground).toBeUndefined();
    expect(layers.map(({ hex }) => hex)).toContain('#1d3f72');
  });
});

describe('what is asked of colours and outlines', () => {
  test('a colour found at another size, a little off, is the one that is left out', async () => {
    const picture = paint(90, 60, '#ffffff', [
      { hex: '#2f8f4e', outline: parsePath('M10 10L40 10L40 50L10 50Z') },
      { hex: '#d7263d', outline: parsePath('M50 10L80 10L80 50L50 50Z') },
    ]);
    const { layers } = await traceImage(picture, { ...options, leaveOut: ['#d5283c'] });
    expect(layers.map(({ hex }) => hex)).toEqual(['#2f8f4e']);
    const merged = await traceImage(picture, { ...options, merge: [['#d5283c', '#308e4f']] });
    expect(merged.layers.map(({ hex }) => hex)).toEqual(['#2f8f4e']);
  });

  test('holes of the one colour are kept or filled', async () => {
    const picture = paint(80, 80, '#ffffff', [{ hex: '#000000', outline: ring(40, 40, 60, 10) }]);
    const contours = async (holes: boolean): Promise<number> => {
      const { layers } = await traceImage(picture, { mode: 'single', stacking: 'inlaid', holes });
      return layers[0]?.outline.contours.length ?? 0;
    };
    expect([await contours(true), await contours(false)]).toEqual([2, 1]);
  });

  test('chords of a large gentle bend are no straight edges; those between bends that turn away are', () => {
    const within = { off: 0.3, rms: 0.13, bow: 0.16 };
    const next = noise(11);
    const off = (): number => 0.04 * next();
    const bend = Array.from({ length: 600 }, (_, k) => [900 * Math.cos(k / 900) + off(), 900 * Math.sin(k / 900) + off()] as const);
    const cut = cutIntoPieces(bend, within);
    expect(cut.filter(({ line }) => line).length).toBeGreaterThan(3);
    expect(withoutChords(cut)).toHaveLength(1);
    // two sides of 80 pixels, a quarter turn between
    const side = Array.from({ length: 80 }, (_, k) => [k + off(), off()] as const);
    const turn = Array.from({ length: 31 }, (_, k) => [80 + 20 * Math.sin(k / 20), 20 - 20 * Math.cos(k / 20)] as const);
    const up = Array.from({ length: 80 }, (_, k) => [100 + off(), 20 + k] as const);
    const straight = withoutChords(cutIntoPieces([...side, ...turn, ...up], within)).filter(({ line }) => line);
    expect(straight.map(({ points }) => points.length > 70)).toEqual([true, true]);
  });
});

test('what a memory kept gives the same outlines as tracing anew, whatever settings change', async () => {
  const shapes = [
    { hex: '#14213d', outline: disc(32, 24, 38) },
    { hex: '#e76f51', outline: disc(32, 24, 26) },
  ];
  const picture = paint(64, 48, '#ffffff', shapes);
  const memory = new TraceMemory();
  const changes: Partial<Parameters<typeof traceImage>[1]>[] = [
    {},
    { smoothness: 0.9 },
    { stacking: 'inlaid', leaveOut: ['#14213d'] },
    { colours: ['#ffffff', '#14213d', '#e76f51'] },
    { smallestPx: 60 },
    { clean: 'none' },
    { mode: 'single' },
    {},
  ];
  for (const change of changes) {
    const asked = { ...options, ...change };
    const [kept, anew] = [await traceImage(picture, asked, {}, memory), await traceImage(picture, asked)];
    expect(kept).toEqual(anew);
  }
});

describe('what JPEG leaves', () => {
  test('blocks show by their rows alone, too', () => {
    const [width, height] = [64, 96];
    const data = new Uint8ClampedArray(4 * width * height).fill(255);
    for (let i = 0; i < width * height; i++) {
      // every column is stepped as much as the next; of the rows every eighth
      const level = 100 + 2 * Math.floor(Math.floor(i / width) / 8) + 3 * (i % 2);
      data.set([level, level, level], 4 * i);
    }
    expect(hasBlocks(planeOf({ width, height, data }))).toBe(true);
    // stripes of the picture's own, that begin elsewhere
    expect(hasBlocks(planeOf({ width, height: height - 3, data: data.subarray(4 * 3 * width) }))).toBe(false);
  });

  test('a fringe as dark as one side with the hue of the other is no colour; a line of its own brightness is', () => {
    const [navy, peach, fringe, rust] = ['#375270', '#eaad8d', '#5e4045', '#b4532a'].map(colourOf) as [
      FlatColour,
      FlatColour,
      FlatColour,
      FlatColour,
    ];
    const [width, height] = [40, 30];
    const labels = Uint8Array.from({ length: width * height }, (_, i) => (i % width < 20 ? 0 : i % width < 22 ? 2 : 1));
    const plane = planeOf({ width, height, data: new Uint8ClampedArray(4 * width * height) });
    expect(withoutSmears(plane, [navy, peach, fringe], labels)).toEqual([navy, peach]);
    expect(withoutSmears(plane, [navy, peach, rust], labels)).toEqual([navy, peach, rust]);
    // a line of the same colour on one ground alone: the other is nowhere near
    const line = labels.map((label, i) => (label === 2 ? 2 : i % width < 36 ? 1 : 0));
    expect(withoutSmears(plane, [navy, peach, fringe], line)).toEqual([navy, peach, fringe]);
    // and one between sides as bright as one another
    const dark = colourOf('#3a3432');
    expect(withoutSmears(plane, [peach, { ...peach }, dark], labels)).toHaveLength(3);
  });
});

describe('small parts on one ground', () => {
  const [WHITE, TEAL, CREAM] = [0, 1, 2];
  const palette = ['#ffffff', '#15818b', '#f5e7bf'].map(colourOf);
  /** An L of three pixels on teal, squeezed wherever it lies in its blocks, labelled as is told. */
  const told = (hex: string, x: number, y: number, as: number, sure: readonly number[] = [], isMerged = false): number[] => {
    const part = parsePath('M0 0L11 0L11 3L3 3L3 14L0 14Z');
    const plane = planeOf(squeezed(paint(48, 48, '#15818b', [{ hex, outline: mapOutline(translation(x, y), part) }])));
    const whole = planeOf(paint(48, 48, '#000000', [{ hex: '#ffffff', outline: mapOutline(translation(x, y), part) }]));
    const labels = Uint8Array.from({ length: 48 * 48 }, (_, i) => ((whole.rgb[3 * i] as number) > 127 ? as : TEAL));
    // both colours are in the picture, the other one along its frame
    if (!isMerged) labels.fill(WHITE, 0, 48).fill(CREAM, 47 * 48);
    const shares = new Shares(48, 48, labels);
    recolourIslands({ plane, shares, labels, times: 1 }, palette, new Set(sure));
    expect([...shares.first]).toEqual([...labels]);
    return [...new Set(labels.subarray(48, 47 * 48))].sort();
  };

  const drawnAs = (isCream: boolean): readonly [string, number] => (isCream ? ['#f5e7bf', CREAM] : ['#ffffff', WHITE]);
  test('wherever they lie in their blocks keep a colour that is right, and in most places get it when it is not', () => {
    let mended = 0;
    for (let x = 14; x < 22; x++)
      for (let y = 14; y < 22; y++)
        for (const isCream of [true, false]) {
          const [[hex, label], [, other]] = [drawnAs(isCream), drawnAs(!isCream)];
          expect(told(hex, x, y, label)).toEqual([label, TEAL].sort());
          if (told(hex, x, y, other).includes(label)) mended++;
        }
    expect(mended).toBeGreaterThan(100);
  });

  test('keep what was told by hand, and get no colour that was merged into another', () => {
    expect(told('#f5e7bf', 16, 17, WHITE)).toEqual([TEAL, CREAM]);
    expect(told('#f5e7bf', 16, 17, WHITE, [WHITE])).toEqual([WHITE, TEAL]);
    expect(told('#f5e7bf', 16, 17, WHITE, [], true)).toEqual([WHITE, TEAL]);
  });
});
