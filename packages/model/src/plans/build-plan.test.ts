/** How films are built on one another, from the drawing to the sheets: what is cut, where it lies, in which words. */
import { describe, expect, test } from '@jest/globals';
import { area, bounds, reverseContour } from '@lorvek/core/geometry';
import {
  addFilm,
  addItems,
  emptyDrawing,
  setBuild,
  setFilmFields,
  setItemFields,
  USUAL_SETTINGS,
  type BoxItem,
  type Drawing,
  type Known,
  type KnownOf,
  type Layer,
  type LeafItem,
  type ShopSettings,
  type StockFilm,
} from '../index.ts';
import { film, printLayer, run } from '../drawing.support.ts';
import { plainOutline, type PlainItem } from '../queries/plain-outline.ts';
import { builtJob, layingSteps, likeSurface } from './build-plan.ts';
import { bothWays, describePlaces, jobCost } from './job-cost.ts';
import { PLACE_MARKS, sheetsOf, type SheetPlan } from './plan-sheet.ts';

const stock: StockFilm[] = ['film-a', 'film-b'].map((id) => ({
  id,
  series: 's',
  name: id,
  hex: '#ffffff',
  transfer: false,
  medium: null,
  pricePerMetre: 10,
  press: null,
  smallestPartMm: 2,
  thinnestMm: 0.5,
  rolls: [{ id: `roll-${id}`, filmId: id, widthMm: 600, lengthLeftMm: 50_000, isOffcut: false }],
}));

const boxItem = (id: string, layer: string, x: number, y: number, width: number, height = width): BoxItem => ({
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

/** A plate on film-a with a box on film-b. */
function plate(): Drawing {
  let drawing = emptyDrawing({ name: 'Wall', hex: '#ffffff', widthMm: 400, heightMm: 300 });
  drawing = run(drawing, addFilm, { film: { ...film('film-a'), name: 'a', hex: '#1b2a4a' } });
  drawing = run(drawing, addFilm, { film: { ...film('film-b'), name: 'b', hex: '#fdfdfd' } });
  const items = [boxItem('item-plate', 'film-a', 50, 50, 200, 100), boxItem('item-word', 'film-b', 100, 80, 40)];
  return run(drawing, addItems, { items, roots: items.map(({ id }) => id) });
}

const knownOf: KnownOf = (item: LeafItem): Known => {
  const outline = plainOutline(item as PlainItem);
  const derived = { outline, lines: [], missing: [] };
  return { derived, pieces: [{ layer: item.layer, outline }] };
};
const sourcesOf = ({ parts }: SheetPlan) => parts.flatMap(({ sources }) => sources);
const sheets = (drawing: Drawing, known = knownOf): SheetPlan[] => sheetsOf(drawing, stock, known, 'job-x');
const cutArea = (sheet: SheetPlan | undefined): number =>
  Math.abs(area({ contours: (sheet?.lines ?? []).filter(({ kind }) => kind === 'film').flatMap(({ outline }) => outline.contours) }));

describe('built sheets', () => {
  test('laid over, films below stay whole; let in, they are cut out but for the trap', () => {
    const drawing = plate();
    expect(sheets(drawing).map(cutArea)).toEqual([expect.closeTo(20_000, 3), expect.closeTo(1600, 3)]);
    const inlaid = run(drawing, setFilmFields, { id: 'film-b', fields: { build: 'inlay', trapMm: 1 } });
    expect(sheets(inlaid).map(cutArea)).toEqual([expect.closeTo(20_000 - 38 * 38, 2), expect.closeTo(1600, 3)]);
    const alone = run(drawing, setFilmFields, { id: 'film-b', fields: { inlaid: ['item-word'] } });
    expect(cutArea(sheets(alone)[0])).toBeCloseTo(20_000 - 1600, 2);
  });

  test('a film of the surface’s colour can be left out: it has no sheet, the surface shows through', () => {
    const drawing = plate();
    expect(likeSurface(drawing).map(({ id }) => id)).toEqual(['film-b']);
    const without = run(drawing, setFilmFields, { id: 'film-b', fields: { leftOut: true } });
    const [only, ...others] = sheets(without);
    expect(others).toEqual([]);
    expect(cutArea(only)).toBeCloseTo(20_000 - 1600, 2);
    expect(layingSteps(without, builtJob(without, stock, knownOf)).map(({ text }) => text)).toEqual([
      expect.stringMatching(/“item-plate” on Wall/),
      'b is not cut: the surface, Wall, has its colour.',
    ]);
    expect(likeSurface(without)).toEqual([]);
  });

  test('law: in their place all films lie alike on their rolls, marks and all; packed, each at the start', () => {
    let drawing = run(plate(), setBuild, { fields: { place: 'keep' } });
    for (const id of ['film-a', 'film-b']) drawing = run(drawing, setFilmFields, { id, fields: { placeMarks: true } });
    const [low, top] = sheets(drawing);
    expect(low!.placements[0]!.map).toEqual(top!.placements[0]!.map);
    expect(low!.usedLengthMm).toBeCloseTo(top!.usedLengthMm, 9);
    const marksOf = (sheet: SheetPlan) => sourcesOf(sheet).find(({ id }) => id === PLACE_MARKS)!.outline;
    expect(marksOf(low!)).toEqual(marksOf(top!));
    expect(bounds(marksOf(low!))).toMatchObject({ minX: expect.closeTo(50 - 13, 6), maxX: expect.closeTo(250 + 13, 6) });
    const packed = sheets(run(drawing, setBuild, { fields: { place: 'pack' } }));
    expect(packed[1]!.usedLengthMm).toBeLessThan(top!.usedLengthMm);
    expect(packed.every((sheet) => sourcesOf(sheet).every(({ id }) => id !== PLACE_MARKS))).toBe(true);
  });

  test('what could not be worked out stops every film that it may be let into', () => {
    const drawing = run(plate(), setFilmFields, { id: 'film-b', fields: { build: 'inlay' } });
    const unknown: KnownOf = (item) => (item.id === 'item-word' ? { why: 'Its font is not here.' } : knownOf(item));
    const [low] = sheets(drawing, unknown);
    expect(low!.findings).toContainEqual(expect.objectContaining({ code: 'not-worked-out', level: 'stop', parts: ['item-word'] }));
    expect(builtJob(drawing, stock, unknown).unknown).toEqual(['item-word']);
  });

  test('what building finds stands on the sheet where the work lies there, and on the drawing where it is drawn', () => {
    const drawing = run(plate(), setFilmFields, { id: 'film-b', fields: { build: 'inlay', trapMm: 30 } });
    const [, top] = sheets(drawing);
    const own = builtJob(drawing, stock, knownOf).layers[1]!.findings.find(({ code }) => code === 'trap-wide')!;
    expect(own.box).toMatchObject({ minX: 100, minY: 80 });
    const laid = top!.findings.find(({ code }) => code === 'trap-wide')!;
    const [part] = top!.lines.filter(({ kind }) => kind === 'film');
    expect(laid.box).toEqual(bounds(part!.outline));
  });

  test('two films of one colour are said once, on the upper one', () => {
    const drawing = run(plate(), setFilmFields, { id: 'film-b', fields: {} });
    const same: Drawing = { ...drawing, 'film-b': { ...film('film-b'), hex: '#1b2a4a' } };
    expect(builtJob(same, stock, knownOf).layers.map(({ findings }) => findings.map(({ code }) => code))).toEqual([[], ['same-colour']]);
  });

  test('impossible settings are refused and change nothing', () => {
    const drawing = plate();
    expect(setFilmFields({ drawing, selection: [] }, { id: 'film-b', fields: { trapMm: -1 } }).enabled).toBe(false);
    expect(setFilmFields({ drawing, selection: [] }, { id: 'film-none', fields: { leftOut: true } }).enabled).toBe(false);
    expect(
      setBuild({ drawing, selection: [] }, { fields: { marks: { shape: 'dot', at: 'corners', sizeMm: 0, distanceMm: 5 } } }).enabled,
    ).toBe(false);
  });
});

describe('costs', () => {
  test('parts that run the other way round count as much; a quote that lacks something says what', () => {
    const drawing = run(plate(), addItems, { items: [boxItem('item-other', 'film-a', 300, 80, 40)], roots: ['item-other'] });
    const other: KnownOf = (item) => {
      const known = knownOf(item);
      if (!('pieces' in known) || item.id !== 'item-other') return known;
      const outline = { contours: known.pieces[0]!.outline.contours.map(reverseContour) };
      return { derived: { ...known.derived, outline }, pieces: [{ layer: 'film-a', outline }] };
    };
    const [sheet] = sheets(drawing, other);
    expect(jobCost([sheet!], stock, USUAL_SETTINGS).layers[0]!.cost.areaMm2).toBeCloseTo(20_000 + 1600, 3);
    expect(jobCost([sheet!], stock, USUAL_SETTINGS).lacks).toEqual([]);
    expect(jobCost([sheet!], [], USUAL_SETTINGS).lacks).toEqual([expect.stringMatching(/^a: It is not in Stock/)]);
    const pressed = { ...sheet!, layer: { ...film('film-a'), transfer: true } };
    expect(jobCost([pressed], stock, USUAL_SETTINGS).lacks).toEqual([expect.stringMatching(/press recipe/)]);
  });

  test('the press is closed once for each piece: copies, rows, the parts of one design together; on prints too', () => {
    const [sheet] = sheets(plate());
    const recipe = stock.map((one) => ({ ...one, press: { heatC: 150, seconds: 30, pressure: 'medium', peel: 'warm' } }) as StockFilm);
    const pressed = (layer: Layer, parts: readonly string[][]): (readonly [number, number])[] => {
      const laid = parts.map((own) => ({
        ...sheet!,
        layer: { ...layer, stockId: sheet!.layer.stockId },
        placements: own.map((part, copy) => ({ ...sheet!.placements[0]!, part, copy })),
      }));
      return jobCost(laid, recipe, USUAL_SETTINGS).layers.map(({ pressings, cost }) => [pressings, cost.pressMinutes] as const);
    };
    const transfer = { ...film('film-a'), transfer: true };
    expect(pressed(transfer, [['all', 'all', 'all']])).toEqual([[3, 1.5]]);
    expect(pressed(transfer, [['row-1', 'row-2', 'row-2.2'], ['row-3']])).toEqual([[4, 2]]);
    expect(pressed(transfer, [['item-a', 'item-b', 'item-a'], ['item-b']])).toEqual([[2, 1]]);
    expect(pressed(printLayer('print', { medium: 'transfer' }), [['all']])).toEqual([[1, 0.5]]);
    expect(pressed(film('film-a'), [['all']])).toEqual([[0, 0]]);
  });

  const settings: ShopSettings = { ...USUAL_SETTINGS, hourlyRate: 60, marginPct: 0 };
  test('both ways are reckoned film by film; what moves is said', () => {
    const drawing = plate();
    const costs = bothWays(drawing, stock, knownOf, { jobId: 'job-x', settings, built: builtJob(drawing, stock, knownOf) });
    for (const { cost } of costs.keep.layers) expect(cost.price).toBeCloseTo(cost.usedLengthMm / 100, 9);
    expect(costs.pack.usedLengthMm).toBeLessThan(costs.keep.usedLengthMm);
    expect(costs.pack.layers[0]!.cost.usedLengthMm).toBeCloseTo(costs.keep.layers[0]!.cost.usedLengthMm, 6);
    expect(describePlaces(drawing, costs)).toMatch(/moved to the start of its roll.*only where b lies/);
    expect(describePlaces(run(drawing, setBuild, { fields: { place: 'keep' } }), costs)).toMatch(
      /nothing moves\. Packed, b would take less/,
    );
    expect(costs.pack.quote.total).toBeCloseTo(costs.pack.quote.material + costs.pack.quote.work, 9);
  });

  test('a film that is not in Stock is reckoned with what is known, and says what is not', () => {
    const [first] = bothWays(plate(), [], knownOf, { jobId: 'job-x', settings, built: builtJob(plate(), [], knownOf) }).pack.layers;
    expect(first!.lacks).toEqual([expect.stringMatching(/not in Stock/), expect.stringMatching(/No roll/)]);
  });

  test('an item that was moved is built anew', () => {
    const drawing = run(plate(), setFilmFields, { id: 'film-b', fields: { build: 'inlay' } });
    const moved = run(drawing, setItemFields, { id: 'item-word', fields: { matrix: [1, 0, 0, 1, 300, 200] } });
    expect(cutArea(sheets(moved)[0])).toBeCloseTo(20_000, 3);
  });
});
