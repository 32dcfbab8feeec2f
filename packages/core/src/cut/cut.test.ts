import { afterAll, describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import Flatbush from 'flatbush';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  boxShape,
  evaluate,
  mapOutline,
  ovalShape,
  segmentDistance,
  translation,
  weld,
  type Contour,
  type Outline,
  type Polyline,
} from '../geometry/index.ts';
import { writeHpgl } from '../format/index.ts';
import { joinFonts, loadFont, setLettering, type Font } from '../lettering/index.ts';
import { CUT_KINDS, estimateCut, planBlade, planCut, startContourAt, startOnStraight } from './index.ts';

const work = mkdtempSync(join(tmpdir(), 'lorvek-cut-'));
afterAll(() => rmSync(work, { recursive: true, force: true }));

const PLAIN = { bladeOffsetMm: 0.25, overcutMm: 0, cornerDeg: 15, compensate: false };
const VALUES = { sends: 'values', tool: 1, speedMmPerS: 300, forceGrams: 80, passes: 1 } as const;
const fontOf = (...files: string[]): Font =>
  joinFonts(files.map((file) => loadFont(readFileSync(`assets/fonts/${file}`))) as [Font, ...Font[]]);

const word = mapOutline(
  translation(20, 40),
  setLettering({ text: 'Marigold 8&é', font: fontOf('lobster-latin-400-normal.woff'), capHeightMm: 60 }).outline,
);

/** The pen-down strokes of a file, read back by hand. */
function strokesOf(text: string): number[][] {
  const strokes: number[][] = [];
  let [x, y] = [0, 0];
  for (const command of text.split(';').map((c) => c.trim())) {
    const numbers = command
      .slice(2)
      .split(',')
      .filter(Boolean)
      .map((n) => Number(n) / 40);
    if (command.startsWith('PU')) {
      if (numbers.length === 2) [x, y] = numbers as [number, number];
      if (numbers.length === 2) strokes.push([x, y]);
    } else if (command.startsWith('PD')) strokes.at(-1)?.push(...numbers);
  }
  return strokes.filter((stroke) => stroke.length > 2);
}

/** The wanted lines, sampled from the Béziers by a way of its own. */
const fine = (outline: Outline, each = 100): Polyline[] =>
  outline.contours.map(({ closed, spans }) => ({
    closed,
    xy: Float64Array.from(
      spans.flatMap((s) =>
        s.length === 4
          ? [evaluate(s, 0, 0), evaluate(s, 0, 1)]
          : Array.from({ length: each }, (_, k) => [evaluate(s, k / each, 0), evaluate(s, k / each, 1)]).flat(),
      ),
    ),
  }));

/** As the checker wants them. */
const nominalOf = (lines: Polyline[]) =>
  lines.map(({ xy }) => ({ closed: true, pts: Array.from({ length: xy.length / 2 }, (_, i) => [xy[2 * i], xy[2 * i + 1]]) }));

/** Distance from any point to the nearest of the lines, by a spatial index. */
function distanceTo(lines: Polyline[]): (x: number, y: number) => number {
  const segments = lines.flatMap(({ xy }) =>
    Array.from(
      { length: xy.length / 2 },
      (_, i) => [xy[2 * i], xy[2 * i + 1], xy[(2 * i + 2) % xy.length], xy[(2 * i + 3) % xy.length]] as [number, number, number, number],
    ),
  );
  const tree = new Flatbush(segments.length);
  for (const [ax, ay, bx, by] of segments) tree.add(Math.min(ax, bx), Math.min(ay, by), Math.max(ax, bx), Math.max(ay, by));
  tree.finish();
  return (x, y) =>
    tree
      .neighbors(x, y, 6, 1)
      .reduce((best, i) => Math.min(best, segmentDistance(x, y, ...(segments[i] as [number, number, number, number]))), Infinity);
}

describe('the cut file', () => {
  const { paths, sections, travelMm } = planCut([
    { kind: 'weed', outline: boxShape(400, 200), setup: PLAIN },
    { kind: 'film', outline: word, setup: PLAIN },
  ]);
  const bytes = writeHpgl(paths, VALUES);
  const text = new TextDecoder().decode(bytes);

  test('the independent checker finds nothing wrong, and inner contours come before outer ones', () => {
    const file = join(work, 'word.plt');
    const wanted = join(work, 'expect.json');
    writeFileSync(file, bytes);
    writeFileSync(
      wanted,
      JSON.stringify({
        pens: [1],
        contours: word.contours.length + 1,
        order: 'inner-first',
        max_uncut: 0.03,
        max_tip_error: 0.03,
        nominal: nominalOf(fine(word, 24).concat(fine(boxShape(400, 200)))),
      }),
    );
    const out = execFileSync('python3', ['tests/checkers/check_hpgl.py', file, '--media', '1000,610', '--expect', wanted, '-q'], {
      encoding: 'utf8',
    });
    expect(out).toContain('OK (0 errors');
  });

  test('every line lies within 0.03 mm of the true outline', () => {
    const distance = distanceTo(fine(word).concat(fine(boxShape(400, 200))));
    let worst = 0;
    for (const stroke of strokesOf(text)) {
      for (let i = 2; i < stroke.length; i += 2) {
        const [ax, ay, bx, by] = [stroke[i - 2], stroke[i - 1], stroke[i], stroke[i + 1]] as [number, number, number, number];
        for (const t of [0.25, 0.5, 1]) worst = Math.max(worst, distance(ax + (bx - ax) * t, ay + (by - ay) * t));
      }
    }
    expect(worst).toBeLessThan(0.03);
  });

  test('sections are cut by kind, each from where the tool is', () => {
    expect(sections.map(({ kind }) => kind)).toEqual(['film', 'weed']);
    expect(estimateCut(paths, { speedMmPerS: 300 }).travelMm - Math.hypot(...[-2, -1].map((i) => paths.at(-1)?.xy.at(i) ?? 0))).toBeCloseTo(
      travelMm,
      6,
    );
  });

  test('contours are closed, the tool is up between them and at the end, and numbers are whole', () => {
    for (const stroke of strokesOf(text)) {
      expect(stroke.slice(0, 2)).toEqual(stroke.slice(-2));
    }
    expect(text.trimEnd().endsWith('PU;\nPU0,0;SP0;')).toBe(true);
    expect(text).not.toMatch(/[.eE]\d/);
    expect(strokesOf(text).length).toBe(word.contours.length + 1);
  });

  test('a stored setup is selected and no values are sent over it', () => {
    const stored = new TextDecoder().decode(writeHpgl(paths, { sends: 'stored', tool: 4, passes: 1 }));
    expect(stored).toMatch(/^IN;PA;SP4;\n/);
    expect(stored).not.toMatch(/VS|FS/);
  });

  test('two passes go round twice without lifting', () => {
    const twice = strokesOf(new TextDecoder().decode(writeHpgl(planBlade(boxShape(40, 20), PLAIN), { ...VALUES, passes: 2 })));
    expect(twice.length).toBe(1);
    expect(twice[0]?.length).toBe(18);
  });

  test.each(['square', 'lettering'])('the tip of a trailing blade follows the outline when the file turns the corners: %s', (kind) => {
    const outline =
      kind === 'square'
        ? mapOutline(translation(20, 20), boxShape(40, 40))
        : mapOutline(
            translation(20, 20),
            setLettering({ text: 'K', font: fontOf('anton-latin-400-normal.woff'), capHeightMm: 40 }).outline,
          );
    const file = join(work, `${kind}.plt`);
    writeFileSync(file, writeHpgl(planBlade(outline, { ...PLAIN, compensate: true, overcutMm: 1 }), VALUES));
    writeFileSync(join(work, 'nominal.json'), JSON.stringify({ contours: nominalOf(fine(outline, 24)) }));
    writeFileSync(join(work, 'limits.json'), JSON.stringify({ max_uncut: 0.06, max_corner_error: 0.06, max_tip_error: 0.06 }));
    const out = execFileSync(
      'python3',
      [
        'tests/checkers/check_hpgl.py',
        file,
        '--knife',
        '0.25',
        '--nominal',
        join(work, 'nominal.json'),
        '--skip-start',
        '1',
        '--expect',
        join(work, 'limits.json'),
      ],
      { encoding: 'utf8' },
    );
    expect(out).toContain('OK (0 errors');
  });
});

describe('begin and time', () => {
  const contour = (outline: Outline): Contour => outline.contours[0] as Contour;

  test('starting at another node does not change the line', () => {
    const turned = startContourAt(contour(ovalShape(30, 20)), 2);
    expect(turned.spans.length).toBe(4);
    expect(turned.spans.at(-1)?.slice(-2)).toEqual(turned.spans[0]?.slice(0, 2));
  });

  test('time grows with length, corners and passes', () => {
    const time = (outline: Outline, passes = 1): number => estimateCut(planBlade(outline, PLAIN), { speedMmPerS: 300, passes }).seconds;
    expect(time(ovalShape(400, 400))).toBeGreaterThan(time(ovalShape(200, 200)));
    expect(time(boxShape(200, 200), 2)).toBeGreaterThan(1.6 * time(boxShape(200, 200)));
    expect(estimateCut(planBlade(weld([boxShape(100, 100)]), PLAIN), { speedMmPerS: 300 }).cutMm).toBeCloseTo(400, 6);
  });
});

describe('the way a sheet is cut', () => {
  const anyLot = fc.array(
    fc.record({
      kind: fc.constantFrom(...CUT_KINDS),
      x: fc.integer({ min: 0, max: 3000 }),
      y: fc.integer({ min: 0, max: 500 }),
      size: fc.integer({ min: 2, max: 120 }),
    }),
    { minLength: 1, maxLength: 30 },
  );
  const sectionsOf = (lot: { kind: (typeof CUT_KINDS)[number]; x: number; y: number; size: number }[]) =>
    CUT_KINDS.map((kind) => ({
      kind,
      setup: PLAIN,
      outline: {
        contours: lot
          .filter((one) => one.kind === kind)
          .flatMap(({ x, y, size }) => mapOutline(translation(x, y), boxShape(size, size)).contours),
      },
    }));
  const boxOf = (xy: Float64Array) => {
    const [xs, ys] = [xy.filter((_, i) => i % 2 === 0), xy.filter((_, i) => i % 2 === 1)];
    return { minX: Math.min(...xs), size: Math.max(Math.max(...xs) - Math.min(...xs), Math.max(...ys) - Math.min(...ys)) };
  };
  const lengthOf = (xy: Float64Array): number =>
    Array.from({ length: xy.length / 2 - 1 }, (_, i) => Math.hypot(xy[2 * i + 2]! - xy[2 * i]!, xy[2 * i + 3]! - xy[2 * i + 1]!)).reduce(
      (a, b) => a + b,
      0,
    );

  test('whatever the order, windows and rules, every line is cut once', () => {
    fc.assert(
      fc.property(
        anyLot,
        fc.shuffledSubarray([...CUT_KINDS]),
        fc.option(fc.integer({ min: 50, max: 2000 })),
        fc.integer({ min: 0, max: 60 }),
        (lot, order, windowMm, smallFirstMm) => {
          const { paths } = planCut(sectionsOf(lot), { order, windowMm, smallFirstMm });
          expect(paths).toHaveLength(lot.length);
          const total = (lengths: number[]): number => lengths.reduce((a, b) => a + b, 0);
          expect(total(paths.map(({ xy }) => lengthOf(xy)))).toBeCloseTo(total(lot.map(({ size }) => 4 * size)), 3);
        },
      ),
      { numRuns: 40, seed: 5 },
    );
  });

  test('kinds come as they are told, those that are not named last; windows one after another', () => {
    const lot = [...CUT_KINDS].flatMap((kind, i) => [100, 1500].map((x) => ({ kind, x: x + 20 * i, y: 30 * i, size: 10 })));
    expect(planCut(sectionsOf(lot), { order: ['through', 'weed'] }).sections.map(({ kind }) => kind)).toEqual([
      'through',
      'weed',
      'film',
      'kiss',
      'score',
      'perforated',
    ]);
    const windows = planCut(sectionsOf(lot), { windowMm: 1000 });
    expect(windows.paths.map(({ xy }) => Math.floor(boxOf(xy).minX / 1000))).toEqual(
      [...lot.map(() => 0), ...lot.map(() => 1)].slice(6, 18),
    );
    expect(windows.sections.map(({ kind }) => kind)).toEqual([...CUT_KINDS, ...CUT_KINDS]);
  });

  test('what lies in a contour stays in its window, and small parts come before large ones', () => {
    const film = (outlines: Outline[]) => [
      { kind: 'film' as const, setup: PLAIN, outline: { contours: outlines.flatMap(({ contours }) => contours) } },
    ];
    const around = mapOutline(translation(900, 0), boxShape(400, 100));
    const inside = mapOutline(translation(1200, 20), boxShape(20, 20));
    const later = mapOutline(translation(1010, 200), boxShape(30, 30));
    const { paths } = planCut(film([later, around, inside]), { windowMm: 1000 });
    expect(paths.map(({ xy }) => boxOf(xy).minX)).toEqual([1200, 900, 1010]);
    const small = planCut(film([boxShape(300, 100), mapOutline(translation(900, 400), boxShape(8, 8))]), { smallFirstMm: 10 });
    expect(small.paths.map(({ xy }) => boxOf(xy).size)).toEqual([8, 300]);
  });

  test('begun on its longest straight run a contour stays the same line; without one it stays as it is', () => {
    const plate = boxShape(80, 30).contours[0]!;
    const begun = startOnStraight(plate);
    expect(begun.spans).toHaveLength(5);
    expect(begun.spans[0]?.slice(0, 2)).toEqual(begun.spans.at(-1)?.slice(-2));
    const [path] = planBlade({ contours: [begun] }, PLAIN);
    expect(lengthOf(path!.xy)).toBeCloseTo(220, 9);
    // the middle of a long side
    expect(path!.xy[0]).toBeCloseTo(40, 9);
    const oval = ovalShape(30, 20).contours[0]!;
    expect(startOnStraight(oval)).toBe(oval);
  });

  test.each(['star', 'square', 'letter'])('the tip is within 0.05 mm of the line all along, begun on a straight run: %s', (kind) => {
    const star: Outline = {
      contours: [
        {
          closed: true,
          spans: Array.from({ length: 10 }, (_, i) => {
            const corner = (k: number): [number, number] => {
              const [r, turn] = [k % 2 === 0 ? 30 : 12, (k * Math.PI) / 5];
              return [50 + r * Math.sin(turn), 50 + r * Math.cos(turn)];
            };
            return [...corner(i), ...corner(i + 1)] as [number, number, number, number];
          }),
        },
      ],
    };
    const outline =
      kind === 'star'
        ? star
        : mapOutline(
            translation(20, 20),
            kind === 'square'
              ? boxShape(40, 40)
              : setLettering({ text: 'K', font: fontOf('anton-latin-400-normal.woff'), capHeightMm: 3 }).outline,
          );
    const setup = { ...PLAIN, compensate: true, overcutMm: 0.6, entry: 'straight' as const };
    const [file, nominal, limits] = ['begun.plt', 'begun.json', 'begun-limits.json'].map((name) => join(work, `${kind}-${name}`)) as [
      string,
      string,
      string,
    ];
    writeFileSync(file, writeHpgl(planCut([{ kind: 'film', outline, setup }]).paths, VALUES));
    writeFileSync(nominal, JSON.stringify({ contours: nominalOf(fine(outline, 24)) }));
    writeFileSync(limits, JSON.stringify({ max_uncut: 0.05, max_corner_error: 0.05, max_tip_error: 0.05 }));
    const out = execFileSync(
      'python3',
      ['tests/checkers/check_hpgl.py', file, '--knife', '0.25', '--nominal', nominal, '--skip-start', '0.6', '--expect', limits],
      { encoding: 'utf8' },
    );
    expect(out).toContain('OK (0 errors');
  });
});
