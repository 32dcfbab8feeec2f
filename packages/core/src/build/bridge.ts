/**
 * A bar that joins a small part to what lies nearest of its film.
 *
 * Method: of two outlines that do not meet the nearest places are a corner of one and a place on a side of the other
 * (flattened, so for curves within the chords' error), or the middle between two such where sides run along one another; the bar
 * goes from one to the other and on into both, so that it holds, but no farther than most of the way to where it would come out again. Units mm.
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
/** So many places along sides that run beside one another are looked at. */
const MOST_TRIED = 20;

export interface Bridge {
  readonly bar: Outline;
  /** Where it meets the part, and what it is joined to. */
  readonly from: Point;
  readonly to: Point;
}

const cornersOf = ({ xy }: Polyline): Point[] =>
  Array.from({ length: xy.length / 2 }, (_, i) => ({ x: xy[2 * i] as number, y: xy[2 * i + 1] as number }));

/** A place on one outline and the nearest of another. */
interface Pair {
  readonly from: Point;
  readonly to: Point;
  readonly mm: number;
}

/** Nearest places of two sets of sides: at a corner of one or the other, or between two such where sides run along one another. */
function nearestPair(own: Segments, mine: readonly Point[], others: Segments, theirs: readonly Point[]): Pair {
  const pairs = [
    ...mine.map((from): Pair => {
      const { x, y, mm } = nearestPlace(others, from.x, from.y);
      return { from, to: { x, y }, mm };
    }),
    ...theirs.map((to): Pair => {
      const { x, y, mm } = nearestPlace(own, to.x, to.y);
      return { from: { x, y }, to, mm };
    }),
  ];
  const best = pairs.reduce((one, other) => (other.mm < one.mm ? other : one));
  const as = (pair: Pair): boolean => pair.mm < best.mm + FLAT_MM && Math.hypot(...shiftOf(pair, best)) < FLAT_MM;
  const far = (pair: Pair): number => Math.hypot(pair.from.x - best.from.x, pair.from.y - best.from.y);
  const along = pairs.filter(as).sort((a, b) => far(b) - far(a));
  for (const other of along.slice(0, MOST_TRIED)) {
    const from = between(best.from, other.from);
    const to = between(best.to, other.to);
    const isBetween = nearestPlace(own, from.x, from.y).mm < FLAT_MM && nearestPlace(others, to.x, to.y).mm < FLAT_MM;
    if (isBetween) return { from, to, mm: Math.hypot(to.x - from.x, to.y - from.y) };
  }
  return best;
}

const between = (a: Point, b: Point): Point => ({ x: (a.x + b.x) / 2, y: (a.y + b.y) / 2 });

/** By how much the ways of two pairs differ. */
const shiftOf = (a: Pair, b: Pair): [number, number] => [a.to.x - a.from.x - (b.to.x - b.from.x), a.to.y - a.from.y - (b.to.y - b.from.y)];

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
  const { from, to, mm } = nearestPair(mine, cornersOf(line), theirs, others.flatMap(cornersOf));
  if (!(mm > 0)) return undefined;
  const [ux, uy] = [(to.x - from.x) / mm, (to.y - from.y) / mm];
  const back = Math.min(widthMm, INTO_SHARE * wayThrough(mine, from, -ux, -uy));
  const on = Math.min(widthMm, INTO_SHARE * wayThrough(theirs, to, ux, uy));
  const span = [from.x - ux * back, from.y - uy * back, to.x + ux * on, to.y + uy * on];
  const bar = strokeToShape({ contours: [{ closed: false, spans: [span] }] }, { width: widthMm, cap: 'butt', join: 'mitre' });
  return { bar, from, to };
}
