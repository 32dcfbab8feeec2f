/** Questions to the page's workers: answered in any order, stopped, broken off, asked again of a fresh worker. */
import { afterEach, beforeAll, beforeEach, describe, expect, jest, test } from '@jest/globals';
import { AppError, InputError } from '@lorvek/core';
import { addFilm, addItems, emptyDrawing, type Drawing } from '@lorvek/model';
import { boxShape } from '@lorvek/core/geometry';
import { film, run, shapeOf } from '../../../../packages/model/src/drawing.support.ts';
import { standInForBrowser } from '../browser.support.ts';
import type * as Compute from './compute.ts';
import { ToldWorker } from './worker.support.ts';

standInForBrowser({ Worker: ToldWorker });
let compute: typeof Compute;
beforeAll(async () => {
  compute = await import('./compute.ts');
});
const { opened } = ToldWorker;
/** Test files follow one another in one process: none finds the workers of another. */
function stopAll(): void {
  for (const stop of [compute.stopAside, compute.stopNests, compute.stopTrace, compute.stopBuild]) stop();
  opened.length = 0;
}
beforeEach(stopAll);
afterEach(stopAll);

const order = { contours: [] };
const withItems = (drawing: Drawing, ...ids: string[]): Drawing =>
  run(drawing, addItems, { items: ids.map((id) => shapeOf(id, 'film-a', boxShape(10, 10))), roots: ids });
const codeOf = (answer: Promise<unknown>): Promise<string> =>
  answer.then(
    () => 'none',
    (error: unknown) => (error instanceof AppError ? error.code : String(error)),
  );

describe('one worker', () => {
  test('is started when it is first asked, and gives every question its own answer, whatever comes first', async () => {
    expect(opened).toHaveLength(0);
    const answers = [1, 2, 3].map(() => compute.askAside('order', order));
    expect(opened).toHaveLength(1);
    const [worker] = opened;
    worker!.answer(2, 'third');
    worker!.answer(0, 'first');
    worker!.refuse(1, new InputError('outline', 'No.'));
    expect(await answers[2]).toBe('third');
    expect(await answers[0]).toBe('first');
    expect(await codeOf(answers[1]!)).toBe('input.outline');
  });

  test('how far it is, and the best so far, are told to who asked, until the answer', async () => {
    const told: unknown[] = [];
    const answer = compute.askAside('order', order, (share, soFar) => told.push([share, soFar]));
    const other = compute.askAside('order', order);
    const [worker] = opened;
    worker!.tell(0, 0.25);
    worker!.tell(1, 0.5);
    worker!.tell(0, 0.75, 'better');
    worker!.answer(0, 'best');
    worker!.answer(1, 'other');
    expect([await answer, await other]).toEqual(['best', 'other']);
    expect(told).toEqual([
      [0.25, undefined],
      [0.75, 'better'],
    ]);
  });

  test('stopped, all that waits for it is refused as cancelled; the next question has a fresh worker', async () => {
    const waiting = [codeOf(compute.askAside('order', order)), codeOf(compute.askAside('order', order))];
    compute.stopAside();
    expect(await Promise.all(waiting)).toEqual(['cancelled', 'cancelled']);
    expect(opened[0]!.isEnded).toBe(true);
    const next = compute.askAside('order', order);
    expect(opened).toHaveLength(2);
    // what the old one still says is nobody's
    opened[0]!.answer(0, 'late');
    opened[1]!.answer(0, 'fresh');
    expect(await next).toBe('fresh');
  });

  test('broken down while it works, its questions are refused in words; nothing waits for ever', async () => {
    const first = compute.askAside('order', order);
    opened[0]!.answer(0, 'good');
    await first;
    const second = codeOf(compute.askAside('order', order));
    opened[0]!.onerror?.();
    expect(await second).toBe('worker');
    const third = compute.askAside('order', order);
    expect(opened).toHaveLength(2);
    opened[1]!.answer(0, 'again');
    expect(await third).toBe('again');
  });

  test('whose program did not come is replaced, and what was asked of it meanwhile is asked of the next', async () => {
    jest.useFakeTimers();
    try {
      const before = compute.askAside('order', order);
      opened[0]!.breakDown();
      expect(opened[0]!.isEnded).toBe(true);
      const meanwhile = compute.askAside('order', order);
      expect(opened).toHaveLength(1);
      jest.advanceTimersByTime(1001);
      expect(opened).toHaveLength(2);
      expect(opened[1]!.posted.map(({ question }) => question.op)).toEqual(['order', 'order']);
      opened[1]!.answer(0, 'a');
      opened[1]!.answer(1, 'b');
      expect([await before, await meanwhile]).toEqual(['a', 'b']);
      // one that fails before it ever answered is taken for one that did not come
      const third = codeOf(compute.askAside('order', order));
      compute.stopAside();
      expect(await third).toBe('cancelled');
    } finally {
      jest.useRealTimers();
    }
  });

  test('of a drawing only what it lacks is sent, and all of it to a fresh worker', () => {
    const first = withItems(run(emptyDrawing(), addFilm, { film: film('film-a') }), 'item-a', 'item-b');
    const second = withItems(first, 'item-c');
    const asking = (drawing: Drawing): Promise<unknown> => compute.askAside('thumbnail', { drawing, pictures: {} }).catch(() => undefined);
    void asking(first);
    void asking(second);
    void asking(second);
    const sent = (worker: ToldWorker): string[][] => worker.posted.map(({ news }) => Object.keys(news?.set ?? {}).sort());
    expect(sent(opened[0]!)[0]).toEqual(Object.keys(first).sort());
    expect(sent(opened[0]!)[1]).toContain('item-c');
    expect(sent(opened[0]!)[1]).not.toContain('item-a');
    expect(sent(opened[0]!)[2]).toEqual([]);
    compute.stopAside();
    void asking(second);
    expect(sent(opened[1]!)[0]).toEqual(Object.keys(second).sort());
    compute.stopAside();
  });
});

describe('several workers', () => {
  test('each search of a nest has one of its own, and all of them end together', async () => {
    const input = { parts: [] } as never;
    const searches = compute.askNests.map((ask) => codeOf(ask('nest', input)));
    expect(opened).toHaveLength(compute.askNests.length);
    compute.stopNests();
    expect(new Set(await Promise.all(searches))).toEqual(new Set(['cancelled']));
    expect(opened.every(({ isEnded }) => isEnded)).toBe(true);
  });

  test('stopping one kind of work leaves the others alone', async () => {
    const kept = compute.askBuild('order' as never, order as never);
    const stopped = codeOf(compute.askTrace('order' as never, order as never));
    compute.stopTrace();
    expect(await stopped).toBe('cancelled');
    opened[0]!.answer(0, 'kept');
    expect(await kept).toBe('kept');
  });
});
