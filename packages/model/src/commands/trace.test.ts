/** Traces on the drawing: one step, taken whole, that gives way to the next. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { boxShape } from '@lorvek/core/geometry';
import {
  addItems,
  applyPatch,
  emptyDrawing,
  invertPatch,
  itemOf,
  layTrace,
  pageOf,
  showWithin,
  type Drawing,
  type PictureItem,
  type ShapeItem,
} from '../index.ts';
import { addFilm } from './films.ts';
import { inTurn, type EditorState, type Plan } from './plan.ts';
import { film, randomDrawing, randomEdit, run, shapeOf, traceSettings as settings } from '../drawing.support.ts';

const picture: PictureItem = {
  type: 'item',
  kind: 'picture',
  id: 'item-p',
  name: 'Crest',
  layer: null,
  matrix: [1, 0, 0, 1, 20, 20],
  asset: 'ab'.repeat(32),
  widthPx: 40,
  heightPx: 30,
  mmPerPx: 1,
  strengthPct: 100,
  locked: false,
};
const withPicture = (): Drawing => run(emptyDrawing(), addItems, { items: [picture], roots: [picture.id] });
const shapes = (...ids: string[]): ShapeItem[] => ids.map((id) => ({ ...shapeOf(id, '', boxShape(5, 5)), layer: null }));

describe('a trace', () => {
  test('lies over its picture as one group; the picture is hidden under it and knows how it was traced', () => {
    const drawing = run(withPicture(), layTrace, { picture: picture.id, settings, shapes: shapes('item-a', 'item-b'), id: 'item-t' });
    expect(pageOf(drawing).root).toEqual(['item-p', 'item-t']);
    expect(itemOf(drawing, 'item-t')).toMatchObject({ kind: 'group', name: 'Trace of Crest', children: ['item-a', 'item-b'] });
    expect(itemOf(drawing, 'item-p')).toMatchObject({ hidden: true, trace: { ...settings, result: 'item-t' } });
  });

  test('of the same picture again takes the place of the last one; one that was taken away is no matter', () => {
    const first = run(withPicture(), layTrace, { picture: picture.id, settings, shapes: shapes('item-a'), id: 'item-t' });
    const again = run(first, layTrace, {
      picture: picture.id,
      settings: { ...settings, result: 'item-t' },
      shapes: shapes('item-b'),
      id: 'item-u',
    });
    expect(pageOf(again).root).toEqual(['item-p', 'item-u']);
    expect(itemOf(again, 'item-a')).toBeUndefined();
    const gone = run(withPicture(), layTrace, {
      picture: picture.id,
      settings: { ...settings, result: 'item-gone' },
      shapes: shapes('item-b'),
      id: 'item-u',
    });
    expect(pageOf(gone).root).toEqual(['item-p', 'item-u']);
  });

  test('without shapes, or of a picture that is gone, is refused', () => {
    expect(() => run(withPicture(), layTrace, { picture: picture.id, settings, shapes: [], id: 'item-t' })).toThrow();
    expect(() => run(emptyDrawing(), layTrace, { picture: picture.id, settings, shapes: shapes('item-a'), id: 'item-t' })).toThrow(
      'no longer',
    );
    const noPicture = run(emptyDrawing(), addItems, { items: shapes('item-p'), roots: ['item-p'] });
    expect(() => run(noPicture, showWithin, { picture: 'item-p', edge: shapes('item-e')[0]! })).toThrow('no longer');
  });
});

test('a picture is shown within its edge, which is a shape over it', () => {
  const [edge] = shapes('item-e');
  const drawing = run(withPicture(), showWithin, { picture: picture.id, edge: edge! });
  expect(itemOf(drawing, 'item-p')).toMatchObject({ clip: edge!.path });
  expect(pageOf(drawing).root).toEqual(['item-p', 'item-e']);
});

describe('commands in turn', () => {
  const asStep =
    (n: number) =>
    (state: EditorState): Plan => {
      const after = randomEdit(state.drawing, n);
      const patch = Object.fromEntries(
        [...new Set([...Object.keys(state.drawing), ...Object.keys(after)])]
          .filter((id) => state.drawing[id] !== after[id])
          .map((id) => [id, { before: state.drawing[id] ?? null, after: after[id] ?? null }]),
      );
      return { enabled: true, run: () => ({ patch, selection: [] }) };
    };

  test('do what they do one by one, and are taken back as one', () => {
    fc.assert(
      fc.property(fc.nat(), fc.array(fc.nat(), { maxLength: 6 }), (seed, edits) => {
        const start = randomDrawing(seed, 5);
        const plan = inTurn({ drawing: start, selection: [] }, edits.map(asStep));
        if (!plan.enabled) throw new Error(plan.why);
        const { patch } = plan.run();
        const after = applyPatch(start, patch);
        expect(after).toEqual(edits.reduce(randomEdit, start));
        expect(applyPatch(after, invertPatch(patch))).toEqual(start);
      }),
      { numRuns: 60, seed: 21 },
    );
  });

  test('where one is refused none is done, and its reason is given', () => {
    const state: EditorState = { drawing: emptyDrawing(), selection: [] };
    const plan = inTurn(state, [(now) => addFilm(now, { film: film('film-a') }), () => ({ enabled: false, why: 'No.' })]);
    expect(plan).toEqual({ enabled: false, why: 'No.' });
  });
});
