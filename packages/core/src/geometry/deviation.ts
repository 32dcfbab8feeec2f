/**
 * Greatest distance between the boundaries of two outlines (Hausdorff, both ways), mm: each is sampled
 * finely and every sample measured to the other's polyline. Error at most the sampling tolerance, 1 µm chords
 * and samples at most `step` mm apart. A measure for tests and reports, not for inner loops.
 */
import Flatbush from 'flatbush';
import type { Outline } from '../types/index.ts';
import { flatten, type Polyline } from './flatten.ts';
import { segmentDistance } from './hit.ts';
import { at } from './span.ts';

interface Segments {
  xy: Float64Array;
  tree: Flatbush;
}

function segmentsOf(lines: readonly Polyline[]): Segments | undefined {
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

function nearest(segments: Segments, x: number, y: number): number {
  const { xy, tree } = segments;
  const to = (i: number): number => segmentDistance(x, y, at(xy, 4 * i), at(xy, 4 * i + 1), at(xy, 4 * i + 2), at(xy, 4 * i + 3));
  let best = to(tree.neighbors(x, y, 1)[0] as number);
  for (const i of tree.search(x - best, y - best, x + best, y + best)) best = Math.min(best, to(i));
  return best;
}

function oneWay(from: Segments, to: Segments, step: number): number {
  let worst = 0;
  for (let i = 0; i < from.xy.length; i += 4) {
    const [x0, y0, x1, y1] = [at(from.xy, i), at(from.xy, i + 1), at(from.xy, i + 2), at(from.xy, i + 3)];
    const parts = Math.max(1, Math.ceil(Math.hypot(x1 - x0, y1 - y0) / step));
    for (let k = 0; k < parts; k++) worst = Math.max(worst, nearest(to, x0 + ((x1 - x0) * k) / parts, y0 + ((y1 - y0) * k) / parts));
  }
  return worst;
}

/** @returns 0 for two empty outlines, Infinity when only one is empty. @complexity O(samples · log n) */
export function deviation(a: Outline, b: Outline, stepMm = 0.2): number {
  const first = segmentsOf(flatten(a, 0.001));
  const second = segmentsOf(flatten(b, 0.001));
  if (!first || !second) return first === second ? 0 : Infinity;
  return Math.max(oneWay(first, second, stepMm), oneWay(second, first, stepMm));
}
