/**
 * Parts seen along level lines: where each covers a line, exactly in x. What covers what, and what is seen, is told from
 * some hundred lines at the cost of the edges that they cross; a point at a time would look at every edge for each.
 */
import type { Box, Outline } from '../types/index.ts';
import { flatten, type Polyline } from '../geometry/flatten.ts';
import { isEmptyBox } from '../geometry/outline.ts';
import { boxesOf, solidOf, type SeenPart } from './seen-part.ts';

/** Stretches of a line, [from, to] in x, that do not touch. */
export type Stretches = readonly (readonly [number, number])[];

/** A part and the stretches of a level line that it covers. */
export interface Covering {
  /** Number of the part. */
  readonly part: number;
  readonly stretches: Stretches;
}

/** Stretches of the level line at `y` that lie within closed polylines (non-zero rule). */
function stretchesAt(lines: readonly Polyline[], y: number): [number, number][] {
  const crossings: { x: number; turn: number }[] = [];
  for (const { closed, xy } of lines) {
    if (!closed) continue;
    let ax = xy[xy.length - 2] as number;
    let ay = xy[xy.length - 1] as number;
    for (let i = 0; i < xy.length; i += 2) {
      const [bx, by] = [xy[i] as number, xy[i + 1] as number];
      if (ay <= y !== by <= y) crossings.push({ x: ax + ((y - ay) / (by - ay)) * (bx - ax), turn: ay <= y ? 1 : -1 });
      [ax, ay] = [bx, by];
    }
  }
  crossings.sort((a, b) => a.x - b.x);
  const out: [number, number][] = [];
  let winding = 0;
  for (const { x, turn } of crossings) {
    const was = winding;
    winding += turn;
    if (was === 0) out.push([x, x]);
    const last = out.at(-1);
    if (winding === 0 && last) last[1] = x;
  }
  return out.filter(([from, to]) => to > from);
}

/** Looks at parts along level lines. @param tol of the polylines that stand for them, mm */
export function rowsOf(parts: readonly SeenPart[], tol: number): (y: number) => Covering[] {
  const boxes: readonly Box[] = boxesOf(parts);
  const lines = new Map<number, readonly Polyline[]>();
  const linesOf = (part: number, outline: Outline): readonly Polyline[] => {
    const known = lines.get(part) ?? flatten(solidOf(outline), tol);
    lines.set(part, known);
    return known;
  };
  const order = parts.map((_, i) => i).filter((i) => !isEmptyBox(boxes[i] as Box));
  return (y) =>
    order.flatMap((part) => {
      const { minY, maxY } = boxes[part] as Box;
      if (y < minY || y > maxY) return [];
      const stretches = stretchesAt(linesOf(part, (parts[part] as SeenPart).outline), y);
      return stretches.length > 0 ? [{ part, stretches }] : [];
    });
}

/**
 * Does a place of the line lie within one of the stretches?
 * @param stretches in order, from and to, ends included
 */
export const holds = (stretches: Stretches, x: number): boolean => stretches.some(([from, to]) => x >= from && x <= to);
