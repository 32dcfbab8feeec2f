/** Which outlines lie on one another, for parts that have to stay together: their lines cross, or one lies in the other. */
import type { Box, Outline } from '../types/index.ts';
import { flatten, type Polyline } from '../geometry/flatten.ts';
import { windingNumber } from '../geometry/hit.ts';
import { bounds, boxesMeet, isEmptyBox } from '../geometry/outline.ts';
import { at } from '../geometry/span.ts';

/** Chords are within this of the outlines, mm. */
const TOLERANCE_MM = 0.05;

/** Straight pieces of lines as [x0, y0, x1, y1, …], only those that may meet a box. */
function piecesNear(lines: readonly Polyline[], box: Box): number[] {
  const out: number[] = [];
  for (const { closed, xy } of lines) {
    const n = xy.length / 2;
    for (let i = 0; i < (closed ? n : n - 1); i++) {
      const j = (i + 1) % n;
      const [x0, y0, x1, y1] = [at(xy, 2 * i), at(xy, 2 * i + 1), at(xy, 2 * j), at(xy, 2 * j + 1)];
      if (Math.max(x0, x1) < box.minX || Math.min(x0, x1) > box.maxX || Math.max(y0, y1) < box.minY || Math.min(y0, y1) > box.maxY)
        continue;
      out.push(x0, y0, x1, y1);
    }
  }
  return out;
}

const side = (ax: number, ay: number, bx: number, by: number, x: number, y: number): number => (bx - ax) * (y - ay) - (by - ay) * (x - ax);

function cross(a: readonly number[], b: readonly number[]): boolean {
  for (let i = 0; i < a.length; i += 4) {
    const [ax, ay, bx, by] = [at(a, i), at(a, i + 1), at(a, i + 2), at(a, i + 3)];
    for (let j = 0; j < b.length; j += 4) {
      const [cx, cy, dx, dy] = [at(b, j), at(b, j + 1), at(b, j + 2), at(b, j + 3)];
      if (Math.max(ax, bx) < Math.min(cx, dx) || Math.max(cx, dx) < Math.min(ax, bx)) continue;
      if (Math.max(ay, by) < Math.min(cy, dy) || Math.max(cy, dy) < Math.min(ay, by)) continue;
      if (side(ax, ay, bx, by, cx, cy) * side(ax, ay, bx, by, dx, dy) > 0) continue;
      if (side(cx, cy, dx, dy, ax, ay) * side(cx, cy, dx, dy, bx, by) <= 0) return true;
    }
  }
  return false;
}

/** Does a line of the first begin in the second? */
const isWithin = (inner: readonly Polyline[], outer: readonly Polyline[]): boolean =>
  inner.some(({ xy }) => xy.length > 0 && windingNumber(outer, at(xy, 0), at(xy, 1)) !== 0);

/**
 * Sets of outlines that meet, by index; an empty one is a set of its own.
 * @complexity pairs of outlines whose boxes meet, times their segments near one another
 */
export function lyingTogether(outlines: readonly Outline[]): number[][] {
  const boxes = outlines.map(bounds);
  const lines = outlines.map((outline) => flatten(outline, TOLERANCE_MM));
  const meet = (i: number, j: number): boolean => {
    const [a, b] = [boxes[i] as Box, boxes[j] as Box];
    if (isEmptyBox(a) || isEmptyBox(b) || !boxesMeet(a, b)) return false;
    const [one, other] = [lines[i] as Polyline[], lines[j] as Polyline[]];
    return cross(piecesNear(one, b), piecesNear(other, a)) || isWithin(one, other) || isWithin(other, one);
  };
  const home = outlines.map((_, i) => i);
  const find = (i: number): number => {
    while (at(home, i) !== i) i = at(home, i);
    return i;
  };
  for (let i = 0; i < outlines.length; i++) for (let j = 0; j < i; j++) if (find(i) !== find(j) && meet(i, j)) home[find(i)] = find(j);
  const sets = new Map<number, number[]>();
  outlines.forEach((_, i) => sets.set(find(i), [...(sets.get(find(i)) ?? []), i]));
  return [...sets.values()];
}
