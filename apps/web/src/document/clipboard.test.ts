/** Copying and pasting as its user sees it: what comes back is what was copied, on films that the job has. */
import { afterEach, beforeAll, beforeEach, describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { filmsOf, itemOf, layersOf, leavesOf, pageOf, removeItems, setFilmFields, type Drawing } from '@lorvek/model';
import { emptyDrawing } from '@lorvek/model';
import { randomDrawing, run } from '../../../../packages/model/src/drawing.support.ts';
import { standInForBrowser } from '../browser.support.ts';
import { openDrawing } from './document.support.ts';
import type * as Clipboard from './clipboard.ts';
import type * as Store from './store.ts';

const kept = new Map<string, string>();
let isFull = false;
standInForBrowser({
  navigator: {},
  localStorage: {
    getItem: (key: string) => kept.get(key) ?? null,
    setItem: (key: string, text: string) => {
      if (isFull) throw new Error('QuotaExceededError');
      kept.set(key, text);
    },
    removeItem: (key: string) => kept.delete(key),
  },
});
let clipboard: typeof Clipboard;
let store: typeof Store;
const realFetch = globalThis.fetch;
beforeAll(async () => {
  store = await import('./store.ts');
  clipboard = await import('./clipboard.ts');
});
beforeEach(() => {
  kept.clear();
  isFull = false;
  // nothing answers: what is made waits, and the page works on
  globalThis.fetch = () => Promise.reject(new TypeError('away'));
});
afterEach(() => {
  store.closeDocument();
  globalThis.fetch = realFetch;
});

const KEY = 'lorvek.clipboard';
const open = (drawing: Drawing, id = 'job-1', selection: readonly string[] = []): void => openDrawing(store, drawing, { id, selection });
const now = (): Drawing => store.useDocument.getState().drawing;
const anyDrawing = fc.record({ seed: fc.nat(1e6), count: fc.integer({ min: 2, max: 9 }) }).map((of) => randomDrawing(of.seed, of.count));
/** What can be copied: a cut line goes with what it goes round only when that goes too. */
const shapesOf = (drawing: Drawing, ids?: readonly string[]) => leavesOf(drawing, ids).filter(({ kind }) => kind !== 'edge-cut');

describe('what is copied and pasted', () => {
  test('in the same job is there twice, a step aside, and one step back takes it away', () => {
    fc.assert(
      fc.property(anyDrawing, (drawing) => {
        const { root } = pageOf(drawing);
        if (root.length === 0) return;
        open(drawing, 'job-1', root);
        expect(clipboard.copySelection()).toBe(true);
        clipboard.paste();
        const fresh = pageOf(now()).root.filter((id) => !root.includes(id));
        const [was, is] = [shapesOf(drawing), shapesOf(now(), fresh)];
        expect(is.map(({ kind, name }) => [kind, name])).toEqual(was.map(({ kind, name }) => [kind, name]));
        // on the films on which it was: none is doubled
        expect(layersOf(now()).map(({ id }) => id)).toEqual(layersOf(drawing).map(({ id }) => id));
        expect(is.map(({ layer }) => layer)).toEqual(was.map(({ layer }) => layer));
        was.forEach((item, i) => {
          if (item.kind === 'dimension') return;
          expect(is[i]!.matrix[4]).toBeCloseTo(item.matrix[4] + 10, 3);
          expect(is[i]!.matrix[5]).toBeCloseTo(item.matrix[5] - 10, 3);
        });
        store.undo();
        expect(now()).toEqual(drawing);
      }),
      { numRuns: 40 },
    );
  });

  test('in another job brings the films along that it needs, visible and open, and no others', () => {
    fc.assert(
      fc.property(anyDrawing, (drawing) => {
        const hidden = filmsOf(drawing).reduce((d, { id }) => run(d, setFilmFields, { id, fields: { visible: false } }), drawing);
        const { root } = pageOf(hidden);
        open(hidden, 'job-1', root);
        if (!clipboard.copySelection()) return;
        open(emptyDrawing(), 'job-2');
        clipboard.paste();
        const needed = new Set(shapesOf(drawing).flatMap(({ layer }) => layer ?? []));
        expect(shapesOf(now())).toHaveLength(shapesOf(drawing).length);
        expect(layersOf(now()).length).toBeGreaterThanOrEqual(needed.size);
        for (const { visible, locked } of layersOf(now())) expect([visible, locked]).toEqual([true, false]);
        for (const { layer } of shapesOf(now())) if (layer !== null) expect(layersOf(now()).some(({ id }) => id === layer)).toBe(true);
        // where it was, not a step aside
        const first = shapesOf(drawing).find(({ kind }) => kind !== 'dimension');
        if (first) expect(shapesOf(now()).some(({ matrix }) => matrix.every((n, i) => Math.abs(n - first.matrix[i]!) < 1e-3))).toBe(true);
      }),
      { numRuns: 40 },
    );
  });

  test('may be pasted after it was taken away, and cutting is copying and taking away', () => {
    const drawing = randomDrawing(5, 6);
    const [first] = pageOf(drawing).root;
    open(drawing, 'job-1', [first!]);
    const was = shapesOf(drawing, [first!]).length;
    clipboard.cutSelection();
    expect(itemOf(now(), first!)).toBeUndefined();
    expect(now()).toEqual(run(drawing, removeItems, { ids: [first!] }));
    const before = shapesOf(now()).length;
    clipboard.paste();
    expect(shapesOf(now())).toHaveLength(before + was);
  });

  test('nothing is copied of nothing, and what was copied before stays', () => {
    const drawing = randomDrawing(5, 6);
    open(drawing, 'job-1', [pageOf(drawing).root[0]!]);
    clipboard.copySelection();
    const text = kept.get(KEY);
    store.select([]);
    expect(clipboard.copySelection()).toBe(false);
    expect(kept.get(KEY)).toBe(text);
    clipboard.duplicateSelection();
    expect(now()).toEqual(drawing);
  });

  test('too much for the browser is said, and nothing is cut then', () => {
    const drawing = randomDrawing(5, 6);
    open(drawing, 'job-1', [...pageOf(drawing).root]);
    isFull = true;
    clipboard.cutSelection();
    expect(now()).toEqual(drawing);
  });

  test('what cannot be read changes nothing and is forgotten', () => {
    const drawing = randomDrawing(5, 6);
    open(drawing, 'job-1', [...pageOf(drawing).root]);
    clipboard.copySelection();
    const whole = JSON.parse(kept.get(KEY)!) as Record<string, unknown>;
    for (const text of [
      '{',
      'null',
      '[]',
      JSON.stringify({ ...whole, items: undefined }),
      JSON.stringify({ ...whole, items: [{ type: 'item', kind: 'box' }] }),
      JSON.stringify({ ...whole, films: [{ type: 'film' }] }),
      JSON.stringify({ ...whole, roots: ['item-nowhere'] }),
    ]) {
      kept.set(KEY, text);
      clipboard.paste();
      expect(now()).toEqual(drawing);
      expect(kept.has(KEY)).toBe(false);
    }
  });
});
