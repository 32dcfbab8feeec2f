/** Drawings in and out: what is written reads back equal; what other programs write is read right; damage is answered plainly. */
import { describe, expect, test } from '@jest/globals';
import { deflateSync, inflateSync } from 'node:zlib';
import { PDFDocument } from '@cantoo/pdf-lib';
import fc from 'fast-check';
import { AppError } from '../index.ts';
import {
  area,
  boxShape,
  bounds,
  deviation,
  flatten,
  lineDistance,
  mapOutline,
  ovalShape,
  parsePath,
  pathLength,
  translation,
  type Matrix,
  type Outline,
} from '../geometry/index.ts';
import {
  readDxf,
  readHpgl,
  readPdf,
  readSvg,
  readTiff,
  writeDxf,
  writeHpgl,
  writePdf,
  writePdfPages,
  writePng,
  writeSvg,
  type Artwork,
  type ImportedArtwork,
} from './index.ts';
import { believedInks, type PageInks } from './pdf/inks.ts';

const text = (s: string): Uint8Array => new TextEncoder().encode(s);
const total = (a: ImportedArtwork): number => a.items.reduce((sum, item) => sum + pathLength(item.outline), 0);

const moved = (outline: Outline, x: number, y: number): Outline => mapOutline(translation(x, y), outline);

const shapeArb = fc
  .tuple(
    fc.double({ min: 1, max: 200, noNaN: true }),
    fc.double({ min: 1, max: 200, noNaN: true }),
    fc.boolean(),
    fc.double({ min: 0, max: 3000, noNaN: true }),
  )
  .map(([w, h, round, at]): Outline => moved(round ? ovalShape(w, h) : boxShape(w, h, Math.min(w, h) / 4), at, at / 2));

describe('what is written reads back', () => {
  const formats: readonly (readonly [
    string,
    (a: Artwork) => Uint8Array | Promise<Uint8Array>,
    (b: Uint8Array) => Promise<ImportedArtwork>,
  ])[] = [
    ['SVG', writeSvg, (b) => readSvg(b)],
    ['PDF', (a) => writePdf(a), (b) => readPdf(b)],
    ['DXF', writeDxf, (b) => readDxf(b)],
  ];
  test.each(formats)('%s: within 0.01 mm, layers and colours kept', async (_, write, read) => {
    await fc.assert(
      fc.asyncProperty(fc.array(shapeArb, { minLength: 1, maxLength: 4 }), async (outlines) => {
        const items = outlines.map((outline, i) => ({
          outline,
          closed: true,
          fill: i % 2 ? '#c4281f' : '#1b4f72',
          layer: `Film ${i % 2} Ölrot`,
        }));
        const back = await read(await write({ widthMm: 4000, heightMm: 2000, items }));
        expect(back.items).toHaveLength(items.length);
        back.items.forEach((item, i) => {
          expect(deviation(item.outline, items[i]?.outline ?? { contours: [] })).toBeLessThan(0.01);
          expect(item.layer).toBe(items[i]?.layer);
          expect(item.fill ?? item.stroke?.hex).toBe(items[i]?.fill);
        });
      }),
      { numRuns: 12 },
    );
  });

  test('a plotter file comes back as closed strokes within half a unit', async () => {
    const path = { closed: true, xy: Float64Array.of(10, 10, 50, 10, 50.01, 40.02, 10, 40, 10, 10) };
    const bytes = writeHpgl([path], { sends: 'values', tool: 2, speedMmPerS: 100, forceGrams: 80, passes: 1 });
    const back = await readHpgl(bytes);
    expect(back.items.map((item) => [item.closed, item.layer])).toEqual([[true, 'Pen 2']]);
    expect(deviation(back.items[0]?.outline ?? { contours: [] }, parsePath('M10 10L50 10L50.01 40.02L10 40Z'))).toBeLessThan(
      0.0126 * Math.SQRT2,
    );
  });

  test('a page longer than five metres keeps its size by a user unit', async () => {
    const back = await readPdf(
      await writePdf({
        widthMm: 12_000,
        heightMm: 900,
        items: [{ outline: moved(boxShape(11_000, 500), 500, 200), closed: true, fill: '#000000' }],
      }),
    );
    expect(back.widthMm).toBeCloseTo(12_000, 2);
    expect(bounds(back.items[0]?.outline ?? { contours: [] })).toMatchObject({
      minX: expect.closeTo(500, 2),
      maxX: expect.closeTo(11_500, 2),
    });
  });

  test('words on a page and pictures come along', async () => {
    const png = writePng({ width: 2, height: 1, data: Uint8Array.from([255, 0, 0, 255, 0, 255, 0, 255]) });
    const bytes = await writePdfPages(
      [
        {
          widthMm: 100,
          heightMm: 50,
          items: [],
          texts: [{ text: 'Größe 120 mm – “Quay”', x: 10, y: 10, sizeMm: 5 }],
          pictures: [{ bytes: png, matrix: [20, 0, 0, 10, 5, 30] }],
        },
      ],
      'Proof',
    );
    const said: string[] = [];
    const back = await readPdf(bytes, { textOutline: (run) => void said.push(run.text) });
    expect(said).toEqual(['Größe 120 mm – “Quay”']);
    expect(back.pictures.map(({ matrix }) => matrix.map((v) => Math.round(v * 100) / 100 + 0))).toEqual([[20, 0, 0, 10, 5, 30]]);
  });

  test('a picture that is shown many times is stored once, and each stays within its clip', async () => {
    const png = writePng({ width: 2, height: 2, data: new Uint8Array(16).fill(255) });
    const pictures = [0, 1, 2].map((i) => ({
      bytes: png,
      matrix: [20, 0, 0, 10, i, 0] as Matrix,
      ...(i === 1 ? { clip: boxShape(5, 5) } : {}),
    }));
    const bytes = await writePdfPages([{ widthMm: 60, heightMm: 40, items: [], pictures }], 'x');
    const document = await PDFDocument.load(bytes);
    const images = document.context.enumerateIndirectObjects().filter(([, object]) => object.toString().includes('/Subtype /Image'));
    expect(images).toHaveLength(1);
    expect((await readPdf(bytes)).pictures.map(({ matrix }) => Math.round(matrix[4]))).toEqual([0, 1, 2]);
  });

  test('a turned picture in an SVG comes back in its place', async () => {
    const png = writePng({ width: 2, height: 1, data: Uint8Array.from([255, 0, 0, 255, 0, 255, 0, 255]) });
    const matrix = [20, 5, -3, 10, 40, 12] as const;
    const picture = { bytesBase64: Buffer.from(png).toString('base64'), type: 'image/png', matrix: [...matrix] as Matrix };
    const back = await readSvg(writeSvg({ widthMm: 100, heightMm: 50, items: [] }, [picture]));
    expect(back.pictures.map(({ type, bytesBase64 }) => [type, bytesBase64])).toEqual([['image/png', picture.bytesBase64]]);
    back.pictures[0]?.matrix.forEach((v, i) => expect(v).toBeCloseTo(matrix[i] as number, 4));
  });

  test('boxes of a page that differ are told, and any of them is taken as the page', async () => {
    const mm = 72 / 25.4;
    const document = await PDFDocument.create();
    const page = document.addPage([220 * mm, 120 * mm]);
    page.setTrimBox(10 * mm, 10 * mm, 200 * mm, 100 * mm);
    page.setBleedBox(7 * mm, 7 * mm, 206 * mm, 106 * mm);
    page.drawRectangle({ x: 20 * mm, y: 30 * mm, width: 40 * mm, height: 20 * mm });
    const bytes = await document.save();
    const [shown, trim] = [await readPdf(bytes), await readPdf(bytes, { box: 'trim' })];
    const sizes = (art: ImportedArtwork): unknown => art.boxes?.map(({ name, widthMm }) => `${name} ${Math.round(widthMm)}`);
    expect(sizes(shown)).toEqual(['shown 220', 'trim 200', 'bleed 206']);
    expect(sizes(trim)).toEqual(['trim 200', 'shown 220', 'bleed 206']);
    expect([trim.widthMm, trim.heightMm]).toEqual([expect.closeTo(200, 2), expect.closeTo(100, 2)]);
    expect(bounds(trim.items[0]?.outline ?? { contours: [] }).minX).toBeCloseTo(10, 2);
    expect(bounds(shown.items[0]?.outline ?? { contours: [] }).minX).toBeCloseTo(20, 2);
    expect((await readPdf(bytes, { box: 'paper' })).widthMm).toBeCloseTo(220, 2);
  });
});

const dxf = (entities: string, head = ''): Uint8Array =>
  text(
    `${head}0\nSECTION\n2\nENTITIES\n${entities
      .trim()
      .split(/\s*\|\s*/)
      .join('\n')}\n0\nENDSEC\n0\nEOF\n`,
  );

describe('DXF', () => {
  test('single lines in any order and direction become one closed outline; a gap is drawn together', async () => {
    const art = await readDxf(
      dxf(
        '0|LINE|8|CUT|10|0|20|0|11|100|21|0|0|LINE|8|CUT|10|0|20|50|11|0.02|21|0|0|LINE|8|CUT|10|100|20|0.01|11|100|21|50|0|LINE|8|CUT|10|0|20|50|11|100|21|50',
      ),
    );
    expect(art.items.map((item) => item.closed)).toEqual([true]);
    expect(Math.abs(area(art.items[0]?.outline ?? { contours: [] }))).toBeCloseTo(5000, -1);
    expect(art.hasSize).toBe(false);
  });

  test('a circle by bulges, by arc and by ellipse is the same circle', async () => {
    const ways = [
      '0|LWPOLYLINE|90|2|70|1|10|-10|20|0|42|1|10|10|20|0|42|1',
      '0|CIRCLE|10|0|20|0|40|10',
      '0|ELLIPSE|10|0|20|0|11|0|21|10|40|1|41|0|42|6.283185307179586',
      '0|ARC|10|0|20|0|40|10|50|90|51|270|0|ARC|10|0|20|0|40|10|50|270|51|90',
    ];
    for (const way of ways) {
      const { items } = await readDxf(dxf(way));
      expect(items).toHaveLength(1);
      expect(deviation(items[0]?.outline ?? { contours: [] }, moved(ovalShape(20, 20), -10, -10))).toBeLessThan(0.004);
    }
  });

  test('blocks that hold one another, and numbers that are none, do no harm', async () => {
    const blocks =
      '0\nSECTION\n2\nBLOCKS\n0\nBLOCK\n2\nA\n10\n0\n20\n0\n0\nINSERT\n2\nA\n0\nLINE\n10\n0\n20\n0\n11\n7\n21\n0\n0\nENDBLK\n0\nENDSEC\n';
    const art = await readDxf(dxf('0|INSERT|2|A|10|0|20|0|0|LINE|10|NaN|20|0|11|1e300|21|4|0|CIRCLE|10|0|20|0|40|-3', blocks));
    expect(total(art)).toBeCloseTo(7, 6);
    expect(art.report.map(({ code }) => code)).toEqual(expect.arrayContaining(['circle', 'numbers']));
  });
});

describe('plotter files', () => {
  test('relative moves, arcs, circles and scaling', async () => {
    const art = await readHpgl(
      text('IN;SP1;PU400,400;PR;PD400,0,0,400,-400,0,0,-400;PU;PA;PU2000,400;CI400;IP0,0,4000,4000;SC0,100,0,100;PU90,90;PD95,90;PU;SP0;'),
    );
    expect(art.items.map((item) => [item.closed, Math.round(pathLength(item.outline) * 10) / 10])).toEqual([
      [true, 40],
      [true, 62.8],
      [false, 5],
    ]);
  });

  test('device control and text are stepped over', async () => {
    const art = await readHpgl(text('\u001b%-12345X@PJL SET X=1\n\u001b%0BIN;SP1;DT*;LBPUPD 1;PU;\u0003PU0,0;PD400,0;\u001b.(;PU;'));
    expect(art.items).toHaveLength(1);
    expect(art.report.map(({ code }) => code)).toContain('text');
  });
});

describe('PDF', () => {
  /** A file of one page with a content stream and resources. */
  const pdf = (content: string, more = '', resources = '', objects = ''): Uint8Array => {
    const packed = deflateSync(Buffer.from(content));
    const parts = [
      '1 0 obj<</Type/Catalog/Pages 2 0 R/OCProperties<</OCGs[5 0 R 6 0 R]/D<</OFF[6 0 R]/Order[5 0 R 6 0 R]>>>>>>endobj',
      '2 0 obj<</Type/Pages/Count 1/Kids[3 0 R]>>endobj',
      `3 0 obj<</Type/Page/Parent 2 0 R/MediaBox[0 0 283.46457 141.73228]${more}/Contents 4 0 R/Resources<<${resources}/Properties<</A 5 0 R/B 6 0 R>>>>>>endobj`,
      `4 0 obj<</Length ${packed.length}/Filter/FlateDecode>>stream\n${packed.toString('latin1')}\nendstream endobj`,
      '5 0 obj<</Type/OCG/Name(Shown)>>endobj',
      '6 0 obj<</Type/OCG/Name(Hidden)>>endobj',
      objects,
    ];
    return Buffer.from(`%PDF-1.6\n${parts.join('\n')}\ntrailer<</Root 1 0 R/Size 20>>\n%%EOF`, 'latin1');
  };
  const mm = 72 / 25.4;

  test('a turned page, a user unit, a clip, a dash, hidden layers', async () => {
    const art = await readPdf(
      pdf(
        `q ${10 * mm} ${10 * mm} ${20 * mm} ${20 * mm} re W n 1 0 0 rg 0 0 ${25 * mm} ${25 * mm} re f Q /OC /B BDC 0 0 1 RG ${mm} w [${3 * mm}] 0 d 0 0 m ${30 * mm} 0 l S EMC`,
        '/Rotate 90/UserUnit 2',
      ),
    );
    expect([art.widthMm, art.heightMm].map(Math.round)).toEqual([100, 200]);
    const [box, line] = art.items;
    expect(Math.abs(area(box?.outline ?? { contours: [] }))).toBeCloseTo(30 * 30, 1);
    expect(box?.fill).toBe('#ff0000');
    expect(line).toMatchObject({
      hidden: true,
      layer: 'Hidden',
      closed: false,
      stroke: { hex: '#0000ff', widthMm: expect.closeTo(2, 3), dashMm: [expect.closeTo(6, 3)] },
    });
  });

  test('spots are named, through forms too', async () => {
    const form = '0 0 1 scn 0 0 5 5 re f';
    const art = await readPdf(
      pdf(
        '/S cs 1 scn 0 0 50 50 re f 0 g 60 0 9 9 re f /F Do',
        '',
        '/ColorSpace<</S[/Separation/Cut#20line/DeviceCMYK 7 0 R]>>/XObject<</F 8 0 R>>',
        `7 0 obj<</FunctionType 2/Domain[0 1]/N 1/C0[0 0 0 0]/C1[0 1 1 0]>>endobj\n8 0 obj<</Type/XObject/Subtype/Form/BBox[0 0 99 99]/Resources<</ColorSpace<</S[/Separation/White/DeviceCMYK 7 0 R]>>>>/Length ${form.length + 6}>>stream\n/S cs ${form.replace('0 0 1 scn', '1 scn')}\nendstream endobj`,
      ),
    );
    expect(art.items.map((item) => item.spot)).toEqual(['Cut line', undefined, 'White']);
  });

  test('values in process inks come with what is painted in them: by operator, by space, through forms, kept and given back', async () => {
    const form = '0 0 5 5 re f /D cs 60 60 5 5 re f';
    const box = (x: number): string => `${x} 0 9 9 re`;
    const art = await readPdf(
      pdf(
        [
          `${box(0)} f 0.1 0.2 0.3 0.4 k ${box(10)} f q 1 0 0 rg ${box(20)} f Q ${box(30)} f`,
          `/I cs 0.5 0 0 .25 scn ${box(40)} f 0.75 g ${box(50)} f /DeviceCMYK CS 0 1 0 0 SC 3 w ${box(70)} S`,
          `/R cs 1 0 0 scn ${box(90)} f 2 -1 0 0 k ${box(110)} f /F Do`,
        ].join(' '),
        '',
        '/ColorSpace<</I[/ICCBased 7 0 R]/R[/ICCBased 9 0 R]>>/XObject<</F 8 0 R>>',
        [
          '7 0 obj<</N 4/Alternate/DeviceCMYK/Length 0>>stream\n\nendstream endobj',
          '9 0 obj<</N 3/Alternate/DeviceRGB/Length 0>>stream\n\nendstream endobj',
          `8 0 obj<</Type/XObject/Subtype/Form/BBox[0 0 99 99]/Resources<</ColorSpace<</D/DeviceCMYK>>>>/Length ${form.length}>>stream\n${form}\nendstream endobj`,
        ].join('\n'),
      ),
    );
    expect(art.items.map(({ cmyk }) => cmyk)).toEqual([
      [0, 0, 0, 1],
      [0.1, 0.2, 0.3, 0.4],
      undefined,
      [0.1, 0.2, 0.3, 0.4],
      [0.5, 0, 0, 0.25],
      [0, 0, 0, 0.25],
      [0, 1, 0, 0],
      undefined,
      // beyond what there is of an ink
      [1, 0, 0, 0],
      [1, 0, 0, 0],
      [0, 0, 0, 1],
    ]);
  });

  test('inks are believed only where there are as many paintings as operations; what is not believed is said, once', () => {
    const grey = { process: [0, 0, 0, 1] as const };
    const page = (fill: object): PageInks => ({ pictures: [], paths: [{ fill, stroke: grey }], texts: [] });
    const counts = { paths: 1, texts: 0, pictures: 0 };
    const codes = (fill: object, counted = counts): string[] => believedInks(page(fill), counted).remarks.map(([code]) => code);
    expect(believedInks(page({ spot: 'Gold' }), counts)).toMatchObject({ inks: page({ spot: 'Gold' }), remarks: [] });
    expect(believedInks(page({ spot: 'Gold' }), { ...counts, texts: 1 }).inks).toBeUndefined();
    expect(codes({ spot: 'Gold' }, { ...counts, paths: 2 })).toEqual(['spots']);
    expect(codes({ process: [0, 0.5, 0, 0] }, { ...counts, paths: 2 })).toEqual(['process-values']);
    expect(codes(grey, { ...counts, paths: 2 })).toEqual([]);
    expect(believedInks(undefined, counts)).toEqual({ inks: undefined, pictures: [], remarks: [] });
    const plate = { inks: ['White'], plates: () => undefined };
    const pictured: PageInks = { ...page(grey), pictures: [plate] };
    expect(believedInks(pictured, { ...counts, pictures: 1 }).pictures).toEqual([plate]);
    expect(believedInks(pictured, counts)).toMatchObject({ pictures: [], remarks: [['picture-inks', expect.any(String)]] });
  });

  const image = (space: string, width: number, samples: readonly number[], more = ''): string => {
    const packed = deflateSync(Buffer.from(samples));
    const height = 1;
    return `8 0 obj<</Type/XObject/Subtype/Image/Width ${width}/Height ${height}/BitsPerComponent 8/ColorSpace ${space}${more}/Filter/FlateDecode/Length ${packed.length}>>stream\n${packed.toString('latin1')}\nendstream endobj`;
  };
  const TINT = '7 0 obj<</FunctionType 2/Domain[0 1]/N 1/C0[0 0 0 0]/C1[0 0.2 1 0]>>endobj';
  /** Red, green, blue, alpha of the pixels of a PNG whose rows have no filter, as `writePng` makes them. */
  const pixelsOf = (base64: string): number[][] => {
    const png = Buffer.from(base64, 'base64');
    const [width, channels] = [png.readUInt32BE(16), { 0: 1, 2: 3, 6: 4 }[png[25] as 0 | 2 | 6]];
    const packed: Buffer[] = [];
    for (let at = 8; at < png.length; at += 12 + png.readUInt32BE(at))
      if (png.toString('latin1', at + 4, at + 8) === 'IDAT') packed.push(png.subarray(at + 8, at + 8 + png.readUInt32BE(at)));
    const row = inflateSync(Buffer.concat(packed)).subarray(1);
    return Array.from({ length: width }, (_, x) => [...row.subarray(x * channels, (x + 1) * channels)]);
  };
  const read = (objects: string): Promise<ImportedArtwork> =>
    readPdf(pdf('q 90 0 0 30 9 9 cm /I Do Q', '', '/XObject<</I 8 0 R>>', `${TINT}\n${objects}`));

  test('a picture in one ink of its own name is its plate, in the look of its most', async () => {
    const { pictures, report } = await read(image('[/Separation/Old#20gold/DeviceCMYK 7 0 R]', 3, [0, 128, 255]));
    expect(pictures.map(({ ink }) => ink?.name)).toEqual(['Old gold']);
    expect(pixelsOf(pictures[0]!.bytesBase64).map((pixel) => pixel[3])).toEqual([0, 128, 255]);
    expect(pictures[0]!.ink!.hex).not.toBe('#000000');
    expect(Number.parseInt(pictures[0]!.ink!.hex.slice(5), 16)).toBeLessThan(90);
    expect(report).toEqual([]);
  });

  test('of several inks those of their own names are plates over what is in process inks', async () => {
    const tint =
      '9 0 obj<</FunctionType 4/Domain[0 1 0 1]/Range[0 1 0 1 0 1 0 1]/Length 33>>stream\n{ 0 exch 0 0 5 1 roll pop pop 0 }\nendstream endobj';
    const space = '[/DeviceN[/Magenta/Frost]/DeviceCMYK 9 0 R]';
    const { pictures } = await read(`${image(space, 2, [255, 0, 51, 200])}\n${tint}`);
    expect(pictures.map(({ ink }) => ink?.name)).toEqual([undefined, 'Frost']);
    expect(pixelsOf(pictures[0]!.bytesBase64)).toEqual([
      [255, 0, 255, 255],
      [255, 204, 255, 255],
    ]);
    expect(pixelsOf(pictures[1]!.bytesBase64).map((pixel) => pixel[3])).toEqual([0, 200]);
  });

  test('a table of tints, and samples that are turned round', async () => {
    const table = await read(image('[/Indexed[/Separation/Gloss/DeviceCMYK 7 0 R] 1 <40FF>]', 2, [1, 0]));
    expect(pixelsOf(table.pictures[0]!.bytesBase64).map((pixel) => pixel[3])).toEqual([255, 64]);
    const turned = await read(image('[/Separation/Gloss/DeviceCMYK 7 0 R]', 2, [0, 200], '/Decode[1 0]'));
    expect(pixelsOf(turned.pictures[0]!.bytesBase64).map((pixel) => pixel[3])).toEqual([255, 55]);
  });

  test('process inks as separations, and pictures that are shorter than they say, make no plates and no crash', async () => {
    const plain = await read(image('[/Separation/Black/DeviceCMYK 7 0 R]', 2, [0, 255]));
    expect(plain.pictures.map(({ ink }) => ink)).toEqual([undefined]);
    const short = await read(image('[/Separation/Gloss/DeviceCMYK 7 0 R]', 400, [9]));
    expect(short.pictures.length).toBeLessThanOrEqual(1);
  });
});

describe('damage', () => {
  const whole: readonly [string, () => Promise<Uint8Array> | Uint8Array, (b: Uint8Array) => Promise<ImportedArtwork>][] = [
    [
      'SVG',
      () => writeSvg({ widthMm: 90, heightMm: 90, items: [{ outline: ovalShape(50, 40), closed: true, fill: '#112233', layer: 'A' }] }),
      (b) => readSvg(b),
    ],
    [
      'DXF',
      () => writeDxf({ widthMm: 90, heightMm: 90, items: [{ outline: ovalShape(50, 40), closed: true, fill: '#112233', layer: 'A' }] }),
      (b) => readDxf(b),
    ],
    [
      'PDF',
      () => writePdf({ widthMm: 90, heightMm: 90, items: [{ outline: ovalShape(50, 40), closed: true, fill: '#112233', layer: 'A' }] }),
      (b) => readPdf(b),
    ],
    ['HPGL', () => text('IN;SP1;PU400,400;PD800,400,800,800;AA800,400,90;PE<=?\u00bf;PU;'), (b) => readHpgl(b)],
  ];
  test.each(whole)('%s: any change of bytes gives artwork or a plain answer', async (_, make, read) => {
    const sound = await make();
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.tuple(fc.nat(sound.length - 1), fc.nat(255)), { minLength: 1, maxLength: 12 }),
        fc.option(fc.nat(sound.length), { nil: undefined }),
        async (changes, cut) => {
          const bytes = sound.slice(0, cut ?? sound.length);
          for (const [i, value] of changes) if (i < bytes.length) bytes[i] = value;
          const result = await read(bytes).catch((error: unknown) => error);
          if (result instanceof Error) {
            expect(result).toBeInstanceOf(AppError);
            expect((result as AppError).code).toMatch(/^(input|limit)\./);
          } else
            for (const item of (result as ImportedArtwork).items)
              for (const contour of item.outline.contours) for (const span of contour.spans) expect(span.every(Number.isFinite)).toBe(true);
        },
      ),
      { numRuns: 60, interruptAfterTimeLimit: 15_000 },
    );
  });

  test.each([
    ['readDxf', readDxf],
    ['readPdf', readPdf],
    ['readHpgl', readHpgl],
    ['readTiff', readTiff],
  ] as [string, (b: Uint8Array) => Promise<unknown>][])('%s refuses nothing and nonsense', async (_, read) => {
    for (const bytes of [new Uint8Array(), text('hello'), Uint8Array.from({ length: 4000 }, (_, i) => (i * 7919) & 255)])
      await expect(read(bytes)).rejects.toMatchObject({ code: expect.stringMatching(/^input\./) });
  });
});

test('a fax-coded scan of one bit is read with its resolution', async () => {
  // a box and an oval of 874 black pixels on 64 by 40, coded by another program after ITU-T T.6
  const coded =
    'SUkqADAAAAAmoHhv//yEGv///+SgMYPh9995BpSfp///+1+1tbW1hhYMFj8AEAEADAAAAQMAAQAAAEAAAAABAQMAAQAAACgAAAACAQMAAQAAAAEAAAADAQMAAQAAAAQAAAAGAQMAAQAAAAEAAAARAQQAAQAAAAgAAAAWAQMAAQAAACgAAAAXAQQAAQAAACcAAAAaAQUAAQAAAMYAAAAbAQUAAQAAAM4AAAAcAQMAAQAAAAEAAAAoAQMAAQAAAAIAAAAAAAAA/gAAAAEAAAD+AAAAAQAAAA==';
  const bytes = Uint8Array.from(Buffer.from(coded, 'base64'));
  const { width, height, data, pixelsPerMm } = await readTiff(bytes);
  expect([width, height, pixelsPerMm]).toEqual([64, 40, 10]);
  expect(data.filter((v, i) => i % 4 === 0 && v < 128)).toHaveLength(874);
  expect([data[(10 * 64 + 20) * 4], data[(2 * 64 + 20) * 4]]).toEqual([0, 255]);
  for (let cut = 8; cut < bytes.length; cut += 9) {
    const answer: unknown = await readTiff(bytes.subarray(0, cut)).catch((error: unknown) => error);
    expect(answer instanceof AppError || (answer as { width?: number }).width === 64).toBe(true);
  }
});

test('a spline of fit points only follows the curve that an independent reader draws through them', async () => {
  const points = [
    [-5.652, -2.063],
    [25.32, 8.938],
    [44.811, -23.208],
    [59.629, -15.206],
  ];
  const file = ['0', 'SECTION', '2', 'ENTITIES', '0', 'SPLINE', '8', '0', '70', '0', '71', '3', '74', String(points.length)]
    .concat(
      points.flatMap(([x, y]) => ['11', String(x), '21', String(y)]),
      ['0', 'ENDSEC', '0', 'EOF'],
    )
    .join('\n');
  const { items } = await readDxf(new TextEncoder().encode(file));
  const lines = flatten(items[0]!.outline, 0.001);
  for (const [x, y] of [...points, [6.506, 6.415], [31.097, 0.25], [48.464, -23.121]])
    expect(lineDistance(lines, x!, y!)).toBeLessThan(0.01);
});
