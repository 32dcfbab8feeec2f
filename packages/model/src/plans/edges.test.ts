import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  area,
  bounds,
  boxShape,
  flatten,
  formatPath,
  growBox,
  keepOverlap,
  knockOut,
  lineDistance,
  mapOutline,
  offset,
  ovalShape,
  parsePath,
  polygonShape,
  translation,
  weld,
  windingNumber,
  type Box,
  type Outline,
} from '@lorvek/core/geometry';
import { makePlates, type PrintItem } from '@lorvek/core/print';
import { printLayer, run, shapeOf, stockOf } from '../drawing.support.ts';
import {
  addEdgeCut,
  addFilm,
  addItems,
  emptyDrawing,
  setLayUp,
  USUAL_SETTINGS,
  type Drawing,
  type EdgeCutItem,
  type Item,
  type PrintLayer,
} from '../index.ts';
import { knownIn } from '../queries/know.ts';
import { bleedArt } from './bleed-art.ts';
import { bleedsOf, type Bleed } from './bleeds.ts';
import { checkJob } from './check-job.ts';
import { jobCost } from './job-cost.ts';
import type { PiecesOf } from './plan-sheet.ts';
import { isUnknown } from '../queries/known-pieces.ts';
import { proofPages } from '../papers/proof-and-ticket.ts';

const stock = [stockOf('print-p')];
const at = (x: number, y: number, outline: Outline): Outline => mapOutline(translation(x, y), outline);
/** Points of a closed polyline, so many mm apart. */
const everyMm = (xy: ArrayLike<number>, mm: number): [number, number][] =>
  Array.from({ length: xy.length / 2 }, (_, i): [number, number][] => {
    const [x, y, nx, ny] = [xy[2 * i]!, xy[2 * i + 1]!, xy[(2 * i + 2) % xy.length]!, xy[(2 * i + 3) % xy.length]!];
    const parts = Math.max(1, Math.ceil(Math.hypot(nx - x, ny - y) / mm));
    return Array.from({ length: parts }, (__, k) => [x + ((nx - x) * k) / parts, y + ((ny - y) * k) / parts]);
  }).flat();
const gridOver = ({ minX, minY, maxX, maxY }: Box, n: number): [number, number][] =>
  Array.from({ length: n * n }, (_, i) => [
    minX + ((maxX - minX) * (i % n)) / (n - 1),
    minY + ((maxY - minY) * Math.floor(i / n)) / (n - 1),
  ]);
const shape = (id: string, outline: Outline) => shapeOf(id, 'print-p', outline);

type Cut = readonly [of: string[], fields: Partial<EdgeCutItem>];
function draw(items: Item[], cuts: readonly Cut[], medium: PrintLayer['medium'] = 'white'): Drawing {
  let drawing = emptyDrawing({ name: 'Wall', hex: '#ffffff', widthMm: 900, heightMm: 500 });
  drawing = run(drawing, addFilm, { film: printLayer('print-p', { medium }) });
  drawing = run(drawing, addItems, { items, roots: items.map(({ id }) => id) });
  for (const [i, [of, fields]] of cuts.entries()) drawing = run(drawing, addEdgeCut, { id: `item-cut${i}`, of, fields });
  return drawing;
}
const check = (drawing: Drawing) =>
  checkJob(
    drawing,
    stock,
    knownIn(drawing, () => undefined, new Map()),
    'job-x',
  );
const EDGE_CODES = new Set(['edge-into-art', 'lines-meet', 'edge-small', 'edge-sharp', 'bleed-missing', 'no-bridges']);
const codes = (drawing: Drawing): string[] =>
  check(drawing)
    .sheets.flatMap(({ findings }) => findings.map(({ code }) => code))
    .filter((code) => EDGE_CODES.has(code));

const ONE = shape('item-1', at(100, 100, boxShape(120, 80)));
const TWO = shape('item-2', at(260, 100, boxShape(120, 80)));

/** A plate with a thorn between two quarter circles that meet upright: of curves so small that their chords are half a millimetre. */
const THORN = parsePath('M 50 50 L 70 50 L 70 70 L 61.4 70 C 60.627 70 60 70.627 60 71.4 C 60 70.627 59.373 70 58.6 70 L 50 70 Z');

describe('checks of cut lines', () => {
  test.each<[string, Item[], Cut[], string[]]>([
    [
      'clear of everything',
      [ONE, TWO],
      [
        [['item-1'], { distanceMm: 3 }],
        [['item-2'], { distanceMm: 3 }],
      ],
      [],
    ],
    [
      'a perforated line round kiss cuts',
      [ONE, TWO],
      [
        [['item-1'], { distanceMm: 3 }],
        [['item-2'], { distanceMm: 3 }],
        [['item-1', 'item-2'], { shape: 'box', distanceMm: 10, line: { kind: 'perforated', cutMm: 5, bridgeMm: 1 } }],
      ],
      [],
    ],
    ['a line through other art', [ONE, TWO], [[['item-1'], { distanceMm: 60 }]], ['edge-into-art']],
    [
      'two lines that cross',
      [ONE, TWO],
      [
        [['item-1'], { distanceMm: 25 }],
        [['item-2'], { distanceMm: 25 }],
      ],
      ['lines-meet'],
    ],
    [
      'a piece too small',
      [shape('item-1', at(50, 50, boxShape(4, 30)))],
      [[['item-1'], { distanceMm: 2, line: { kind: 'through' } }]],
      ['edge-small'],
    ],
    ['along the very edge', [ONE], [[['item-1'], { distanceMm: 0 }]], ['bleed-missing']],
    ['along the very edge with bleed', [ONE], [[['item-1'], { distanceMm: 0, bleedMm: 2 }]], []],
    ['inward, well within the art', [ONE], [[['item-1'], { distanceMm: -2 }]], []],
    ['a needle', [shape('item-1', parsePath('M 50 50 L 250 60 L 50 70 Z'))], [[['item-1'], { distanceMm: -2 }]], ['edge-sharp']],
    ['a tip of small curves', [shape('item-1', THORN)], [[['item-1'], { distanceMm: 0, bleedMm: 2 }]], ['edge-sharp']],
    ['the same, smoothed', [shape('item-1', THORN)], [[['item-1'], { distanceMm: 0, bleedMm: 2, smoothMm: 0.5 }]], []],
  ])('%s', (_, items, cuts, expected) => {
    expect(codes(draw(items, cuts))).toEqual(expected);
  });

  test('all through without a liner', () => {
    const through: Cut[] = [[['item-1'], { distanceMm: 3, line: { kind: 'through' } }]];
    expect(codes(draw([ONE], through, 'paper'))).toEqual(['no-bridges']);
    expect(codes(draw([ONE], through, 'white'))).toEqual([]);
  });
});

describe('bleed', () => {
  const art = (outline: Outline, hex: string): PrintItem => ({ kind: 'shape', outline, fill: { hex } });
  const seen = (items: readonly PrintItem[]): Outline => weld(items.flatMap((item) => (item.kind === 'shape' ? [item.outline] : [])));

  test('the art is carried to the bleed beyond the line everywhere, and no farther', () => {
    const size = fc.integer({ min: 20, max: 160 });
    fc.assert(
      fc.property(
        size,
        size,
        fc.boolean(),
        fc.integer({ min: -15, max: 15 }),
        fc.integer({ min: 1, max: 4 }),
        (w, h, round, tenths, bleedMm) => {
          const own = round ? ovalShape(w, h) : boxShape(w, h);
          const distance = tenths / 10;
          const line = offset(own, distance, { join: 'round' });
          const under = bleedArt([art(own, '#123456')], own, line, bleedMm);
          if (Math.abs(distance) >= bleedMm) return expect(under).toEqual([]);
          const zone = offset(line, bleedMm, { join: 'round' });
          const all = weld([seen(under), own]);
          expect(Math.abs(area(knockOut(zone, [all])))).toBeLessThan(0.02 * bleedMm * (w + h));
          expect(Math.abs(area(knockOut(seen(under), [zone])))).toBeLessThan(0.004 * (w + h));
          return undefined;
        },
      ),
      { numRuns: 12 },
    );
  });

  test('only where the line runs nearer to the end of the art than the bleed is wide', () => {
    const own: fc.Arbitrary<Outline> = fc.oneof(
      fc.record({ w: fc.integer({ min: 30, max: 90 }), h: fc.integer({ min: 10, max: 60 }) }).map(({ w, h }) => boxShape(w, h)),
      fc.integer({ min: 4, max: 7 }).map((sides) => polygonShape(sides, 40, 18)),
    );
    fc.assert(
      fc.property(
        own,
        fc.boolean(),
        fc.integer({ min: 0, max: 30 }),
        fc.integer({ min: 2, max: 9 }),
        (outline, isRound, tenths, bleedMm) => {
          const { minX, minY, maxX, maxY } = growBox(bounds(outline), tenths / 10);
          const [w, h] = [maxX - minX, maxY - minY];
          const line = at(minX, minY, isRound ? ovalShape(w, h) : boxShape(w, h));
          const under = flatten(seen(bleedArt([art(outline, '#123456')], outline, line, bleedMm)), 0.01);
          const [ends, along] = [flatten(outline, 0.01), flatten(line, 0.001)];
          const points = along.flatMap(({ xy }) => everyMm(xy, 0.4));
          const near = points.filter(([x, y]) => lineDistance(ends, x, y) < bleedMm);
          for (const [x, y] of gridOver(growBox(bounds(line), bleedMm + 1), 14)) {
            if (windingNumber(ends, x, y) !== 0) continue;
            const mm = Math.min(Infinity, ...near.map(([nx, ny]) => Math.hypot(nx - x, ny - y)));
            const isPainted = windingNumber(under, x, y) !== 0;
            if (mm < bleedMm - 0.1 && !isPainted) throw new Error(`bare at ${x}, ${y}: ${mm} from the line`);
            if (mm > bleedMm + bleedMm / 6 + 0.5 && isPainted) throw new Error(`painted at ${x}, ${y}: ${mm} from the line`);
          }
        },
      ),
      { numRuns: 25 },
    );
  });

  test('the counter of a letter stays as it is when no line runs in it', () => {
    const ring = knockOut(boxShape(60, 60), [at(20, 20, boxShape(20, 20))]);
    const under = flatten(seen(bleedArt([art(ring, '#123456')], ring, offset(boxShape(60, 60), 0.5, { join: 'round' }), 15)), 0.01);
    expect(windingNumber(under, 70, 30)).not.toBe(0);
    expect(windingNumber(under, 30, 30)).toBe(0);
  });

  test('beside two colours the nearer one is carried', async () => {
    const [left, right] = [at(10, 10, boxShape(40, 40)), at(50, 10, boxShape(40, 40))];
    const line = weld([left, right]);
    const under = bleedArt([art(left, '#ff0000'), art(right, '#0000ff')], weld([left, right]), line, 5);
    const plates = await makePlates(
      {
        title: 't',
        widthMm: 100,
        heightMm: 60,
        forms: [{ id: 'f', items: [...under, art(left, '#ff0000'), art(right, '#0000ff')] }],
        placements: [{ form: 'f', map: [1, 0, 0, 1, 0, 0] }],
        lines: [],
        marks: { contours: [] },
      },
      { dpi: 25.4 },
    );
    const ink = (name: string, x: number, y: number): number => {
      const plate = plates.find((one) => one.name === name)!;
      return plate.data[(plate.height - 1 - y) * plate.width + x]!;
    };
    // red has yellow and no cyan, blue has cyan and no yellow; above and below the seam each keeps its side
    for (const y of [7, 52]) {
      expect([ink('Yellow', 30, y), ink('Cyan', 30, y)]).toEqual([255, 0]);
      expect([ink('Yellow', 70, y), ink('Cyan', 70, y)]).toEqual([0, 255]);
      expect(ink('Yellow', 46, y)).toBe(255);
      expect(ink('Cyan', 54, y)).toBe(255);
    }
  });

  test('a picture is carried with its own pixels, unscaled, within the line and its bleed', () => {
    const matrix = [80, 0, 0, 50, 10, 20] as const;
    const line = at(10, 20, boxShape(80, 50));
    const under = bleedArt([{ kind: 'picture', picture: 'a', matrix: [...matrix] }], line, line, 3);
    expect(under.length).toBeGreaterThan(16);
    const zone = growBox(bounds(line), 3.001);
    for (const item of under) {
      if (item.kind !== 'picture') throw new Error('a picture is carried as one');
      expect(item.matrix.slice(0, 4)).toEqual(matrix.slice(0, 4));
      const box = bounds(item.clip!);
      expect(box.minX).toBeGreaterThanOrEqual(zone.minX);
      expect(box.maxY).toBeLessThanOrEqual(zone.maxY);
    }
    const all = weld([line, ...under.flatMap((item) => (item.kind === 'picture' && item.clip ? [item.clip] : []))]);
    const outer = offset(line, 3, { join: 'round' });
    expect(area(keepOverlap([all, outer])) / area(outer)).toBeGreaterThan(0.995);
  });

  test('it lies under the art of the sheet, and what a sheet without it prints stays as it was', () => {
    const plain = check(draw([ONE], [[['item-1'], { distanceMm: 0.5 }]])).sheets[0]!;
    const with_ = check(draw([ONE], [[['item-1'], { distanceMm: 0.5, bleedMm: 2 }]])).sheets[0]!;
    const [own, more] = [plain.print!.forms[0]!.items, with_.print!.forms[0]!.items];
    expect(more.slice(-own.length)).toEqual(own);
    expect(more.length).toBeGreaterThan(own.length);
    expect(with_.lines).toEqual(plain.lines);
  });

  test('the proof shows it under the art of its layer, and measures the work without it', () => {
    const drawing = draw([ONE], [[['item-1'], { distanceMm: 0.5, bleedMm: 2 }]]);
    const knownOf = knownIn(drawing, () => undefined, new Map());
    const piecesOf: PiecesOf = (item) => {
      const known = knownOf(item);
      return isUnknown(known) ? [] : known.pieces;
    };
    const bleeds = bleedsOf(drawing, knownOf);
    expect(bleeds).toMatchObject([{ cut: 'item-cut0', layer: 'print-p', of: ['item-cut0', 'item-1'] }]);
    const proof = (own: readonly Bleed[]) =>
      proofPages({
        drawing,
        job: { name: 'Plates', customer: '', dueOn: null, revision: 1 },
        piecesOf,
        dimensions: [],
        pictures: [],
        bleeds: own,
        stock,
        steps: [],
        cost: jobCost([], stock, USUAL_SETTINGS),
        settings: USUAL_SETTINGS,
        measure: () => 10,
        today: '2026-03-02',
      })[0]!;
    const [bare, bled] = [proof([]), proof(bleeds)];
    expect(bled.texts).toEqual(bare.texts);
    const carried = bled.items.filter(({ name }) => name === 'Bleed');
    expect(carried).toHaveLength(bleeds[0]!.art.length);
    const order = bled.items.map(({ name }) => name);
    expect(order.lastIndexOf('Bleed')).toBeLessThan(order.indexOf('item-1'));
    const [wide, art] = [bounds(carried[0]!.outline), bounds(bled.items[order.indexOf('item-1')]!.outline)];
    const scale = (art.maxX - art.minX) / 120;
    expect((wide.maxX - wide.minX) / scale).toBeCloseTo(120 + 2 * 2.5, 1);
  });

  test('of a picture that is clear round its middle, it is the middle that has to be near', () => {
    const shown = boxShape(40, 40);
    const picture: Item = {
      type: 'item',
      kind: 'picture',
      id: 'item-1',
      name: 'Kayak',
      layer: 'print-p',
      matrix: [1, 0, 0, 1, 100, 100],
      asset: 'a'.repeat(64),
      strengthPct: 100,
      locked: false,
      widthPx: 100,
      heightPx: 100,
      mmPerPx: 1,
      silhouette: formatPath(at(30, 30, shown)),
    };
    const bled = (fields: Partial<EdgeCutItem>): boolean => {
      const [sheet] = check(draw([picture], [[['item-1'], { bleedMm: 4, ...fields }]])).sheets;
      return sheet!.print!.forms[0]!.items.length > 1;
    };
    expect(bled({ shape: 'box', distanceMm: 2 })).toBe(true);
    // along the frame of the picture, 30 mm off what is seen of it
    expect(bled({ shape: 'box', distanceMm: 30 })).toBe(false);
  });

  test('with panels and grids it goes along', () => {
    const drawing = run(draw([ONE], [[['item-1'], { distanceMm: 0, bleedMm: 2 }]]), setLayUp, {
      film: 'print-p',
      fields: { fill: { kind: 'grid', copies: 4, gapMm: 6, rows: 'straight' } },
    });
    const [sheet] = check(drawing).sheets;
    expect(sheet!.placements).toHaveLength(4);
    expect(sheet!.print!.forms[0]!.items.length).toBeGreaterThan(1);
  });
});
