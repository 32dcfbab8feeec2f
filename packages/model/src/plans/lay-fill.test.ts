import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { bounds, compose, invert, mapBox, mapOutline, parsePath, rotation, translation, IDENTITY } from '@lorvek/core/geometry';
import { film, run, shapeOf } from '../drawing.support.ts';
import {
  addEdgeCut,
  addFilm,
  addItems,
  emptyDrawing,
  groupItems,
  layUpOf,
  setItemFields,
  setLayUp,
  transformItems,
  type BoxItem,
  type Drawing,
  type Fill,
  type Known,
  type KnownOf,
  type LayUp,
  type PrintLayer,
  type StockFilm,
} from '../index.ts';
import { knownEdgeCut } from '../queries/edge-cuts.ts';
import { plainOutline, type PlainItem } from '../queries/plain-outline.ts';
import { boxOfPlaced, outlineOfPart, withPlaces, type Placement } from './lay-places.ts';
import { sheetsOf, type SheetPlan } from './plan-sheet.ts';

const stockFilm = (id: string, lengthLeftMm = 20_000): StockFilm => ({
  id,
  series: 's',
  name: id,
  hex: '#204060',
  transfer: false,
  medium: null,
  pricePerMetre: 10,
  press: null,
  smallestPartMm: 2,
  thinnestMm: 0.5,
  rolls: [{ id: `roll-${id}`, filmId: id, widthMm: 600, lengthLeftMm, isOffcut: false }],
});

const boxItem = (id: string, layer: string, x: number, y: number, width: number, height: number): BoxItem => ({
  type: 'item',
  kind: 'box',
  id,
  name: id,
  layer,
  matrix: [1, 0, 0, 1, x, y],
  widthMm: width,
  heightMm: height,
  cornerMm: 0,
});

const knownIn = (drawing: Drawing): KnownOf => {
  const knownOf: KnownOf = (item): Known => {
    if (item.kind === 'edge-cut') return knownEdgeCut(drawing, item, knownOf);
    const outline = plainOutline(item as PlainItem);
    return { derived: { outline, lines: [], missing: [] }, pieces: [{ layer: item.layer, outline }] };
  };
  return knownOf;
};
const sheets = (drawing: Drawing, stock = [stockFilm('film-a'), stockFilm('film-b')]): SheetPlan[] =>
  sheetsOf(drawing, stock, knownIn(drawing), 'job-x');
const codes = (list: readonly SheetPlan[]): string[] => list.flatMap(({ findings }) => findings.map(({ code }) => code));

/** Three boxes on one film, two of them grouped, and one on another film over the first. */
function draw(): Drawing {
  let drawing = emptyDrawing({ name: 'Wall', hex: '#ffffff', widthMm: 1000, heightMm: 500 });
  for (const id of ['film-a', 'film-b']) drawing = run(drawing, addFilm, { film: { ...film(id), name: id } });
  const items = [
    boxItem('item-1', 'film-a', 50, 50, 100, 60),
    boxItem('item-2', 'film-a', 200, 50, 80, 40),
    boxItem('item-3', 'film-a', 200, 120, 80, 40),
    boxItem('item-4', 'film-b', 70, 60, 30, 30),
  ];
  drawing = run(drawing, addItems, { items, roots: items.map(({ id }) => id) });
  return run(drawing, groupItems, { ids: ['item-2', 'item-3'], groupId: 'item-g' });
}

const lay = (drawing: Drawing, fill: Fill, fields: Partial<LayUp> = {}): Drawing =>
  run(drawing, setLayUp, { film: 'film-a', fields: { fill, weedBoxMm: null, ...fields } });
const nest = (fields: Partial<Extract<Fill, { kind: 'nest' }>> = {}): Fill => ({
  kind: 'nest',
  gapMm: 5,
  turnStepDeg: 90,
  intoHoles: false,
  ...fields,
});
const ofA = (drawing: Drawing): SheetPlan[] => sheets(drawing).filter(({ layer }) => layer.id === 'film-a');

describe('parts', () => {
  test.each([
    ['group', [['item-1'], ['item-2', 'item-3']]],
    ['item', [['item-1'], ['item-2'], ['item-3']]],
    ['stack', [['item-1'], ['item-2', 'item-3']]],
  ] as const)('what moves as one: %s', (together, expected) => {
    const [sheet] = ofA(lay(draw(), nest({ together })));
    expect(sheet!.parts.map(({ sources }) => sources.map(({ id }) => id))).toEqual(expected);
  });

  test('what lies on another film under both belongs together with them', () => {
    const bridge = boxItem('item-5', 'film-b', 120, 60, 100, 20);
    const drawing = run(draw(), addItems, { items: [bridge], roots: ['item-5'] });
    const [sheet] = ofA(lay(drawing, nest({ together: 'stack' })));
    expect(sheet!.parts).toHaveLength(1);
  });

  test('an outline of several islands comes apart; a cut line stays with what it goes round', () => {
    let drawing = lay(draw(), nest({ together: 'item', parts: { 'item-2': { copies: 3 } } }));
    expect(codes(ofA(drawing))).toContain('no-place');
    const print: PrintLayer = {
      type: 'print',
      id: 'print-p',
      stockId: 'film-p',
      series: 's',
      name: 'p',
      hex: '#ffffff',
      medium: 'white',
      visible: true,
      locked: false,
    };
    drawing = run(drawing, addFilm, { film: print });
    drawing = run(drawing, addItems, { items: [boxItem('item-6', 'print-p', 400, 50, 60, 60)], roots: ['item-6'] });
    drawing = run(drawing, addEdgeCut, { id: 'item-cut', of: ['item-6'], shape: 'box', distanceMm: 3 } as never);
    drawing = run(drawing, setLayUp, { film: 'print-p', fields: { fill: nest({ together: 'item' }) } });
    const sheet = sheets(drawing, [stockFilm('film-a'), stockFilm('film-p')]).find(({ layer }) => layer.id === 'print-p');
    expect(sheet!.parts).toHaveLength(1);
    expect(sheet!.parts[0]!.sources.map(({ id }) => id).sort()).toEqual(['item-6', 'item-cut']);
  });
});

describe('places', () => {
  const moved = (sheet: SheetPlan, k: number, dx: number, dy: number, turn = 0): Placement => {
    const placement = sheet.placements[k]!;
    const { minX, minY, maxX, maxY } = boxOfPlaced(
      sheet.parts.find(({ id }) => id === placement.part)!,
      placement.map,
    );
    const [x, y] = [(minX + maxX) / 2, (minY + maxY) / 2];
    const about = compose(translation(x + dx, y + dy), compose(rotation(turn), translation(-x, -y)));
    return { ...placement, map: compose(about, placement.map) };
  };

  test('a copy that was moved stays where it was put, whatever is moved on the drawing, and goes back', () => {
    fc.assert(
      fc.property(
        fc.constantFrom<Fill>(
          { kind: 'as-drawn', copies: 3, gapMm: 5, alongMm: 0, acrossMm: 0 },
          { kind: 'grid', copies: 5, gapMm: 5, rows: 'half' },
          nest(),
        ),
        fc.integer({ min: -40, max: 300 }),
        fc.integer({ min: -20, max: 200 }),
        fc.constantFrom(0, 90, 33),
        fc.boolean(),
        (fill, dx, dy, turn, mirror) => {
          const drawing = lay(draw(), fill, { mirror });
          const before = ofA(drawing);
          const change = moved(before[0]!, 1, dx, dy, turn);
          const put = (back: boolean): Drawing =>
            lay(drawing, withPlaces(layUpOf(drawing, 'film-a').fill, before, mirror, [change], back), { mirror });
          const next = put(false);
          const box = (d: Drawing): unknown => {
            const [sheet] = ofA(d);
            const own = sheet!.placements.find(({ part, copy }) => part === change.part && copy === change.copy)!;
            const { minX, minY, maxX, maxY } = boxOfPlaced(
              sheet!.parts.find(({ id }) => id === own.part)!,
              own.map,
            );
            return [minX, minY, maxX, maxY].map((value) => Math.round(value * 1e6) / 1e6);
          };
          const part = before[0]!.parts.find(({ id }) => id === change.part)!;
          const wanted = mapBox(IDENTITY, bounds(mapOutline(change.map, outlineOfPart(part))));
          expect(box(next)).toEqual([wanted.minX, wanted.minY, wanted.maxX, wanted.maxY].map((value) => Math.round(value * 1e6) / 1e6));
          const all = ['item-1', 'item-2', 'item-3'];
          expect(box(run(next, transformItems, { ids: all, map: translation(37, -12) }))).toEqual(box(next));
          if (fill.kind !== 'nest')
            expect(
              ofA(lay(next, withPlaces(layUpOf(next, 'film-a').fill, ofA(next), mirror, [change], true), { mirror }))[0]!.placements,
            ).toEqual(before[0]!.placements);
          expect(invert(change.map)).toBeDefined();
        },
      ),
      { numRuns: 14 },
    );
  });

  test('pieces on one another, against the grain, in the margin and off the material are found', () => {
    const drawing = lay(draw(), nest({ together: 'item' }));
    const [sheet] = ofA(drawing);
    const onto = (dx: number, dy: number, turn = 0, grain: LayUp['grain'] = null): string[] =>
      codes(ofA(lay(drawing, withPlaces(layUpOf(drawing, 'film-a').fill, [sheet!], false, [moved(sheet!, 1, dx, dy, turn)]), { grain })));
    expect(onto(0, 0)).not.toContain('lies-on-another');
    expect(onto(-130, 0)).toContain('lies-on-another');
    expect(onto(0, 0, 90, 'half')).toContain('grain-broken');
    expect(onto(0, 0, 180, 'half')).not.toContain('grain-broken');
    expect(onto(0, 0, 180, 'none')).toContain('grain-broken');
    expect(onto(400, 0)).not.toContain('off-material');
    expect(onto(0, 560)).toContain('off-material');
    expect(onto(0, -6)).toContain('in-margin');
  });

  test('a nest for other parts is old, and what has no place yet is said', () => {
    const drawing = lay(draw(), nest({ together: 'item' }));
    const kept = lay(drawing, withPlaces(layUpOf(drawing, 'film-a').fill, ofA(drawing), false, []));
    expect(codes(ofA(kept))).not.toContain('nest-old');
    const larger = run(kept, setItemFields, { id: 'item-2', fields: { widthMm: 120 } });
    expect(codes(ofA(larger))).toContain('nest-old');
    const more = run(kept, addItems, { items: [boxItem('item-7', 'film-a', 500, 50, 40, 40)], roots: ['item-7'] });
    expect(codes(ofA(more))).toEqual(expect.arrayContaining(['nest-old', 'no-place']));
  });

  test('law: a nest is old when a part is mirrored within its own box, not when it is moved; one of the first version knows no shapes', () => {
    const corner = parsePath('M0 0L80 0L80 20L20 20L20 61.005L0 61.005Z');
    const start = run(draw(), addItems, { items: [shapeOf('item-l', 'film-a', corner)], roots: ['item-l'] });
    const asked = lay(start, nest({ together: 'item' }));
    const kept = lay(asked, withPlaces(layUpOf(asked, 'film-a').fill, ofA(asked), false, []));
    const moved = (by: readonly [number, number]): Drawing =>
      run(kept, transformItems, { ids: ['item-l'], map: [1, 0, 0, 1, by[0], by[1]] });
    // multiples of 5 µm are where rounding to 10 µm turns
    const mm = fc.integer({ min: -1e5, max: 1e5 }).map((steps) => steps * 0.005);
    fc.assert(
      fc.property(fc.tuple(mm, mm), (by) => expect(ofA(moved(by))[0]?.filled.nest?.isOld).toBe(false)),
      { numRuns: 40 },
    );
    const mirrored = (drawing: Drawing): Drawing => run(drawing, transformItems, { ids: ['item-l'], map: [-1, 0, 0, 1, 80, 0] });
    expect(ofA(mirrored(kept))[0]?.filled.nest?.isOld).toBe(true);
    const { fill } = layUpOf(kept, 'film-a');
    if (fill.kind !== 'nest' || !fill.found) throw new Error('no nest');
    // a key of the first version, of just this nest
    const former = lay(kept, { ...fill, found: { ...fill.found, key: '1d7q1uo' } });
    expect(ofA(former)[0]?.filled.nest?.isOld).toBe(false);
    expect(ofA(run(former, setItemFields, { id: 'item-2', fields: { widthMm: 120 } }))[0]?.filled.nest?.isOld).toBe(true);
  });
});

describe('sheets of a length', () => {
  test('copies go onto as many as they need, each within it; together they may be longer than the roll', () => {
    const fill: Fill = { kind: 'as-drawn', copies: 20, gapMm: 10, alongMm: 0, acrossMm: 0 };
    const drawing = lay(draw(), fill, { sheetLengthMm: 520 });
    const list = ofA(drawing);
    expect(list.length).toBeGreaterThan(1);
    expect(list.flatMap(({ placements }) => placements)).toHaveLength(20);
    for (const sheet of list) expect(sheet.usedLengthMm).toBeLessThanOrEqual(520.001);
    expect(new Set(list.map(({ id }) => id)).size).toBe(list.length);
    const short = sheets(drawing, [stockFilm('film-a', 900), stockFilm('film-b')]).filter(({ layer }) => layer.id === 'film-a');
    expect(codes(short)).toContain('roll-short');
  });

  test('what a machine reports is laid on without a roll; weed lines and boxes follow the work', () => {
    const drawing = lay(
      draw(),
      { kind: 'grid', copies: null, gapMm: 10, rows: 'head-to-tail' },
      {
        reported: { machine: 'm', widthMm: 800, lengthMm: 700 },
        weedBoxMm: 6,
        weedPer: 'whole',
        weedLines: { kind: 'straight', spacingMm: 60, clearMm: 2 },
      },
    );
    const [sheet] = ofA(drawing);
    expect(sheet!.material).toEqual({ widthMm: 800, lengthMm: 700 });
    expect(codes([sheet!])).not.toContain('no-roll');
    expect(sheet!.frame.weedBoxes).toHaveLength(1);
    expect(sheet!.lines.find(({ kind }) => kind === 'weed')!.outline.contours.length).toBeGreaterThan(3);
    expect(sheet!.filled.grid!.perSheet).toBe(sheet!.placements.length);
  });
});
