/** What the Cut check offers to do, as its user sees it: done for one or for all, in one step that can be taken back. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { boxShape } from '@lorvek/core/geometry';
import type { FindingCode } from '@lorvek/core/check';
import {
  addEdgeCut,
  addFilm,
  addItems,
  defaultLayUp,
  emptyDrawing,
  filmsOf,
  itemOf,
  layerOf,
  layUpOf,
  setLayUp,
  setItemFields,
  type Drawing,
  type EdgeCutItem,
  type LayUp,
} from '@lorvek/model';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { film, printLayer, run, shapeOf, stockOf } from '../../../../packages/model/src/drawing.support.ts';
import { openDrawing } from '../document/document.support.ts';
import type { LocatedFinding } from '../document/sheets.ts';
import { remedyModules } from './remedies.support.ts';

const page = remedyModules();

const open = (drawing: Drawing): void => openDrawing(page.store, drawing);
const now = (): Drawing => page.store.useDocument.getState().drawing;
const steps = (): number => page.store.useDocument.getState().history.back.length;

/** Shapes of a print with an edge cut round each, and a film beside. */
function drawn(count: number, fields: Partial<EdgeCutItem> = {}): { drawing: Drawing; shapes: string[]; cuts: string[] } {
  let drawing = run(emptyDrawing(), addFilm, { film: printLayer('print-a') });
  drawing = run(drawing, addFilm, { film: film('film-a') });
  const shapes = Array.from({ length: count }, (_, i) => `item-s${i}`);
  drawing = run(drawing, addItems, { items: shapes.map((id) => shapeOf(id, 'print-a', boxShape(20, 12))), roots: shapes });
  const cuts = shapes.map((_, i) => `item-c${i}`);
  cuts.forEach((id, i) => {
    drawing = run(drawing, addEdgeCut, { id, of: [shapes[i]!] });
    drawing = run(drawing, setItemFields, { id, fields });
  });
  return { drawing, shapes, cuts };
}
const cutOf = (id: string): EdgeCutItem => itemOf(now(), id) as EdgeCutItem;

const found = (code: FindingCode, parts: readonly string[], sheet?: SheetPlan): LocatedFinding => ({
  finding: { code, level: 'stop', text: code, parts },
  sheet,
});
/** A sheet of a layer of which no more is asked than its lay-up and the size of its work. */
const sheetOf = (layer: string, size: { widthMm: number; usedLengthMm: number }, fields: object = {}): SheetPlan =>
  ({
    layer: layerOf(now(), layer),
    layUp: layUpOf(now(), layer),
    frame: { box: { minX: 0, minY: 0, maxX: size.usedLengthMm, maxY: size.widthMm } },
    usedLengthMm: size.usedLengthMm,
    filled: {},
    ...fields,
  }) as never;

describe('what is done about edge cuts', () => {
  const CASES: readonly [FindingCode, Partial<EdgeCutItem>, (cut: EdgeCutItem) => unknown, unknown][] = [
    ['edge-cut-empty', { distanceMm: -9 }, ({ distanceMm }) => distanceMm, 0],
    ['bleed-missing', {}, ({ bleedMm }) => bleedMm, 2],
    ['edge-sharp', { smoothMm: 0 }, ({ smoothMm }) => smoothMm, 0.5],
    ['edge-sharp', { smoothMm: 3 }, ({ smoothMm }) => smoothMm, 3],
    ['no-bridges', { line: { kind: 'through' } }, ({ line }) => line.kind, 'perforated'],
  ];

  test('is done to those that were found, once each, in one step', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...CASES),
        fc.integer({ min: 1, max: 5 }),
        fc.array(fc.nat(4), { minLength: 1, maxLength: 8 }),
        ([code, fields, read, wanted], count, picked) => {
          const { drawing, cuts } = drawn(count, fields);
          open(drawing);
          const named = [...new Set(picked.map((n) => cuts[n % count]!))];
          // the same cut may be found at several places, and one that is gone meanwhile as well
          const all = [...picked.map((n) => found(code, [cuts[n % count]!])), found(code, ['item-gone'])];
          page.remedies.remedy(all);
          for (const id of cuts)
            if (named.includes(id)) expect(read(cutOf(id))).toEqual(wanted);
            else expect(cutOf(id)).toBe(itemOf(drawing, id));
          expect(steps()).toBeLessThanOrEqual(1);
          if (steps() > 0) page.store.undo();
          expect(now()).toEqual(drawing);
        },
      ),
      { numRuns: 60 },
    );
  });
});

describe('what is done about cut lines that run into something', () => {
  test('a line through art goes round it too; drawn lines are left, which is said', () => {
    const { drawing, shapes, cuts } = drawn(2);
    open(drawing);
    const into = [cuts[0]!, shapes[1]!];
    page.remedies.remedy([found('edge-into-art', into), found('edge-into-art', into)]);
    expect(cutOf(cuts[0]!).of).toEqual([shapes[0], shapes[1]]);
    expect(cutOf(cuts[1]!)).toBe(itemOf(drawing, cuts[1]!));
    expect(steps()).toBe(1);
    page.store.undo();
    page.remedies.remedy([found('edge-into-art', [shapes[0]!, shapes[1]!]), found('edge-into-art', [cuts[0]!, 'item-gone'])]);
    expect(now()).toEqual(drawing);
  });

  test('lines of one kind that meet become one, the deeper kinds go farther out, each by what a blade needs', () => {
    const kinds = ['kiss', 'score', 'through'] as const;
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.constantFrom(...kinds), fc.integer({ min: -2, max: 6 })), { minLength: 2, maxLength: 6 }),
        (lines) => {
          let { drawing } = drawn(lines.length);
          lines.forEach(([kind, distanceMm], i) => {
            drawing = run(drawing, setItemFields, { id: `item-c${i}`, fields: { line: { kind }, distanceMm } as Partial<EdgeCutItem> });
          });
          open(drawing);
          page.remedies.remedy([
            found(
              'lines-meet',
              lines.map((_, i) => `item-c${i}`),
            ),
          ]);
          const left = lines.flatMap((_, i) => (itemOf(now(), `item-c${i}`) ? [cutOf(`item-c${i}`)] : []));
          expect(left.map(({ line }) => line.kind).sort()).toEqual([...new Set(lines.map(([kind]) => kind))].sort());
          expect(left.flatMap(({ of }) => of).sort()).toEqual(lines.map((_, i) => `item-s${i}`).sort());
          const outward = (['score', 'kiss', 'through'] as const).flatMap((kind) => left.filter(({ line }) => line.kind === kind));
          outward.slice(1).forEach((cut, i) => expect(cut.distanceMm).toBeGreaterThanOrEqual(outward[i]!.distanceMm + 3));
          expect(steps()).toBeLessThanOrEqual(1);
          if (steps() > 0) page.store.undo();
          expect(now()).toEqual(drawing);
        },
      ),
      { numRuns: 40 },
    );
  });

  test('a piece that is too small is cut as large as holds, its holes not at all', () => {
    const small = (id: string, across: number) => {
      const one = found('edge-small', [id]);
      return { ...one, finding: { ...one.finding, box: { minX: 0, minY: 0, maxX: across, maxY: 50 } } };
    };
    const { drawing, cuts } = drawn(2);
    open(run(drawing, setItemFields, { id: cuts[1]!, fields: { line: { kind: 'through' } } as Partial<EdgeCutItem> }));
    page.remedies.remedy([small(cuts[0]!, 3), small(cuts[1]!, 5)]);
    // 4 mm on the liner, 12 mm all through
    expect(cuts.map((id) => cutOf(id).distanceMm)).toEqual([expect.closeTo(2.6, 6), expect.closeTo(5.6, 6)]);
    open(run(drawing, setItemFields, { id: cuts[0]!, fields: { holes: true } as Partial<EdgeCutItem> }));
    page.remedies.remedy([small(cuts[0]!, 3)]);
    expect(cutOf(cuts[0]!)).toMatchObject({ holes: false, distanceMm: 2 });
  });
});

describe('what is done about items and films', () => {
  test('what is hidden is taken out, and one step gives it back', () => {
    const { drawing, shapes } = drawn(3);
    open(drawing);
    page.remedies.remedy([found('hidden', [shapes[0]!]), found('hidden', [shapes[2]!, shapes[0]!])]);
    expect(shapes.map((id) => itemOf(now(), id) !== undefined)).toEqual([false, true, false]);
    page.store.undo();
    expect(now()).toEqual(drawing);
  });

  test('what has no film goes onto the topmost; without any film that is said and nothing is changed', () => {
    const { drawing, shapes } = drawn(2);
    open(drawing);
    page.remedies.remedy([found('film-missing', shapes)]);
    expect(shapes.map((id) => (itemOf(now(), id) as { layer?: string | null }).layer)).toEqual(['film-a', 'film-a']);
    expect(filmsOf(now()).at(-1)?.id).toBe('film-a');
    const bare = run(emptyDrawing(), addItems, {
      items: [{ ...shapeOf('item-x', 'film-a', boxShape(5, 5)), layer: null }],
      roots: ['item-x'],
    });
    open(bare);
    page.remedies.remedy([found('film-missing', ['item-x'])]);
    expect(now()).toBe(bare);
  });

  test('a finding that nothing can be done about changes nothing', () => {
    const { drawing, shapes } = drawn(1);
    open(drawing);
    page.remedies.remedy([]);
    page.remedies.remedy([found('overlap' as FindingCode, shapes)]);
    expect(now()).toBe(drawing);
  });
});

describe('what is done about material', () => {
  test('the narrowest roll that holds the work is taken, whatever else is in Stock; else nothing', () => {
    fc.assert(
      fc.property(
        fc.array(fc.record({ widthMm: fc.integer({ min: 100, max: 1600 }), lengthLeftMm: fc.integer({ min: 0, max: 9000 }) }), {
          maxLength: 6,
        }),
        fc.record({ widthMm: fc.integer({ min: 50, max: 1500 }), usedLengthMm: fc.integer({ min: 50, max: 8000 }) }),
        fc.constantFrom<FindingCode>('no-roll', 'roll-short'),
        (rolls, work, code) => {
          const { drawing } = drawn(1);
          open(drawing);
          const entry = stockOf('film-a');
          const layer = layerOf(drawing, 'film-a')!;
          const all = rolls.map((roll, i) => ({ ...entry.rolls[0]!, id: `roll-${i}`, ...roll }));
          page.shop.useShop.setState({ stock: [{ ...entry, id: layer.stockId, rolls: all }] });
          const sheet = sheetOf('film-a', work);
          page.sheets.useSheets.setState({ sheets: [sheet] });
          page.remedies.remedy([found(code, [], sheet), found(code, [], sheet)]);
          const { marginMm } = defaultLayUp('film-a');
          const holding = all.filter((roll) => roll.widthMm >= work.widthMm + 2 * marginMm && roll.lengthLeftMm >= work.usedLengthMm);
          const { rollId } = layUpOf(now(), 'film-a');
          if (holding.length === 0) expect(now()).toEqual(drawing);
          else expect(all.find(({ id }) => id === rollId)?.widthMm).toBe(Math.min(...holding.map(({ widthMm }) => widthMm)));
          expect(steps()).toBeLessThanOrEqual(1);
        },
      ),
      { numRuns: 80 },
    );
  });

  test('work that was turned against the grain is turned back, what was moved by hand with it', () => {
    const { drawing } = drawn(1);
    const turned = run(drawing, setLayUp, {
      film: 'film-a',
      fields: { turnDeg: 90, fill: { kind: 'grid', copies: 4, gapMm: 3, rows: 'head-to-tail', moved: [] } } as Partial<LayUp>,
    });
    open(turned);
    const sheet = sheetOf('film-a', { widthMm: 100, usedLengthMm: 100 });
    page.sheets.useSheets.setState({ sheets: [sheet] });
    page.remedies.remedy([found('grain-broken', [], sheet)]);
    expect(layUpOf(now(), 'film-a')).toMatchObject({ turnDeg: 0, fill: { kind: 'grid', rows: 'half', copies: 4, moved: [] } });
    page.store.undo();
    expect(now()).toEqual(turned);
  });

  test('seams go to the free places beside them, the others stay; where there is none, none moves', () => {
    const { drawing } = drawn(1);
    const panels = {
      kind: 'panels',
      way: 'width',
      widthMm: 400,
      heightMm: null,
      columns: 3,
      rows: 1,
      seams: { x: [], y: [] },
      overlapMm: 10,
      overlapUpMm: 0,
      leastMm: 50,
      turnEveryOther: false,
      bleedMm: 0,
      order: 'from-left',
      whole: [],
      label: true,
    };
    const divided = run(drawing, setLayUp, { film: 'film-a', fields: { fill: panels } as unknown as Partial<LayUp> });
    open(divided);
    const sheet = sheetOf('film-a', { widthMm: 100, usedLengthMm: 900 }, { filled: { panels: { seams: { x: [400, 800], y: [] } } } });
    const crossing = found('seam-crosses', ['item-s0'], sheet);
    page.remedies.remedy([crossing]);
    expect(now()).toBe(divided);
    page.remedies.remedy([{ ...crossing, finding: { ...crossing.finding, seam: { axis: 'x', from: 800, to: 765 } } }]);
    expect(layUpOf(now(), 'film-a').fill).toMatchObject({ way: 'seams', seams: { x: [400, 765], y: [] } });
  });
});

describe('remedies', () => {
  test('have a name for one and another for all', () => {
    const codes: FindingCode[] = ['no-roll', 'crossing', 'open-outline', 'tiny-part', 'hidden', 'seam-crosses'];
    const laid: FindingCode[] = ['off-material', 'in-margin', 'lies-on-another', 'grain-broken', 'no-place', 'nest-old', 'roll-short'];
    const edges: FindingCode[] = ['edge-into-art', 'lines-meet', 'edge-small', 'bleed-missing', 'edge-sharp', 'no-bridges'];
    for (const code of [...codes, ...laid, ...edges]) {
      const one = page.remedies.remedyFor(code);
      expect(one?.name).toBeTruthy();
      expect(one?.all).toBeTruthy();
    }
  });
});
