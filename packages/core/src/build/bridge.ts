/**
 * A bar that joins a small part to what lies nearest of its film.
 *
 * Method: of two outlines that do not meet the nearest places are a corner of one and a place on a side of the other
 * (flattened, so for curves within the chords' error); the bar goes from one to the other and on into both, so that it holds,
 * but no farther than most of the way to where it would come out again. Units mm.
 * Cost: O(n log n) of the corners. Not handled: parts that meet; they are one.
 */
import type { Contour, Outline, Point } from '../types/index.ts';
import { nearestPlace, segmentsOf, type Segments } from '../geometry/distance.ts';
import { flattenContour, type Polyline } from '../geometry/flatten.ts';
import { windingNumber } from '../geometry/hit.ts';
import { strokeToShape } from '../geometry/offset/stroke-to-shape.ts';

const FLAT_MM = 0.02;
/** The bar ends inside at this share of the way through. */
const INTO_SHARE = 0.8;

export interface Bridge {
  readonly bar: Outline;
  /** Where it meets the part, and what it is joined to. */
  readonly from: Point;
  readonly to: Point;
}

const cornersOf = ({ xy }: Polyline): Point[] =>
  Array.from({ length: xy.length / 2 }, (_, i) => ({ x: xy[2 * i] as number, y: xy[2 * i + 1] as number }));

/** Nearest places of two sets of sides: at a corner of one or the other. */
function nearestPair(own: Segments, mine: readonly Point[], others: Segments, theirs: readonly Point[]): { from: Point; to: Point } {
  let best = { from: mine[0] as Point, to: theirs[0] as Point };
  let least = Infinity;
  for (const from of mine) {
    const { x, y, mm } = nearestPlace(others, from.x, from.y);
    if (mm < least) [least, best] = [mm, { from, to: { x, y } }];
  }
  for (const to of theirs) {
    const { x, y, mm } = nearestPlace(own, to.x, to.y);
    if (mm < least) [least, best] = [mm, { from: { x, y }, to }];
  }
  return best;
}

/** How far a ray goes from a place on the boundary until it meets a side again. @returns Infinity when it does not */
function wayThrough({ xy }: Segments, from: Point, ux: number, uy: number): number {
  let least = Infinity;
  for (let i = 0; i < xy.length; i += 4) {
    const [ax, ay] = [(xy[i] as number) - from.x, (xy[i + 1] as number) - from.y];
    const [dx, dy] = [(xy[i + 2] as number) - (xy[i] as number), (xy[i + 3] as number) - (xy[i + 1] as number)];
    const cross = ux * dy - uy * dx;
    if (Math.abs(cross) < 1e-12) continue;
    const along = (ax * dy - ay * dx) / cross;
    const share = (ax * uy - ay * ux) / cross;
    if (along > FLAT_MM && share >= 0 && share <= 1) least = Math.min(least, along);
  }
  return least;
}

/**
 * @param own the contour of the part that is joined
 * @param all contours of its film, also its own and its holes, which it is not joined to
 * @param widthMm of the bar, above 0
 * @returns undefined when there is nothing that it could be joined to
 */
export function bridgeTo(own: Contour, all: readonly Contour[], widthMm: number): Bridge | undefined {
  const line = flattenContour(own, FLAT_MM);
  const others = all
    .filter((contour) => contour !== own && contour.closed)
    .map((contour) => flattenContour(contour, FLAT_MM))
    .filter(({ xy }) => xy.length > 0 && windingNumber([line], xy[0] as number, xy[1] as number) === 0);
  const [mine, theirs] = [segmentsOf([line]), segmentsOf(others)];
  if (!mine || !theirs) return undefined;
  const { from, to } = nearestPair(mine, cornersOf(line), theirs, others.flatMap(cornersOf));
  const mm = Math.hypot(to.x - from.x, to.y - from.y);
  if (!(mm > 0)) return undefined;
  const [ux, uy] = [(to.x - from.x) / mm, (to.y - from.y) / mm];
  const back = Math.min(widthMm, INTO_SHARE * wayThrough(mine, from, -ux, -uy));
  const on = Math.min(widthMm, INTO_SHARE * wayThrough(theirs, to, ux, uy));
  const span = [from.x - ux * back, from.y - uy * back, to.x + ux * on, to.y + uy * on];
  const bar = strokeToShape({ contours: [{ closed: false, spans: [span] }] }, { width: widthMm, cap: 'butt', join: 'mitre' });
  return { bar, from, to };
}
