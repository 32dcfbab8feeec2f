/**
 * Offset: an outline grown or shrunk by a distance, with true curves. Each span's parallel is fitted once within the
 * tolerance, joins are exact, loops are removed by the weld with positive fill.
 * Greatest residual about the tolerance (5 µm) where the result is smooth; mitres only at true corners.
 * An inset past vanishing gives an empty outline. Open contours are left out.
 */
import type { Contour, Outline } from '../../types/index.ts';
import { InputError } from '../../errors/index.ts';
import { EMPTY_OUTLINE } from '../outline.ts';
import { clipContours, weld } from '../weld/weld.ts';
import { mergeSmooth } from './merge-smooth.ts';
import { rawOffset, type Join } from './raw-offset.ts';

export interface OffsetOptions {
  readonly join: Join;
  /** Greatest length of a mitre in distances, beyond which a bevel is made; 4 when not given. */
  readonly mitreLimit?: number;
  /** Accuracy of the curves, mm; 0.0048 when not given. */
  readonly tol?: number;
}

/** Of the tolerance this share is left to the merging of smooth curves. */
const MERGE_SHARE = 0.6;
/** Distances beyond this are taken as a mistake: 100 m. */
const FARTHEST_MM = 1e5;

/**
 * @param distanceMm outward when positive, inward when negative
 * @throws InputError `input.offset` for an impossible distance
 */
export function offset(o: Outline, distanceMm: number, opts: OffsetOptions): Outline {
  if (!(Math.abs(distanceMm) <= FARTHEST_MM))
    throw new InputError('offset', `The distance must be at most ${FARTHEST_MM} mm, not ${distanceMm}.`, { field: 'distanceMm' });
  const clean = weld([o]);
  if (distanceMm === 0 || clean.contours.length === 0) return clean;
  const tol = opts.tol ?? 0.0048;
  const setup = { join: opts.join, mitreLimit: opts.mitreLimit ?? 4, tol: tol * (1 - MERGE_SHARE) };
  const raw = clean.contours.flatMap((contour): Contour[] => {
    const parallel = rawOffset(contour, distanceMm, setup);
    return parallel ? [parallel] : [];
  });
  return raw.length === 0 ? EMPTY_OUTLINE : mergeSmooth(clipContours('union', raw, [], 'positive'), tol * MERGE_SHARE);
}
