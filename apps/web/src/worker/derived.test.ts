/** Lines of edge cuts as the screen knows them: asked for once, and again when what broke was not the line. */
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { AppError, InputError } from '@lorvek/core';
import { boxShape } from '@lorvek/core/geometry';
import { addFilm, addItems, emptyDrawing, itemOf, type Drawing, type EdgeCutItem } from '@lorvek/model';
import { printLayer, run, shapeOf } from '../../../../packages/model/src/drawing.support.ts';
import { standInForBrowser } from '../browser.support.ts';
import type * as Compute from './compute.ts';
import type * as Derived from './derived.ts';
import { ToldWorker } from './worker.support.ts';

standInForBrowser({ Worker: ToldWorker });
let compute: typeof Compute;
let derived: typeof Derived;
const { opened } = ToldWorker;
/** Test files follow one another in one process: none finds the workers of another. */
beforeAll(async () => {
  compute = await import('./compute.ts');
  derived = await import('./derived.ts');
  compute.stopAsking();
  opened.length = 0;
});
afterAll(() => {
  compute.stopAsking();
  derived.followDrawing({});
  opened.length = 0;
});

const cut = (id: string): EdgeCutItem => ({
  type: 'item',
  kind: 'edge-cut',
  id,
  name: 'Round it',
  layer: 'print-p',
  matrix: [1, 0, 0, 1, 0, 0],
  of: ['item-s'],
  shape: 'follow',
  distanceMm: 2,
  smoothMm: 0,
  cornerMm: 0,
  holes: false,
  joinWithinMm: 0,
  line: { kind: 'kiss' },
});
function drawn(id: string): EdgeCutItem {
  const bare = run(emptyDrawing(), addFilm, { film: printLayer('print-p') });
  const drawing: Drawing = run(bare, addItems, { items: [shapeOf('item-s', 'print-p', boxShape(30, 20)), cut(id)], roots: ['item-s', id] });
  derived.followDrawing(drawing);
  return itemOf(drawing, id) as EdgeCutItem;
}
const asked = (): { worker: ToldWorker; at: number }[] =>
  opened.flatMap((worker) => worker.posted.flatMap(({ question }, at) => (question.op === 'edge-cut' ? [{ worker, at }] : [])));
async function until(isSo: () => boolean): Promise<void> {
  for (let k = 0; k < 400 && !isSo(); k++) await new Promise((resolve) => setTimeout(resolve, 10));
  expect(isSo()).toBe(true);
}

test('a line is asked for once, and is there when it is answered', async () => {
  const item = drawn('item-c1');
  expect(derived.resultOf(item)).toBeUndefined();
  expect(derived.resultOf(item)).toBeUndefined();
  expect(asked()).toHaveLength(1);
  const [first] = asked();
  first!.worker.answer(first!.at, boxShape(34, 24));
  await until(() => derived.isWorkedOut(item));
  expect(derived.piecesOf(item)).toEqual([{ layer: null, outline: boxShape(34, 24) }]);
});

test('a line that cannot be says so and is left; where the worker broke it is asked for again', async () => {
  const impossible = drawn('item-c2');
  derived.resultOf(impossible);
  const [, second] = asked();
  second!.worker.refuse(second!.at, new InputError('distance', 'Too far.'));
  await until(() => derived.resultOf(impossible)?.error === 'Too far.');

  const broken = drawn('item-c3');
  derived.resultOf(broken);
  const [, , third] = asked();
  third!.worker.refuse(third!.at, new AppError('internal', 'It broke.'));
  await until(() => derived.resultOf(broken)?.error !== undefined);
  await until(() => derived.resultOf(broken) === undefined);
  expect(asked()).toHaveLength(4);
});
