/**
 * Repeating: maps of the further copies of something along a line, in a grid, or round a centre. The first one is
 * the thing itself and not among them. Units mm, degrees counter-clockwise.
 */
import type { Matrix, Point } from '../types/index.ts';
import { InputError, LimitError } from '../errors/index.ts';
import { about, rotation, translation } from '../geometry/transform.ts';

/** How copies are repeated. */
export type Repeat =
  | { readonly kind: 'line'; readonly copies: number; readonly dxMm: number; readonly dyMm: number }
  | { readonly kind: 'grid'; readonly columns: number; readonly rows: number; readonly dxMm: number; readonly dyMm: number }
  | {
      readonly kind: 'round';
      readonly copies: number;
      readonly centre: Point;
      readonly stepDeg: number;
      readonly turning: boolean;
      readonly middle: Point;
    };

const MOST_COPIES = 5000;

function count(name: string, n: number): number {
  if (!Number.isInteger(n) || n < 1)
    throw new InputError('repeat', `${name} must be a whole number of 1 or more, not ${n}.`, { field: name });
  if (n > MOST_COPIES) throw new LimitError('repeat', `${MOST_COPIES} copies are the most at once.`);
  return n;
}

/**
 * @returns a map a further copy, in order
 * @throws InputError `input.repeat`, LimitError `limit.repeat` beyond 5000 copies
 */
export function repeatMaps(repeat: Repeat): Matrix[] {
  if (repeat.kind === 'line') {
    return Array.from({ length: count('copies', repeat.copies) }, (_, i) => translation(repeat.dxMm * (i + 1), repeat.dyMm * (i + 1)));
  }
  if (repeat.kind === 'grid') {
    const [columns, rows] = [count('columns', repeat.columns), count('rows', repeat.rows)];
    count('copies', columns * rows);
    return Array.from({ length: columns * rows }, (_, i) =>
      translation(repeat.dxMm * (i % columns), repeat.dyMm * Math.floor(i / columns)),
    ).slice(1);
  }
  const { centre, middle, stepDeg, turning } = repeat;
  return Array.from({ length: count('copies', repeat.copies) }, (_, i) => {
    const turn = about(rotation(stepDeg * (i + 1)), centre.x, centre.y);
    if (turning) return turn;
    const [a, b, c, d, e, f] = turn;
    return translation(a * middle.x + c * middle.y + e - middle.x, b * middle.x + d * middle.y + f - middle.y);
  });
}
