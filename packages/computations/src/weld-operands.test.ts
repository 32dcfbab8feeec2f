/** What the weld family's results keep of the items they are made of. */
import { expect, test } from '@jest/globals';
import { mapGradient } from '@lorvek/core/colour';
import { area, boxShape, joinOutlines, mapOutline, parsePath, translation, type Matrix } from '@lorvek/core/geometry';
import { weldOperands, type Operand } from './weld-operands.ts';

const stops = [
  { offset: 0, hex: '#ff0000' },
  { offset: 1, hex: '#0000ff' },
];
const sunset: Operand = {
  name: 'Sunset',
  film: 'film-a',
  outline: joinOutlines([mapOutline(translation(100, 50), boxShape(40, 20)), mapOutline(translation(160, 50), boxShape(40, 20))]),
  gradient: { kind: 'linear', spread: 'pad', stops, matrix: [100, 0, 0, 100, 100, 50] },
  printed: true,
};
const plain: Operand = { name: 'Plain', film: 'film-b', outline: mapOutline(translation(110, 40), boxShape(10, 60)) };

/** Where a shape's gradient lies on the drawing. */
const courseOf = ({ gradient, matrix }: { gradient?: typeof sunset.gradient; matrix: readonly number[] }): Matrix | undefined =>
  gradient && mapGradient(matrix as unknown as Matrix, gradient).matrix;

test('parts, and what is knocked out, have the gradient where it was; what takes after a plain item has none', () => {
  const parts = weldOperands('parts', [sunset]);
  expect(parts).toHaveLength(2);
  for (const part of parts) {
    expect(courseOf(part)).toEqual([100, 0, 0, 100, 100, 50]);
    expect(part.printed).toBe(true);
  }
  const [left] = weldOperands('knock-back', [sunset, plain]);
  expect(left?.layer).toBe('film-a');
  expect(left && courseOf(left)).toEqual([100, 0, 0, 100, 100, 50]);
  const [cut] = weldOperands('knock-front', [sunset, plain]);
  expect(cut?.gradient).toBeUndefined();
  const flat = weldOperands('flatten', [sunset, plain]);
  expect(flat.map(({ layer: film, gradient }) => [film, gradient !== undefined])).toEqual([
    ['film-a', true],
    ['film-b', false],
  ]);
});

test('a split leaves each part the film that is seen there', () => {
  const under: Operand = { name: 'Under', film: 'film-a', outline: boxShape(40, 40) };
  const over: Operand = { name: 'Over', film: 'film-b', outline: mapOutline(translation(20, 0), boxShape(40, 40)) };
  expect(
    weldOperands('split', [under, over])
      .map(({ layer }) => layer)
      .sort(),
  ).toEqual(['film-a', 'film-b', 'film-b']);
});

test('a group counts as what all of it covers together', () => {
  const pair: Operand = { ...plain, outline: boxShape(40, 40), others: [mapOutline(translation(20, 0), boxShape(40, 40))] };
  const through: Operand = { name: 'Through', film: 'film-a', outline: mapOutline(translation(10, 10), boxShape(40, 20)) };
  const [left] = weldOperands('knock-back', [pair, through]);
  expect(Math.abs(area(parsePath(left!.path)))).toBeCloseTo(60 * 40 - 40 * 20, 3);
  const [kept] = weldOperands('keep', [pair, through]);
  expect(Math.abs(area(parsePath(kept!.path)))).toBeCloseTo(40 * 20, 3);
});

const painted = (name: string, hex: string, x: number, onPrint = true): Operand => ({
  name,
  film: 'print-a',
  outline: mapOutline(translation(x, 0), boxShape(40, 40)),
  paint: { fill: { hex } },
  onPrint,
});

test('what is made of painted items keeps the colours of the item that it takes after', () => {
  const [red, blue] = [painted('Red', '#c4281f', 0), painted('Blue', '#1d3f8f', 20)];
  const hexes = (kind: Parameters<typeof weldOperands>[0]): (string | undefined)[] =>
    weldOperands(kind, [red, blue]).map(({ paint }) => paint?.fill?.hex);
  expect(hexes('weld')).toEqual(['#1d3f8f']);
  expect(hexes('knock-back')).toEqual(['#c4281f']);
  expect(hexes('keep')).toEqual(['#1d3f8f']);
  expect(hexes('split').sort()).toEqual(['#1d3f8f', '#1d3f8f', '#c4281f']);
});

test('flattened, colours on one print stay apart and touch; on a film they are one piece', () => {
  const areas = (onPrint: boolean): [string | undefined, number][] =>
    weldOperands('flatten', [painted('Red', '#c4281f', 0, onPrint), painted('Blue', '#1d3f8f', 20, onPrint)])
      .map(({ paint, path }): [string | undefined, number] => [paint?.fill?.hex, Math.round(Math.abs(area(parsePath(path))))])
      .sort((a, b) => a[1] - b[1]);
  expect(areas(true)).toEqual([
    ['#c4281f', 20 * 40],
    ['#1d3f8f', 40 * 40],
  ]);
  expect(areas(false).map(([, mm2]) => mm2)).toEqual([60 * 40]);
});

test('a gradient that a flat colour took the place of does not come back', () => {
  const flat: Operand = { ...sunset, printed: false, paint: { fill: { hex: '#c4281f' } } };
  for (const { gradient, printed, paint } of weldOperands('parts', [flat]))
    expect([gradient !== undefined, printed, paint?.fill?.hex]).toEqual([true, false, '#c4281f']);
});
