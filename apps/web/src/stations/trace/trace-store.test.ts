/** The trace that is worked on: asked for a moment after the settings, laid over its picture, taken back in one step. */
import { afterEach, beforeAll, beforeEach, describe, expect, jest, test } from '@jest/globals';
import { area, mapOutline, parsePath } from '@lorvek/core/geometry';
import { addItems, emptyDrawing, itemOf, leavesOf, type Drawing, type PictureItem } from '@lorvek/model';
import { run, stockOf } from '../../../../../packages/model/src/drawing.support.ts';
import { useShop } from '../../api/shop.ts';
import { openDrawing } from '../../document/document.support.ts';
import type * as Store from '../../document/store.ts';
import { workHere } from '../../worker/worker.support.ts';
import type * as TraceStore from './trace-store.ts';

workHere();
let store: typeof Store;
let tracing: typeof TraceStore;
const realFetch = globalThis.fetch;
beforeAll(async () => {
  store = await import('../../document/store.ts');
  tracing = await import('./trace-store.ts');
});

/** A red square of 60 by 40 pixels in the middle of 120 by 80, half a millimetre each. */
const picture = (id: string, asset = 'a'.repeat(64)): PictureItem => ({
  type: 'item',
  kind: 'picture',
  id,
  name: 'Badge',
  layer: null,
  matrix: [1, 0, 0, 1, 100, 50],
  asset,
  widthPx: 120,
  heightPx: 80,
  mmPerPx: 0.5,
  strengthPct: 100,
  locked: false,
});

const open = (drawing: Drawing): void => openDrawing(store, drawing);
const now = (): Drawing => store.useDocument.getState().drawing;
const own = (): PictureItem => itemOf(now(), 'item-p') as PictureItem;
const isDone = async (): Promise<void> => {
  for (let k = 0; k < 400; k++) {
    await new Promise((resolve) => setTimeout(resolve, 10));
    const { busy, answer, problem } = tracing.useTracing.getState();
    if (busy === 'no' && (answer ?? problem) !== undefined) return;
  }
  throw new Error('the trace did not come');
};

beforeEach(() => {
  globalThis.fetch = () => Promise.reject(new TypeError('away'));
  useShop.setState({ stock: [{ ...stockOf('red'), hex: '#c8141e' }] });
  open(run(emptyDrawing(), addItems, { items: [picture('item-p')], roots: ['item-p'] }));
  tracing.useTracing.setState({ picture: undefined, answer: undefined, seen: [], busy: 'no', problem: undefined, share: 0 });
});
afterEach(() => {
  tracing.stop();
  store.closeDocument();
  globalThis.fetch = realFetch;
});

describe('a look at the trace', () => {
  test('comes once the settings have settled, with the colours of the picture', async () => {
    tracing.preview(own());
    tracing.preview(own());
    await isDone();
    const { answer, picture: of, seen, problem } = tracing.useTracing.getState();
    expect([of, problem]).toEqual(['item-p', undefined]);
    expect(answer?.layers.length).toBeGreaterThan(0);
    expect(seen).toEqual(answer?.layers.map(({ hex }) => hex));
  });

  test('a colour that is left out stays to be chosen again', async () => {
    tracing.preview(own());
    await isDone();
    const [first] = tracing.useTracing.getState().seen;
    tracing.setTrace(own(), { leaveOut: [first!] });
    expect(own().trace).toMatchObject({ leaveOut: [first], smoothness: tracing.USUAL.smoothness });
    tracing.useTracing.setState({ answer: undefined });
    tracing.preview(own());
    await isDone();
    expect(tracing.useTracing.getState().answer?.layers.map(({ hex }) => hex)).not.toContain(first);
    expect(tracing.useTracing.getState().seen).toContain(first);
  });

  test('of a picture that is not there is a sentence; the next picture begins anew', async () => {
    open(
      run(emptyDrawing(), addItems, {
        items: [picture('item-p', 'b'.repeat(64)), picture('item-q')],
        roots: ['item-p', 'item-q'],
      }),
    );
    tracing.preview(own());
    await isDone();
    expect(tracing.useTracing.getState()).toMatchObject({ answer: undefined, problem: expect.stringMatching(/could not be fetched/) });
    tracing.preview(itemOf(now(), 'item-q') as PictureItem);
    expect(tracing.useTracing.getState()).toMatchObject({ picture: 'item-q', problem: undefined });
    await isDone();
    expect(tracing.useTracing.getState().problem).toBeUndefined();
  });

  test('stopped before it was begun it is not begun', () => {
    jest.useFakeTimers();
    try {
      tracing.preview(own());
      tracing.stop();
      expect(tracing.useTracing.getState().busy).toBe('no');
    } finally {
      jest.useRealTimers();
    }
  });
});

describe('the trace laid over its picture', () => {
  const redOf = (drawing: Drawing) =>
    leavesOf(drawing).flatMap((item) =>
      item.kind === 'shape' && item.layer !== null ? [mapOutline(item.matrix, parsePath(item.path))] : [],
    );

  test('lies where the picture shows it, true to size, on the film that is like it; the picture is hidden', async () => {
    await tracing.placeTrace(own());
    expect(tracing.useTracing.getState().busy).toBe('no');
    const [red] = redOf(now());
    // 60 by 40 pixels of half a millimetre
    expect(Math.abs(area(red!))).toBeCloseTo(600, -1);
    const { selection } = store.useDocument.getState();
    expect(selection).toHaveLength(1);
    expect(own().trace?.result).toBe(selection[0]);
    store.undo();
    expect(leavesOf(now()).map(({ id }) => id)).toEqual(['item-p']);
  });

  test('a second one takes the place of the first', async () => {
    await tracing.placeTrace(own());
    const before = own().trace?.result;
    const count = leavesOf(now()).length;
    await tracing.placeTrace(own());
    expect(own().trace?.result).not.toBe(before);
    expect(itemOf(now(), before!)).toBeUndefined();
    expect(leavesOf(now())).toHaveLength(count);
  });

  test('stopped meanwhile, or of a picture that is gone from the shop, it changes nothing', async () => {
    const before = now();
    const placing = tracing.placeTrace(own());
    tracing.stop();
    await placing;
    expect(now()).toBe(before);
    await tracing.placeTrace(picture('item-p', 'b'.repeat(64)));
    expect(now()).toBe(before);
  });

  test('which picture is traced: the chosen one, else one that was traced, else the first', () => {
    const traced: PictureItem = { ...picture('item-t'), trace: tracing.USUAL };
    const drawing = run(emptyDrawing(), addItems, { items: [picture('item-p'), traced], roots: ['item-p', 'item-t'] });
    expect(tracing.tracedPicture(drawing, ['item-p'])?.id).toBe('item-p');
    expect(tracing.tracedPicture(drawing, [])?.id).toBe('item-t');
    expect(tracing.tracedPicture(run(emptyDrawing(), addItems, { items: [picture('item-p')], roots: ['item-p'] }), [])?.id).toBe('item-p');
    expect(tracing.tracedPicture(emptyDrawing(), [])).toBeUndefined();
  });
});
