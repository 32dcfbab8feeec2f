import { describe, expect, test } from '@jest/globals';
import { readFileSync } from 'node:fs';
import { AppError } from '../index.ts';
import { area, bounds } from '../geometry/index.ts';
import { checkFilm } from '../check/index.ts';
import { joinFonts, loadFont, setLettering, type Font } from './index.ts';

const load = (...files: string[]): Font =>
  joinFonts(files.map((file) => loadFont(readFileSync(`assets/fonts/${file}`))) as [Font, ...Font[]]);
const anton = load('anton-latin-400-normal.woff', 'anton-latin-ext-400-normal.woff');
const pacifico = load('pacifico-latin-400-normal.woff');
const cairo = load('cairo-latin-700-normal.woff', 'cairo-arabic-700-normal.woff');
const catalogue = JSON.parse(readFileSync('assets/fonts/fonts.json', 'utf8')) as { id: string; files: string[]; licenceFile: string }[];

const code = (work: () => unknown): string => {
  try {
    work();
  } catch (error) {
    return error instanceof AppError ? error.code : 'other';
  }
  return 'none';
};

describe('size', () => {
  test.each(catalogue.map((entry) => [entry.id, entry.files] as const))('a capital H of %s measures what was asked for', (_, files) => {
    const set = setLettering({ text: 'H', font: load(...files), capHeightMm: 60 });
    expect(set.heightMm).toBeCloseTo(60, 3);
  });

  test('width grows with the height, with letter space between letters only, and with the width percentage', () => {
    const width = (fields: object): number => setLettering({ text: 'BERTH', font: anton, capHeightMm: 50, ...fields }).widthMm;
    expect(width({ capHeightMm: 100 }) / width({})).toBeCloseTo(2, 6);
    expect(width({ letterSpaceMm: 3 }) - width({})).toBeCloseTo(12, 6);
    expect(width({ widthPct: 150 }) / width({})).toBeCloseTo(1.5, 6);
  });

  test('lines are aligned by their ink and stand a line space apart', () => {
    const set = setLettering({ text: 'QUAY\nFERRY OFFICE', font: anton, capHeightMm: 40, align: 'centre', lineSpace: 1.5 });
    const [first, second] = set.lines;
    expect((first?.baselineY ?? 0) - (second?.baselineY ?? 0)).toBeCloseTo(60, 9);
    const inkOf = (start: number, end: number): number => {
      const boxes = set.letters
        .filter((l) => l.index >= start && l.index < end && l.outline.contours.length > 0)
        .map((l) => bounds(l.outline));
      return Math.min(...boxes.map((b) => b.minX)) + Math.max(...boxes.map((b) => b.maxX));
    };
    expect(inkOf(0, 4)).toBeCloseTo(0, 6);
    expect(inkOf(5, 17)).toBeCloseTo(0, 6);
  });
});

describe('shaping', () => {
  test('kerning draws A and V together', () => {
    const pair = setLettering({ text: 'AV', font: cairo, capHeightMm: 50 });
    const apart = ['A', 'V'].map((text) => setLettering({ text, font: cairo, capHeightMm: 50 }));
    const gap =
      (bounds(pair.letters[1]?.outline ?? { contours: [] }).minX ?? 0) - bounds(pair.letters[0]?.outline ?? { contours: [] }).maxX;
    expect(apart.every((set) => set.widthMm > 0)).toBe(true);
    expect(gap).toBeLessThan(0);
  });

  test('letters of a script word are welded: one line never crosses another, and less area than the letters have', () => {
    const set = setLettering({ text: 'Welcome aboard', font: pacifico, capHeightMm: 80 });
    expect(checkFilm([{ id: 'a', name: 'a', outline: set.outline }]).filter((f) => f.code === 'crossing')).toEqual([]);
    expect(area(set.outline)).toBeLessThan(set.letters.reduce((sum, letter) => sum + area(letter.outline), 0) - 1);
  });

  test('an Arabic word joins: the forms within a word differ from the letters alone, and it runs from the right', () => {
    const word = setLettering({ text: 'ببب', font: cairo, capHeightMm: 50 });
    const alone = setLettering({ text: 'ب', font: cairo, capHeightMm: 50 });
    expect(word.missing).toEqual([]);
    expect(word.widthMm).toBeLessThan(2.6 * alone.widthMm);
    const carets = word.lines[0]?.carets ?? [];
    expect(carets[0]).toBeGreaterThan(carets[3] ?? 0);
  });

  test('a letter of another file of the family is found, and what no file has is named once', () => {
    expect(setLettering({ text: 'ŁÓDŹ', font: anton, capHeightMm: 30 }).missing).toEqual([]);
    const set = setLettering({ text: 'A漢B漢', font: anton, capHeightMm: 30 });
    expect(set.missing).toEqual(['漢']);
    expect(set.letters.map((l) => l.char)).toEqual(['A', 'B']);
  });

  test('there is a pen position before every character and after the last', () => {
    const set = setLettering({ text: 'Office 12\nx', font: anton, capHeightMm: 30 });
    for (const line of set.lines) expect(line.carets.length).toBe(line.end - line.start + 1);
    const first = set.lines[0]?.carets ?? [];
    expect(first.every((x, i) => i === 0 || x >= (first[i - 1] ?? 0))).toBe(true);
  });

  test('empty text has no outline and one place for the pen', () => {
    const set = setLettering({ text: '', font: anton, capHeightMm: 30 });
    expect([set.outline.contours.length, set.widthMm, set.lines[0]?.carets.length]).toEqual([0, 0, 1]);
  });
});

describe('bad input', () => {
  test.each([0, -5, Number.NaN, Infinity, 1e6])('capitals of %p mm are refused', (capHeightMm) => {
    expect(code(() => setLettering({ text: 'A', font: anton, capHeightMm }))).toBe('input.lettering');
  });

  test('a file that is no font, a cut one, and one with a lying directory are refused', () => {
    const good = readFileSync('assets/fonts/anton-latin-400-normal.woff');
    const lying = Uint8Array.from(good);
    new DataView(lying.buffer).setUint32(48, 0xffffff00);
    for (const bytes of [
      new TextEncoder().encode('this is only text, of some length, but no font'),
      new Uint8Array(0),
      good.subarray(0, 300),
      lying,
    ]) {
      expect(code(() => loadFont(bytes))).toBe('input.font');
    }
  });

  test('text without end is refused', () => {
    expect(code(() => setLettering({ text: 'x'.repeat(30_000), font: anton, capHeightMm: 10 }))).toBe('limit.lettering');
  });

  test('every shipped font has its licence beside it', () => {
    for (const { licenceFile } of catalogue) expect(readFileSync(`assets/fonts/${licenceFile}`, 'utf8')).toMatch(/Open Font License/i);
    expect(catalogue.length).toBeGreaterThanOrEqual(18);
  });
});
