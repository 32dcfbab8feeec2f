import { beforeAll, describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { readFileSync } from 'node:fs';
import { labDifference, labOf } from '../colour/index.ts';
import { boxShape, mapOutline, translation } from '../geometry/index.ts';
import { INTENTS, openProfile, softView, type PrintItem, type PrintPage, type ProcessColours } from './index.ts';

const bytes = new Uint8Array(readFileSync('assets/profiles/coated-fogra39.icc'));
let profile: ProcessColours;
beforeAll(async () => {
  profile = await openProfile(bytes);
});

const bar = (hex: string, i: number, fields: object = {}): PrintItem => ({
  kind: 'shape',
  outline: mapOutline(translation(20 * i, 0), boxShape(20, 20)),
  fill: { hex, ...fields },
});
const page = (items: PrintItem[], fields: Partial<PrintPage> = {}): PrintPage => ({
  title: 't',
  widthMm: 20 * items.length,
  heightMm: 20,
  forms: [{ id: 'f', items }],
  placements: [{ form: 'f', map: [1, 0, 0, 1, 0, 0] }],
  lines: [],
  marks: { contours: [] },
  ...fields,
});
/** Pixel in the middle of the bar. */
const middle = (width: number, height: number, i: number, of: number): number =>
  Math.floor(height / 2) * width + Math.floor(((i + 0.5) * width) / of);

describe('colours through a profile', () => {
  test('what inks reach comes back as it was asked for, whatever is done with the rest', async () => {
    const grey = fc.integer({ min: 90, max: 235 });
    for (const intent of ['relative', 'perceptual'] as const) {
      const one = await openProfile(bytes, { intent, blackPoint: true });
      await fc.assert(
        fc.asyncProperty(fc.array(grey, { minLength: 1, maxLength: 20 }), async (levels) => {
          const rgb = Uint8Array.from(levels.flatMap((v) => [v, v, v]));
          const seen = one.toScreen(one.toInks(rgb));
          levels.forEach((v, i) => {
            const got = [...seen.subarray(3 * i, 3 * i + 3)];
            expect(labDifference(labOf([v, v, v]), labOf(got))).toBeLessThan(5);
          });
        }),
        { numRuns: 20, seed: 3 },
      );
    }
  });

  test('intents differ, the same is opened once, and profiles of screens are refused by what they are', async () => {
    const green = Uint8Array.from([0, 255, 0]);
    const inks = await Promise.all(
      INTENTS.map(async (intent) => [...(await openProfile(bytes, { intent, blackPoint: false })).toInks(green)].join()),
    );
    expect(new Set(inks).size).toBeGreaterThan(1);
    expect(await openProfile(bytes)).toBe(profile);
    expect(profile.name).toMatch(/FOGRA39/);
    const screen = Uint8Array.from(bytes);
    screen.set([0x6d, 0x6e, 0x74, 0x72], 12);
    await expect(openProfile(screen)).rejects.toThrow(/of a screen/);
    const rgb = Uint8Array.from(bytes);
    rgb.set([0x52, 0x47, 0x42, 0x20], 16);
    await expect(openProfile(rgb)).rejects.toThrow(/four process inks/);
    await expect(openProfile(bytes.subarray(0, 400))).rejects.toMatchObject({ code: 'input.profile' });
  });

  test('process values that came with the art are what is printed, of fills as of lines and of pictures that are plates', async () => {
    const green = { hex: '#00ff00', cmyk: [0.7, 0, 1, 0] as const };
    const picture = { widthPx: 8, heightPx: 8, hasAlpha: true, rows: async (_: number, n: number) => new Uint8Array(32 * n).fill(255) };
    const items: PrintItem[] = [
      { kind: 'shape', outline: boxShape(20, 20), fill: green },
      { kind: 'shape', outline: mapOutline(translation(25, 0), boxShape(10, 20)), fill: null, stroke: { ...green, widthMm: 10 } },
      { kind: 'picture', picture: 'p', matrix: [20, 0, 0, 20, 40, 0], ink: green },
    ];
    const { beyond, width, height } = await softView(page(items), { dpi: 40, profile, pictures: () => picture });
    expect([0, 1, 2].map((i) => beyond[middle(width, height, i, 3)])).toEqual([0, 0, 0]);
  });

  test('the soft view lights up what is out of reach and nothing else; the paper is not counted', async () => {
    const hexes = ['#00ff00', '#808080', '#0000ff', '#f2ede4', '#00ffff', '#9a5f3c'];
    const { width, height, rgb, beyond, beyondShare } = await softView(page(hexes.map((hex, i) => bar(hex, i))), { dpi: 40, profile });
    const at = (i: number): number => middle(width, height, i, hexes.length);
    expect(hexes.map((_, i) => beyond[at(i)])).toEqual([255, 0, 255, 0, 255, 0]);
    // what is in reach is shown as it was asked for
    const grey = [0, 1, 2].map((c) => rgb[3 * at(1) + c]!);
    expect(labDifference(labOf([128, 128, 128]), labOf(grey))).toBeLessThan(4);
    expect(beyondShare).toBeGreaterThan(0.45);
    expect(beyondShare).toBeLessThan(0.55);
    const empty = await softView(page([bar('#00ff00', 0)], { widthMm: 200 }), { dpi: 40, profile });
    expect(empty.beyondShare).toBeCloseTo(1, 1);
    expect(empty.beyond[middle(empty.width, empty.height, 9, 10)]).toBe(0);
  });

  test('process values that came with the art are shown as they print; a spot by the colour that stands for it', async () => {
    const items = [bar('#00ff00', 0, { cmyk: [0, 0, 0, 0.5] }), bar('#d07a00', 1, { spot: 'Harbour gold' })];
    const { width, height, rgb } = await softView(page(items), { dpi: 40, profile });
    const seen = (i: number): number[] => [0, 1, 2].map((c) => rgb[3 * middle(width, height, i, 2) + c]!);
    const [r, g, b] = seen(0) as [number, number, number];
    expect(Math.max(r, g, b) - Math.min(r, g, b)).toBeLessThan(12);
    expect(seen(1)).toEqual([0xd0, 0x7a, 0x00]);
  });
});
