import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  addFilm,
  addItems,
  applyPatch,
  composePatches,
  copyItems,
  diff,
  emptyDrawing,
  EMPTY_HISTORY,
  groupItems,
  historyOf,
  invertPatch,
  isOutOfReach,
  itemOf,
  leavesInScope,
  leavesOf,
  mapItem,
  pageOf,
  rebasePatch,
  remember,
  removeFilm,
  removeItems,
  reorderItems,
  replaceItems,
  restackFilms,
  setFilmFields,
  newTreatment,
  setItemFields,
  setTreatments,
  setScope,
  transformItems,
  ungroupItems,
  validateDrawing,
  type BoxItem,
  type Change,
  type Command,
  type Drawing,
  type EditorState,
  type LetteringItem,
  type Patch,
} from './index.ts';
import { film } from './drawing.support.ts';

const box = (id: string, x = 0, widthMm = 20): BoxItem => ({
  type: 'item',
  kind: 'box',
  id,
  name: id,
  layer: 'film-a',
  matrix: [1, 0, 0, 1, x, 0],
  widthMm,
  heightMm: 10,
  cornerMm: 2,
});
const words = (id: string): LetteringItem => ({
  type: 'item',
  kind: 'lettering',
  id,
  name: id,
  layer: 'film-a',
  matrix: [1, 0, 0, 1, 0, 0],
  text: 'A',
  fontId: 'anton',
  substitutes: [],
  capHeightMm: 50,
  widthPct: 100,
  slantDeg: 0,
  letterSpaceMm: 1,
  lineSpace: 1.6,
  align: 'left',
});

function run<A>(drawing: Drawing, command: Command<A>, args: A, selection: string[] = []): { drawing: Drawing; change: Change } {
  const plan = command({ drawing, selection }, args);
  if (!plan.enabled) throw new Error(plan.why);
  const change = plan.run();
  return { drawing: applyPatch(drawing, change.patch), change };
}
const why = <A>(drawing: Drawing, command: Command<A>, args: A): string | undefined => {
  const plan = command({ drawing, selection: [] } as EditorState, args);
  return plan.enabled ? undefined : plan.why;
};

const start = (): Drawing => {
  let d = run(emptyDrawing(), addFilm, { film: film('film-a') }).drawing;
  d = run(d, addFilm, { film: film('film-b') }).drawing;
  return run(d, addItems, { items: [box('item-1'), box('item-2', 30), words('item-3')], roots: ['item-1', 'item-2', 'item-3'] }).drawing;
};

/** A random step on a drawing, by command. */
type Step = (d: Drawing, n: number) => Patch | undefined;
const STEPS: Step[] = [
  (d, n) => plan(d, addItems, { items: [box(`item-n${n}`, n)], roots: [`item-n${n}`] }),
  (d, n) => plan(d, removeItems, { ids: [pick(d, n)] }),
  (d, n) => plan(d, transformItems, { ids: [pick(d, n)], map: [1 + (n % 3) / 10, 0, 0, 1, n, -n] }),
  (d, n) => plan(d, groupItems, { ids: pageOf(d).root.slice(0, 2 + (n % 2)), groupId: `item-g${n}` }),
  (d, n) => plan(d, ungroupItems, { ids: [pick(d, n)] }),
  (d, n) => plan(d, reorderItems, { ids: [pick(d, n)], to: n % 2 ? 'front' : 'back' }),
  (d) => plan(d, restackFilms, { films: [...pageOf(d).layers].reverse() }),
];
const pick = (d: Drawing, n: number): string => pageOf(d).root[n % Math.max(1, pageOf(d).root.length)] ?? 'item-none';
function plan<A>(d: Drawing, command: Command<A>, args: A): Patch | undefined {
  const p = command({ drawing: d, selection: [] }, args);
  return p.enabled ? p.run().patch : undefined;
}
const walk = fc.array(fc.tuple(fc.nat({ max: STEPS.length - 1 }), fc.nat({ max: 50 })), { maxLength: 14 });

/** The drawings along a walk, each valid, and the patches between them. */
function follow(steps: [number, number][]): { states: Drawing[]; patches: Patch[] } {
  const states = [start()];
  const patches: Patch[] = [];
  steps.forEach(([kind, n], i) => {
    const now = states.at(-1) as Drawing;
    const patch = (STEPS[kind] as Step)(now, n + 100 * i);
    if (!patch) return;
    patches.push(patch);
    states.push(applyPatch(now, patch));
  });
  return { states, patches };
}

describe('laws of patches, on walks of commands', () => {
  test('every state is a valid drawing; every patch can be taken back; all together are one', () => {
    fc.assert(
      fc.property(walk, (steps) => {
        const { states, patches } = follow(steps as [number, number][]);
        states.forEach((state) => validateDrawing(state));
        patches.forEach((patch, i) => expect(applyPatch(states[i + 1] as Drawing, invertPatch(patch))).toEqual(states[i]));
        const whole = patches.reduce(composePatches, {});
        expect(applyPatch(states[0] as Drawing, whole)).toEqual(states.at(-1));
        expect(diff(states[0] as Drawing, states.at(-1) as Drawing)).toEqual(whole);
      }),
      { numRuns: 80, seed: 51 },
    );
  });

  test('a history rebuilt from the log goes all the way back and forward', () => {
    fc.assert(
      fc.property(walk, (steps) => {
        const { states, patches } = follow(steps as [number, number][]);
        let history = historyOf(patches.map((patch) => ({ kind: 'do' as const, patch, origin: 'x', group: '' })));
        let drawing = states.at(-1) as Drawing;
        for (let step = history.back.at(-1); step; step = history.back.at(-1)) {
          const patch = invertPatch(step.patch);
          drawing = applyPatch(drawing, patch);
          history = remember(history, { kind: 'undo', patch, origin: 'x', group: '' });
        }
        expect(drawing).toEqual(states[0]);
        for (let step = history.forward.at(-1); step; step = history.forward.at(-1)) {
          drawing = applyPatch(drawing, step.patch);
          history = remember(history, { ...step, kind: 'redo' });
        }
        expect(drawing).toEqual(states.at(-1));
      }),
      { numRuns: 40, seed: 52 },
    );
  });

  test('changes with one group are one step, and one that ends where it began is none', () => {
    const d = start();
    const there = plan(d, transformItems, { ids: ['item-1'], map: [1, 0, 0, 1, 5, 0] }) as Patch;
    const one = remember(EMPTY_HISTORY, { kind: 'do', patch: there, origin: 'x', group: 'g' });
    expect(remember(one, { kind: 'do', patch: invertPatch(there), origin: 'x', group: 'g' }).back).toEqual([]);
  });
});

describe('rebasing on what others did', () => {
  const d = start();
  const mine = plan(d, setItemFields, { id: 'item-1', fields: { widthMm: 77 } }) as Patch;

  test('another field of the same item: both stand', () => {
    const now = run(d, transformItems, { ids: ['item-1'], map: [1, 0, 0, 1, 9, 9] }).drawing;
    const { patch, lost } = rebasePatch(now, mine);
    expect(lost).toEqual([]);
    expect(itemOf(applyPatch(now, patch), 'item-1')).toMatchObject({ widthMm: 77, matrix: [1, 0, 0, 1, 9, 9] });
  });

  test('the same field: theirs stands and it is said', () => {
    const now = run(d, setItemFields, { id: 'item-1', fields: { widthMm: 33 } }).drawing;
    expect(rebasePatch(now, mine)).toEqual({ patch: {}, lost: ['item-1'] });
  });

  test('both added items: both are in the tree', () => {
    const [a, b] = ['item-a', 'item-b'].map((id) => plan(d, addItems, { items: [box(id)], roots: [id] }) as Patch) as [Patch, Patch];
    const now = applyPatch(d, a);
    const merged = applyPatch(now, rebasePatch(now, b).patch);
    expect(pageOf(validateDrawing(merged)).root).toEqual(['item-1', 'item-2', 'item-3', 'item-a', 'item-b']);
  });
});

describe('commands', () => {
  test('sizes stay true: scale goes into the shape, not into its matrix', () => {
    const wide = mapItem(box('item-1'), [3, 0, 0, 2, 0, 0]) as BoxItem;
    expect([wide.widthMm, wide.heightMm, wide.matrix]).toEqual([60, 20, [1, 0, 0, 1, 0, 0]]);
    const tall = mapItem(words('item-3'), [0, 2, -2, 0, 0, 0]) as LetteringItem;
    expect([tall.capHeightMm, tall.widthPct, tall.letterSpaceMm]).toEqual([100, 100, 2]);
    expect((mapItem(words('item-3'), [2, 0, 0, 1, 0, 0]) as LetteringItem).widthPct).toBe(200);
  });

  test('the edge of a two-tone goes up and down with the height of the letters; rings and shades stay as they are', () => {
    const treatments = [
      { ...newTreatment('two-tone', 'treatment-1', 50, 'film-a'), edge: 'drawn' as const, path: 'M0 10 L50 20', shiftMm: 4 },
      newTreatment('ring', 'treatment-2', 50, 'film-a'),
    ];
    const d = run(start(), setTreatments, { id: 'item-3', treatments }).drawing;
    const tall = itemOf(run(d, setItemFields, { id: 'item-3', fields: { capHeightMm: 100 } }).drawing, 'item-3') as LetteringItem;
    expect(tall.treatments?.[0]).toMatchObject({ shiftMm: 8, path: 'M0 20L100 40' });
    expect(tall.treatments?.[1]).toEqual(treatments[1]);
  });

  test('a group moves as one, is copied whole, and comes apart', () => {
    const d = run(start(), groupItems, { ids: ['item-1', 'item-2'], groupId: 'item-g' }).drawing;
    expect(pageOf(d).root).toEqual(['item-g', 'item-3']);
    const moved = run(d, transformItems, { ids: ['item-g'], map: [1, 0, 0, 1, 100, 0] }).drawing;
    expect(leavesOf(moved, ['item-g']).map((leaf) => leaf.matrix[4])).toEqual([100, 130]);
    let n = 0;
    const copy = copyItems(d, ['item-g'], () => `item-c${++n}`);
    expect([copy.roots, copy.items.length]).toEqual([['item-c1'], 3]);
    expect(pageOf(run(d, ungroupItems, { ids: ['item-g'] }).drawing).root).toEqual(['item-1', 'item-2', 'item-3']);
  });

  test('what is locked or hidden cannot be moved or deleted; a film in use stays', () => {
    const d = run(start(), setFilmFields, { id: 'film-a', fields: { locked: true } }).drawing;
    expect(isOutOfReach(d, 'item-1')).toBe(true);
    expect(why(d, removeItems, { ids: ['item-1'] })).toMatch(/can be deleted/);
    expect(why(d, transformItems, { ids: ['item-1'], map: [1, 0, 0, 1, 1, 1] })).toMatch(/can be moved/);
    expect(why(d, removeFilm, { id: 'film-a' })).toMatch(/3 items are cut from this film/);
    expect(why(d, removeFilm, { id: 'film-b' })).toBeUndefined();
    expect(why(d, setItemFields, { id: 'item-1', fields: { widthMm: 4 } })).toMatch(/locked/);
  });

  test('impossible values are refused in words', () => {
    expect(why(start(), setItemFields, { id: 'item-3', fields: { capHeightMm: 0.1 } })).toMatch(/0.5 mm/);
    expect(why(start(), transformItems, { ids: ['item-1'], map: [1e9, 0, 0, 1e9, 0, 0] })).toMatch(/cannot take that size/);
    expect(why(start(), setScope, { scope: { kind: 'selection', items: [] } })).toMatch(/Select something/);
  });

  test('the scope takes everything, one film, or some items', () => {
    const d = run(start(), setItemFields, { id: 'item-2', fields: { layer: 'film-b' } }).drawing;
    const count = (scope: Parameters<typeof setScope>[1]['scope']): number[] =>
      [...leavesInScope(run(d, setScope, { scope }).drawing).values()].map((l) => l.length);
    expect(count({ kind: 'everything' })).toEqual([2, 1]);
    expect(count({ kind: 'layer', layer: 'film-b' })).toEqual([1]);
    expect(count({ kind: 'selection', items: ['item-1'] })).toEqual([1]);
  });

  test('items are replaced in their place', () => {
    const d = run(start(), replaceItems, { ids: ['item-1', 'item-2'], items: [box('item-w')] }).drawing;
    expect(pageOf(d).root).toEqual(['item-w', 'item-3']);
  });
});
