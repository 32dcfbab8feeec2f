/**
 * Places of one solid beside another where their outlines lie along one another: what belongs together is found by its sides,
 * which places drawn by lot hardly ever meet exactly.
 *
 * Method: sides of the two that run against each other are laid end to end in both ways; places to which several pairs of
 * sides lead count for the length of all of them (a vote among translations, as in D. Ballard, Generalizing the Hough
 * transform, Pattern Recognition 13, 1981). Units mm. Cost: the pairs of sides that run against each other.
 */
import type { TurnedSolid } from './nest-solid.ts';

/** Sides run against each other within this angle, radians. */
const AGAINST = 0.008;
/** Places so near are one, mm. */
const SAME_MM = 0.1;
/** Sides are as long as one another within this, mm. */
const AS_LONG_MM = 0.2;
/** Sides shorter than this share of the smaller solid's size have no place of their own when they are of different lengths. */
const SHORTEST_SHARE = 0.08;

/** Pairs that are remembered. */
const MOST_KNOWN = 100_000;

/** dx, dy where the second lies as seen from the first, and how long the contact is, the longest first. */
export interface Contact {
  readonly dx: number;
  readonly dy: number;
  readonly lengthMm: number;
}

/** The sides of a solid by the way they run. */
interface Sides {
  /** Radians, rising. */
  readonly angles: Float64Array;
  /** x0, y0, x1, y1, length, in the same order. */
  readonly of: Float64Array;
}

const num = (list: ArrayLike<number>, i: number): number => list[i] as number;
const WIDTH = 5;
/** Sides of unlike length count for this share of the shorter one. */
const UNLIKE = 0.3;
/** What ends of sides count for beside their lines. */
const ALONG = 0.01;

function sidesByAngle({ sides }: TurnedSolid): Sides {
  const order: { angle: number; at: number; length: number }[] = [];
  for (let s = 0; s < sides.length; s += 4) {
    const [ux, uy] = [num(sides, s + 2) - num(sides, s), num(sides, s + 3) - num(sides, s + 1)];
    const length = Math.hypot(ux, uy);
    if (length > SAME_MM) order.push({ angle: Math.atan2(uy, ux), at: s, length });
  }
  order.sort((a, b) => a.angle - b.angle);
  const of = new Float64Array(WIDTH * order.length);
  order.forEach(({ at, length }, i) => {
    of.set(sides.subarray(at, at + 4), WIDTH * i);
    of[WIDTH * i + 4] = length;
  });
  return { angles: Float64Array.from(order, ({ angle }) => angle), of };
}

/** The first angle that is not below one. */
function firstFrom(angles: Float64Array, angle: number): number {
  let [low, high] = [0, angles.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (num(angles, middle) < angle) low = middle + 1;
    else high = middle;
  }
  return low;
}

interface Vote {
  readonly x: number;
  readonly y: number;
  lengthMm: number;
  /** Normal equations of the way by which the sides lie in one line. */
  xx: number;
  xy: number;
  yy: number;
  bx: number;
  by: number;
}

/** Ways from one solid to another that sides of theirs are for. */
class Votes {
  private readonly of = new Map<number, Vote>();

  /** @param angle of the sides: along them the way is known less well than across, for ends of sides are rounded */
  add(x: number, y: number, lengthMm: number, angle: number): void {
    const key = Math.round(x / SAME_MM) * 2 ** 24 + Math.round(y / SAME_MM);
    let vote = this.of.get(key);
    if (!vote) this.of.set(key, (vote = { x, y, lengthMm: 0, xx: 0, xy: 0, yy: 0, bx: 0, by: 0 }));
    const [nx, ny] = [-Math.sin(angle), Math.cos(angle)];
    const across = nx * x + ny * y;
    vote.lengthMm += lengthMm;
    vote.xx += lengthMm * (nx * nx + ALONG);
    vote.xy += lengthMm * nx * ny;
    vote.yy += lengthMm * (ny * ny + ALONG);
    vote.bx += lengthMm * (nx * across + ALONG * x);
    vote.by += lengthMm * (ny * across + ALONG * y);
  }

  longest(leastMm: number, most: number): Contact[] {
    const all = [...this.of.values()].sort((one, other) => other.lengthMm - one.lengthMm);
    const kept: Vote[] = [];
    for (const vote of all) {
      const near = kept.find(({ x, y }) => Math.abs(x - vote.x) < 2 * SAME_MM && Math.abs(y - vote.y) < 2 * SAME_MM);
      if (!near) {
        if (kept.length < 2 * most) kept.push({ ...vote });
        continue;
      }
      for (const field of ['lengthMm', 'xx', 'xy', 'yy', 'bx', 'by'] as const) near[field] += vote[field];
    }
    return kept
      .filter(({ lengthMm }) => lengthMm >= leastMm)
      .sort((one, other) => other.lengthMm - one.lengthMm)
      .slice(0, most)
      .map(({ xx, xy, yy, bx, by, lengthMm }) => {
        const det = xx * yy - xy * xy;
        return { dx: (yy * bx - xy * by) / det, dy: (xx * by - xy * bx) / det, lengthMm };
      });
  }
}

/** Contacts of solids with one another, each pair worked out once. */
export class Contacts {
  private readonly sides = new Map<TurnedSolid, Sides>();
  private readonly known = new Map<TurnedSolid, Map<TurnedSolid, readonly Contact[]>>();

  private count = 0;

  /** @param leastShare of the smaller solid's size that a contact is long at least @param most contacts of a pair */
  constructor(
    private readonly leastShare: number,
    private readonly most: number,
  ) {}

  /** Where the second lies along the first. */
  of(a: TurnedSolid, b: TurnedSolid): readonly Contact[] {
    let ofA = this.known.get(a);
    if (!ofA) this.known.set(a, (ofA = new Map()));
    let found = ofA.get(b);
    if (!found) {
      if (++this.count > MOST_KNOWN) {
        this.known.clear();
        this.known.set(a, (ofA = new Map()));
        this.count = 1;
      }
      ofA.set(b, (found = this.find(a, b)));
    }
    return found;
  }

  private sidesOf(solid: TurnedSolid): Sides {
    let sides = this.sides.get(solid);
    if (!sides) this.sides.set(solid, (sides = sidesByAngle(solid)));
    return sides;
  }

  private find(a: TurnedSolid, b: TurnedSolid): readonly Contact[] {
    const sizeMm = Math.min(a.sizeMm, b.sizeMm);
    const votes = new Votes();
    const [sa, sb] = [this.sidesOf(a), this.sidesOf(b)];
    const [of, other] = [sa.of, sb.of];
    for (let i = 0; i < sa.angles.length; i++) {
      const angle = num(sa.angles, i);
      const opposite = angle + (angle > 0 ? -Math.PI : Math.PI);
      const s = WIDTH * i;
      // angles just beside half a turn stand at both ends of the list
      for (const around of Math.abs(opposite) > Math.PI - AGAINST ? [opposite, opposite - Math.sign(opposite) * 2 * Math.PI] : [opposite])
        for (let j = firstFrom(sb.angles, around - AGAINST); j < sb.angles.length && num(sb.angles, j) <= around + AGAINST; j++) {
          const t = WIDTH * j;
          const [la, lb] = [num(of, s + 4), num(other, t + 4)];
          const both = Math.min(la, lb);
          const isAsLong = Math.abs(la - lb) <= AS_LONG_MM;
          if (!isAsLong && both < SHORTEST_SHARE * sizeMm) continue;
          const weight = isAsLong ? both : UNLIKE * both;
          votes.add(num(of, s + 2) - num(other, t), num(of, s + 3) - num(other, t + 1), weight, angle);
          // as long as one another: both ends meet at once
          if (!isAsLong) votes.add(num(of, s) - num(other, t + 2), num(of, s + 1) - num(other, t + 3), weight, angle);
        }
    }
    return votes.longest(this.leastShare * sizeMm, this.most);
  }
}
