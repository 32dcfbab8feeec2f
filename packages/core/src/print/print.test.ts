import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  area,
  boxShape,
  keepOverlap,
  mapOutline,
  ovalShape,
  rotation,
  compose,
  translation,
  weld,
  type Matrix,
} from '../geometry/index.ts';
import {
  coverOf,
  makePlates,
  openProfile,
  writePrintPdf,
  type PrintColour,
  type PrintPage,
  type PrintPicture,
  type ProcessColours,
} from './index.ts';

import { shrinkPicture } from './shrink-picture.ts';

const work = mkdtempSync(join(tmpdir(), 'lorvek-print-'));
afterAll(() => rmSync(work, { recursive: true, force: true }));

let inks: ProcessColours;
beforeAll(async () => {
  inks = await openProfile(readFileSync('assets/profiles/coated-fogra39.icc'));
});

/** A picture with a soft round edge: red to the left, green to the right. */
const picture = (size: number): PrintPicture => ({
  widthPx: size,
  heightPx: size,
  hasAlpha: true,
  rows: async (from, count) => {
    const out = new Uint8Array(4 * size * count);
    for (let i = 0; i < size * count; i++) {
      const [x, y] = [i % size, from + Math.floor(i / size)];
      const away = Math.hypot(x - size / 2, y - size / 2) / (size / 2);
      out.set([x < size / 2 ? 200 : 20, x < size / 2 ? 30 : 140, 40, Math.round(255 * Math.min(1, Math.max(0, 4 - 4 * away)))], 4 * i);
    }
    return out;
  },
});

const page: PrintPage = {
  title: 'Kayak (hire) – stickers',
  widthMm: 300,
  heightMm: 120,
  forms: [
    {
      id: 'a',
      items: [
        { kind: 'shape', outline: boxShape(60, 40), fill: { hex: '#1b6ea8' } },
        {
          kind: 'shape',
          outline: mapOutline(translation(5, 5), boxShape(20, 20)),
          fill: { hex: '#000000' },
          gradient: {
            kind: 'linear',
            matrix: [20, 0, 0, 20, 5, 5],
            stops: [
              { offset: 0, hex: '#ffffff' },
              { offset: 1, hex: '#d02010' },
            ],
            spread: 'pad',
          },
        },
        { kind: 'picture', picture: 'duck', matrix: [30, 0, 0, 30, 25, 5] },
        { kind: 'shape', outline: mapOutline(translation(2, 30), ovalShape(8, 8)), fill: { hex: '#f2a900', spot: 'House Gold' } },
        { kind: 'shape', outline: mapOutline(translation(40, 34), boxShape(15, 3)), fill: null, stroke: { hex: '#103040', widthMm: 0.8 } },
      ],
    },
  ],
  placements: [0, 1, 2].map((i) => ({ form: 'a', map: [1, 0, 0, 1, 20 + 80 * i, 40] as Matrix })),
  lines: [0, 1, 2].map((i) => ({ kind: 'kiss' as const, outline: mapOutline(translation(18 + 80 * i, 38), boxShape(64, 44, 4)) })),
  marks: weld([mapOutline(translation(10, 10), boxShape(12, 1)), mapOutline(translation(10, 10), boxShape(1, 12))]),
};

const written = async (of: PrintPage, profile: ProcessColours | null = inks): Promise<Buffer> => {
  const chunks: Uint8Array[] = [];
  await writePrintPdf(
    of,
    () => picture(240),
    (bytes) => void chunks.push(bytes),
    { inks: profile ?? undefined, madeAt: '2026-01-02T03:04:05Z' },
  );
  return Buffer.concat(chunks);
};

describe('the print file', () => {
  test('the independent checker finds true size, lines where they belong, process plates untouched', async () => {
    const file = join(work, 'page.pdf');
    // an ink of the art knocks out what lies below, which the checker holds against any spot
    const art = page.forms.map((form) => ({
      ...form,
      items: form.items.filter((item) => item.kind === 'picture' || item.fill?.spot === undefined),
    }));
    writeFileSync(file, await written({ ...page, forms: art }));
    const outline = boxShape(64, 44, 4);
    const length = 2 * (64 - 8) + 2 * (44 - 8) + 2 * Math.PI * 4;
    writeFileSync(
      join(work, 'expect.json'),
      JSON.stringify({
        trim_mm: [300, 120],
        spots: ['Lorvek Kiss'],
        process_untouched: true,
        paths: { 'Lorvek Kiss': { count: 3, length_mm: 3 * length, bbox_mm: [18, 38, 242, 82], kind: 'S', max_width_mm: 0.2 } },
        ocgs: { 'Lorvek Kiss': ['Structural', 'PartialCutting'] },
        allow_text: false,
      }),
    );
    expect(Math.abs(area(outline))).toBeGreaterThan(2700);
    const out = execFileSync(
      '/usr/bin/python3',
      ['tests/checkers/check_pdf.py', file, '--plates', '50', '--expect', join(work, 'expect.json')],
      { encoding: 'utf8' },
    );
    expect(out).not.toMatch(/^ERROR/m);
  });

  test('the same page makes the same bytes, and a picture placed often is stored once', async () => {
    const once = await written(page);
    expect(Buffer.compare(once, await written(page))).toBe(0);
    const many = { ...page, placements: Array.from({ length: 200 }, () => page.placements[0] as PrintPage['placements'][number]) };
    expect((await written(many)).length).toBeLessThan(once.length + 3000);
    expect((await written(page, null)).toString('latin1')).toContain('/ColorSpace /DeviceRGB');
  });

  test('a picture that is shorter than it says, and a profile that is none, are refused in words', async () => {
    const short: PrintPicture = { widthPx: 10, heightPx: 10, hasAlpha: false, rows: async () => new Uint8Array(4) };
    await expect(
      writePrintPdf(
        page,
        () => short,
        () => undefined,
        { inks },
      ),
    ).rejects.toMatchObject({ code: 'input.picture' });
    await expect(openProfile(new Uint8Array(200))).rejects.toMatchObject({ code: 'input.profile' });
  });
});

/** Cover of each ink of a file's first page, by an independent reader. */
function readApart(file: Buffer): Record<string, number> {
  const dir = mkdtempSync(join(work, 'apart-'));
  writeFileSync(join(dir, 'page.pdf'), file);
  const into = join(dir, 'sep%d.tif');
  execFileSync('gs', ['-q', '-dNOPAUSE', '-dBATCH', '-dSAFER', '-sDEVICE=tiffsep', '-r100', '-o', into, join(dir, 'page.pdf')]);
  const script = `import sys,glob,json
from PIL import Image
import numpy as np
out={}
for f in glob.glob(sys.argv[1]+'/sep1(*).tif'):
    out[f.split('(')[1].split(')')[0]]=float((255-np.asarray(Image.open(f).convert('L'),dtype=float)).mean()/255)
print(json.dumps(out))`;
  return JSON.parse(execFileSync('/usr/bin/python3', ['-c', script, dir], { encoding: 'utf8' })) as Record<string, number>;
}

describe('pictures that are plates of one ink', () => {
  const gold = { hex: '#c8a028', spot: 'Old gold' };
  const withPlate = (ink: PrintColour): PrintPage => ({
    ...page,
    forms: [
      {
        id: 'a',
        items: [
          ...(page.forms[0]?.items ?? []).filter((item) => item.kind === 'picture' || item.fill?.spot === undefined),
          { kind: 'picture', picture: 'plate', matrix: [30, 0, 0, 30, 10, 5], ink },
        ],
      },
    ],
  });
  const without: PrintPage = { ...page, forms: [{ id: 'a', items: withPlate(gold).forms[0]!.items.slice(0, -1) }] };

  test('a spot lies besides the other inks, as much as its alpha says, in the file as on the plates', async () => {
    const own = await makePlates(withPlate(gold), { dpi: 100, profile: inks, pictures: () => picture(240) });
    const plain = await makePlates(without, { dpi: 100, profile: inks, pictures: () => picture(240) });
    const [found, before] = [readApart(await written(withPlate(gold))), readApart(await written(without))];
    for (const { name, cover, data } of plain) {
      expect(own.find((plate) => plate.name === name)!.data).toEqual(data);
      expect([name, Math.abs(found[name]! - before[name]!) < 0.001, Math.abs(found[name]! - cover) < 0.005]).toEqual([name, true, true]);
    }
    const plate = own.find(({ name }) => name === 'Old gold')!;
    expect(plate.cover).toBeGreaterThan(0.01);
    expect(Math.abs(found['Old gold']! - plate.cover)).toBeLessThan(0.002);
  });

  test('laid down in process inks it has their values, under its alpha', async () => {
    const page = withPlate({ hex: '#c8a028', cmyk: [0.1, 0.3, 0.9, 0] });
    const own = await makePlates(page, { dpi: 100, profile: inks, pictures: () => picture(240) });
    const file = await written(page);
    const found = readApart(file);
    for (const { name, cover } of own) expect([name, Math.abs(cover - found[name]!) < 0.005]).toEqual([name, true]);
    expect(own.map(({ name }) => name)).not.toContain('Old gold');
  });

  test('it can stand for white', async () => {
    const white = { coverage: 'named-spot', spots: ['Old gold'], bend: 1, strengthPct: 100, spreadMm: 0, trim: { contours: [] } } as const;
    const own = await makePlates({ ...withPlate(gold), white }, { dpi: 100, profile: inks, pictures: () => picture(240) });
    const coverOfPlate = (name: string): number => own.find((plate) => plate.name === name)!.cover;
    expect(Math.abs(coverOfPlate('White') - coverOfPlate('Old gold'))).toBeLessThan(0.002);
  });
});

describe('plates', () => {
  test('law: a picture made small is the mean of its squares, weighed with their alpha, however its rows are read', async () => {
    const size = fc.integer({ min: 1, max: 40 });
    await fc.assert(
      fc.asyncProperty(size, size, fc.integer({ min: 1, max: 30 }), fc.integer({ min: 0, max: 999 }), async (w, h, wanted, seed) => {
        const at = (x: number, y: number, c: number): number => (x * 37 + y * 59 + c * 101 + seed * 7 + ((x * y) % 11) * 13) % 256;
        const picture: PrintPicture = {
          widthPx: w,
          heightPx: h,
          hasAlpha: true,
          rows: async (from, count) =>
            Uint8Array.from({ length: 4 * w * count }, (_, i) => at(Math.floor(i / 4) % w, from + Math.floor(i / (4 * w)), i % 4)),
        };
        const small = await shrinkPicture(picture, wanted, {});
        // at most twice as fine as is wanted
        const step = Math.max(1, Math.floor(w / (2 * wanted)));
        expect(small.width).toBe(Math.ceil(w / step));
        for (const [x, y] of [
          [0, 0],
          [small.width - 1, small.height - 1],
        ] as const) {
          const sums = [0, 0, 0, 0, 0] as [number, number, number, number, number];
          for (let v = y * step; v < Math.min(h, (y + 1) * step); v++)
            for (let u = x * step; u < Math.min(w, (x + 1) * step); u++) {
              for (let c = 0; c < 3; c++) sums[c] = (sums[c] ?? 0) + at(u, v, c) * at(u, v, 3);
              sums[3] += at(u, v, 3);
              sums[4]++;
            }
          const i = y * small.width + x;
          expect(small.alpha[i]).toBe(Math.round(sums[3] / sums[4]));
          for (let c = 0; c < 3; c++) expect(small.rgb[3 * i + c]).toBe(sums[3] > 0 ? Math.round(sums[c]! / sums[3]) : 255);
        }
      }),
      { numRuns: 80 },
    );
  });

  test('without a profile black takes what the colours share; a picture whose pixels are not given is told', async () => {
    const grey = {
      ...page,
      forms: [{ id: 'a', items: [{ kind: 'shape' as const, outline: boxShape(60, 40), fill: { hex: '#808080' } }] }],
      marks: { contours: [] },
    };
    const cover = Object.fromEntries((await makePlates(grey, { dpi: 50 })).map((plate) => [plate.name, plate.cover]));
    expect([cover['Cyan'], cover['Magenta'], cover['Yellow']]).toEqual([0, 0, 0]);
    expect(cover['Black']).toBeCloseTo((3 * 60 * 40 * (127 / 255)) / (300 * 120), 3);
    await expect(makePlates(page, { dpi: 20 })).rejects.toMatchObject({ code: 'input.picture' });
  });

  test('a picture that lies there small and large is as fine as each needs, and is read once for each size', async () => {
    const [wide, high] = [256, 64];
    let reads = 0;
    const stripes: PrintPicture = {
      widthPx: wide,
      heightPx: high,
      hasAlpha: true,
      rows: async (_from, count) => {
        reads++;
        return Uint8Array.from({ length: 4 * wide * count }, (_, i) => (i % 4 === 3 ? 128 : Math.floor((i / 4) % wide) % 2 ? 255 : 0));
      },
    };
    const many = Array.from({ length: 30 }, (_, i) => ({ form: 'small', map: translation(i * 8, 100) }));
    const of: PrintPage = {
      ...page,
      marks: { contours: [] },
      forms: [
        { id: 'small', items: [{ kind: 'picture', picture: 's', matrix: [4, 0, 0, 1, 0, 0] }] },
        { id: 'large', items: [{ kind: 'picture', picture: 's', matrix: [256, 0, 0, 64, 0, 0] }] },
      ],
      placements: [...many, { form: 'large', map: translation(20, 20) }],
      white: { coverage: 'more-under-dark', spots: [], bend: 1, strengthPct: 100, spreadMm: 0, trim: boxShape(300, 120) },
    };
    const plates = await makePlates(of, { dpi: 25.4, pictures: () => stripes });
    // one read for each size and each of the two: the inks and the white
    expect(reads).toBe(4);
    const black = plates.find(({ name }) => name === 'Black')!;
    const row = black.data.subarray((black.height - 1 - 50) * black.width + 24, (black.height - 1 - 50) * black.width + 28);
    expect([...row]).toEqual([128, 0, 128, 0]);
  });

  test('cover of a turned shape is its area', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 180, noNaN: true }),
        fc.integer({ min: 3, max: 60 }),
        fc.integer({ min: 2, max: 40 }),
        (deg, w, h) => {
          const map = compose(translation(100.3, 90.7), rotation(deg));
          const cover = coverOf(boxShape(w, h, 1), map, 220, 220);
          const sum = cover?.share.reduce((a, b) => a + b, 0) ?? 0;
          const inside = keepOverlap([mapOutline(map, boxShape(w, h, 1)), boxShape(220, 220)]);
          expect(Math.abs(sum - Math.abs(area(inside)))).toBeLessThan(0.05 + 0.002 * w * h);
        },
      ),
      { seed: 91, numRuns: 60 },
    );
  });

  test('what an independent reader finds in the file is what the plates say, within half a percent of the page', async () => {
    const found = readApart(await written(page));
    const own = await makePlates(page, { dpi: 100, profile: inks, pictures: () => picture(240) });
    for (const { name, cover } of own) expect([name, Math.abs(cover - (found[name] ?? -1)) < 0.005]).toEqual([name, true]);
    expect(own.map(({ name }) => name)).toContain('House Gold');
  });
});
