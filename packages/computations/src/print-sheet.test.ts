/** Print files, plates and what the shop brings, with files in memory. */
import { beforeAll, describe, expect, test } from '@jest/globals';
import { readFileSync } from 'node:fs';
import { AppError } from '@lorvek/core';
import { PDFDocument } from '@cantoo/pdf-lib';
import { boxShape } from '@lorvek/core/geometry';
import { addFilm, addItems, emptyDrawing, type Drawing, type PictureItem } from '@lorvek/model';
import { printLayer, run, shapeOf, stockOf } from '../../model/src/drawing.support.ts';
import { fileHost, plainPixels, shippedFiles } from './host.support.ts';
import { platesOfSheet, printSheet, softLook, type PrintedSheetAsked } from './print-sheet.ts';
import { describeFontFile, describeProfile } from './shop-files.ts';

const PROFILE = 'profiles/a.icc';
const HEAD = 16;
const ASSET = 'ab'.repeat(32);
const picture: PictureItem = {
  type: 'item',
  kind: 'picture',
  id: 'item-p',
  name: 'Oval',
  layer: 'print-w',
  matrix: [1, 0, 0, 1, 20, 20],
  asset: ASSET,
  widthPx: 40,
  heightPx: 30,
  mmPerPx: 1,
  strengthPct: 100,
  locked: false,
};

let drawing: Drawing;
let asked: PrintedSheetAsked;
const files = (): Map<string, Uint8Array> => {
  const pixels = plainPixels(40, 30);
  const raw = new Uint8Array(HEAD + pixels.data.length);
  raw.set(pixels.data, HEAD);
  return new Map([
    [PROFILE, new Uint8Array(readFileSync('assets/profiles/coated-fogra39.icc'))],
    ['raw/p', raw],
  ]);
};
const codeOf = (work: Promise<unknown>): Promise<string> =>
  work.then(
    () => 'went well',
    (error: unknown) => (error instanceof AppError ? error.code : String(error)),
  );

beforeAll(() => {
  drawing = run(emptyDrawing(), addFilm, { film: printLayer('print-w') });
  const items = [picture, shapeOf('item-s', 'print-w', boxShape(30, 20), '#0f5e66')];
  drawing = run(drawing, addItems, { items, roots: items.map(({ id }) => id) });
  asked = {
    jobId: 'job-1',
    jobName: 'Kayak',
    drawing,
    layer: 'print-w',
    number: 0,
    stock: [stockOf('print-w')],
    pictures: { [ASSET]: { path: 'raw/p', offset: HEAD, widthPx: 40, heightPx: 30, hasAlpha: false } },
    profile: PROFILE,
    rendering: { intent: 'relative', blackPoint: true },
  };
});

describe('the print file of a sheet', () => {
  test('is a page of the sheet, the same bytes each time, as long as it says, in a file that is closed', async () => {
    const [kept, again] = [files(), files()];
    const host = fileHost(kept);
    const shares: number[] = [];
    const { bytes } = await printSheet({ ...asked, to: 'out.pdf' }, host, (share) => void shares.push(share));
    await printSheet({ ...asked, to: 'out.pdf' }, fileHost(again), () => undefined);
    const pdf = kept.get('out.pdf')!;
    expect(pdf.length).toBe(bytes);
    expect(Buffer.compare(pdf, again.get('out.pdf')!)).toBe(0);
    expect(host.left.open).toBe(0);
    expect(shares.at(-1)).toBe(1);
    const [page] = (await PDFDocument.load(pdf)).getPages();
    const plates = await platesOfSheet({ ...asked, mostPixels: 10_000 }, host);
    expect((page!.getWidth() * 25.4) / 72).toBeCloseTo(plates.widthMm, 1);
    expect((page!.getHeight() * 25.4) / 72).toBeCloseTo(plates.heightMm, 1);
  });

  test('for a desk printer lies on papers of its size', async () => {
    const kept = files();
    const { bytes } = await printSheet(
      { ...asked, to: 'out.pdf', paper: { widthMm: 105, heightMm: 148, marginMm: 5 } },
      fileHost(kept),
      () => undefined,
    );
    const pdf = kept.get('out.pdf')!;
    expect(pdf.length).toBe(bytes);
    for (const page of (await PDFDocument.load(pdf)).getPages()) {
      const sides = [page.getWidth(), page.getHeight()].map((pt) => (pt * 25.4) / 72).sort((a, b) => a - b);
      expect(sides[0]).toBeCloseTo(105, 0);
      expect(sides[1]).toBeCloseTo(148, 0);
    }
  });

  test('a sheet that is gone, a layer without print, a picture that was not unpacked: said, and the file is closed', async () => {
    const host = fileHost(files());
    const print = (change: Partial<PrintedSheetAsked>) => codeOf(printSheet({ ...asked, ...change, to: 'x' }, host, () => undefined));
    expect(await print({ number: 7 })).toBe('input.sheet');
    expect(await print({ layer: 'film-none' })).toBe('input.film');
    expect(await print({ pictures: {} })).toBe('input.picture');
    expect(await print({ profile: 'profiles/none' })).toContain('no file');
    expect(host.left.open).toBe(0);
  });
});

describe('plates and the look of a sheet', () => {
  test('plates are the inks that are laid down, with their cover; no larger than was asked', async () => {
    const host = fileHost(files());
    const { passes } = await platesOfSheet({ ...asked, mostPixels: 2500 }, host);
    expect(passes).toHaveLength(1);
    const [pass] = passes;
    expect(pass!.kind).toBe('colour');
    expect(pass!.plates.map(({ name }) => name)).toEqual(expect.arrayContaining(['Cyan', 'Magenta', 'Yellow', 'Black']));
    // red and a dark green were drawn: every process ink but black has cover
    for (const name of ['Cyan', 'Magenta', 'Yellow'])
      expect(pass!.plates.find((plate) => plate.name === name)!.cover).toBeGreaterThan(0.005);
    const png = Buffer.from(pass!.plates[0]!.picture.split(',')[1]!, 'base64');
    expect(png.readUInt32BE(16) * png.readUInt32BE(20)).toBeLessThanOrEqual(2700);
    expect(await codeOf(platesOfSheet({ ...asked, number: 3, mostPixels: 100 }, host))).toBe('input.sheet');
  });

  test('the soft look says the profile and how much cannot be printed', async () => {
    const bright = run(drawing, addItems, { items: [shapeOf('item-b', 'print-w', boxShape(60, 60), '#00ff00')], roots: ['item-b'] });
    const look = (of: Drawing) => softLook({ ...asked, drawing: of, mostPixels: 10_000 }, fileHost(files()));
    const [plain, loud] = [await look(drawing), await look(bright)];
    expect(plain.profile).not.toBe('');
    expect(loud.beyondShare).toBeGreaterThan(plain.beyondShare + 0.05);
    expect(await codeOf(softLook({ ...asked, number: 3, mostPixels: 100 }, fileHost(files())))).toBe('input.sheet');
  });
});

describe('files that the shop brings', () => {
  const host = fileHost(new Map());

  test('a font says what it is; one that is damaged is refused, packed or not', async () => {
    const [bytes] = shippedFiles('anton')!;
    const { description, sfnt } = await describeFontFile({ bytes: bytes! }, { ...host, unpackWoff2: (packed) => Promise.resolve(packed) });
    expect(description.name).toContain('Anton');
    expect(sfnt).toBe(bytes);
    expect(await codeOf(describeFontFile({ bytes: new TextEncoder().encode('wOF2 and then nothing') }, host))).toBe('input.font');
    expect(await codeOf(describeFontFile({ bytes: new Uint8Array(40) }, host))).toMatch(/^input\./);
    expect(await codeOf(describeFontFile({ bytes: new Uint8Array(0) }, host))).toMatch(/^input\./);
  });

  test('a profile says its name; what is none is refused', async () => {
    expect((await describeProfile({ bytes: files().get(PROFILE)! })).name.length).toBeGreaterThan(3);
    expect(await codeOf(describeProfile({ bytes: new Uint8Array(200) }))).toBe('input.profile');
  });
});
