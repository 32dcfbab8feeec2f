import { describe, expect, test } from '@jest/globals';
import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { AppError } from '../index.ts';
import { bounds, ovalShape, parsePath, type Outline } from '../geometry/index.ts';
import { axesOf, isStrokeFont, joinFonts, loadFont, readingDistance, setLettering, type Font } from './index.ts';

const load = (file: string): Font => joinFonts([loadFont(readFileSync(`assets/fonts/${file}`))]);
const anton = load('anton-latin-400-normal.woff');
const radii = (outline: Outline): number[] =>
  outline.contours.flatMap((contour) => contour.spans.map((span) => Math.hypot(span[0] as number, span[1] as number)));
const circle = { kind: 'circle', radiusMm: 200, lines: 'both', middleDeg: 90, stand: 'above', sameSide: true } as const;

describe('on a circle', () => {
  const set = (fields: object, text = 'HARBOUR\nOFFICE'): ReturnType<typeof setLettering> =>
    setLettering({ text, font: anton, capHeightMm: 30, align: 'centre', bend: { ...circle, ...fields } });

  test('the middle of each line stands on the middle that was asked for, whatever the alignment', () => {
    for (const align of ['left', 'right', 'centre'] as const) {
      const { letters } = setLettering({ text: 'OHO\nHOH', font: anton, capHeightMm: 30, align, bend: circle });
      for (const word of [letters.slice(0, 3), letters.slice(3)]) {
        const xs = word.map((l) => bounds(l.outline));
        expect(Math.min(...xs.map((b) => b.minX)) + Math.max(...xs.map((b) => b.maxX))).toBeCloseTo(0, 0);
      }
    }
  });

  test('the first line stands over the top, the second under the bottom, both outside of the circle', () => {
    const { letters } = set({});
    const over = letters.filter((l) => l.index < 7);
    const under = letters.filter((l) => l.index > 7);
    expect(over.every((l) => bounds(l.outline).minY > 150)).toBe(true);
    expect(under.every((l) => bounds(l.outline).maxY < -150)).toBe(true);
    const r = radii(set({}).outline);
    expect(Math.min(...r)).toBeGreaterThan(198.5);
    expect(Math.max(...r)).toBeLessThan(233);
  });

  test('letters under the bottom read upright: the first stands at the left, its feet outward', () => {
    const under = set({ lines: 'under' }, 'LT').letters;
    const [l, t] = under.map((letter) => bounds(letter.outline)) as [ReturnType<typeof bounds>, ReturnType<typeof bounds>];
    expect(l.minX).toBeLessThan(t.minX);
    const feet = radii(under[0]?.outline ?? { contours: [] });
    expect(Math.max(...feet)).toBeGreaterThan(229);
  });

  test('on the other side of the line, and with its own lower circle', () => {
    const inside = radii(set({ stand: 'below' }).outline);
    expect(Math.max(...inside)).toBeLessThan(202.5);
    const own = set({ lowerRadiusMm: 260 }).letters.filter((l) => l.index > 7);
    expect(Math.min(...own.flatMap((l) => radii(l.outline)))).toBeGreaterThan(258);
  });

  test('spread fills the angle asked for', () => {
    const { outline } = set({ lines: 'over', spreadDeg: 180 }, 'HIIIIH');
    const angles = outline.contours.flatMap((c) => c.spans.map((s) => (Math.atan2(s[1] as number, s[0] as number) * 180) / Math.PI));
    expect(Math.max(...angles) - Math.min(...angles)).toBeGreaterThan(172);
    expect(Math.max(...angles) - Math.min(...angles)).toBeLessThan(188);
  });

  test('a circle that is too small is refused', () => {
    expect(() => set({ radiusMm: 20, stand: 'below' })).toThrow(AppError);
  });
});

test('an arch rises by the number given, and sags below zero', () => {
  fc.assert(
    fc.property(fc.double({ min: 5, max: 120, noNaN: true }), fc.boolean(), (rise, up) => {
      const { lines } = setLettering({
        text: 'MARIGOLD MARIGOLD',
        font: anton,
        capHeightMm: 40,
        align: 'centre',
        bend: { kind: 'arch', riseMm: up ? rise : -rise },
      });
      const ys = (lines[0]?.places ?? []).map((m) => m[5]);
      const reach = up ? Math.max(...ys) : -Math.min(...ys);
      expect(Math.abs(reach - rise)).toBeLessThan(0.02 * rise + 0.5);
      expect(Math.min(...ys.map(Math.abs))).toBeLessThan(0.08 * rise + 0.5);
    }),
    { numRuns: 30, endOnFailure: true },
  );
});

test('along a path the baseline lies on the path; round a closed one it comes round', () => {
  const path = parsePath('M 0 0 C 100 120 200 -120 300 0 L 400 50');
  const set = setLettering({
    text: 'ALONG THE QUAY',
    font: anton,
    capHeightMm: 12,
    bend: { kind: 'path', path, startMm: 10, stand: 'above', reverse: false },
  });
  expect(set.lines[0]?.places?.every((m) => Math.abs(Math.hypot(m[0], m[1]) - 1) < 1e-9)).toBe(true);
  const round = setLettering({
    text: 'ROUND '.repeat(12),
    font: anton,
    capHeightMm: 20,
    bend: { kind: 'path', path: ovalShape(200, 200), startMm: 0, stand: 'above', reverse: true },
  });
  const far = (round.lines[0]?.places ?? []).map((m) => Math.hypot(m[4] - 100, m[5] - 100));
  expect(Math.max(...far) - Math.min(...far)).toBeLessThan(0.1);
});

describe('by hand', () => {
  const plain = setLettering({ text: 'AVTO', font: anton, capHeightMm: 50 });
  test('kerning moves a letter and all that follow; size and turn only the letter', () => {
    const kerned = setLettering({ text: 'AVTO', font: anton, capHeightMm: 50, tweaks: { 2: { kernMm: 7 } } });
    const shifts = kerned.letters.map((l, i) => l.x - (plain.letters[i]?.x ?? 0));
    expect(shifts.map((s) => Math.round(s * 1e6) / 1e6)).toEqual([0, 0, 7, 7]);
    const big = setLettering({ text: 'AVTO', font: anton, capHeightMm: 50, tweaks: { 3: { sizePct: 50, shiftYMm: 10 } } });
    expect(bounds(big.letters[3]?.outline ?? { contours: [] }).minY).toBeCloseTo(
      10 + 0.5 * bounds(plain.letters[3]?.outline ?? { contours: [] }).minY,
      6,
    );
    expect(big.letters[2]?.outline).toEqual(plain.letters[2]?.outline);
  });

  test('justified lines are as wide as the widest, the last one stays', () => {
    const set = setLettering({ text: 'TO THE BOATS AT\nTHE QUAY\nNOW GO', font: anton, capHeightMm: 20, align: 'justify' });
    const widths = set.lines.map((line) => {
      const own = set.letters.filter((l) => l.index >= line.start && l.index < line.end && l.outline.contours.length > 0);
      return Math.max(...own.map((l) => bounds(l.outline).maxX)) - Math.min(...own.map((l) => bounds(l.outline).minX));
    });
    expect(widths[1]).toBeCloseTo(widths[0] ?? 0, 6);
    expect(widths[2]).toBeLessThan((widths[0] ?? 0) - 1);
  });
});

test('a one-stroke font gives open lines at the size of its capitals', () => {
  const pen = load('ems-readability.strokes.json');
  const set = setLettering({ text: 'HI 12', font: pen, capHeightMm: 10 });
  expect(isStrokeFont(pen)).toBe(true);
  expect(set.outline.contours.every((contour) => !contour.closed)).toBe(true);
  const box = bounds(set.letters[0]?.outline ?? { contours: [] });
  expect(box.maxY - box.minY).toBeCloseTo(10, 6);
  expect(set.missing).toEqual([]);
  expect(axesOf(pen)).toEqual([]);
});

test('reading distance follows from the angle in the eye', () => {
  const { wellMm, atMostMm } = readingDistance(100);
  expect((Math.atan(100 / wellMm) * 180 * 60) / Math.PI).toBeCloseTo(20, 6);
  expect(atMostMm / wellMm).toBeCloseTo(4, 2);
});
