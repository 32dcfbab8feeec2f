/** What the search does by name: on the selection, in one step that can be taken back; with nothing selected it says so. */
import { afterEach, beforeAll, beforeEach, describe, expect, test } from '@jest/globals';
import { boxShape, mapOutline, translation } from '@lorvek/core/geometry';
import { addFilm, addItems, emptyDrawing, itemOf, leavesOf, pageOf, type Drawing, type ShapeItem } from '@lorvek/model';
import { film, run, shapeOf } from '../../../../packages/model/src/drawing.support.ts';
import { openDrawing } from '../document/document.support.ts';
import type * as Store from '../document/store.ts';
import { useView } from '../drawing/view.ts';
import { workHere } from '../worker/worker.support.ts';
import type * as Functions from './functions.ts';

workHere();
let store: typeof Store;
let functions: typeof Functions;
const realFetch = globalThis.fetch;
beforeAll(async () => {
  store = await import('../document/store.ts');
  functions = await import('./functions.ts');
});
beforeEach(() => {
  globalThis.fetch = () => Promise.reject(new TypeError('away'));
  let drawing = run(emptyDrawing(), addFilm, { film: film('film-a') });
  const at = (x: number) => mapOutline(translation(x, 10), boxShape(40, 20));
  const items = [shapeOf('item-a', 'film-a', at(0)), shapeOf('item-b', 'film-a', at(100)), shapeOf('item-c', 'film-a', at(200))];
  drawing = run(drawing, addItems, { items, roots: items.map(({ id }) => id) });
  openDrawing(store, drawing);
});
afterEach(() => {
  store.closeDocument();
  globalThis.fetch = realFetch;
});

const now = (): Drawing => store.useDocument.getState().drawing;
const go = (name: string): void => {
  const found = functions.FUNCTIONS.find((one) => one.name === name);
  if (!found) throw new Error(`there is no ${name}`);
  found.go();
};
const root = (): readonly string[] => pageOf(now()).root;

describe('what can be done by name', () => {
  test('every name is there once, with other words to find it by', () => {
    const names = functions.FUNCTIONS.map(({ name }) => name);
    expect(new Set(names).size).toBe(names.length);
    for (const { also } of functions.FUNCTIONS) expect(also.trim()).not.toBe('');
  });

  test('with nothing selected nothing is changed, whatever is chosen', () => {
    const before = now();
    for (const name of [
      'Ring',
      'Shade',
      'Two-tone',
      'Bend',
      'Mirror sideways',
      'Mirror upside down',
      'Group',
      'Ungroup',
      'To the front',
      'Duplicate',
      'Edge cut round the selection',
    ])
      go(name);
    expect(now()).toBe(before);
  });

  test('treatments go onto one item, not onto several, and a step back takes them off', () => {
    const treated = (id = 'item-a') => (itemOf(now(), id) as ShapeItem).treatments ?? [];
    store.select(['item-a', 'item-b']);
    go('Ring');
    expect([...treated(), ...treated('item-b')]).toEqual([]);
    store.select(['item-a']);
    go('Ring');
    go('Shade');
    expect(treated().map(({ kind }) => kind)).toEqual(['ring', 'shade']);
    store.undo();
    store.undo();
    expect(treated()).toEqual([]);
  });

  test('guides run through the middle of what is selected, else of the surface', () => {
    store.select(['item-b']);
    go('Upright guide');
    go('Level guide');
    store.select([]);
    go('Upright guide');
    const { guides = [], surface } = pageOf(now());
    expect(guides.map(({ axis, mm }) => [axis, mm])).toEqual([
      ['x', 120],
      ['y', 20],
      ['x', surface.widthMm / 2],
    ]);
    expect(new Set(guides.map(({ id }) => id)).size).toBe(3);
  });

  test('group, order, duplicate, select everything, undo and redo do what they are called', () => {
    go('Select everything');
    expect(store.useDocument.getState().selection).toEqual(['item-a', 'item-b', 'item-c']);
    store.select(['item-a', 'item-b']);
    go('Group');
    expect(root()).toHaveLength(2);
    store.select([root().find((id) => itemOf(now(), id)?.kind === 'group')!]);
    go('Ungroup');
    expect(root().slice().sort()).toEqual(['item-a', 'item-b', 'item-c']);
    store.select(['item-a']);
    go('To the front');
    expect(root().at(-1)).toBe('item-a');
    go('To the back');
    expect(root()[0]).toBe('item-a');
    go('Duplicate');
    expect(leavesOf(now())).toHaveLength(4);
    go('Undo');
    expect(leavesOf(now())).toHaveLength(3);
    go('Redo');
    expect(leavesOf(now())).toHaveLength(4);
  });

  test('tools are taken up, and the blade view is shown and put away', () => {
    for (const [name, tool] of [
      ['Lettering', 'lettering'],
      ['Box', 'box'],
      ['Measure', 'measure'],
      ['Nodes', 'nodes'],
      ['Known length', 'known-length'],
    ] as const) {
      go(name);
      expect(useView.getState().tool).toBe(tool);
    }
    const { blade } = useView.getState();
    go('Blade view');
    expect(useView.getState().blade).toBe(!blade);
    go('Blade view');
    expect(useView.getState().blade).toBe(blade);
  });
});
