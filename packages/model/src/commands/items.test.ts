/** What names items goes on to what takes their place: cut lines, what is cut, seams, dimension lines. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { boxShape, mapOutline, translation } from '@lorvek/core/geometry';
import { film, printLayer, run, shapeOf } from '../drawing.support.ts';
import {
  addEdgeCut,
  addFilm,
  addItems,
  emptyDrawing,
  groupItems,
  itemOf,
  layerOf,
  layUpOf,
  leavesOf,
  pageOf,
  removeItems,
  replaceItems,
  setFilmFields,
  setLayUp,
  setScope,
  ungroupItems,
  USUAL_PANELS,
  type DimensionItem,
  type Drawing,
  type EdgeCutItem,
  type Film,
  type PrintLayer,
  type ShapeItem,
} from '../index.ts';

const shape = (id: string, layer: 'film-a' | 'print-p' = 'film-a', x = 0): ShapeItem =>
  shapeOf(id, layer, mapOutline(translation(x, 0), boxShape(20, 10)));
const line: DimensionItem = {
  type: 'item',
  kind: 'dimension',
  id: 'item-d',
  name: 'Width',
  layer: null,
  matrix: [1, 0, 0, 1, 0, 0],
  from: { x: 0, y: 0, item: 'item-a', u: 0, v: 0 },
  to: { x: 90, y: 0, item: 'item-b', u: 1, v: 0 },
  measure: 'level',
  standOffMm: 10,
};

/** Three shapes of which two are cut, kept from seams, and measured; on a print an edge cut round two. */
function start(): Drawing {
  let drawing = run(run(emptyDrawing(), addFilm, { film: film('film-a') }), addFilm, { film: printLayer('print-p') });
  const items = [
    shape('item-a'),
    shape('item-b', 'film-a', 30),
    shape('item-c', 'film-a', 60),
    shape('item-p', 'print-p', 90),
    shape('item-q', 'print-p', 120),
  ];
  drawing = run(drawing, addItems, { items: [...items, line], roots: [...items.map(({ id }) => id), line.id] });
  drawing = run(drawing, setScope, { scope: { kind: 'selection', items: ['item-a', 'item-b'] } });
  drawing = run(drawing, setLayUp, { film: 'film-a', fields: { fill: { ...USUAL_PANELS, whole: ['item-a', 'item-c'] } } });
  return run(drawing, addEdgeCut, { id: 'item-cut', of: ['item-p', 'item-q'] });
}
const scopeOf = (drawing: Drawing): readonly string[] => {
  const { scope } = pageOf(drawing);
  return scope.kind === 'selection' ? scope.items : [];
};
const wholeOf = (drawing: Drawing): readonly string[] => {
  const { fill } = layUpOf(drawing, 'film-a');
  return fill.kind === 'panels' ? fill.whole : [];
};
const fastenedOf = (drawing: Drawing): (string | undefined)[] => {
  const { from, to } = itemOf(drawing, 'item-d') as DimensionItem;
  return [from.item, to.item];
};
const roundOf = (drawing: Drawing): readonly string[] => (itemOf(drawing, 'item-cut') as EdgeCutItem).of;

describe('items that give way to others', () => {
  test('what is cut, what no seam goes through and what is measured are what took their place', () => {
    const welded = run(start(), replaceItems, { ids: ['item-a', 'item-b'], items: [shape('item-w')] });
    expect(scopeOf(welded)).toEqual(['item-w']);
    expect(leavesOf(welded, scopeOf(welded)).map(({ id }) => id)).toEqual(['item-w']);
    expect(wholeOf(welded)).toEqual(['item-w', 'item-c']);
    expect(fastenedOf(welded)).toEqual(['item-w', 'item-w']);
    const inTwo = run(start(), replaceItems, { ids: ['item-a'], items: [shape('item-x'), shape('item-y')] });
    expect(scopeOf(inTwo)).toEqual(['item-x', 'item-y', 'item-b']);
    expect(wholeOf(inTwo)).toEqual(['item-x', 'item-y', 'item-c']);
    // of two nobody knows which was measured
    expect(fastenedOf(inTwo)).toEqual(['item-a', 'item-b']);
    expect(roundOf(run(start(), replaceItems, { ids: ['item-p'], items: [shape('item-n', 'print-p')] }))).toEqual(['item-n', 'item-q']);
  });

  test('how a part is nested goes on where all that gave way were nested so; else it is nested once', () => {
    const nest = { kind: 'nest' as const, gapMm: 5, turnStepDeg: 0, intoHoles: false };
    const nested = (parts: Record<string, { copies?: number; apart?: boolean }>): Drawing =>
      run(start(), setLayUp, { film: 'film-a', fields: { fill: { ...nest, parts } } });
    const copiesOf = (drawing: Drawing, id: string): number | undefined => {
      const { fill } = layUpOf(drawing, 'film-a');
      return fill.kind === 'nest' ? fill.parts?.[id]?.copies : undefined;
    };
    const weld = (drawing: Drawing, ids: string[]): Drawing => run(drawing, replaceItems, { ids, items: [shape('item-w')] });
    expect(copiesOf(weld(nested({ 'item-a': { copies: 5 } }), ['item-a']), 'item-w')).toBe(5);
    expect(copiesOf(weld(nested({ 'item-a': { copies: 5 }, 'item-b': { copies: 5 } }), ['item-a', 'item-b']), 'item-w')).toBe(5);
    expect(copiesOf(weld(nested({ 'item-a': { copies: 5 }, 'item-b': { copies: 2 } }), ['item-a', 'item-b']), 'item-w')).toBeUndefined();
    expect(copiesOf(weld(nested({ 'item-a': { copies: 5 } }), ['item-a', 'item-b']), 'item-w')).toBeUndefined();
    // as a group, and what the group was nested as for what it held
    const pair = nested({ 'item-a': { copies: 3 }, 'item-b': { copies: 3 } });
    const grouped = run(pair, groupItems, { ids: ['item-a', 'item-b'], groupId: 'item-g' });
    expect(copiesOf(grouped, 'item-g')).toBe(3);
    expect(copiesOf(weld(grouped, ['item-g']), 'item-w')).toBe(3);
    const whole = run(run(start(), groupItems, { ids: ['item-b', 'item-c'], groupId: 'item-g' }), setLayUp, {
      film: 'film-a',
      fields: { fill: { ...nest, parts: { 'item-g': { copies: 4 } } } },
    });
    const apart = run(whole, ungroupItems, { ids: ['item-g'] });
    expect(['item-b', 'item-c'].map((id) => copiesOf(apart, id))).toEqual([4, 4]);
  });

  test('what is let into the films below stays so, where all of it was; what a pass prints is what took its place', () => {
    const inlaid = run(start(), setFilmFields, { id: 'film-a', fields: { inlaid: ['item-a', 'item-b'] } });
    const letIn = (drawing: Drawing): readonly string[] => (layerOf(drawing, 'film-a') as Film).inlaid ?? [];
    const weld = (ids: string[]): Drawing => run(inlaid, replaceItems, { ids, items: [shape('item-w')] });
    expect(letIn(weld(['item-a']))).toEqual(['item-b', 'item-w']);
    expect(letIn(weld(['item-a', 'item-b']))).toEqual(['item-w']);
    // with one that was not, nobody knows
    expect(letIn(weld(['item-a', 'item-c']))).toEqual(['item-b']);
    expect(letIn(run(inlaid, removeItems, { ids: ['item-a'] }))).toEqual(['item-b']);
    const pass = (items: string[]) => ({ kind: 'colour' as const, items, mirror: false });
    const printed = run(start(), setFilmFields, { id: 'print-p', fields: { passes: [pass(['item-p']), pass(['item-p', 'item-q'])] } });
    const passesOf = (drawing: Drawing) => (layerOf(drawing, 'print-p') as PrintLayer).passes?.map(({ items }) => items);
    const changed = run(printed, replaceItems, { ids: ['item-p'], items: [shape('item-n', 'print-p')] });
    expect(passesOf(changed)).toEqual([['item-n'], ['item-n', 'item-q']]);
    // a pass whose art is gone names it still: that it has none is said
    expect(passesOf(run(printed, removeItems, { ids: ['item-p'] }))).toEqual([['item-p'], ['item-q']]);
  });

  test('a group that falls apart leaves what it held', () => {
    let drawing = run(start(), groupItems, { ids: ['item-a', 'item-b'], groupId: 'item-g' });
    drawing = run(drawing, setScope, { scope: { kind: 'selection', items: ['item-g', 'item-c'] } });
    drawing = run(drawing, setLayUp, { film: 'film-a', fields: { fill: { ...USUAL_PANELS, whole: ['item-g'] } } });
    const apart = run(drawing, ungroupItems, { ids: ['item-g'] });
    expect(scopeOf(apart)).toEqual(['item-a', 'item-b', 'item-c']);
    expect(wholeOf(apart)).toEqual(['item-a', 'item-b']);
  });

  test('what is taken away is named no more; a cut line with nothing to go round goes with it', () => {
    const less = run(start(), removeItems, { ids: ['item-a', 'item-p'] });
    expect([scopeOf(less), wholeOf(less), roundOf(less)]).toEqual([['item-b'], ['item-c'], ['item-q']]);
    const none = run(less, removeItems, { ids: ['item-q'] });
    expect(itemOf(none, 'item-cut')).toBeUndefined();
  });

  test('a dimension line whose item was taken away is not fastened to what comes later', () => {
    const less = run(start(), removeItems, { ids: ['item-a'] });
    const later = run(less, replaceItems, { ids: ['item-c'], items: [shape('item-w')] });
    expect(fastenedOf(later)).toEqual(['item-a', 'item-b']);
  });

  test('an end that was fastened to what is taken away stays where it stood, free; the other stays fastened', () => {
    const places = new Map([['item-d', { from: { x: 12, y: 34 }, to: { x: 56, y: 78 } }]]);
    const { from, to } = itemOf(run(start(), removeItems, { ids: ['item-a'], places }), 'item-d') as DimensionItem;
    expect(from).toEqual({ x: 12, y: 34 });
    expect(to.item).toBe('item-b');
    // the line itself taken away as well, or none of its items
    expect(itemOf(run(start(), removeItems, { ids: ['item-d', 'item-a'], places }), 'item-d')).toBeUndefined();
    expect(fastenedOf(run(start(), removeItems, { ids: ['item-c'], places }))).toEqual(['item-a', 'item-b']);
  });

  test('whatever is done in whatever order, nothing that is named is missing', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.constantFrom('replace', 'split', 'group', 'ungroup', 'remove'), fc.nat(), fc.nat()), { maxLength: 8 }),
        (steps) => {
          let drawing = start();
          steps.forEach(([what, i, j], k) => {
            const roots = pageOf(drawing).root.filter((id) => id !== 'item-d' && id !== 'item-cut');
            if (roots.length < 2) return;
            const ids = [...new Set([roots[i % roots.length]!, roots[j % roots.length]!])];
            if (what === 'replace') drawing = run(drawing, replaceItems, { ids, items: [shape(`item-r${k}`)] });
            if (what === 'split') drawing = run(drawing, replaceItems, { ids, items: [shape(`item-s${k}`), shape(`item-t${k}`)] });
            if (what === 'group' && ids.length > 1) drawing = run(drawing, groupItems, { ids, groupId: `item-g${k}` });
            if (what === 'ungroup' && ids.some((id) => itemOf(drawing, id)?.kind === 'group'))
              drawing = run(drawing, ungroupItems, { ids });
            if (what === 'remove') drawing = run(drawing, removeItems, { ids });
          });
          const cut = itemOf(drawing, 'item-cut') as EdgeCutItem | undefined;
          for (const id of [...scopeOf(drawing), ...wholeOf(drawing), ...(cut?.of ?? [])])
            expect([id, itemOf(drawing, id) !== undefined]).toEqual([id, true]);
          const isAnyLeft = leavesOf(drawing).some(({ kind }) => kind === 'shape');
          if (!isAnyLeft) expect(cut).toBeUndefined();
        },
      ),
      { numRuns: 200 },
    );
  });
});
