/**
 * Corners weighed against the picture. Where lines are only a few pixels long, the two that meet in a corner may be
 * drawn out to a spike, cut off, or stand for a tight bow. So each corner that does not explain the shares of the
 * pixels around it is tried in other ways: as a bow, nearer to the points, as the two corners of a blunt end; the one
 * that explains them best is kept. Units pixels; costs are sums of squared shares.
 */
import type { Span } from '../types/index.ts';
import { evaluate } from '../geometry/span.ts';
import type { Corner, Mark, Path } from './corners.ts';
import type { Judge } from './evidence.ts';
import { fitLine, type LineFit, type P } from './line-fit.ts';

/** How far along the path on both sides of a corner is looked at. */
const LOOK = 12;
/** How far around a corner pixels are asked. */
const ABOUT = 5;
/** A corner that costs less than this stays. */
const CLEAR = 0.08;
/** What the other ways must be better by: a bow, a corner nearer to the points, two corners of a blunt end, of one straight across. */
const BOW = 0.06;
const NEARER = 0.06;
const BLUNT = 0.1;
const ACROSS = 0.05;
/** Shares of the way from the point to the meeting of the lines. */
const NEARER_AT = [0, 0.3, 0.6];
/** How far from the meeting of their lines the corners of a blunt end are tried. */
const BLUNT_AT = [0.7, 1.2, 2, 3];
const BLUNT_TURN = 60;
/** Ends of lines that turn back are tried across, so far beyond the point: blur and calming draw it in. */
const ACROSS_TURN = 105;
/** How far from an end its sides are no longer rounded off. */
const BESIDE = 1.8;
const ACROSS_AT = [-0.5, 0, 0.5, 0.75, 1, 1.25, 1.5, 2];

/** Steps by which corners are moved, how often, and what a step must be worth. */
const NUDGES = [0.4, 0.2];
const ROUNDS = 3;
const WORTH = 0.01;
const SIDES = [
  [1, 0],
  [-1, 0],
  [0, 1],
  [0, -1],
] as const;

interface Way {
  /** What it must be better by, part of its cost. */
  readonly handicap: number;
  readonly marks: readonly Mark[];
  readonly cost: number;
}

/** The path's line between marks: `quick` is nearly as `whole` makes it, which is undefined when it loops. */
export interface Trials {
  quick(marks: readonly Mark[]): readonly P[];
  whole(marks: readonly Mark[]): readonly P[] | undefined;
}

/**
 * The corners that the judge keeps, in their order.
 * @param trials what a path would be with some of its corners only
 */
export function weighCorners(path: Path, corners: readonly Corner[], judge: Judge, trials: Trials): Mark[] {
  let out: Mark[] = [...corners];
  for (const corner of corners) {
    const k = out.indexOf(corner);
    const [a, b] = [limit(path, out, k, -1), limit(path, out, k, 1)];
    const points: P[] = [];
    for (let i = a.index; i <= b.index; i++) points.push(path.foundAt(i));
    const weigh = (marks: readonly Mark[], handicap: number, trial: Trials['whole']): Way => {
      const line = trial([a, ...marks, b]);
      return { marks, handicap, cost: line ? handicap + judge(points, line, path.foundAt(corner.index), ABOUT) : Infinity };
    };
    const whole = ({ marks, handicap }: Way): Way => weigh(marks, handicap, trials.whole);
    const own = weigh([corner], 0, trials.whole);
    if (own.cost < CLEAR) continue;
    const quick = (marks: readonly Mark[], handicap: number): Way => weigh(marks, handicap, trials.quick);
    const others = [quick([corner], 0), ...otherWays(path, corner, a.index, b.index).map(({ marks, handicap }) => quick(marks, handicap))];
    const chosen = least([own, weigh([], BOW, trials.whole), whole(least(others))]);
    const best = chosen.marks.length > 0 ? least([chosen, whole(nudged(quick(chosen.marks, chosen.handicap), quick))]) : chosen;
    out = [...out.slice(0, k), ...best.marks, ...out.slice(k + 1)];
  }
  return out;
}

const least = (ways: readonly Way[]): Way => ways.reduce((one, way) => (way.cost < one.cost ? way : one));

/** Other corners in the place of one, and what each must be better by. */
function otherWays(path: Path, corner: Corner, low: number, high: number): Omit<Way, 'cost'>[] {
  const two = (places: [P, P][], handicap: number): Omit<Way, 'cost'>[] =>
    asMarks(path, corner.index, places, low, high).map((marks) => ({ marks, handicap }));
  return [
    ...nearer(path, corner).map((mark) => ({ marks: [mark], handicap: NEARER })),
    ...(corner.turn > BLUNT_TURN ? two(blunt(corner), BLUNT) : []),
    ...(corner.turn > ACROSS_TURN ? two(across(path, corner, low, high), ACROSS) : []),
  ];
}

/** Corners moved a little as long as that helps. */
function nudged(way: Way, weigh: (marks: readonly Mark[], handicap: number) => Way): Way {
  let best = way;
  for (const step of NUDGES)
    for (let round = 0; round < ROUNDS; round++) {
      const before = best;
      for (let j = 0; j < best.marks.length; j++) {
        for (const [dx, dy] of SIDES) {
          const marks = best.marks.map((mark, i) => (i === j ? moved(mark, step * dx, step * dy) : mark));
          const other = weigh(marks, best.handicap);
          if (other.cost >= best.cost - WORTH) continue;
          best = other;
          break;
        }
      }
      if (best === before) break;
    }
  return best;
}

const moved = (mark: Mark, dx: number, dy: number): Mark => ({ ...mark, apex: [mark.apex[0] + dx, mark.apex[1] + dy], isFixed: true });

/** The next corner on one side of one, or a place amid an edge when it is farther. */
function limit(path: Path, marks: readonly Mark[], k: number, sign: 1 | -1): Mark {
  const n = path.points.length;
  const { index } = marks[k] as Mark;
  const own = marks[k + sign];
  const round = path.closed && marks.length > 1 ? (marks.at(sign > 0 ? 0 : -1) as Mark) : undefined;
  const next = own ?? (round && { ...round, index: round.index + sign * n });
  const end = next?.index ?? (path.closed ? index + sign * (n >> 1) : sign > 0 ? n - 1 : 0);
  let i = index;
  while (i !== end && Math.abs(path.wayTo(i) - path.wayTo(index)) < LOOK) i += sign;
  return next && i === next.index ? { ...next, isFixed: true } : { index: i, apex: path.at(i), isPlain: true };
}

function nearer(path: Path, corner: Corner): Mark[] {
  const [x, y] = path.at(corner.index);
  const [ax, ay] = corner.apex;
  return NEARER_AT.map((s) => ({ index: corner.index, apex: [x + s * (ax - x), y + s * (ay - y)], isFixed: true }));
}

/** The two corners of a blunt end, as far on both lines from where these meet. */
function blunt({ apex: [x, y], back, on }: Corner): [P, P][] {
  return BLUNT_AT.map((far) => [
    [x - far * back.dx, y - far * back.dy],
    [x + far * on.dx, y + far * on.dy],
  ]);
}

/** The two corners of an end straight across lines that turn back. */
function across(path: Path, { index }: Corner, low: number, high: number): [P, P][] {
  const [back, on] = ([-1, 1] as const).map((sign) => fitLine(path.side(index, sign, BESIDE, BESIDE + LOOK / 2, [low, high])));
  const [ax, ay] = back && on ? [back.dx + on.dx, back.dy + on.dy] : [0, 0];
  const length = Math.hypot(ax, ay);
  if (!back || !on || length < 1) return [];
  const [dx, dy] = [-ax / length, -ay / length];
  const [px, py] = path.at(index);
  const at = (line: LineFit, more: number): P => {
    const t = ((px - line.x) * dx + (py - line.y) * dy + more) / (line.dx * dx + line.dy * dy);
    return [line.x + t * line.dx, line.y + t * line.dy];
  };
  return ACROSS_AT.map((more) => [at(back, more), at(on, more)]);
}

/** Two corners as marks, when each has points of its own. */
function asMarks(path: Path, index: number, places: readonly [P, P][], low: number, high: number): Mark[][] {
  return places.flatMap(([first, second]) => {
    const [i, j] = [nearest(path, first, index, low), nearest(path, second, index, high)];
    if (i >= j || i <= low || j >= high) return [];
    return [
      [
        { index: i, apex: first, isFixed: true },
        { index: j, apex: second, isFixed: true },
      ],
    ];
  });
}

/** The point nearest to a place on the way from one index towards another. */
function nearest(path: Path, [x, y]: P, from: number, to: number): number {
  let [best, least] = [from, Infinity];
  const sign = Math.sign(to - from);
  for (let i = from; i !== to; i += sign) {
    const [px, py] = path.at(i);
    const far = Math.hypot(px - x, py - y);
    if (far < least) [best, least] = [i, far];
  }
  return best;
}

const STEPS = 6;

/** Points along spans. */
export function flattened(spans: readonly Span[]): P[] {
  const out: P[] = [];
  for (const span of spans) {
    const n = span.length === 4 ? 1 : STEPS;
    for (let k = out.length === 0 ? 0 : 1; k <= n; k++) out.push([evaluate(span, k / n, 0), evaluate(span, k / n, 1)]);
  }
  return out;
}
