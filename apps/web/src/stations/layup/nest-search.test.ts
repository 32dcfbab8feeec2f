/** A search for a nest over what users do meanwhile: other stations, other changes, a reload, another job, going on. */
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, test } from '@jest/globals';
import { boxShape } from '@lorvek/core/geometry';
import { addFilm, addItems, setLayUp, layUpOf, type Drawing } from '@lorvek/model';
import { film, shapeOf } from '../../../../../packages/model/src/drawing.support.ts';
import { standInForBrowser } from '../../browser.support.ts';
import { openDrawing } from '../../document/document.support.ts';
import type * as SheetStore from '../../document/sheets.ts';
import type * as Store from '../../document/store.ts';
import { WorkingWorker } from '../../worker/worker.support.ts';
import { boxesOf, laidSheets } from './laid.support.ts';
import type * as Laying from './laying.ts';
import type * as Search from './nest-search.ts';
import { piecesOn } from './pieces.ts';

const kept = new Map<string, string>();
const sessionStorage = {
  getItem: (key: string) => kept.get(key) ?? null,
  setItem: (key: string, value: string) => void kept.set(key, value),
  removeItem: (key: string) => void kept.delete(key),
};
const leaving: (() => void)[] = [];
const window = {
  addEventListener: (name: string, listener: () => void) => (name === 'pagehide' ? leaving.push(listener) : undefined),
  localStorage: { getItem: () => null, setItem: () => undefined, removeItem: () => undefined },
};
standInForBrowser({ navigator: {}, Worker: WorkingWorker, sessionStorage, window });

let store: typeof Store;
let sheetStore: typeof SheetStore;
let search: typeof Search;
let laying: typeof Laying;
let atFirst: Search.NestSearch;
const realFetch = globalThis.fetch;
beforeAll(async () => {
  store = await import('../../document/store.ts');
  sheetStore = await import('../../document/sheets.ts');
  // a job that is known before the station is opened for the first time
  openDrawing(store, boxesOf(SIZES));
  refreshed();
  kept.set('lorvek.nest', JSON.stringify(KEPT(laidSheets(now())[0]?.filled.nest?.key)));
  search = await import('./nest-search.ts');
  atFirst = state();
  laying = await import('./laying.ts');
});
afterAll(async () => {
  const { stopAside, stopNests } = await import('../../worker/compute.ts');
  stopAside();
  stopNests();
});
beforeEach(() => {
  globalThis.fetch = () => Promise.reject(new TypeError('away'));
});
afterEach(() => {
  search.dropSearch();
  store.closeDocument();
  kept.clear();
  globalThis.fetch = realFetch;
});

const now = (): Drawing => store.useDocument.getState().drawing;
const state = (): Search.NestSearch => search.useNestSearch.getState();
const refreshed = (): void => sheetStore.useSheets.setState({ sheets: laidSheets(now()), busy: false, unknown: false });
function open(job = 'job-1', drawing = boxesOf(SIZES)): void {
  sheetStore.useSheets.setState({ sheets: [], busy: true, unknown: true });
  openDrawing(store, drawing, { id: job });
  laying.useLaying.setState({ chosen: new Set(), drag: undefined });
  refreshed();
}
/** As when the page is loaded anew. */
function reload(job?: string, drawing?: Drawing): void {
  leaving.forEach((leave) => leave());
  search.useNestSearch.setState(search.useNestSearch.getInitialState());
  open(job, drawing);
}
/** As a page that is gone left it. */
const KEPT = (key: string | undefined): object => ({
  job: 'job-1',
  layer: 'film-a',
  key,
  answer: { placed: [], leftOut: [], usedLengthMm: 321, partsAreaMm2: 1, elapsedMs: 1 },
  curve: [],
  beforeMm: 400,
  beforePieces: 4,
});
const SIZES = [
  [200, 90],
  [120, 60],
  [80, 40],
  [150, 30],
] as const;
const found = async (budgetMs = 200): Promise<void> => search.startSearch('film-a', budgetMs);
const setFill = (fields: object): boolean => {
  const { fill } = layUpOf(now(), 'film-a');
  return store.dispatch(setLayUp, { film: 'film-a', fields: { fill: { ...fill, ...fields } as typeof fill } }, { origin: 'sheet.nest' });
};

describe('what a search found', () => {
  test('outlives changes that are none of it, and is laid as it was found', async () => {
    open();
    await found();
    const { answer } = state();
    expect(answer?.placed).toHaveLength(4);
    store.dispatch(addFilm, { film: film('film-b') }, { origin: 'film.add' });
    store.dispatch(addItems, { items: [shapeOf('other', 'film-b', boxShape(50, 50))], roots: ['other'] }, { origin: 'item.add' });
    sheetStore.useSheets.setState({ busy: true });
    // nothing is laid by sheets that are being worked out, and nothing is lost by trying
    search.applySearch();
    expect(state().answer).toBe(answer);
    refreshed();
    expect(state().answer).toBe(answer);
    search.applySearch();
    refreshed();
    const lying = laidSheets(now())
      .filter(({ layer }) => layer.id === 'film-a')
      .flatMap(piecesOn);
    expect(lying.map(({ part, placement }) => [part.id, placement.copy]).sort()).toEqual(
      answer!.placed.map(({ id, copy }) => [id, copy]).sort(),
    );
    expect(state().layer).toBeUndefined();
  });

  test('stays when it cannot be laid, because the job can only be looked at', async () => {
    open();
    await found();
    const { answer } = state();
    store.useDocument.setState({ save: 'read-only' });
    search.applySearch();
    expect(state().answer).toBe(answer);
    store.useDocument.setState({ save: 'saved' });
    search.applySearch();
    expect(state().layer).toBeUndefined();
  });

  test('is dropped when copies, rules, shapes or locks are others', async () => {
    const others: (() => void)[] = [
      () => setFill({ gapMm: 9 }),
      () => setFill({ parts: { 'item-0': { copies: 3 } } }),
      () => laying.lockPieces(sheetStore.useSheets.getState().sheets.flatMap(piecesOn).slice(0, 1), true),
    ];
    for (const other of others) {
      open();
      await found();
      search.applySearch();
      refreshed();
      await found();
      expect(state().answer).toBeDefined();
      other();
      expect(state().answer).toBeDefined();
      refreshed();
      expect(state()).toMatchObject({ layer: undefined, answer: undefined });
      store.closeDocument();
    }
  });

  test('is there when the station is opened after the sheets are known', () => {
    expect(atFirst).toMatchObject({ layer: 'film-a', answer: { usedLengthMm: 321 } });
  });

  test('is there again after a reload and after another job was open, but only for what it was found for', async () => {
    open();
    await found();
    const { answer, key } = state();
    reload();
    expect(state()).toMatchObject({ job: 'job-1', layer: 'film-a', key, answer, share: undefined });
    // another job, where the same boxes lie
    open('job-2');
    expect(state().answer).toBeUndefined();
    open('job-1');
    expect(state().answer).toEqual(answer);
    reload('job-1', boxesOf([...SIZES.slice(1), [99, 44]]));
    expect(state().answer).toBeUndefined();
    // put back: gone for good
    reload('job-1', boxesOf(SIZES));
    expect(state().answer).toEqual(answer);
    search.dropSearch();
    reload();
    expect(state().answer).toBeUndefined();
  });

  test.each(['', 'null', '{', '{"job":"job-1","layer":"film-a"}', '[1,2]'])('what is kept is read with care: %p', (text) => {
    kept.set('lorvek.nest', text);
    open();
    expect(state().answer).toBeUndefined();
  });

  test('going on begins where it was and never ends longer', async () => {
    open('job-1', boxesOf([...SIZES, [70, 70], [45, 160], [33, 20], [210, 25]]));
    await found(700);
    const before = state().answer!;
    // too short a time for more than what is known
    await found(1);
    const after = state().answer!;
    expect(after.usedLengthMm).toBeLessThanOrEqual(before.usedLengthMm);
    expect(after.placed).toHaveLength(before.placed.length);
    expect(state().curve[0]?.lengthMm).toBe(Math.round(before.usedLengthMm));
    // looked at, not laid: the sheets are as they were, and that is what it is compared with
    expect(state().beforePieces).toBe(8);
  });
});
