/**
 * Distances to polylines, mm: their segments in an index of boxes (flatbush), the nearest box first and then
 * all that could be nearer.
 */
import Flatbush from 'flatbush';
import type { Polyline } from './flatten.ts';
import { segmentDistance } from './hit.ts';

/** Segments of polylines: x, y of their ends, and an index of their boxes. */
export interface Segments {
  readonly xy: Float64Array;
  readonly tree: Flatbush;
}

/** @returns undefined when there is none */
export function segmentsOf(lines: readonly Polyline[]): Segments | undefined {
  const xy: number[] = [];
  for (const line of lines) {
    const n = line.xy.length / 2;
    for (let i = 0; i < (line.closed ? n : n - 1); i++) {
      const j = (i + 1) % n;
      xy.push(line.xy[2 * i] as number, line.xy[2 * i + 1] as number, line.xy[2 * j] as number, line.xy[2 * j + 1] as number);
    }
  }
  if (xy.length === 0) return undefined;
  const tree = new Flatbush(xy.length / 4);
  for (let i = 0; i < xy.length; i += 4) {
    tree.add(
      Math.min(xy[i] as number, xy[i + 2] as number),
      Math.min(xy[i + 1] as number, xy[i + 3] as number),
      Math.max(xy[i] as number, xy[i + 2] as number),
      Math.max(xy[i + 1] as number, xy[i + 3] as number),
    );
  }
  tree.finish();
  return { xy: Float64Array.from(xy), tree };
}

/**
 * Distance from a point to the nearest segment, mm. @complexity O(log n) where segments lie apart
 * @param segments one at least; `segmentsOf` gives none for none
 * @param x,y mm
 */
export function nearest({ xy, tree }: Segments, x: number, y: number): number {
  const to = (i: number): number =>
    segmentDistance(x, y, xy[4 * i] as number, xy[4 * i + 1] as number, xy[4 * i + 2] as number, xy[4 * i + 3] as number);
  let best = to(tree.neighbors(x, y, 1)[0] as number);
  for (const i of tree.search(x - best, y - best, x + best, y + best)) best = Math.min(best, to(i));
  return best;
}
