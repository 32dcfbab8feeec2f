/** Remedies on the material, from the finding to the sheet worked out anew: what was found is gone, and one step takes it back. */
import { describe, expect, test } from '@jest/globals';
import { boxShape } from '@lorvek/core/geometry';
import type { FindingCode } from '@lorvek/core/check';
import {
  addFilm,
  addItems,
  defaultLayUp,
  emptyDrawing,
  layUpOf,
  setLayUp,
  type Drawing,
  type Fill,
  type Known,
  type LayUp,
  type PlainItem,
  type StockFilm,
} from '@lorvek/model';
import { sheetsOf, type SheetPlan } from '@lorvek/model/plan-sheet';
import { film, run, shapeOf, stockOf } from '../../../../packages/model/src/drawing.support.ts';
import { plainOutline } from '../../../../packages/model/src/queries/plain-outline.ts';
import { openDrawing } from '../document/document.support.ts';
import type { LocatedFinding } from '../document/sheets.ts';
import { remedyModules } from './remedies.support.ts';

const page = remedyModules();

const now = (): Drawing => page.store.useDocument.getState().drawing;
const knownOf = (item: { kind: string }): Known => {
  const outline = plainOutline(item as PlainItem);
  return { derived: { outline, lines: [], missing: [] }, pieces: [{ layer: (item as PlainItem).layer, outline }] };
};
const USUAL = stockOf('film-a', { widthMm: 600 });

/** Three boxes of 100, 80 and 60 mm on a film that is laid up so. */
function open(fields: Partial<LayUp>, stock: StockFilm = USUAL): void {
  const items = [100, 80, 60].map((w, i) => ({
    ...shapeOf(`item-${i}`, 'film-a', boxShape(w, 40)),
    matrix: [1, 0, 0, 1, 120 * i, 0] as [number, number, number, number, number, number],
  }));
  const drawn = run(run(emptyDrawing(), addFilm, { film: film('film-a') }), addItems, { items, roots: items.map(({ id }) => id) });
  openDrawing(page.store, run(drawn, setLayUp, { film: 'film-a', fields: { ...defaultLayUp('film-a'), ...fields } }));
  page.shop.useShop.setState({ stock: [stock] });
}
/** The sheets as they are now, as the page has them. */
function laid(): SheetPlan[] {
  const all = sheetsOf(now(), page.shop.useShop.getState().stock ?? [], knownOf as never, 'job-1');
  page.sheets.useSheets.setState({ sheets: all, busy: false, unknown: false });
  return all;
}
const foundNow = (code: FindingCode): LocatedFinding[] =>
  laid().flatMap((sheet) => sheet.findings.filter((finding) => finding.code === code).map((finding) => ({ finding, sheet })));

/** Does what is offered about all of a kind. @returns the lay-up after it */
function putRight(code: FindingCode): LayUp {
  const found = foundNow(code);
  expect(found.map(({ finding }) => finding.code)).toContain(code);
  const before = now();
  page.remedies.remedy(found);
  expect(foundNow(code)).toEqual([]);
  const after = layUpOf(now(), 'film-a');
  page.store.undo();
  expect(now()).toEqual(before);
  page.store.redo();
  return after;
}

const NEST: Fill = { kind: 'nest', gapMm: 5, turnStepDeg: 90, intoHoles: false };
type Map6 = [number, number, number, number, number, number];
/** A nest that has the pieces so. */
const nested = (maps: readonly Map6[], fields: Partial<LayUp> = {}): void => {
  open({ ...fields, fill: { ...NEST, found: { key: '', placed: maps.map((map, i) => ({ id: `item-${i}`, copy: 0, sheet: 0, map })) } } });
  const key = laid()[0]!.filled.nest!.key;
  const { fill } = layUpOf(now(), 'film-a');
  if (fill.kind === 'nest' && fill.found)
    page.store.dispatch(setLayUp, { film: 'film-a', fields: { fill: { ...fill, found: { ...fill.found, key } } } }, { origin: 'test' });
};
const IN_A_ROW: Map6[] = [
  [1, 0, 0, 1, 10, 10],
  [1, 0, 0, 1, 120, 10],
  [1, 0, 0, 1, 210, 10],
];

describe('what lies off the material, or in its margin', () => {
  test('of work as drawn goes to the beginning, of what was moved by hand back to where it was', () => {
    open({ fill: { kind: 'as-drawn', copies: 1, gapMm: 5, alongMm: 0, acrossMm: 590 } });
    expect(putRight('off-material').fill).toMatchObject({ alongMm: 0, acrossMm: 0 });
    const moved = [{ id: 'whole', copy: 0, sheet: 0, map: [1, 0, 0, 1, 4, 200] as Map6 }];
    open({ fill: { kind: 'as-drawn', copies: 1, gapMm: 5, alongMm: 0, acrossMm: 0, moved }, weedBoxMm: null });
    putRight('in-margin');
  });

  test('of a nest comes onto it: all together, or each that is off it', () => {
    nested([IN_A_ROW[0]!, [1, 0, 0, 1, 120, 580], IN_A_ROW[2]!]);
    putRight('off-material');
    // the others stay where they are
    expect(laid()[0]!.placements.filter(({ map }) => map[5] < 100)).toHaveLength(2);
    nested([[1, 0, 0, 1, 3, 10], IN_A_ROW[1]!, IN_A_ROW[2]!], { weedBoxMm: null });
    putRight('in-margin');
  });

  test('of work that is too wide is turned by a quarter, and where that is not allowed goes onto a wider roll', () => {
    const narrow = stockOf('film-a', { widthMm: 200 });
    open({ turnDeg: 90, rollId: narrow.rolls[0]!.id }, narrow);
    expect(putRight('off-material').turnDeg).toBe(180);
    const wide = { ...narrow.rolls[0]!, id: 'roll-wide', widthMm: 500 };
    open({ turnDeg: 90, grain: 'half', rollId: narrow.rolls[0]!.id }, { ...narrow, rolls: [...narrow.rolls, wide] });
    expect(putRight('off-material').rollId).toBe('roll-wide');
  });
});

describe('pieces of a nest', () => {
  test('that lie on one another are taken apart', () => {
    nested([IN_A_ROW[0]!, [1, 0, 0, 1, 60, 20], IN_A_ROW[2]!]);
    putRight('lies-on-another');
  });

  test('that are turned against the grain are turned back', () => {
    nested([IN_A_ROW[0]!, [0, 1, -1, 0, 200, 10], [-1, 0, 0, -1, 300, 60]], { grain: 'half' });
    putRight('grain-broken');
  });

  test('that have no place are given one behind the others', () => {
    nested(IN_A_ROW.slice(0, 2));
    putRight('no-place');
    expect(laid().flatMap(({ placements }) => placements)).toHaveLength(3);
  });

  test('are taken as they lie when the nest was found for something else', () => {
    nested(IN_A_ROW);
    const { fill } = layUpOf(now(), 'film-a');
    page.store.dispatch(setLayUp, { film: 'film-a', fields: { fill: { ...fill, gapMm: 9 } as Fill } }, { origin: 'test' });
    putRight('nest-old');
  });

  test('that are locked stay, and that nothing could be done is said', () => {
    nested([IN_A_ROW[0]!, [1, 0, 0, 1, 60, 20], IN_A_ROW[2]!]);
    const { fill } = layUpOf(now(), 'film-a');
    if (fill.kind !== 'nest' || !fill.found) throw new Error('It is a nest.');
    const placed = fill.found.placed.map((one) => ({ ...one, locked: true }));
    page.store.dispatch(setLayUp, { film: 'film-a', fields: { fill: { ...fill, found: { ...fill.found, placed } } } }, { origin: 'test' });
    const before = now();
    page.remedies.remedy(foundNow('lies-on-another'));
    expect(now()).toBe(before);
  });
});
