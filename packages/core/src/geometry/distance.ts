/**
 * Distances to polylines, mm: their segments in an index of boxes (flatbush), the nearest box first and then
 * all that could be nearer.
 */
import Flatbush from 'flatbush';
import type { Polyline } from './flatten.ts';
import { segmentDistance } from './hit.ts';
import { at } from './span.ts';

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
      xy.push(at(line.xy, 2 * i), at(line.xy, 2 * i + 1), at(line.xy, 2 * j), at(line.xy, 2 * j + 1));
    }
  }
  if (xy.length === 0) return undefined;
  const tree = new Flatbush(xy.length / 4);
  for (let i = 0; i < xy.length; i += 4) {
    tree.add(
      Math.min(at(xy, i), at(xy, i + 2)),
      Math.min(at(xy, i + 1), at(xy, i + 3)),
      Math.max(at(xy, i), at(xy, i + 2)),
      Math.max(at(xy, i + 1), at(xy, i + 3)),
    );
  }
  tree.finish();
  return { xy: Float64Array.from(xy), tree };
}

/** Distance from a point to the nearest segment, mm. @complexity O(log n) where segments lie apart */
export function nearest({ xy, tree }: Segments, x: number, y: number): number {
  const to = (i: number): number => segmentDistance(x, y, at(xy, 4 * i), at(xy, 4 * i + 1), at(xy, 4 * i + 2), at(xy, 4 * i + 3));
  let best = to(tree.neighbors(x, y, 1)[0] as number);
  for (const i of tree.search(x - best, y - best, x + best, y + best)) best = Math.min(best, to(i));
  return best;
}
