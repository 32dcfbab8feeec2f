/** DXF against known areas and places: binary files, hatches, splines, solids, planes, blocks, colours and text. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { area, bounds, boxShape, deviation, flatten, mapOutline, ovalShape, translation, type Outline } from '../../geometry/index.ts';
import { readDxf, type ImportedArtwork } from '../index.ts';

type Group = readonly [number, string | number];

/** Groups as they are told: `0 LINE 10 5` and so on. */
const groups = (told: string): Group[] => {
  const parts = told.trim().split(/\s+/);
  return parts.flatMap((part, i): Group[] => (i % 2 === 0 ? [[Number(part), parts[i + 1] ?? '']] : []));
};
const section = (name: string, list: readonly Group[]): Group[] => [[0, 'SECTION'], [2, name], ...list, [0, 'ENDSEC']];
const file = (entities: readonly Group[], more: readonly Group[] = []): Group[] => [
  ...section('HEADER', [
    [9, '$INSUNITS'],
    [70, 4],
  ]),
  ...more,
  ...section('ENTITIES', entities),
  [0, 'EOF'],
];

const asText = (list: readonly Group[]): Uint8Array =>
  new TextEncoder().encode(list.map(([code, value]) => `${code}\n${value}\n`).join(''));

/** As the binary form holds them: codes of two bytes, numbers by the kind of their code. */
function asBinary(list: readonly Group[]): Uint8Array {
  const bytes: number[] = [...new TextEncoder().encode('AutoCAD Binary DXF\r\n\u001a\u0000')];
  const put = (length: number, write: (view: DataView) => void): void => {
    const view = new DataView(new ArrayBuffer(length));
    write(view);
    bytes.push(...new Uint8Array(view.buffer));
  };
  for (const [code, value] of list) {
    put(2, (view) => view.setInt16(0, code, true));
    const number = Number(value);
    if ((code >= 10 && code < 60) || (code >= 110 && code < 160) || (code >= 210 && code < 270))
      put(8, (v) => v.setFloat64(0, number, true));
    else if ((code >= 60 && code < 90) || (code >= 170 && code < 180)) put(2, (v) => v.setInt16(0, number, true));
    else if ((code >= 90 && code < 100) || (code >= 420 && code < 430)) put(4, (v) => v.setInt32(0, number, true));
    else bytes.push(...new TextEncoder().encode(String(value)), 0);
  }
  return Uint8Array.from(bytes);
}

const read = (entities: string, more: readonly Group[] = []): Promise<ImportedArtwork> => readDxf(asText(file(groups(entities), more)));
const only = ({ items }: ImportedArtwork): Outline => {
  expect(items).toHaveLength(1);
  return items[0]?.outline ?? { contours: [] };
};
const whole = ({ items }: ImportedArtwork): Outline => ({ contours: items.flatMap(({ outline }) => outline.contours) });
const size = (outline: Outline): number => Math.abs(area(outline));

describe('the same drawing', () => {
  const coordinate = fc.integer({ min: -9_000_000, max: 9_000_000 }).map((v) => v / 1000);
  const entity = fc.oneof(
    fc.tuple(coordinate, coordinate, coordinate, coordinate).map(([a, b, c, d]): Group[] => [
      [0, 'LINE'],
      [8, 'CUT'],
      [10, a],
      [20, b],
      [11, c],
      [21, d],
    ]),
    fc
      .tuple(coordinate, coordinate, fc.integer({ min: 1, max: 500 }), fc.integer({ min: 1, max: 250 }))
      .map(([a, b, r, colour]): Group[] => [
        [0, 'CIRCLE'],
        [8, 'RING'],
        [62, colour],
        [10, a],
        [20, b],
        [40, r],
      ]),
    fc.tuple(coordinate, coordinate, fc.integer({ min: 0, max: 0xffffff })).map(([a, b, colour]): Group[] => [
      [0, 'LWPOLYLINE'],
      [8, 'CUT'],
      [420, colour],
      [90, 3],
      [70, 1],
      [10, a],
      [20, b],
      [42, 0.5],
      [10, a + 10],
      [20, b],
      [10, a],
      [20, b + 20],
    ]),
  );

  // Law: the text and the binary form of a file are the same drawing
  test('reads the same from text and from the binary form', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(entity, { minLength: 1, maxLength: 8 }), async (list) => {
        const drawing = file(list.flat());
        expect(await readDxf(asBinary(drawing))).toEqual(await readDxf(asText(drawing)));
      }),
      { numRuns: 40 },
    );
  });

  // Law: wherever a binary file breaks off, what came before is read or it is told that it is none
  test('a binary file that breaks off is read up to there', async () => {
    const drawing = asBinary(file(groups('0 LINE 10 0 20 0 11 5 21 0 0 CIRCLE 10 0 20 0 40 3')));
    for (let length = 22; length < drawing.length - 8; length++) {
      const got = await readDxf(drawing.subarray(0, length)).then(
        ({ report }) => report.map(({ code }) => code),
        (error: { code: string }) => [error.code],
      );
      expect(got.includes('broken') || got.includes('input.dxf')).toBe(true);
    }
  });
});

describe('hatches', () => {
  const hatch = (boundary: string): string =>
    `0 HATCH 8 FILL 10 0 20 0 30 0 210 0 220 0 230 1 2 SOLID 70 1 71 0 91 ${boundary} 75 0 76 1 98 0`;

  test('a boundary of lines and arcs, with arcs either way round', async () => {
    // a slot of 40 by 20 between half circles: round it one way, and the other with angles counted clockwise
    const arc = (x: number, from: number, to: number, left: number): string => `72 2 10 ${x} 20 10 40 10 50 ${from} 51 ${to} 73 ${left}`;
    const line = (x0: number, x1: number, y: number): string => `72 1 10 ${x0} 20 ${y} 11 ${x1} 21 ${y}`;
    const ways = [
      [line(0, 40, 0), arc(40, 270, 90, 1), line(40, 0, 20), arc(0, 90, 270, 1)],
      [line(0, 40, 20), arc(40, 270, 90, 0), line(40, 0, 0), arc(0, 90, 270, 0)],
    ];
    for (const edges of ways) {
      const art = await read(hatch(`1 92 1 93 4 ${edges.join(' ')} 97 0`));
      expect(size(only(art))).toBeCloseTo(800 + Math.PI * 100, 1);
      const box = bounds(only(art));
      expect([box.minX, box.maxX].map(Math.round)).toEqual([-10, 50]);
      expect(art.items[0]?.closed).toBe(true);
      expect(art.report.map(({ code }) => code)).toContain('hatch');
    }
  });

  test('holes by a second boundary of a polyline with bulges, an ellipse, a spline', async () => {
    const outer = '92 7 72 0 73 1 93 4 10 0 20 0 10 100 20 0 10 100 20 100 10 0 20 100 97 0';
    const hole = '92 7 72 1 73 1 93 2 10 30 20 50 42 1 10 70 20 50 42 1 97 0';
    expect(size(only(await read(hatch(`2 ${outer} ${hole}`))))).toBeCloseTo(10_000 - Math.PI * 400, 1);
    const ellipse = '92 1 93 1 72 3 10 50 20 50 11 30 21 0 40 0.5 50 0 51 360 73 1 97 0';
    expect(size(only(await read(hatch(`2 ${outer} ${ellipse}`))))).toBeCloseTo(10_000 - Math.PI * 30 * 15, 1);
    // a circle as a rational spline of second degree
    const w = Math.SQRT1_2;
    const knots = [0, 0, 0, 1, 1, 2, 2, 3, 3, 4, 4, 4].map((k) => `40 ${k}`).join(' ');
    const places = [
      [70, 50, 1],
      [70, 70, w],
      [50, 70, 1],
      [30, 70, w],
      [30, 50, 1],
      [30, 30, w],
      [50, 30, 1],
      [70, 30, w],
      [70, 50, 1],
    ];
    const spline = `92 1 93 1 72 4 94 2 73 1 74 0 95 12 96 9 ${knots} ${places.map(([x, y, v]) => `10 ${x} 20 ${y} 42 ${v}`).join(' ')} 97 0`;
    expect(size(only(await read(hatch(`2 ${outer} ${spline}`))))).toBeCloseTo(10_000 - Math.PI * 400, 0);
  });
});

describe('curves and planes', () => {
  test('a spline by its poles, by weights, and through given places', async () => {
    // a parabola: area under it between its ends is two thirds of its box
    const parabola = await read('0 SPLINE 70 8 71 2 72 6 73 3 40 0 40 0 40 0 40 1 40 1 40 1 10 0 20 0 10 30 20 40 10 60 20 0');
    const flat = flatten(only(parabola), 0.001)[0]?.xy ?? [];
    let under = 0;
    for (let i = 2; i < flat.length; i += 2)
      under += (((flat[i + 1] ?? 0) + (flat[i - 1] ?? 0)) / 2) * ((flat[i] ?? 0) - (flat[i - 2] ?? 0));
    expect(Math.abs(under)).toBeCloseTo((2 / 3) * 60 * 20, 1);
    const through = await read('0 SPLINE 70 8 71 3 74 4 11 0 21 0 11 10 21 10 11 20 21 0 11 30 21 10');
    const box = bounds(only(through));
    expect([box.minX, box.maxX]).toEqual([expect.closeTo(0, 6), expect.closeTo(30, 6)]);
    for (const [x, y] of [
      [10, 10],
      [20, 0],
    ] as const) {
      const near = flatten(only(through), 0.001)[0]?.xy ?? [];
      let least = Infinity;
      for (let i = 0; i < near.length; i += 2) least = Math.min(least, Math.hypot((near[i] ?? 0) - x, (near[i + 1] ?? 0) - y));
      expect(least).toBeLessThan(0.2);
    }
  });

  test('corners of solids are told crosswise, three make a triangle', async () => {
    expect(size(only(await read('0 SOLID 10 0 20 0 11 30 21 0 12 0 22 20 13 30 23 20')))).toBeCloseTo(600, 6);
    expect(size(only(await read('0 TRACE 10 0 20 0 11 30 21 0 12 0 22 20')))).toBeCloseTo(300, 6);
  });

  // Law: seen from below, what lies right of the plane's origin is drawn left of it
  test('a plane that faces down mirrors what lies in it', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.integer({ min: -500, max: 500 }),
        fc.integer({ min: -500, max: 500 }),
        fc.integer({ min: 1, max: 80 }),
        async (x, y, r) => {
          const circle = only(await read(`0 CIRCLE 10 ${x} 20 ${y} 40 ${r} 210 0 220 0 230 -1`));
          expect(deviation(circle, mapOutline(translation(-x - r, y - r), ovalShape(2 * r, 2 * r)))).toBeLessThan(4e-4 * r + 0.002);
        },
      ),
      { numRuns: 20 },
    );
  });

  test('heavy polylines with bulges; frames that only steer a curve are not drawn', async () => {
    const vertex = (x: number, y: number, more = ''): string => `0 VERTEX 10 ${x} 20 ${y} ${more}`;
    const half = await read(`0 POLYLINE 66 1 70 1 ${vertex(0, 0, '42 1')} ${vertex(20, 0)} 0 SEQEND`);
    expect(size(only(half))).toBeCloseTo((Math.PI * 100) / 2, 1);
    const framed = await read(`0 POLYLINE 70 5 ${vertex(0, 0)} ${vertex(500, 500, '70 16')} ${vertex(20, 0)} ${vertex(0, 20)} 0 SEQEND`);
    expect(size(only(framed))).toBeCloseTo(200, 6);
    expect(whole(await read(`0 POLYLINE 70 16 ${vertex(0, 0)} ${vertex(9, 9)} 0 SEQEND`)).contours).toHaveLength(0);
  });
});

describe('blocks, layers, colours', () => {
  const block = section(
    'BLOCKS',
    groups('0 BLOCK 2 PLATE 10 5 20 5 0 LWPOLYLINE 8 0 62 0 90 4 70 1 10 5 20 5 10 15 20 5 10 15 20 25 10 5 20 25 0 ENDBLK'),
  );
  const layers = section('TABLES', groups('0 TABLE 2 LAYER 0 LAYER 2 RED 70 0 62 1 0 LAYER 2 OFF 70 0 62 -3 0 ENDTAB'));

  test('a block in rows and columns, scaled and turned about its base, in the colour of where it is put', async () => {
    const art = await read('0 INSERT 8 RED 2 PLATE 10 100 20 50 41 2 42 3 50 90 70 2 71 3 44 30 45 70', [...layers, ...block]);
    expect(art.items).toHaveLength(6);
    expect(new Set(art.items.map(({ layer, stroke }) => `${layer} ${stroke?.hex}`))).toEqual(new Set(['RED #ff0000']));
    // 10 by 20 becomes 20 by 60, a quarter turn makes columns run up and rows run left
    const boxes = art.items.map(({ outline }) => bounds(outline)).sort((a, b) => a.minX - b.minX || a.minY - b.minY);
    expect(boxes.map(({ minX, minY, maxX, maxY }) => [minX, minY, maxX - minX, maxY - minY].map(Math.round))).toEqual(
      [-100, -30, 40].flatMap((x) => [50, 80].map((y) => [x, y, 60, 20])),
    );
  });

  test('layers that are off stay hidden, and that is told; sheets of views are no drawing', async () => {
    const art = await read('0 LINE 8 OFF 10 0 20 0 11 9 21 0 0 LINE 8 RED 67 1 10 0 20 0 11 9 21 0 0 CIRCLE 8 RED 10 0 20 0 40 4', layers);
    expect(art.items.map(({ layer, hidden }) => [layer, hidden ?? false])).toEqual(
      expect.arrayContaining([
        ['OFF', true],
        ['RED', false],
      ]),
    );
    expect(art.items).toHaveLength(2);
    expect(art.report.map(({ code }) => code)).toContain('hidden');
  });

  test('words become outlines where the font is known, by their alignment, and are told where it is not', async () => {
    const entities = groups('0 TEXT 8 RED 10 0 20 0 40 10 72 1 73 2 11 50 21 20').concat([
      [1, 'Ø%%c \\U+00C4'],
      [0, 'MTEXT'],
      [8, 'RED'],
      [10, 0],
      [20, 0],
      [40, 5],
      [71, 1],
      [3, '{\\fArial|b0;Tea'],
      [1, '\\Pand \\S1/2;}'],
    ]);
    const bytes = asText(file(entities, layers));
    const asked: string[] = [];
    const art = await readDxf(bytes, {
      textOutline: ({ text, sizePx }) => {
        asked.push(text);
        return { outline: boxShape(text.length * sizePx, sizePx), advancePx: text.length * sizePx };
      },
    });
    expect(asked).toEqual(['ØØ Ä', 'Tea', 'and 1/2']);
    // centred about its place: four letters of ten
    const [first] = art.items;
    const box = bounds(first?.outline ?? { contours: [] });
    expect([(box.minX + box.maxX) / 2, (box.minY + box.maxY) / 2]).toEqual([expect.closeTo(50, 6), expect.closeTo(20, 6)]);
    expect(first?.fill).toBe('#ff0000');
    // each line of a paragraph lies below the one before
    const tops = art.items.slice(1).map(({ outline }) => bounds(outline).maxY);
    expect(tops).toEqual([expect.closeTo(0, 6), expect.closeTo(-25 / 3, 6)]);
    const without = await readDxf(bytes);
    expect(without.items).toHaveLength(0);
    expect(without.report.map(({ code }) => code)).toContain('text');
  });
});
