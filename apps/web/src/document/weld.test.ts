/** The weld family on what is selected: in the order in which it is seen, groups as one, nothing taken for known that is not. */
import { beforeAll, describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { area, boxShape, keepOverlap, mapOutline, parsePath, translation, weld as weldTogether, type Outline } from '@lorvek/core/geometry';
import {
  addFilm,
  addItems,
  emptyDrawing,
  setFilmOfItems,
  groupItems,
  itemOf,
  pageOf,
  restackFilms,
  setPaint,
  type Drawing,
  type ShapeItem,
} from '@lorvek/model';
import { film, printLayer, run, shapeOf } from '../../../../packages/model/src/drawing.support.ts';
import { workHere } from '../worker/worker.support.ts';
import type * as Weld from './weld.ts';

workHere();
let weld: typeof Weld;
beforeAll(async () => {
  weld = await import('./weld.ts');
});

type Layer = 'film-a' | 'film-b';
const boxAt = (x: number, y: number, width = 40, height = 30): Outline => mapOutline(translation(x, y), boxShape(width, height));
/** Items in the tree's order, on films of which the second lies above the first. */
function drawing(...items: readonly (readonly [id: string, layer: Layer, outline: Outline])[]): Drawing {
  let made = run(run(emptyDrawing(), addFilm, { film: film('film-a') }), addFilm, { film: film('film-b') });
  made = run(made, restackFilms, { films: ['film-a', 'film-b'] });
  for (const [id, layer, outline] of items) made = run(made, addItems, { items: [shapeOf(id, layer, outline)], roots: [id] });
  return made;
}
const outlineOf = ({ matrix, path }: Pick<ShapeItem, 'matrix' | 'path'>): Outline => mapOutline(matrix, parsePath(path));
const areaOf = (outlines: readonly Outline[]): number => outlines.reduce((sum, one) => sum + Math.abs(area(one)), 0);
const made = (kind: Weld.WeldKind, of: Drawing, ids: readonly string[]): Promise<Weld.Made[]> =>
  weld.weldFamily(kind, of, ids, pageOf(of).layers);

const anyBoxes = fc.array(
  fc.record({
    x: fc.integer({ min: 0, max: 60 }),
    y: fc.integer({ min: 0, max: 60 }),
    layer: fc.constantFrom<Layer>('film-a', 'film-b'),
  }),
  { minLength: 2, maxLength: 5 },
);

describe('what is made of the selection', () => {
  test('welded it covers what all covered; kept it is what all have in common', async () => {
    await fc.assert(
      fc.asyncProperty(anyBoxes, async (boxes) => {
        const outlines = boxes.map(({ x, y }) => boxAt(x, y));
        const of = drawing(...boxes.map(({ layer }, i) => [`item-${i}`, layer, outlines[i]!] as const));
        const ids = boxes.map((_, i) => `item-${i}`);
        const welded = await made('weld', of, ids);
        expect(areaOf(welded.map(outlineOf))).toBeCloseTo(Math.abs(area(weldTogether(outlines))), 1);
        const common = Math.abs(area(keepOverlap(outlines)));
        if (common > 1) expect(areaOf((await made('keep', of, ids)).map(outlineOf))).toBeCloseTo(common, 1);
      }),
      { numRuns: 25 },
    );
  });

  test('flattened, a place stays on the film that is seen there, whatever the order of the tree', async () => {
    const [low, high] = [boxAt(0, 0), boxAt(20, 10)];
    const overlap = Math.abs(area(keepOverlap([low, high])));
    for (const of of [
      drawing(['item-low', 'film-a', low], ['item-high', 'film-b', high]),
      drawing(['item-high', 'film-b', high], ['item-low', 'film-a', low]),
    ]) {
      const flat = await made('flatten', of, ['item-low', 'item-high']);
      const on = (layer: Layer): number => areaOf(flat.filter((one) => one.layer === layer).map(outlineOf));
      expect(on('film-b')).toBeCloseTo(40 * 30, 2);
      expect(on('film-a')).toBeCloseTo(40 * 30 - overlap, 2);
    }
  });

  test('a group counts as what it covers together, and one that is selected alone stands for what it holds', async () => {
    const parts = [boxAt(0, 0), boxAt(100, 0), boxAt(20, 10, 100, 10)];
    let of = drawing(...parts.map((outline, i) => [`item-${i}`, 'film-a', outline] as const));
    of = run(of, groupItems, { ids: ['item-0', 'item-1'], groupId: 'item-g' });
    const both = areaOf((await made('keep', of, ['item-g', 'item-2'])).map(outlineOf));
    expect(both).toBeCloseTo(20 * 10 + 20 * 10, 2);
    expect(weld.operandIds(of, ['item-g'])).toEqual((itemOf(of, 'item-g') as { children: string[] }).children);
    expect(weld.operandIds(of, ['item-g', 'item-2'])).toEqual(['item-g', 'item-2']);
    expect(areaOf((await made('weld', of, ['item-g'])).map(outlineOf))).toBeCloseTo(2 * 40 * 30, 2);
  });

  test('on a print what is made keeps its colour, and two colours do not become one', async () => {
    let of = drawing(['item-a', 'film-a', boxAt(0, 0)], ['item-b', 'film-a', boxAt(20, 10)]);
    of = run(of, addFilm, { film: printLayer('print-p') });
    of = run(of, setPaint, { ids: ['item-a'], fields: { fill: { hex: '#c4281f' } } });
    of = run(of, setPaint, { ids: ['item-b'], fields: { fill: { hex: '#1d3f8f' } } });
    of = run(of, setFilmOfItems, { ids: ['item-a', 'item-b'], film: 'print-p' });
    const hexes = async (kind: Weld.WeldKind): Promise<(string | undefined)[]> =>
      (await made(kind, of, ['item-a', 'item-b'])).map(({ paint }) => paint?.fill?.hex).sort();
    expect(await hexes('weld')).toEqual(['#1d3f8f']);
    expect(await hexes('flatten')).toEqual(['#1d3f8f', '#c4281f']);
  });

  test('too few items, or nothing in common, is refused in words', async () => {
    const of = drawing(['item-a', 'film-a', boxAt(0, 0)], ['item-b', 'film-a', boxAt(500, 0)]);
    await expect(made('weld', of, [])).rejects.toThrow();
    await expect(made('keep', of, ['item-a', 'item-b'])).rejects.toThrow();
  });
});
