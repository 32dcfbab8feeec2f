/** From a print page through the printer's own reading of its file to what the cutter's camera finds on the sheet. */
import { beforeAll, describe, expect, test } from '@jest/globals';
import { readFileSync } from 'node:fs';
import { applyCorrection, solveMarks } from '@lorvek/core/align';
import { bounds, boxShape, mapOutline, mapPoint, translation, type Box, type Matrix, type Outline } from '@lorvek/core/geometry';
import { makePlates, openProfile, writePrintPdf, type PrintPage, type PrintPicture, type ProcessColours } from '@lorvek/core/print';
import { jobCode, placeMarks, plainLetters, type MarkKind } from '@lorvek/core/sheet';
import { LoadedSheet, PrintedSheet, readPrint, seekCode, seekMark, USUAL_HIDDEN } from './index.ts';
import { readApart } from './read-apart.ts';

let inks: ProcessColours;
beforeAll(async () => {
  inks = await openProfile(readFileSync('assets/profiles/coated-fogra39.icc'));
});

const picture: PrintPicture = {
  widthPx: 100,
  heightPx: 100,
  hasAlpha: true,
  rows: async (from, count) =>
    Uint8Array.from({ length: 400 * count }, (_, i) => [20, 150, 90, (i >> 2) % 100 < 50 ? 255 : 120][i % 4]! + 0 * from),
};

const work: Box = { minX: 60, minY: 40, maxX: 460, maxY: 290 };
const CODE = '402918-1';

function page(kind: MarkKind): { page: PrintPage; marks: ReturnType<typeof placeMarks>; codeAt: { x: number; y: number } } {
  const marks = placeMarks({
    work,
    frame: { minX: 0, minY: 0, maxX: 600, maxY: 400 },
    kind,
    count: 4,
    thicknessMm: 1,
    armMm: kind === 'dots' ? 6 : 12,
    distanceMm: 8,
  });
  const left = marks[0]!.clear.minX - 11;
  const code = mapOutline(translation(left, 44), jobCode(CODE, 0.8).outline);
  const figures = mapOutline(translation(left, 40), plainLetters(CODE, 1.2));
  const box = bounds(code);
  const black: Outline = { contours: [...marks.flatMap(({ outline }) => outline.contours), ...code.contours, ...figures.contours] };
  return {
    marks,
    codeAt: { x: (box.minX + box.maxX) / 2, y: (box.minY + box.maxY) / 2 },
    page: {
      title: 'Test sheet',
      widthMm: 520,
      heightMm: 340,
      forms: [
        {
          id: 'a',
          items: [
            { kind: 'shape', outline: boxShape(100, 60), fill: { hex: '#1b6ea8' } },
            { kind: 'picture', picture: 'p', matrix: [80, 0, 0, 80, 10, 70] },
          ],
        },
      ],
      placements: [
        { form: 'a', map: [1, 0, 0, 1, 70, 60] },
        { form: 'a', map: [1, 0, 0, 1, 300, 60] },
      ],
      lines: [{ kind: 'kiss', outline: mapOutline(translation(66, 56), boxShape(110, 160, 6)) }],
      marks: black,
    },
  };
}

async function fileOf(of: PrintPage, own = picture): Promise<Uint8Array<ArrayBuffer>> {
  const chunks: Uint8Array[] = [];
  await writePrintPdf(
    of,
    () => own,
    (bytes) => void chunks.push(bytes),
    { inks },
  );
  return new Uint8Array(Buffer.concat(chunks));
}

async function printed(of: PrintPage): Promise<PrintedSheet> {
  const read = await readPrint(await fileOf(of));
  expect(read.unknown).toBe(0);
  expect([read.lengthMm, read.widthMm].map((n) => Math.round(n * 100) / 100)).toEqual([520, 340]);
  return new PrintedSheet('sheet-1', read);
}

/** Numbers by lot from a seed. */
const lotOf = (seed: number) => () => {
  seed = (seed * 1103515245 + 12345) % 2147483648;
  return seed / 2147483648;
};

const KIND = { 'corners-in': 0, 'corners-out': 0, dots: 1, crosses: 2 } as const;

describe.each<MarkKind>(['corners-in', 'corners-out', 'dots', 'crosses'])('a sheet with %s', (kind) => {
  test('is found wherever it lies, and the correction brings the cut onto the print within 0.1 mm', async () => {
    const { page: own, marks, codeAt } = page(kind);
    const sheet = await printed(own);
    for (const seed of [1, 2, 3]) {
      const { lies } = new LoadedSheet(sheet, USUAL_HIDDEN, false, lotOf(seed));
      const there = mapPoint(lies, codeAt);
      expect(seekCode(sheet.blacks, lies, there.x + 2, there.y - 1)).toBe(CODE);
      const found = marks.map(({ centre, outline }) => {
        const at = mapPoint(lies, centre);
        const ink = bounds(outline);
        const [tx, ty] = [Math.sign((ink.minX + ink.maxX) / 2 - centre.x) || 1, Math.sign((ink.minY + ink.maxY) / 2 - centre.y) || 1];
        const seen = seekMark(sheet.blacks, lies, at.x + 4, at.y - 3, {
          kind: KIND[kind],
          armMm: kind === 'dots' ? 6 : 12,
          thicknessMm: 1,
          tx,
          ty,
        });
        expect(seen).toBeDefined();
        expect(Math.hypot(seen!.x - at.x, seen!.y - at.y)).toBeLessThan(0.12);
        return seen!;
      });
      const correction = solveMarks(
        marks.map(({ centre }) => centre),
        found,
      );
      for (const p of [
        { x: 70, y: 60 },
        { x: 450, y: 280 },
        { x: 250, y: 160 },
      ]) {
        const [cut, truth] = [applyCorrection(correction, p), mapPoint(lies, p)];
        expect(Math.hypot(cut.x - truth.x, cut.y - truth.y)).toBeLessThan(0.1);
      }
    }
  });
});

/** A gradual picture of any size. */
const course = (widthPx: number, heightPx: number): PrintPicture => ({
  widthPx,
  heightPx,
  hasAlpha: false,
  rows: async (from, count) => {
    const out = new Uint8Array(4 * widthPx * count);
    for (let y = 0, i = 0; y < count; y++)
      for (let x = 0; x < widthPx; x++, i += 4)
        out.set([Math.round((200 * x) / widthPx), Math.round((220 * (from + y)) / heightPx), 120, 255], i);
    return out;
  },
});

test('a picture of more pixels than the printer looks at takes the ink that the same picture takes with few', async () => {
  const { page: own } = page('corners-in');
  const [large, small] = await Promise.all(
    [course(3600, 3000), course(360, 300)].map(async (one) => new PrintedSheet('sheet-1', await readPrint(await fileOf(own, one)))),
  );
  const [many, few] = [large!.inkMl(), small!.inkMl()];
  for (const plate of Object.keys(few)) expect(many[plate]).toBeCloseTo(few[plate]!, 2);
});

test('a print is read in a thread of its own as it is read here; what is none is refused, and reading can be given up', async () => {
  const { page: own } = page('dots');
  const file = await fileOf(own);
  const never = new AbortController().signal;
  const here = await readPrint(file);
  expect(await readApart(file.slice(), never)).toEqual(here);
  await expect(readApart(new Uint8Array([1, 2, 3]), never)).rejects.toThrow();
  const stop = new AbortController();
  const reading = readApart(file.slice(), stop.signal);
  stop.abort();
  await expect(reading).rejects.toThrow('given up');
});

test('nothing is found where no mark is, and no code on a sheet that lies upside down', async () => {
  const { page: own, codeAt } = page('corners-in');
  const sheet = await printed(own);
  const shape = { kind: 0, armMm: 12, thicknessMm: 1, tx: 1, ty: 1 };
  expect(seekMark(sheet.blacks, [1, 0, 0, 1, 0, 0], 250, 150, shape)).toBeUndefined();
  const { lies } = new LoadedSheet(sheet, USUAL_HIDDEN, true, lotOf(5));
  expect(seekCode(sheet.blacks, lies, codeAt.x, codeAt.y)).toBeUndefined();
});

test('how far a cut is off is measured against the lines of the print', async () => {
  const sheet = await printed(page('dots').page);
  const loaded = new LoadedSheet(sheet, USUAL_HIDDEN, false, lotOf(9));
  const onLine: [number, number][] = [
    [66, 136],
    [176, 100],
    [120, 56],
  ];
  const lie = (shift: number, map: Matrix) => onLine.map(([x, y]) => mapPoint(map, { x: x + shift, y })).map(({ x, y }) => [x, y] as const);
  expect(loaded.offMm(lie(0, loaded.lies))).toBeLessThan(0.02);
  expect(loaded.offMm(lie(0.7, loaded.lies))).toBeCloseTo(0.7, 1);
});

test('the ink that the printer counts is what the plates say', async () => {
  const { page: own } = page('corners-in');
  const counted = (await printed(own)).inkMl();
  const plates = await makePlates(own, { dpi: 25.4, profile: inks, pictures: () => picture });
  for (const { name, cover } of plates) expect(counted[name]! / (0.52 * 0.34 * 10)).toBeCloseTo(cover, 2);
});
