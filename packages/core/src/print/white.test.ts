import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { bounds, boxShape, mapOutline, ovalShape, translation, type Matrix, type Outline } from '../geometry/index.ts';
import {
  makePlates,
  openProfile,
  whiteOutline,
  withoutInks,
  writePrintPdf,
  type PrintItem,
  type PrintPage,
  type PrintPicture,
  type ProcessColours,
  type WhiteCoverage,
} from './index.ts';

const work = mkdtempSync(join(tmpdir(), 'lorvek-white-'));
afterAll(() => rmSync(work, { recursive: true, force: true }));
let inks: ProcessColours;
beforeAll(async () => {
  inks = await openProfile(readFileSync('assets/profiles/coated-fogra39.icc'));
});

const at = (x: number, y: number, outline: Outline): Outline => mapOutline(translation(x, y), outline);
const shape = (outline: Outline, hex: string, spot?: string): PrintItem => ({
  kind: 'shape',
  outline,
  fill: { hex, ...(spot ? { spot } : {}) },
});
const rule = (fields: Partial<WhiteCoverage> = {}): WhiteCoverage => ({
  coverage: 'where-printed',
  spots: [],
  bend: 1,
  strengthPct: 100,
  spreadMm: 0,
  trim: at(5, 5, boxShape(90, 50)),
  ...fields,
});
const ITEMS = [
  shape(at(10, 10, boxShape(40, 30)), '#101010'),
  shape(at(30, 20, ovalShape(40, 25)), '#f0f0f0'),
  shape(at(75, 12, boxShape(10, 10)), '#2060c0', 'Frost'),
];
const page = (white: WhiteCoverage | undefined, items = ITEMS): PrintPage => ({
  title: 'Glass',
  widthMm: 100,
  heightMm: 60,
  forms: [{ id: 'a', items }],
  placements: [{ form: 'a', map: [1, 0, 0, 1, 0, 0] as Matrix }],
  lines: [{ kind: 'kiss', outline: at(4, 4, boxShape(92, 52)) }],
  marks: { contours: [] },
  ...(white ? { white } : {}),
});
/** Half clear to the left, opaque to the right; dark above, light below. */
const picture: PrintPicture = {
  widthPx: 40,
  heightPx: 40,
  hasAlpha: true,
  rows: async (from, count) =>
    Uint8Array.from({ length: 40 * count }, (_, i) => i).reduce(
      (out, _, i) => {
        const [x, y] = [i % 40, from + Math.floor(i / 40)];
        out.set([y < 20 ? 10 : 245, y < 20 ? 10 : 245, y < 20 ? 10 : 245, x < 20 ? 128 : 255], 4 * i);
        return out;
      },
      new Uint8Array(160 * count),
    ),
};
const WITH_PICTURE: PrintItem[] = [{ kind: 'picture', picture: 'p', matrix: [40, 0, 0, 40, 20, 10] }];
const whitePlate = async (of: PrintPage, dpi = 50.8) => {
  const plates = await makePlates(of, { dpi, pictures: () => picture });
  const plate = plates.find(({ name }) => name === 'White')!;
  return {
    ...plate,
    at: (x: number, y: number) =>
      plate.data[(plate.height - 1 - Math.floor((y * dpi) / 25.4)) * plate.width + Math.floor((x * dpi) / 25.4)]!,
  };
};

describe('the white plate', () => {
  test('lies where the art is, within the trim, or where the named ink is', async () => {
    const printed = await whitePlate(page(rule()));
    expect([printed.at(20, 20), printed.at(60, 30), printed.at(80, 15), printed.at(90, 50)]).toEqual([255, 255, 255, 0]);
    const whole = await whitePlate(page(rule({ coverage: 'whole-sheet' })));
    expect([whole.at(90, 50), whole.at(2, 2)]).toEqual([255, 0]);
    expect(whole.cover).toBeCloseTo((90 * 50) / 6000, 3);
    const named = await whitePlate(page(rule({ coverage: 'named-spot', spots: ['Frost'] })));
    expect([named.at(80, 15), named.at(20, 20)]).toEqual([255, 0]);
    expect((await whitePlate(page(rule({ coverage: 'named-spot', spots: ['Other'] })))).cover).toBe(0);
  });

  test('is more under dark, or under light, by its curve and its strength', async () => {
    const dark = await whitePlate(page(rule({ coverage: 'more-under-dark' })));
    const light = await whitePlate(page(rule({ coverage: 'more-under-light' })));
    for (const [x, y] of [
      [15, 15],
      [60, 32],
    ] as const)
      expect(dark.at(x, y) + light.at(x, y)).toBeGreaterThanOrEqual(253);
    expect(dark.at(15, 15)).toBeGreaterThan(230);
    expect(dark.at(60, 32)).toBeLessThan(30);
    const bent = await whitePlate(page(rule({ coverage: 'more-under-light', bend: 3 })));
    expect(bent.at(60, 32) / 255).toBeCloseTo((light.at(60, 32) / 255) ** 3, 1);
    expect((await whitePlate(page(rule({ strengthPct: 40 })))).at(20, 20)).toBe(102);
  });

  test('follows what a picture lets through', async () => {
    const plate = await whitePlate(page(rule(), WITH_PICTURE));
    expect(plate.at(25, 30)).toBeGreaterThan(118);
    expect(plate.at(25, 30)).toBeLessThan(138);
    expect(plate.at(55, 30)).toBe(255);
    const dark = await whitePlate(page(rule({ coverage: 'more-under-dark' }), WITH_PICTURE));
    expect(dark.at(55, 45)).toBeGreaterThan(230);
    expect(dark.at(55, 14)).toBeLessThan(20);
  });

  test('under a course of colour it follows how light the course is', async () => {
    const course: PrintItem = {
      kind: 'shape',
      outline: at(10, 10, boxShape(80, 40)),
      fill: { hex: '#808080' },
      gradient: {
        kind: 'linear',
        matrix: [80, 0, 0, 80, 10, 10],
        spread: 'pad',
        stops: [
          { offset: 0, hex: '#000000' },
          { offset: 1, hex: '#ffffff' },
        ],
      },
    };
    const plate = await whitePlate(page(rule({ coverage: 'more-under-dark' }), [course]));
    const seen = [12, 30, 50, 70, 88].map((x) => plate.at(x, 30));
    expect(seen[0]).toBeGreaterThan(240);
    expect(seen.at(-1)).toBeLessThan(15);
    for (let i = 1; i < seen.length; i++) expect(seen[i]).toBeLessThan(seen[i - 1]! - 20);
  });

  test('a clipping outline that reaches beyond its picture has no white there', () => {
    const clipped: PrintItem[] = [{ ...(WITH_PICTURE[0] as PrintItem & { kind: 'picture' }), clip: at(30, 20, boxShape(60, 60)) }];
    const outline = whiteOutline(page(rule(), clipped), rule(), () => false)!;
    expect(bounds(outline)).toEqual({ minX: 30, minY: 20, maxX: 60, maxY: 50 });
  });

  test('what stands for white is taken out of the art by itself: fills and lines apart, plates whole, courses stay', () => {
    const other = shape(boxShape(9, 9), '#2060c0', 'Frost');
    const course = {
      kind: 'linear' as const,
      matrix: [9, 0, 0, 9, 0, 0] as Matrix,
      spread: 'pad' as const,
      stops: [{ offset: 0, hex: '#000000' }],
    };
    const items: PrintItem[] = [
      other,
      { ...other, stroke: { hex: '#101010', widthMm: 1 } } as PrintItem,
      { ...other, fill: { hex: '#101010' }, stroke: { hex: '#ffffff', widthMm: 1, spot: 'Frost' } } as PrintItem,
      { ...other, gradient: course } as PrintItem,
      { kind: 'picture', picture: 'p', matrix: [9, 0, 0, 9, 0, 0], ink: { hex: '#ffffff', spot: 'Frost' } },
      ...WITH_PICTURE,
    ];
    const left = withoutInks(items, ['Frost']);
    expect(left).toHaveLength(4);
    expect(left[0]).toMatchObject({ fill: null, stroke: { hex: '#101010' } });
    expect(left[1]).toMatchObject({ fill: { hex: '#101010' } });
    expect(left[1]).not.toHaveProperty('stroke');
    expect(left[2]).toMatchObject({ fill: null, gradient: course });
    expect(left[3]).toBe(WITH_PICTURE[0]);
    expect(withoutInks(items, ['Other'])).toEqual(items);
  });

  test('spread and choke by true distance, as outlines and as pixels', async () => {
    fc.assert(
      fc.property(fc.integer({ min: -30, max: 30 }), (tenths) => {
        const outline = whiteOutline(
          page(rule({ spreadMm: tenths / 10 }), [shape(at(20, 10, boxShape(40, 30)), '#000000')]),
          rule({ spreadMm: tenths / 10 }),
          () => false,
        )!;
        const box = bounds(outline);
        expect(box.minX).toBeCloseTo(20 - tenths / 10, 2);
        expect(box.maxY).toBeCloseTo(40 + tenths / 10, 2);
      }),
    );
    for (const spreadMm of [-3, 3]) {
      const plate = await whitePlate(
        page(rule({ coverage: 'more-under-dark', spreadMm }), [shape(at(20, 10, boxShape(40, 30)), '#000000')]),
      );
      const expected = spreadMm > 0 ? 40 * 30 + 2 * 3 * 70 + Math.PI * 9 : 34 * 24;
      expect((plate.cover * 6000) / expected).toBeCloseTo(1, 1);
      expect(plate.at(20.6 - spreadMm, 25)).toBeGreaterThan(200);
      expect(plate.at(19.2 - spreadMm, 25)).toBeLessThan(60);
    }
  });

  test('no white takes nothing away, and white changes no other plate', async () => {
    const without = await makePlates(page(undefined), { dpi: 40, profile: inks });
    expect(without.some(({ name }) => name === 'White')).toBe(false);
    const whites = ['where-printed', 'whole-sheet', 'more-under-dark'] as const;
    for (const coverage of whites) {
      const own = await makePlates(page(rule({ coverage })), { dpi: 40, profile: inks });
      for (const plate of without) expect(own.find(({ name }) => name === plate.name)!.data).toEqual(plate.data);
    }
  });
});

describe('white in the print file', () => {
  const written = async (of: PrintPage): Promise<Buffer> => {
    const chunks: Uint8Array[] = [];
    await writePrintPdf(
      of,
      () => picture,
      (bytes) => void chunks.push(bytes),
      { inks, madeAt: '2026-01-02T03:04:05Z' },
    );
    return Buffer.concat(chunks);
  };
  test.each<[string, WhiteCoverage, PrintItem[]]>([
    ['a path', rule({ spreadMm: -0.5 }), ITEMS.slice(0, 2)],
    ['the whole sheet', rule({ coverage: 'whole-sheet' }), ITEMS.slice(0, 2)],
    ['a mask by lightness', rule({ coverage: 'more-under-dark' }), ITEMS.slice(0, 2)],
    ['a mask under a picture', rule(), WITH_PICTURE],
  ])('%s: an independent reader finds what the plates say, and the process plates as they are', async (_, white, items) => {
    const of = page(white, items);
    const file = join(work, 'white.pdf');
    writeFileSync(file, await written(of));
    writeFileSync(
      join(work, 'white.json'),
      JSON.stringify({ trim_mm: [100, 60], process_untouched: true, ocgs: { White: ['White', 'White'] } }),
    );
    const out = execFileSync(
      '/usr/bin/python3',
      ['tests/checkers/check_pdf.py', file, '--plates', '50', '--expect', join(work, 'white.json')],
      { encoding: 'utf8' },
    );
    expect(out).not.toMatch(/^ERROR/m);
    execFileSync('gs', ['-q', '-dNOPAUSE', '-dBATCH', '-dSAFER', '-sDEVICE=tiffsep', '-r200', '-o', join(work, 'sep%d.tif'), file]);
    const script = `import sys
from PIL import Image
import numpy as np
print(float((255-np.asarray(Image.open(sys.argv[1]).convert('L'),dtype=float)).mean()/255))`;
    const found = Number(execFileSync('/usr/bin/python3', ['-c', script, join(work, 'sep1(White).tif')], { encoding: 'utf8' }));
    const own = (await makePlates(of, { dpi: 200, profile: inks, pictures: () => picture })).find(({ name }) => name === 'White')!;
    expect(own.cover).toBeGreaterThan(0.05);
    expect(Math.abs(own.cover - found)).toBeLessThan(0.005);
  });
});
