/** Pieces on the material, moved, turned, locked and put back through the document: nothing moves on the drawing, one step takes each back. */
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { Box } from '@lorvek/core/geometry';
import { defaultLayUp, leavesOf, setLayUp, type Drawing } from '@lorvek/model';
import { sheetsOf, type SheetPlan } from '@lorvek/model/plan-sheet';
import { run, stockOf } from '../../../../../packages/model/src/drawing.support.ts';
import { standInForBrowser } from '../../browser.support.ts';
import { openDrawing } from '../../document/document.support.ts';
import type * as Store from '../../document/store.ts';
import type * as SheetStore from '../../document/sheets.ts';
import type * as View from '../../drawing/view.ts';
import { boxesOf, knownOf, laidSheets, NEST } from './laid.support.ts';
import type * as Laying from './laying.ts';
import type * as Search from './nest-search.ts';
import { boxOfPieces, chosenPieces, keyOf, piecesOn, type Piece } from './pieces.ts';

standInForBrowser({ navigator: {} });
let store: typeof Store;
let sheetStore: typeof SheetStore;
let laying: typeof Laying;
let search: typeof Search;
let view: typeof View;
const realFetch = globalThis.fetch;
beforeAll(async () => {
  store = await import('../../document/store.ts');
  sheetStore = await import('../../document/sheets.ts');
  view = await import('../../drawing/view.ts');
  laying = await import('./laying.ts');
  search = await import('./nest-search.ts');
});
beforeEach(() => {
  // nothing answers: what is changed waits, and the page works on
  globalThis.fetch = () => Promise.reject(new TypeError('away'));
});
afterEach(() => {
  store.closeDocument();
  globalThis.fetch = realFetch;
});

const now = (): Drawing => store.useDocument.getState().drawing;
/** Works the sheets out anew, as the worker would. */
function refreshed(): SheetPlan[] {
  const sheets = laidSheets(now());
  sheetStore.useSheets.setState({ sheets, busy: false, unknown: false });
  return sheets;
}
function open(drawing: Drawing): SheetPlan[] {
  openDrawing(store, drawing);
  laying.useLaying.setState({ chosen: new Set(), drag: undefined });
  return refreshed();
}
const pieces = (): Piece[] => sheetStore.useSheets.getState().sheets.flatMap(piecesOn);
const boxOf = (i: number): Box => boxOfPieces([pieces().sort((a, b) => a.part.id.localeCompare(b.part.id))[i]!])!;
const sorted = (): Piece[] => pieces().sort((a, b) => a.part.id.localeCompare(b.part.id));
const key = (type: string, fields: Partial<KeyboardEvent> = {}): KeyboardEvent =>
  ({ key: type, timeStamp: 1e6, ctrlKey: false, metaKey: false, shiftKey: false, altKey: false, ...fields }) as KeyboardEvent;

const sizes = fc.array(fc.tuple(fc.integer({ min: 10, max: 120 }), fc.integer({ min: 10, max: 120 })), { minLength: 2, maxLength: 5 });
const by = fc.integer({ min: -200, max: 400 });

describe('pieces on the material', () => {
  test('move by what they are moved, alone; the drawing stays, and one step takes it back', () => {
    fc.assert(
      fc.property(sizes, by, by, (all, dx, dy) => {
        fc.pre(dx !== 0 || dy !== 0);
        open(boxesOf(all));
        const before = sorted().map((piece) => boxOfPieces([piece])!);
        const drawn = leavesOf(now());
        expect(laying.movePieces([sorted()[0]!], dx, dy)).toBe(true);
        refreshed();
        expect(boxOf(0).minX - before[0]!.minX).toBeCloseTo(dx, 4);
        expect(boxOf(0).minY - before[0]!.minY).toBeCloseTo(dy, 4);
        before.slice(1).forEach((box, i) => expect(boxOf(i + 1).minX).toBeCloseTo(box.minX, 4));
        expect(leavesOf(now())).toEqual(drawn);
        store.undo();
        refreshed();
        before.forEach((box, i) => expect(boxOf(i).minX).toBeCloseTo(box.minX, 4));
        store.closeDocument();
      }),
      { numRuns: 25 },
    );
  });

  test('turned four times by a quarter they lie as they lay, turned once about the middle of them all', () => {
    fc.assert(
      fc.property(sizes, (all) => {
        open(boxesOf(all));
        const whole = boxOfPieces(pieces())!;
        const before = sorted().map((piece) => boxOfPieces([piece])!);
        laying.turnPieces(pieces(), 90);
        refreshed();
        const once = boxOfPieces(pieces())!;
        expect(once.maxX - once.minX).toBeCloseTo(whole.maxY - whole.minY, 4);
        expect(once.minX + once.maxX).toBeCloseTo(whole.minX + whole.maxX, 4);
        for (let k = 0; k < 3; k++) {
          laying.turnPieces(pieces(), 90);
          refreshed();
        }
        before.forEach((box, i) => {
          expect(boxOf(i).minX).toBeCloseTo(box.minX, 3);
          expect(boxOf(i).maxY).toBeCloseTo(box.maxY, 3);
        });
        store.closeDocument();
      }),
      { numRuns: 20 },
    );
  });

  test('that are locked stay where they are until they are unlocked; of a nest, those that are put back have no place, and that is said', () => {
    open(
      boxesOf([
        [60, 40],
        [50, 30],
      ]),
    );
    const home = boxOf(0);
    laying.movePieces([sorted()[0]!], 70, 20);
    refreshed();
    laying.lockPieces([sorted()[0]!], true);
    refreshed();
    expect(sorted().map(({ placement }) => placement.locked)).toEqual([true, false]);
    expect(laying.movePieces([sorted()[0]!], 30, 0)).toBe(false);
    expect(laying.turnPieces([sorted()[0]!], 90)).toBe(false);
    // of several the free ones move
    expect(laying.movePieces(sorted(), 10, 0)).toBe(true);
    refreshed();
    expect(boxOf(0).minX).toBeCloseTo(home.minX + 70, 4);
    laying.lockPieces([sorted()[0]!], false);
    refreshed();
    laying.putBack([sorted()[0]!]);
    expect(refreshed().flatMap(piecesOn)).toHaveLength(1);
    const [sheet] = sheetsOf(now(), [stockOf('film-a', { widthMm: 600 })], knownOf as never, 'job-1');
    expect(sheet?.findings.map(({ code }) => code)).toContain('no-place');
    store.undo();
    refreshed();
    expect(boxOf(0).minX).toBeCloseTo(home.minX + 70, 4);
  });

  test('pushed to the origin or the middle lie there, however they lay', () => {
    fc.assert(
      fc.property(sizes, by, by, (all, dx, dy) => {
        open(boxesOf(all));
        laying.movePieces(pieces(), dx, dy);
        refreshed();
        const clear = { x: 10, y: 10, widthMm: 580 };
        laying.alignPieces(pieces(), 'origin', clear);
        refreshed();
        const at = boxOfPieces(pieces())!;
        expect(at.minX).toBeCloseTo(10, 4);
        expect(at.minY).toBeCloseTo(10, 4);
        laying.alignPieces(pieces(), 'centre', clear);
        refreshed();
        const middle = boxOfPieces(pieces())!;
        expect((middle.minY + middle.maxY) / 2).toBeCloseTo(300, 4);
        expect(middle.minX).toBeCloseTo(10, 4);
        store.closeDocument();
      }),
      { numRuns: 20 },
    );
  });
});

describe('keys on the material', () => {
  test('choose all, move by the step, ten times it and a tenth; presses that follow one another are one step', () => {
    open(
      boxesOf([
        [60, 40],
        [50, 30],
      ]),
    );
    view.useView.setState({ stepMm: 2 });
    // nothing is chosen: arrows are not taken
    expect(laying.onLayUpKey(key('ArrowRight'))).toBe(false);
    expect(laying.onLayUpKey(key('a', { ctrlKey: true }))).toBe(true);
    const { chosen } = laying.useLaying.getState();
    expect(chosen).toEqual(new Set(pieces().map(({ sheet, placement }) => keyOf(sheet, placement))));
    const start = boxOf(0);
    const press = (name: string, fields: Partial<KeyboardEvent> = {}): void => {
      expect(laying.onLayUpKey(key(name, fields))).toBe(true);
      refreshed();
    };
    press('ArrowRight', { timeStamp: 1e6 });
    press('ArrowRight', { timeStamp: 1e6 + 300, shiftKey: true });
    press('ArrowUp', { timeStamp: 1e6 + 600, altKey: true });
    expect(boxOf(0).minX - start.minX).toBeCloseTo(22, 4);
    expect(boxOf(0).minY - start.minY).toBeCloseTo(0.2, 4);
    // later is another step
    press('ArrowLeft', { timeStamp: 1e6 + 5000 });
    store.undo();
    refreshed();
    expect(boxOf(0).minX - start.minX).toBeCloseTo(22, 4);
    store.undo();
    refreshed();
    expect(boxOf(0).minX).toBeCloseTo(start.minX, 4);
    press('k');
    expect(chosenPieces(sheetStore.useSheets.getState().sheets, chosen).every(({ placement }) => placement.locked)).toBe(true);
    expect(laying.onLayUpKey(key('q'))).toBe(false);
    expect(laying.onLayUpKey(key('Escape'))).toBe(true);
    expect(laying.useLaying.getState().chosen.size).toBe(0);
  });
});

describe('without a mouse', () => {
  class Element {
    constructor(readonly dataset: Record<string, string> = {}) {}
  }
  const page = { activeElement: undefined as unknown };
  // only now: what was loaded before would take it for a page
  const stands = { document: page, HTMLElement: Element };
  beforeAll(() => void Object.assign(globalThis, stands));
  afterAll(() => {
    for (const name of Object.keys(stands)) Reflect.deleteProperty(globalThis, name);
  });

  /** Four boxes, two to a sheet. */
  const twoSheets = (): void => {
    const all = [400, 400, 400, 400].map((w) => [w, 250] as const);
    const drawing = boxesOf(all);
    const { fill, ...fields } = { fill: { kind: 'nest' as const, gapMm: 5, turnStepDeg: 0, intoHoles: false }, sheetLengthMm: 500 };
    const placed = all.map((_, i) => ({
      id: `item-${i}`,
      copy: 0,
      sheet: Math.floor(i / 2),
      map: [1, 0, 0, 1, 0, 300 * (i % 2)] as [number, number, number, number, number, number],
    }));
    open(run(drawing, setLayUp, { film: 'film-a', fields: { ...fields, fill: { ...fill, found: { key: 'k', placed } } } }));
  };
  const chosenIds = (): string[] =>
    chosenPieces(sheetStore.useSheets.getState().sheets, laying.useLaying.getState().chosen).map(({ part }) => part.id);

  test('Tab chooses piece after piece, sheet after sheet, and then goes on; only while the material has the focus', () => {
    twoSheets();
    page.activeElement = new Element();
    expect(laying.onLayUpKey(key('Tab'))).toBe(false);
    page.activeElement = new Element({ drawing: 'layup' });
    const order = pieces().map(({ part }) => part.id);
    expect(order).toHaveLength(4);
    for (const id of order) {
      expect(laying.onLayUpKey(key('Tab'))).toBe(true);
      expect(chosenIds()).toEqual([id]);
    }
    expect(laying.onLayUpKey(key('Tab'))).toBe(false);
    expect(laying.onLayUpKey(key('Tab', { shiftKey: true }))).toBe(true);
    expect(chosenIds()).toEqual([order[2]]);
  });

  test('Page Down and Page Up take pieces to the next sheet and back, as they lie; locked ones and those at the end stay', () => {
    twoSheets();
    const sheetOf = (i: number): number => sorted()[i]!.placement.sheet;
    const place = boxOf(0);
    laying.useLaying.setState({ chosen: new Set([0, 2].map((i) => keyOf(sorted()[i]!.sheet, sorted()[i]!.placement))) });
    expect([0, 1, 2, 3].map(sheetOf)).toEqual([0, 0, 1, 1]);
    expect(laying.onLayUpKey(key('PageDown'))).toBe(true);
    refreshed();
    // there is no third sheet
    expect([0, 1, 2, 3].map(sheetOf)).toEqual([1, 0, 1, 1]);
    expect(boxOf(0)).toEqual(place);
    store.undo();
    refreshed();
    expect([0, 1, 2, 3].map(sheetOf)).toEqual([0, 0, 1, 1]);
    laying.lockPieces([sorted()[2]!], true);
    refreshed();
    laying.onLayUpKey(key('PageUp'));
    refreshed();
    expect([0, 1, 2, 3].map(sheetOf)).toEqual([0, 0, 1, 1]);
  });
});

describe('a nest that is looked at', () => {
  test('shows every copy where the answer has it, on as many sheets, as long as it is; other films stay', () => {
    fc.assert(
      fc.property(sizes, fc.array(fc.tuple(fc.nat(2), fc.nat(300), fc.nat(300)), { minLength: 5, maxLength: 5 }), (all, places) => {
        const sheets = open(boxesOf(all));
        const placed = all.map((_, i) => {
          const [sheet = 0, x = 0, y = 0] = places[i] ?? [];
          return { id: `item-${i}`, copy: 0, sheet, turnDeg: 0, map: [1, 0, 0, 1, x, y] as const };
        });
        const answer = { placed, leftOut: [], usedLengthMm: 1, partsAreaMm2: 1, tries: 1, elapsedMs: 1 };
        const shown = search.shownSheets(sheets, { ...search.useNestSearch.getState(), layer: 'film-a', answer: answer as never });
        expect(shown.length).toBe(1 + Math.max(...placed.map(({ sheet }) => sheet)));
        const lying = shown.flatMap(piecesOn);
        const begins = new Set<number>();
        expect(lying).toHaveLength(all.length);
        for (const { part, sheet, placement } of lying) {
          const own = placed.find(({ id }) => id === part.id)!;
          expect(sheet.number).toBe(own.sheet);
          const box = boxOfPieces([{ part, sheet, placement }])!;
          // answers count from where the clear ground begins: behind the margin and what weeding takes, for all alike
          begins.add(Math.round((box.minX - own.map[4]) * 1000));
          expect(box.minX - own.map[4]).toBeGreaterThanOrEqual(sheet.layUp.marginMm - 1e-6);
          expect(box.maxX).toBeLessThanOrEqual(sheet.usedLengthMm + 1e-6);
        }
        expect(begins.size).toBe(1);
        for (const sheet of shown) {
          const ends = piecesOn(sheet).map((piece) => boxOfPieces([piece])!.maxX);
          expect(sheet.usedLengthMm).toBeCloseTo(Math.max(0, ...ends) + search.behindMm(sheet), 3);
        }
        // of another film, or without an answer, sheets are shown as they are
        expect(search.shownSheets(sheets, { ...search.useNestSearch.getState(), layer: 'film-b', answer: answer as never })).toEqual(
          sheets,
        );
        expect(search.shownSheets(sheets, { ...search.useNestSearch.getState(), layer: 'film-a', answer: undefined })).toEqual(sheets);
        store.closeDocument();
      }),
      { numRuns: 20 },
    );
  });

  test('turns are those that the rules and the grain allow together', () => {
    const rules = (turnStepDeg: number) => ({ ...NEST, turnStepDeg }) as Search.NestFill;
    const record = (grain: 'none' | 'half' | null) => ({ ...defaultLayUp('film-a'), grain });
    expect([0, 1, 45, 90, 180].map((step) => search.stepOf(rules(step), record(null)))).toEqual([0, 1, 45, 90, 180]);
    expect([0, 1, 45, 90, 180].map((step) => search.stepOf(rules(step), record('half')))).toEqual([0, 180, 180, 180, 180]);
    expect([0, 1, 45, 90, 180].map((step) => search.stepOf(rules(step), record('none')))).toEqual([0, 0, 0, 0, 0]);
  });
});
