/**
 * Distances to polylines, mm: their segments in an index of boxes (flatbush), the nearest box first and then
 * all that could be nearer.
 */
import Flatbush from 'flatbush';
import type { Point } from '../types/index.ts';
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
 * The place on the nearest segment, and how far it is, mm. @complexity O(log n) where segments lie apart
 * @param segments one at least; `segmentsOf` gives none for none
 * @param x,y mm
 */
export function nearestPlace(segments: Segments, x: number, y: number): Point & { readonly mm: number } {
  const { xy, tree } = segments;
  const to = (i: number): number =>
    segmentDistance(x, y, xy[4 * i] as number, xy[4 * i + 1] as number, xy[4 * i + 2] as number, xy[4 * i + 3] as number);
  let own = tree.neighbors(x, y, 1)[0] as number;
  let best = to(own);
  for (const i of tree.search(x - best, y - best, x + best, y + best)) {
    const mm = to(i);
    if (mm < best) [best, own] = [mm, i];
  }
  const [ax, ay] = [xy[4 * own] as number, xy[4 * own + 1] as number];
  const [dx, dy] = [(xy[4 * own + 2] as number) - ax, (xy[4 * own + 3] as number) - ay];
  const length2 = dx * dx + dy * dy;
  const share = length2 === 0 ? 0 : Math.min(1, Math.max(0, ((x - ax) * dx + (y - ay) * dy) / length2));
  return { x: ax + share * dx, y: ay + share * dy, mm: best };
}

/** Distance from a point to the nearest segment, mm; see `nearestPlace`. */
export const nearest = (segments: Segments, x: number, y: number): number => nearestPlace(segments, x, y).mm;
