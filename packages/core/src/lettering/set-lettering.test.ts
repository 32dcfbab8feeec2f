/** Laws of set lettering: what is typed is there once, where the pen says, as wide and as far apart as was asked for. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { readFileSync } from 'node:fs';
import bidiFactory from 'bidi-js';
import { area, bounds, joinBoxes, type Box } from '../geometry/index.ts';
import { joinFonts, loadFont, readingDistance, setLettering, type Font, type SetLettering } from './index.ts';
import { shapeLine } from './shape-line.ts';

const load = (...files: string[]): Font =>
  joinFonts(files.map((file) => loadFont(readFileSync(`assets/fonts/${file}`))) as [Font, ...Font[]]);
const anton = load('anton-latin-400-normal.woff', 'anton-latin-ext-400-normal.woff');
const cairo = load('cairo-latin-700-normal.woff', 'cairo-arabic-700-normal.woff');

const anyWord = fc.string({ unit: fc.constantFrom(...'BERTHQUAYno12.é'.split('')), minLength: 1, maxLength: 8 });
const anyText = fc.array(anyWord, { minLength: 1, maxLength: 4 }).map((words) => words.join(' '));
const letterBox = (set: SetLettering, index: number): Box => bounds(set.letters.find((letter) => letter.index === index)!.outline);
const inkOf = (set: SetLettering): Box => set.letters.map(({ outline }) => bounds(outline)).reduce(joinBoxes);

describe('letters and the pen', () => {
  test('every character that has ink is a letter once, and stands where the pen is before it', () => {
    fc.assert(
      fc.property(anyText, fc.double({ min: -1, max: 6, noNaN: true }), (text, letterSpaceMm) => {
        const set = setLettering({ text, font: anton, capHeightMm: 40, letterSpaceMm });
        const inked = [...text].flatMap((char, i) => (char === ' ' ? [] : [i]));
        const shown = set.letters.filter(({ outline }) => outline.contours.length > 0);
        expect(shown.map(({ char }) => char).join('')).toBe(text.replaceAll(' ', ''));
        expect(shown.map(({ index }) => index)).toEqual(inked);
        const { carets } = set.lines[0]!;
        for (const { index, x } of shown) expect(carets[index]).toBeCloseTo(x, 6);
        for (const [i, x] of carets.slice(1).entries()) expect(x).toBeGreaterThan(carets[i]! - 2);
      }),
      { numRuns: 60 },
    );
  });

  test('a kern opens the way before its letter by so much, for it and all that follow, and nothing else moves', () => {
    fc.assert(
      fc.property(anyWord, fc.nat(), fc.double({ min: 0.5, max: 9, noNaN: true }), (text, k, kernMm) => {
        fc.pre(text.length > 1);
        const at = 1 + (k % (text.length - 1));
        const plain = setLettering({ text, font: anton, capHeightMm: 40 });
        const kerned = setLettering({ text, font: anton, capHeightMm: 40, tweaks: { [at]: { kernMm } } });
        for (const { index } of plain.letters)
          expect(letterBox(kerned, index).minX - letterBox(plain, index).minX).toBeCloseTo(index < at ? 0 : kernMm, 6);
        expect(kerned.widthMm - plain.widthMm).toBeCloseTo(kernMm, 6);
        expect(kerned.lines[0]!.carets.at(-1)! - plain.lines[0]!.carets.at(-1)!).toBeCloseTo(kernMm, 6);
      }),
      { numRuns: 60 },
    );
  });

  test('a kern before the first letter of a line moves neither it nor its pen: the line begins at its ink', () => {
    const plain = setLettering({ text: 'BERTH\nQUAY', font: anton, capHeightMm: 40 });
    const kerned = setLettering({ text: 'BERTH\nQUAY', font: anton, capHeightMm: 40, tweaks: { 0: { kernMm: 5 }, 6: { kernMm: 7 } } });
    expect(kerned.letters.map(({ x }) => x)).toEqual(plain.letters.map(({ x }) => expect.closeTo(x, 6)));
    for (const [i, { carets }] of kerned.lines.entries()) expect(carets).toEqual(plain.lines[i]!.carets.map((x) => expect.closeTo(x, 6)));
  });

  test('a letter alone is sized, shifted and turned about its own middle; its neighbours stay', () => {
    const plain = setLettering({ text: 'NON', font: anton, capHeightMm: 40 });
    const tweaked = setLettering({ text: 'NON', font: anton, capHeightMm: 40, tweaks: { 1: { sizePct: 50, shiftYMm: 10, shiftXMm: 3 } } });
    for (const index of [0, 2]) expect(letterBox(tweaked, index)).toEqual(letterBox(plain, index));
    const [before, after] = [letterBox(plain, 1), letterBox(tweaked, 1)];
    expect(after.maxX - after.minX).toBeCloseTo((before.maxX - before.minX) / 2, 6);
    expect((after.minX + after.maxX) / 2 - (before.minX + before.maxX) / 2).toBeCloseTo(3, 0);
    expect(after.minY).toBeCloseTo(10 + before.minY / 2, 6);
    const turned = setLettering({ text: 'NON', font: anton, capHeightMm: 40, tweaks: { 1: { turnDeg: 180 } } });
    expect(letterBox(turned, 1).maxY).toBeCloseTo(-before.minY, 6);
    expect(Math.abs(area(turned.letters[1]!.outline))).toBeCloseTo(Math.abs(area(plain.letters[1]!.outline)), 4);
  });
});

describe('lines', () => {
  test('whatever ends them, they are the same lines; nothing of the ends is set or missing', () => {
    const usual = setLettering({ text: 'BERTH\nQUAY', font: anton, capHeightMm: 40 });
    for (const end of ['\r\n', '\r', '\u2028', '\u2029']) {
      const set = setLettering({ text: `BERTH${end}QUAY`, font: anton, capHeightMm: 40 });
      expect(set.missing).toEqual([]);
      expect(set.letters.map(({ char, x, y }) => [char, x, y])).toEqual(usual.letters.map(({ char, x, y }) => [char, x, y]));
      expect(set.lines.map(({ start, end: to }) => [start, to])).toEqual([
        [0, 5],
        [5 + end.length, 9 + end.length],
      ]);
      expect(set.letters.at(-1)!.index).toBe(8 + end.length);
    }
  });

  test('justified lines are as wide as the widest, the last of a paragraph is as it was', () => {
    const text = 'BERTH TO LET\nON THE OLD FERRY QUAY\nASK AT 12';
    const [left, wide] = (['left', 'justify'] as const).map((align) => setLettering({ text, font: anton, capHeightMm: 30, align }));
    const widthOf = (set: SetLettering, line: number): number => {
      const { start, end } = set.lines[line]!;
      const box = set.letters
        .filter(({ index, outline }) => index >= start && index < end && outline.contours.length > 0)
        .map(({ outline }) => bounds(outline))
        .reduce(joinBoxes);
      return box.maxX - box.minX;
    };
    const widest = Math.max(...[0, 1, 2].map((line) => widthOf(left!, line)));
    expect(widthOf(wide!, 0)).toBeCloseTo(widest, 6);
    expect(widthOf(wide!, 1)).toBeCloseTo(widest, 6);
    expect(widthOf(wide!, 2)).toBeCloseTo(widthOf(left!, 2), 6);
  });

  test('a lean is that of an italic: what lies on the baseline stays, what is higher goes on by its height', () => {
    fc.assert(
      fc.property(fc.integer({ min: -40, max: 40 }), (slantDeg) => {
        const upright = inkOf(setLettering({ text: 'I', font: anton, capHeightMm: 50 }));
        const leant = inkOf(setLettering({ text: 'I', font: anton, capHeightMm: 50, slantDeg }));
        const lean = 50 * Math.abs(Math.tan((slantDeg * Math.PI) / 180));
        expect(leant.maxX - leant.minX).toBeCloseTo(upright.maxX - upright.minX + lean, 3);
        expect(leant.maxY - leant.minY).toBeCloseTo(50, 6);
      }),
    );
  });
});

describe('directions', () => {
  const bidi = bidiFactory();
  /** Letters of both directions; some that the font has not. */
  const anyMixed = fc.string({ unit: fc.constantFrom(...'AB ابتא漢12'.split('')), minLength: 1, maxLength: 10 });

  test('characters stand in the order of the Unicode algorithm, also those that no file has', () => {
    fc.assert(
      fc.property(anyMixed, (line) => {
        const { glyphs } = shapeLine(cairo, line, 0.01);
        const left = new Map<number, number>();
        for (const { cluster, x } of glyphs) left.set(cluster, Math.min(left.get(cluster) ?? Infinity, x));
        // ligatures stand for several characters; what joins two of them has the place of its first
        const seen = [...left].sort((a, b) => a[1] - b[1]).map(([cluster]) => cluster);
        // where the line ends in spaces they are the paragraph's, which is not asked here
        const trimmed = line.trimEnd();
        const wanted = bidi.getReorderedIndices(trimmed, bidi.getEmbeddingLevels(trimmed)).filter((i) => left.has(i));
        expect(seen.filter((i) => i < trimmed.length)).toEqual(wanted);
      }),
      { numRuns: 300 },
    );
  });
});

describe('reading distance', () => {
  test('grows with the capitals, and what is just made out is four times as far as what reads well', () => {
    fc.assert(
      fc.property(fc.double({ min: 1, max: 5000, noNaN: true }), (capHeightMm) => {
        const { wellMm, atMostMm } = readingDistance(capHeightMm);
        expect(wellMm / readingDistance(1).wellMm).toBeCloseTo(capHeightMm, 6);
        expect(Math.abs(atMostMm / wellMm - 4)).toBeLessThan(0.001);
      }),
    );
    // capitals of 100 mm read well from some 17 m
    expect(readingDistance(100).wellMm / 1000).toBeCloseTo(17.19, 2);
  });
});
