/** Letters of a text that have places or turns of their own (SVG 2, 11.4). */
import type { Point } from '../../types/index.ts';
import { length, type LengthContext } from './values.ts';

/** Places of single letters of a text, by their number; absent ones follow the letter before. */
export interface Places {
  readonly x: readonly (number | undefined)[];
  readonly y: readonly (number | undefined)[];
  readonly dx: readonly (number | undefined)[];
  readonly dy: readonly (number | undefined)[];
  /** Degrees clockwise; the last one goes on. */
  readonly turn: readonly number[];
}

/**
 * Where a letter begins when the pen stands somewhere.
 * @param k number of the letter in its element
 */
export const penAt = (pen: Point, { x, y, dx, dy }: Places, k: number): Point => ({
  x: (x[k] ?? pen.x) + (dx[k] ?? 0),
  y: (y[k] ?? pen.y) + (dy[k] ?? 0),
});

/**
 * A text in stretches that are set in one piece: a new one wherever a letter has a place or turn of its own.
 * @param first number of the text's first letter in its element
 * @returns the runs, each with the number of its first letter
 */
export function placedRuns(text: string, first: number, { x, y, dx, dy, turn }: Places): { text: string; from: number }[] {
  const turned = turn.some((degrees) => degrees !== 0);
  const runs: { text: string; from: number }[] = [];
  Array.from(text).forEach((letter, i) => {
    const k = first + i;
    const last = runs.at(-1);
    const placed = turned || [x, y, dx, dy].some((list) => list[k] !== undefined);
    if (last && !placed) last.text += letter;
    else runs.push({ text: letter, from: k });
  });
  return runs;
}

/**
 * Where a text element says that its letters stand, one value a letter.
 * @param values attributes and what style sheets say
 * @param context in which percentages and font sizes are meant
 */
export function placesOf(values: ReadonlyMap<string, string>, context: LengthContext): Places {
  const list = (name: string): string[] => (values.get(name)?.trim() ?? '').split(/[\s,]+/);
  const lengths = (name: string, of: 'x' | 'y'): (number | undefined)[] => list(name).map((value) => length(value, context, of));
  return {
    x: lengths('x', 'x'),
    y: lengths('y', 'y'),
    dx: lengths('dx', 'x'),
    dy: lengths('dy', 'y'),
    turn: list('rotate').map((value) => Number(value) || 0),
  };
}
