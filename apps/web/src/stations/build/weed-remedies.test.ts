/** What is done about parts that cannot be weeded, from the finding to the drawing, and what is said about it. */
import { afterEach, beforeAll, beforeEach, describe, expect, jest, test } from '@jest/globals';
import { area, bounds, boxShape, joinOutlines, mapOutline, parsePath, translation, type Outline } from '@lorvek/core/geometry';
import type { Finding } from '@lorvek/core/check';
import { addFilm, addItems, emptyDrawing, itemOf, leavesOf, type Drawing, type ShapeItem } from '@lorvek/model';
import type { BuiltView } from '@lorvek/computations';
import { toast } from 'sonner';
import { film, run, shapeOf } from '../../../../../packages/model/src/drawing.support.ts';
import { openDrawing } from '../../document/document.support.ts';
import type * as Store from '../../document/store.ts';
import { workHere } from '../../worker/worker.support.ts';
import type * as WeedRemedies from './weed-remedies.ts';

workHere();
let store: typeof Store;
let remedies: typeof WeedRemedies;
const realFetch = globalThis.fetch;
const said: [string, string][] = [];
beforeAll(async () => {
  store = await import('../../document/store.ts');
  remedies = await import('./weed-remedies.ts');
});
beforeEach(() => {
  said.length = 0;
  globalThis.fetch = () => Promise.reject(new TypeError('away'));
  for (const kind of ['success', 'warning', 'error'] as const)
    jest.spyOn(toast, kind).mockImplementation((text) => {
      said.push([kind, typeof text === 'string' ? text : '']);
      return '';
    });
});
afterEach(() => {
  store.closeDocument();
  jest.restoreAllMocks();
  globalThis.fetch = realFetch;
});

const now = (): Drawing => store.useDocument.getState().drawing;
const shapes = (): ShapeItem[] => leavesOf(now()).filter((leaf): leaf is ShapeItem => leaf.kind === 'shape');
const placed = ({ matrix, path }: ShapeItem): Outline => mapOutline(matrix, parsePath(path));
const boxAt = (x: number, y: number, width: number, height: number): Outline => mapOutline(translation(x, y), boxShape(width, height));

const PLATE = boxAt(0, 0, 100, 40);
const DOT = boxAt(105, 18, 4, 4);
const foundDot: Finding = { code: 'small-part', level: 'note', text: 'small', parts: ['item-dot'], box: bounds(DOT) } as unknown as Finding;
const view = (...outlines: readonly Outline[]): BuiltView =>
  ({ film: 'film-a', outline: joinOutlines([...outlines]) }) as unknown as BuiltView;

/** A plate and a dot 5 mm beside it on the upper of two films. */
function open(...more: readonly ShapeItem[]): void {
  const films = run(run(emptyDrawing(), addFilm, { film: film('film-b') }), addFilm, { film: film('film-a') });
  const items = [shapeOf('item-plate', 'film-a', PLATE), shapeOf('item-dot', 'film-a', DOT), ...more];
  openDrawing(store, run(films, addItems, { items, roots: items.map(({ id }) => id) }));
}

describe('a bridge', () => {
  test('makes one part of both, as wide as was asked, and one step takes it back', async () => {
    open();
    const before = now();
    await remedies.bridge(foundDot, view(PLATE, DOT), 2);
    expect(said).toEqual([['success', expect.stringMatching(/^Joined by a bridge/)]]);
    const [one, ...others] = shapes();
    expect(others).toEqual([]);
    const outline = placed(one!);
    expect(outline.contours).toHaveLength(1);
    // 5 mm of a bar of 2 mm
    expect(Math.abs(area(outline))).toBeCloseTo(100 * 40 + 4 * 4 + 5 * 2, 1);
    store.undo();
    expect(now()).toEqual(before);
  });

  test('where nothing of the film is near it is said, and nothing is drawn', async () => {
    open();
    const before = now();
    await remedies.bridge(foundDot, view(DOT), 2);
    await remedies.bridge({ ...foundDot, parts: ['item-gone'] }, view(PLATE, DOT), 2);
    expect(said.map(([kind]) => kind)).toEqual(['warning', 'warning']);
    expect(now()).toEqual(before);
  });
});

describe('other remedies', () => {
  test('what is no more than what was found is taken out; the film below takes it, where there is one', async () => {
    open();
    expect(remedies.filmBelow('film-a')?.id).toBe('film-b');
    expect(remedies.filmBelow('film-b')).toBeUndefined();
    remedies.cutWithBelow(foundDot, 'film-b');
    expect(itemOf(now(), 'item-dot')?.layer).toBe('film-a');
    remedies.cutWithBelow(foundDot, 'film-a');
    expect(itemOf(now(), 'item-dot')?.layer).toBe('film-b');
    await remedies.drop(foundDot);
    expect(itemOf(now(), 'item-dot')).toBeUndefined();
    expect(itemOf(now(), 'item-plate')).toBeDefined();
    expect(said.map(([kind]) => kind)).toEqual(['success', 'success']);
  });

  test('a part of a larger item is dropped from it, and the rest stays', async () => {
    const both = shapeOf('item-both', 'film-a', joinOutlines([boxAt(200, 0, 50, 50), boxAt(260, 0, 3, 3)]));
    open(both);
    await remedies.drop({ ...foundDot, parts: ['item-both'], box: bounds(boxAt(260, 0, 3, 3)) });
    const left = shapes().find(({ id }) => id !== 'item-plate' && id !== 'item-dot');
    expect(Math.abs(area(placed(left!)))).toBeCloseTo(2500, 1);
  });

  test('a thicker one has a ring of its own film, half of it to each side', () => {
    open();
    remedies.thicken(foundDot, 1.5);
    const [ring] = (itemOf(now(), 'item-dot') as ShapeItem).treatments ?? [];
    expect(ring).toMatchObject({ kind: 'ring', layer: 'film-a', distanceMm: 0.75, fill: 'backing' });
    remedies.thicken({ ...foundDot, parts: [] }, 1.5);
    expect(said.map(([kind]) => kind)).toEqual(['success', 'warning']);
  });
});
