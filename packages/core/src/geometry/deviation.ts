/**
 * Greatest distance between the boundaries of two outlines (Hausdorff, both ways), mm: each is sampled
 * finely and every sample measured to the other's polyline. Error at most the sampling tolerance, 1 µm chords
 * and samples at most `step` mm apart. A measure for tests and reports, not for inner loops.
 */
import type { Outline } from '../types/index.ts';
import { nearest, segmentsOf, type Segments } from './distance.ts';
import { flatten } from './flatten.ts';
import { at } from './span.ts';

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
