/**
 * Offset: an outline grown or shrunk by a distance, with true curves. Each span's parallel is fitted once within the
 * tolerance, joins are exact, loops are removed by the weld with positive fill.
 * Greatest residual about the tolerance (5 µm) where the result is smooth; mitres only at true corners.
 * An inset past vanishing gives an empty outline. Open contours are left out.
 */
import { Clipper, EndType, JoinType } from 'clipper2-ts';
import type { Contour, Outline } from '../../types/index.ts';
import { InputError } from '../../errors/index.ts';
import { flatten } from '../flatten.ts';
import { lineDistance, windingNumber } from '../hit.ts';
import { bounds, EMPTY_OUTLINE, nodeCount } from '../outline.ts';
import { clipContours, weld } from '../weld/weld.ts';
import { mergeSmooth, type Joints } from './merge-smooth.ts';
import { arcsRoundCorners, rawOffset, type Join } from './raw-offset.ts';

/**
 * How many nodes a parallel may have: `few` as can be with joints on the curves; as many as its outline, `likeOutline`, the arcs
 * round its corners aside, where that is possible – a curve cannot always be followed by one – and merged no further, which is
 * twice as fast; or `any`, the fastest, for what is worked on.
 */
export type OffsetNodes = 'few' | 'likeOutline' | 'any';

/** How corners are made, and how exact curves are, mm. */
export interface OffsetOptions {
  readonly join: Join;
  /** Greatest length of a mitre in distances, beyond which a bevel is made; 4 when not given. */
  readonly mitreLimit?: number;
  /** Accuracy of the curves, mm; 0.0048 when not given. */
  readonly tol?: number;
  /** The outline is known to be the result of a weld: it need not be cleaned again. */
  readonly clean?: boolean;
  /** How many nodes it may have; `few` when not given. */
  readonly nodes?: OffsetNodes;
}

/** The share of the tolerance that the parallels take: nearly exact, so that the rest is left to the merging of smooth curves. */
const EXACT_SHARE = 0.05;
/** Where nodes are to be as few as can be, and where only whole curves are merged, so that they are few to begin with. */
const THIN_SHARE = 0.02;
const QUICK_SHARE = 0.2;
/** Merging of parts of curves saves nodes down to so many times the outline's, and joints beside them so many: worth the time, more is not. */
const PARTS_SAVE = 1.35;
const BESIDE_SAVES = 2;
/** Distances beyond this are taken as a mistake: 100 m. */
const FARTHEST_MM = 1e5;

/** Does a circle of some radius lie within the shape, round the middle of its box or of what is solid there, as far as is seen quickly? */
function holdsCircle(shape: Outline, radiusMm: number): boolean {
  const lines = flatten(shape, 0.05);
  let [sum, mx, my] = [0, 0, 0];
  const edges = (visit: (ax: number, ay: number, bx: number, by: number) => void): void => {
    for (const { xy } of lines)
      for (let i = 0, j = xy.length - 2; i < xy.length; j = i, i += 2)
        visit(xy[j] as number, xy[j + 1] as number, xy[i] as number, xy[i + 1] as number);
  };
  edges((ax, ay, bx, by) => {
    const cross = ax * by - ay * bx;
    sum += cross;
    mx += (ax + bx) * cross;
    my += (ay + by) * cross;
  });
  const [x, y] = [mx / (3 * sum), my / (3 * sum)];
  return lineDistance(lines, x, y) > radiusMm + 0.1 && windingNumber(lines, x, y) !== 0;
}

/** Polygons tell quickly whether anything is left of an inset: chords of 10 µm, inset by 50 µm less than asked. */
function vanishes(shape: Outline, inwardMm: number): boolean {
  const scale = 1e3;
  const box = bounds(shape);
  if (2 * inwardMm > Math.min(box.maxX - box.minX, box.maxY - box.minY) + 0.1) return true;
  if (holdsCircle(shape, inwardMm)) return false;
  const rings = flatten(shape, 0.01).map(({ xy }) => {
    const ring: { x: number; y: number }[] = [];
    for (let i = 0; i < xy.length; i += 2)
      ring.push({ x: Math.round((xy[i] as number) * scale), y: Math.round((xy[i + 1] as number) * scale) });
    return ring;
  });
  return Clipper.inflatePaths(rings, -(inwardMm - 0.05) * scale, JoinType.Miter, EndType.Polygon, 4).length === 0;
}

/**
 * @param distanceMm outward when positive, inward when negative
 * @throws InputError `input.offset` for an impossible distance
 */
export function offset(o: Outline, distanceMm: number, opts: OffsetOptions): Outline {
  if (!(Math.abs(distanceMm) <= FARTHEST_MM))
    throw new InputError('offset', `The distance must be at most ${FARTHEST_MM} mm, not ${distanceMm}.`, { field: 'distanceMm' });
  const clean = opts.clean ? o : weld([o]);
  if (distanceMm === 0 || clean.contours.length === 0) return clean;
  if (distanceMm < -0.2 && vanishes(clean, -distanceMm)) return EMPTY_OUTLINE;
  const tol = opts.tol ?? 0.0048;
  /** The parallel with so much of the tolerance, and its smooth curves merged within the rest. */
  const parallel = (share: number): Outline => {
    const setup = { join: opts.join, mitreLimit: opts.mitreLimit ?? 4, tol: tol * share };
    return clipContours(
      'union',
      clean.contours.flatMap((contour): Contour[] => {
        const raw = rawOffset(contour, distanceMm, setup);
        return raw ? [raw] : [];
      }),
      [],
      'positive',
    );
  };
  // as it always was: what treatments made of older jobs is cut the same
  if ((opts.nodes ?? 'few') === 'few') return mergeSmooth(parallel(EXACT_SHARE), tol * (1 - EXACT_SHARE));
  const merge = (outline: Outline, share: number, joints: Joints): Outline =>
    mergeSmooth(outline, tol * (1 - share), { joints, straight: true });
  const quickly = merge(parallel(QUICK_SHARE), QUICK_SHARE, 'known');
  if (opts.nodes === 'any') return quickly;
  const asked = clean.contours.reduce((sum, contour) => sum + contour.spans.length + arcsRoundCorners(contour, distanceMm), 0);
  const nodes = nodeCount(quickly);
  if (nodes <= asked || nodes > PARTS_SAVE * asked) return quickly;
  const thin = parallel(THIN_SHARE);
  const merged = merge(thin, THIN_SHARE, 'anywhere');
  const tooMany = nodeCount(merged) - asked;
  return tooMany <= 0 || tooMany > BESIDE_SAVES ? merged : merge(thin, THIN_SHARE, 'beside');
}
