import { describe, expect, test } from '@jest/globals';
import { bounds, boxShape, mapOutline, ovalShape, parsePath, translation, weld, type Outline } from '../geometry/index.ts';
import { checkFilm, checkSheet, type CheckPart, type Spot } from './index.ts';

const part = (id: string, outline: Outline): CheckPart => ({ id, name: id, outline });
const codes = (parts: CheckPart[]): string[] => checkFilm(parts).map((f) => f.code);

describe('Cut check of a film', () => {
  test('sound work has no findings', () => {
    expect(codes([part('a', ovalShape(30, 20)), part('b', mapOutline(translation(40, 0), boxShape(10, 10)))])).toEqual([]);
    expect(codes([part('weld', weld([ovalShape(30, 20), boxShape(20, 20)]))])).toEqual([]);
  });

  test('nothing to cut', () => expect(codes([])).toEqual(['nothing-to-cut']));

  test('crossing outlines are found once a pair, at a place that lies on both', () => {
    const found = checkFilm([part('a', boxShape(20, 20)), part('b', mapOutline(translation(10, 10), boxShape(20, 20)))]);
    expect(found.map((f) => [f.code, f.parts])).toEqual([['crossing', ['a', 'b']]]);
    const place = found[0]?.place ?? { x: 0, y: 0 };
    expect([
      [20, 10],
      [10, 20],
    ]).toContainEqual([Math.round(place.x), Math.round(place.y)]);
  });

  test('an outline that crosses itself', () => expect(codes([part('bow', parsePath('M0 0L40 30L40 0L0 30Z'))])).toEqual(['crossing']));

  test('the same outline twice, and a shared side, are cut twice', () => {
    expect(codes([part('a', ovalShape(30, 20)), part('b', ovalShape(30, 20))])).toEqual(['doubled']);
    const [shared] = checkFilm([part('a', boxShape(20, 20)), part('b', mapOutline(translation(20, 0), boxShape(20, 20)))]);
    expect(shared?.code).toBe('doubled');
    expect(shared?.text).toContain('20 mm');
  });

  test('boxes that only touch at a corner are left in peace', () => {
    expect(codes([part('a', boxShape(20, 20)), part('b', mapOutline(translation(20, 20), boxShape(20, 20)))])).toEqual([]);
  });

  test('an open outline, with its gap', () => {
    const [open] = checkFilm([part('a', parsePath('M0 0L30 0L30 30L0.5 0.5'))]);
    expect(open?.code).toBe('open-outline');
    expect(open?.text).toContain('0.71 mm');
  });
});

test('work beyond the material stops it and says by how much', () => {
  const findings = checkSheet(
    [
      { id: 'a', name: 'A', box: bounds(mapOutline(translation(95, 0), boxShape(20, 20))) },
      { id: 'b', name: 'B', box: bounds(boxShape(5, 5)) },
    ],
    100,
    50,
  );
  expect(findings.map((f) => [f.code, f.level, f.parts])).toEqual([['off-material', 'stop', ['a']]]);
  expect(findings[0]?.text).toContain('15.0 mm');
});

test('a part of open lines alone, such as one-stroke lettering, is one remark; one open outline among closed ones is named', () => {
  const lines = parsePath('M 0 0 L 10 0 M 0 5 L 10 5 M 0 9 L 10 9');
  const remarks = checkFilm([{ id: 'a', name: 'a', outline: lines }]);
  expect(remarks.map((f) => [f.code, f.level])).toEqual([['open-outline', 'warning']]);
  const mixed = parsePath('M 0 0 L 10 0 L 10 8 Z M 30 0 L 40 0');
  expect(checkFilm([{ id: 'a', name: 'a', outline: mixed }])).toHaveLength(1);
});

describe('what a film bears', () => {
  const limits = { smallestPartMm: 2, thinnestMm: 1 };
  const found = (parts: CheckPart[]): string[] => checkFilm(parts, limits).map((f) => f.code);

  test('a thin stretch, a narrow gap and a tiny part are found; sharp corners are not', () => {
    const neck = parsePath('M0 0L20 0L20 9.7L40 9.7L40 0L60 0L60 20L40 20L40 10.3L20 10.3L20 20L0 20Z');
    expect(found([part('neck', neck)])).toEqual(['thin-part']);
    const [thin] = checkFilm([part('neck', neck)], limits);
    expect(thin?.place?.x).toBeGreaterThan(20);
    expect(thin?.place?.x).toBeLessThan(40);
    // the same outline of many nodes, with a ripple finer than the blade, is as thin in the same place
    const corners = neck.contours[0]!.spans.map(([x = 0, y = 0]) => [x, y] as const);
    const dense = corners.flatMap(([x, y], i) => {
      const [nx, ny] = corners[(i + 1) % corners.length]!;
      return Array.from({ length: 300 }, (_, k) => {
        const ripple = k % 2 === 0 ? 0 : 0.002;
        return `${(x + ((nx - x) * k) / 300 + ripple).toFixed(4)} ${(y + ((ny - y) * k) / 300 + ripple).toFixed(4)}`;
      });
    });
    const [same] = checkFilm([part('dense', parsePath(`M${dense.join('L')}Z`))], limits).filter(({ code }) => code === 'thin-part');
    expect(same?.place?.x).toBeCloseTo(thin?.place?.x ?? 0, 0);
    const known = new Map<string, readonly Spot[]>();
    const fresh = checkFilm([part('neck', neck)], limits, known);
    // what was looked at once is known wherever it lies again
    const moved = checkFilm([part('neck', mapOutline(translation(500, 300), neck))], limits, known);
    expect(known.size).toBe(2);
    expect(moved[0]?.place?.x).toBeCloseTo((fresh[0]?.place?.x ?? 0) + 500, 1);
    const gap = checkFilm([part('a', boxShape(20, 20)), part('b', mapOutline(translation(20.6, 0), boxShape(20, 20)))], limits);
    expect(gap.map((f) => [f.code, f.parts])).toEqual([['thin-gap', ['a', 'b']]]);
    expect(found([part('dot', ovalShape(1.5, 1.5))])).toContain('tiny-part');
    expect(
      found([part('star', parsePath('M0 30L6.7 9.3L28.5 9.3L10.9 -3.5L17.6 -24.3L0 -11.5L-17.6 -24.3L-10.9 -3.5L-28.5 9.3L-6.7 9.3Z'))]),
    ).toEqual([]);
    expect(found([part('oval', ovalShape(40, 20)), part('box', mapOutline(translation(60, 0), boxShape(20, 20, 4)))])).toEqual([]);
  });

  test('outlines of too many nodes are said not to be looked at, and the others are', () => {
    const comb = (teeth: number): Outline => {
      const upper = Array.from({ length: teeth }, (_, i) => `${(i * 300) / teeth} ${i % 2 ? 0 : 5}`);
      const lower = Array.from({ length: teeth }, (_, i) => `${(i * 300) / teeth} ${i % 2 ? 80 : 85}`).reverse();
      return parsePath(`M${[...upper, ...lower].join('L')}Z`);
    };
    const neck = mapOutline(translation(400, 0), parsePath('M0 0L20 0L20 9.8L40 9.8L40 0L60 0L60 20L40 20L40 10.2L20 10.2L20 20L0 20Z'));
    for (const teeth of [8000, 50_000]) {
      const all = checkFilm([part('comb', comb(teeth)), part('neck', neck)], { smallestPartMm: 2, thinnestMm: 0.8 });
      expect(all.filter(({ code }) => code === 'not-worked-out').map(({ parts }) => parts)).toEqual([['comb']]);
      expect(all.filter(({ code }) => code === 'thin-part').map(({ parts }) => parts)).toEqual([['neck']]);
    }
  });

  test('notches that narrow evenly to a point are no gaps, however many; a slot of even width is one, and so is a long taper', () => {
    const notched = (mouth: number, deep: number): CheckPart =>
      part('comb', parsePath(`M0 0L60 0L60 20L${30 + mouth / 2} 20L30 ${20 - deep}L${30 - mouth / 2} 20L0 20Z`));
    expect(found([notched(1.5, 3)])).toEqual([]);
    expect(found([notched(2, 5)])).toEqual([]);
    expect(found([notched(1.2, 12)])).toEqual(['thin-gap']);
    for (const wide of [0.3, 0.6, 0.8])
      expect(
        found([
          part('slot', parsePath(`M0 0L60 0L60 20L${30 + wide / 2} 20L${30 + wide / 2} 17L${30 - wide / 2} 17L${30 - wide / 2} 20L0 20Z`)),
        ]),
      ).toEqual(['thin-gap']);
    // the same of parts: a thorn tapers, a pin does not
    expect(found([part('thorn', parsePath('M0 0L40 0L40 20L20.6 20L20 22.6L19.4 20L0 20Z'))])).not.toContain('thin-part');
    expect(found([part('pin', parsePath('M0 0L40 0L40 20L20.3 20L20.3 23L19.7 23L19.7 20L0 20Z'))])).toContain('thin-part');
  });

  test('crowded nodes and a bump', () => {
    const circle = Array.from(
      { length: 900 },
      (_, i) => `${i === 0 ? 'M' : 'L'}${20 * Math.cos((i * Math.PI) / 450)} ${20 * Math.sin((i * Math.PI) / 450)}`,
    );
    expect(found([part('dense', parsePath(`${circle.join('')}Z`))])).toEqual(['many-nodes']);
    expect(found([part('tooth', parsePath('M0 0L60 0L60 30L30.2 30L30.2 30.4L29.8 30.4L29.8 30L0 30Z'))])).toEqual(['bump']);
  });
});
