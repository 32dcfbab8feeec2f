/** The open job as commands see it: several as one, steps back and forward, whatever the server does. */
import { afterEach, beforeAll, beforeEach, describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  addFilm,
  addItems,
  EMPTY_HISTORY,
  pageOf,
  removeItems,
  setItemFields,
  transformItems,
  type Drawing,
  type Job,
} from '@lorvek/model';
import { film, lotOf, randomDrawing, randomItem } from '../../../../packages/model/src/drawing.support.ts';
import { standInForBrowser } from '../browser.support.ts';
import { CLOSED } from './open-document.ts';
import type * as Store from './store.ts';

let store: typeof Store;
const realFetch = globalThis.fetch;
const job = { id: 'job-1', name: 'Job', revision: 0 } as Job;

standInForBrowser();
beforeAll(async () => {
  store = await import('./store.ts');
});

/** A job that is open with this drawing, its history known and empty. */
function open(drawing: Drawing): void {
  store.useDocument.setState({ ...CLOSED, job, drawing, base: drawing, history: EMPTY_HISTORY, knowsLog: true });
}
beforeEach(() => {
  // nothing answers: what is made waits, and the page works on
  globalThis.fetch = () => Promise.reject(new TypeError('away'));
});
afterEach(() => {
  store.closeDocument();
  globalThis.fetch = realFetch;
});

const now = (): Drawing => store.useDocument.getState().drawing;
const manner = { origin: 'test' };
const MOVE = [1, 0, 0, 1, 7, 3] as [number, number, number, number, number, number];

/** One act of somebody at work, drawn by lot. @returns did it change anything that can be taken back? */
function act(seed: number): void {
  const lot = lotOf(seed);
  const { root } = pageOf(now());
  const one = root[Math.floor(lot() * root.length)] ?? 'item-none';
  const fresh = `item-new${seed}`;
  switch (Math.floor(lot() * 4)) {
    case 0:
      store.dispatch(addItems, { items: [randomItem(lot, fresh, null)], roots: [fresh] }, manner);
      break;
    case 1:
      store.dispatch(transformItems, { ids: [one], map: MOVE }, manner);
      break;
    case 2:
      store.asOne(manner, () => {
        store.dispatch(transformItems, { ids: [one], map: MOVE }, manner);
        store.dispatch(setItemFields, { id: one, fields: { name: `called ${seed}` } }, manner);
      });
      break;
    default:
      store.dispatch(removeItems, { ids: [one] }, manner);
  }
}

describe('work on the open job', () => {
  test('all steps back give what there was, all steps forward what there is', () => {
    fc.assert(
      fc.property(fc.nat(), fc.array(fc.nat(), { minLength: 1, maxLength: 12 }), (seed, acts) => {
        const start = randomDrawing(seed, 5);
        open(start);
        acts.forEach((n, i) => act(n * 16 + i));
        const end = now();
        const steps = store.useDocument.getState().history.back.length;
        for (let i = 0; i < steps; i++) store.undo();
        expect(now()).toEqual(start);
        expect(store.mayStep(store.useDocument.getState()).back).toBe(false);
        for (let i = 0; i < steps; i++) store.redo();
        expect(now()).toEqual(end);
      }),
      { numRuns: 40, seed: 11 },
    );
  });

  test('several as one are one step back, taken whole or not at all', () => {
    open(randomDrawing(3, 4));
    const start = now();
    const [first] = pageOf(start).root;
    const added = film('film-new');
    expect(
      store.asOne(manner, () => {
        store.dispatch(addFilm, { film: added }, manner);
        store.dispatch(setItemFields, { id: first!, fields: { name: 'Renamed' } }, manner);
      }),
    ).toBe(true);
    expect(store.useDocument.getState().history.back).toHaveLength(1);
    store.undo();
    expect(now()).toEqual(start);
    // the second is refused: nothing of the first is left
    expect(
      store.asOne(manner, () => {
        store.dispatch(addFilm, { film: added }, manner);
        store.dispatch(removeItems, { ids: [] }, manner);
      }),
    ).toBe(false);
    expect(now()).toEqual(start);
    expect(store.useDocument.getState().history.back).toHaveLength(0);
  });

  test('what breaks in the middle of several leaves nothing of them behind', () => {
    open(randomDrawing(3, 4));
    const start = now();
    expect(() =>
      store.asOne(manner, () => {
        store.dispatch(addFilm, { film: film('film-new') }, manner);
        throw new Error('broken');
      }),
    ).toThrow('broken');
    expect(now()).toEqual(start);
    expect(store.dispatch(addFilm, { film: film('film-new') }, manner)).toBe(true);
  });

  test('a part within a part is one with the whole', () => {
    open(randomDrawing(3, 4));
    const start = now();
    store.asOne(manner, () => {
      store.dispatch(addFilm, { film: film('film-x') }, manner);
      store.asOne(manner, () => void store.dispatch(addFilm, { film: film('film-y') }, manner));
    });
    expect(store.useDocument.getState().pending).toHaveLength(1);
    store.undo();
    expect(now()).toEqual(start);
  });

  test('what is gone is not selected any more; a step back selects what it brought back', () => {
    open(randomDrawing(5, 4));
    const [first] = pageOf(now()).root;
    store.select([first!]);
    store.dispatch(removeItems, { ids: [first!] }, manner);
    expect(store.useDocument.getState().selection).toEqual([]);
    store.undo();
    expect(store.useDocument.getState().selection).toEqual([first]);
  });

  test('a job that can be looked at only is not changed, alone or as one', () => {
    open(randomDrawing(5, 4));
    store.useDocument.setState({ save: 'read-only', trouble: 'It was made by a newer version.' });
    const start = now();
    expect(store.dispatch(addFilm, { film: film('film-new') }, manner)).toBe(false);
    expect(store.asOne(manner, () => void store.dispatch(addFilm, { film: film('film-new') }, manner))).toBe(false);
    expect(now()).toBe(start);
  });
});
