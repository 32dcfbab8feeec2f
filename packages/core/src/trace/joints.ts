/**
 * Where edges run on through junctions. Of the three edges that meet in one, two are the same edge when they leave in
 * opposite directions; or, where one of these is too short to tell, when what goes on beyond it lines up: a bar that
 * lies over a narrow tip has a short edge with it, in which blur mixes three colours, between two junctions. Units
 * pixels and degrees, y down.
 */
import type { Chain, Graph } from './graph.ts';
import { fitLine, off, parabolaError, type LineFit, type P } from './line-fit.ts';

const DEGREE = Math.PI / 180;

const SHORTEST_PX = 1.2;
/** Over how many pixels from where they are no longer rounded off edges tell their direction. */
const OVER_PX = 8;
/** Fewer are enough where the edge bends away, told by how far points are off the line. */
const LEAST_OVER_PX = 3;
const BENDS_RMS = 0.3;
/** Two edges that turn by more than this at a junction are two, degrees. */
const MOST_TURN = 14;
/** The third edge must leave the straight one by more than this, degrees. */
const LEAST_LEAVE = 12;
/** How far two edges may lie beside one another and still be one, pixels. */
const MOST_BESIDE = 0.45;

/** An end of a chain at a junction. */
export interface End {
  readonly chain: number;
  readonly atEnd: boolean;
  /** Runs away from the junction. */
  readonly line: LineFit | undefined;
  /** By how much its direction may be wrong for want of length, degrees. */
  readonly slack: number;
  /** Of few points, where the line is told by both ends of the chain or not at all. */
  readonly stem?: LineFit | undefined;
}

const distance = (p: P, at: P): number => Math.hypot(p[0] - at[0], p[1] - at[1]);

/** Points from where a junction no longer rounds them off, as far as they are asked. */
function beyondRounding(points: readonly P[], at: P, rounded: number): P[] {
  const far = points.findIndex((p) => distance(p, at) > rounded + OVER_PX);
  return points.slice(0, far < 0 ? points.length : far).filter((p) => distance(p, at) >= rounded);
}

/** The line through points; where they bend away, what came before tells. */
function lineUntilBend(points: readonly P[], at: P, rounded: number): LineFit | undefined {
  let [known, over] = [undefined as LineFit | undefined, LEAST_OVER_PX];
  for (let k = 4; k <= points.length; k++) {
    const next = points[k];
    if (next && distance(next, at) <= rounded + over) continue;
    const line = fitLine(points.slice(0, k));
    if (known && line && line.rms > BENDS_RMS) return known;
    [known, over] = [line, over + 1];
  }
  return known;
}

/** The line along which a chain leaves a junction; a short one's from end to end. */
function leaving(points: readonly P[], at: P, atEnd: boolean, other: P | undefined, rounded: number): Pick<End, 'line' | 'slack' | 'stem'> {
  const n = points.length;
  const end = countOfSide(points, at, other);
  const used = beyondRounding(atEnd ? points.slice(n - end).reverse() : points.slice(0, end), at, rounded);
  if (used.length >= 4) return { line: lineUntilBend(used, at, rounded), slack: 0 };
  const stem = used.length >= 2 ? fitLine(used) : undefined;
  const far = other ? Math.hypot(other[0] - at[0], other[1] - at[1]) : 0;
  if (!other || far < SHORTEST_PX || n > 2 * far + 4) return { line: undefined, slack: 0, stem };
  return { line: fitLine([at, other]), slack: Math.atan(MOST_BESIDE / far) / DEGREE, stem };
}

/** A tip that comes out beyond something else has both of its sides in one chain, so many times as long as its foot is wide. */
const TIP = 2;

/** How many of a chain's points from a junction on are of one side. */
function countOfSide(points: readonly P[], at: P, other: P | undefined): number {
  if (!other) return points.length;
  let length = 0;
  for (let k = 1; k < points.length; k++) {
    const [[x0, y0], [x1, y1]] = [points[k - 1] as P, points[k] as P];
    length += Math.hypot(x1 - x0, y1 - y0);
  }
  return length > TIP * Math.hypot(other[0] - at[0], other[1] - at[1]) ? Math.ceil(points.length / 2) : points.length;
}

const turnOf = (p: LineFit, q: LineFit): number => Math.abs(Math.atan2(p.dx * q.dy - p.dy * q.dx, p.dx * q.dx + p.dy * q.dy)) / DEGREE;

/** How far the middle of one lies beside the other, against their distance. */
function beside(p: LineFit, q: LineFit): number {
  const gap = (a: LineFit, b: LineFit): number => Math.abs((b.x - a.x) * a.dy - (b.y - a.y) * a.dx);
  return Math.max(gap(p, q), gap(q, p));
}

/**
 * The two of three ends that run on into one another; undefined when none do, or it cannot be told which.
 * @param ends three of them
 * @param cornerDeg turns sharper than this are corners
 */
export function through(ends: readonly End[], cornerDeg: number): readonly [End, End] | undefined {
  const most = Math.min(MOST_TURN, cornerDeg / 2);
  const pairs = (
    [
      [0, 1, 2],
      [0, 2, 1],
      [1, 2, 0],
    ] as const
  ).flatMap(([i, j, k]) => {
    const [p, q, stem] = [ends[i] as End, ends[j] as End, ends[k] as End];
    if (!p.line || !q.line || p.chain === q.chain) return [];
    const turn = 180 - turnOf(p.line, q.line);
    if (turn > most + p.slack + q.slack || beside(p.line, q.line) > MOST_BESIDE + OVER_PX * 0.5 * Math.sin(turn * DEGREE)) return [];
    const leave = stem.line ? Math.min(turnOf(p.line, stem.line), turnOf(q.line, stem.line)) : 90;
    return leave > Math.max(LEAST_LEAVE, 1.5 * (turn - p.slack - q.slack)) ? [{ pair: [p, q] as const, turn }] : [];
  });
  return pairs.sort((a, b) => a.turn - b.turn)[0]?.pair;
}

/**
 * Which chains end in each junction, and along which lines.
 * @param points of each chain, as they are fitted
 * @param rounded how far from a junction blur rounds points off, pixels
 */
export function endsOf(graph: Graph, points: readonly (readonly P[])[], rounded: number): Map<number, End[]> {
  const ends = new Map<number, End[]>();
  graph.chains.forEach(({ from, to, closed }, chain) => {
    if (closed) return;
    for (const [junction, atEnd] of [
      [from, false],
      [to, true],
    ] as const) {
      const at = graph.junctions[junction];
      if (!at) continue;
      const far = graph.junctions[atEnd ? from : to];
      const left = leaving(points[chain] ?? [], [at.x, at.y], atEnd, far && [far.x, far.y], rounded);
      ends.set(junction, [...(ends.get(junction) ?? []), { chain, atEnd, ...left }]);
    }
  });
  return ends;
}

/** The two edges at a junction that are one. */
export interface Passing {
  readonly ends: readonly [End, End];
  /** Told by what lies beyond a short edge. */
  readonly isBridge: boolean;
}

/** Each junction that an edge runs through, and which two of its ends that edge has. */
export function passingsOf(
  graph: Graph,
  ends: ReadonlyMap<number, readonly End[]>,
  points: readonly (readonly P[])[],
  { cornerDeg, rounded }: { readonly cornerDeg: number; readonly rounded: number },
): Map<number, Passing> {
  const out = new Map<number, Passing>();
  for (const { junctions } of bridgesOf(graph, ends, points, rounded).sort((a, b) => a.bump - b.bump)) {
    if (junctions.some(([junction]) => out.has(junction))) continue;
    for (const [junction, pair] of junctions) out.set(junction, { ends: pair, isBridge: true });
  }
  for (const [junction, list] of ends) {
    const pair = list.length === 3 && !out.has(junction) ? through(list, cornerDeg) : undefined;
    if (pair) out.set(junction, { ends: pair, isBridge: false });
  }
  return out;
}

/** Edges between junctions that are no farther apart than this may be bridged, pixels. */
const BRIDGED_PX = 10;
/** What lies beyond is told over so many pixels, by no fewer points. */
const BRIDGE_OVER_PX = 16;
const BRIDGE_POINTS = 6;
/** One parabola must explain both sides as well as a line each does, times and pixels more. */
const BRIDGE_TIMES = 1.15;
const BRIDGE_MORE_PX = 0.04;
/** Points of the edge between that lie farther beside it say that it is another, pixels. */
const MOST_BUMP = 2;

interface Bridge {
  readonly junctions: readonly (readonly [number, readonly [End, End]])[];
  readonly bump: number;
}

function bridgesOf(graph: Graph, ends: ReadonlyMap<number, readonly End[]>, points: readonly (readonly P[])[], rounded: number): Bridge[] {
  return graph.chains.flatMap(({ from, to, closed }, chain) => {
    const [p, q] = [graph.junctions[from], graph.junctions[to]];
    if (closed || !p || !q || from === to || Math.hypot(p.x - q.x, p.y - q.y) > BRIDGED_PX) return [];
    const [atFrom, atTo] = [ends.get(from) ?? [], ends.get(to) ?? []];
    const own = atFrom.find((end) => end.chain === chain && !end.atEnd);
    const last = atTo.find((end) => end.chain === chain && end.atEnd);
    if (atFrom.length !== 3 || atTo.length !== 3 || !own || !last) return [];
    return (['left', 'right'] as const).flatMap((side): Bridge[] => {
      const before = goingOn(graph, atFrom, chain, side, true);
      const after = goingOn(graph, atTo, chain, side, false);
      if (!before || !after || before.chain === after.chain) return [];
      const line = throughBoth(
        beyond(points[before.chain] ?? [], [p.x, p.y], before.atEnd, rounded),
        beyond(points[after.chain] ?? [], [q.x, q.y], after.atEnd, rounded),
      );
      const bump = line ? (points[chain] ?? []).reduce((most, point) => Math.max(most, off(line, point)), 0) : Infinity;
      if (bump > MOST_BUMP) return [];
      return [
        {
          bump,
          junctions: [
            [from, [before, own]],
            [to, [last, after]],
          ],
        },
      ];
    });
  });
}

/** The end at a junction, other than a chain's own, that has the label of the chain's side on the same side. */
function goingOn({ chains }: Graph, ends: readonly End[], chain: number, side: 'left' | 'right', isBefore: boolean): End | undefined {
  const other = side === 'left' ? 'right' : 'left';
  const owner = (chains[chain] as Chain)[side];
  return ends.find((end) => end.chain !== chain && (chains[end.chain] as Chain)[end.atEnd === isBefore ? side : other] === owner);
}

/** Points of a chain beyond what a junction rounds off. */
function beyond(points: readonly P[], [x, y]: P, atEnd: boolean, rounded: number): P[] {
  const out: P[] = [];
  for (let k = 0; k < points.length; k++) {
    const p = points[atEnd ? points.length - 1 - k : k] as P;
    const far = Math.hypot(p[0] - x, p[1] - y);
    if (far > rounded + BRIDGE_OVER_PX) break;
    if (far >= rounded) out.push(p);
  }
  return out;
}

/** The line through two lists of points that lead away from one another, when they lie on one gentle curve. */
function throughBoth(before: readonly P[], after: readonly P[]): LineFit | undefined {
  if (Math.min(before.length, after.length) < BRIDGE_POINTS) return undefined;
  const [a, b] = [fitLine(before), fitLine(after)];
  const all = [...[...before].reverse(), ...after];
  const line = fitLine(all);
  if (!a || !b || !line || 180 - turnOf(a, b) > MOST_TURN) return undefined;
  const apart = Math.sqrt((a.rms ** 2 * before.length + b.rms ** 2 * after.length) / all.length);
  return parabolaError(all, line) <= BRIDGE_TIMES * apart + BRIDGE_MORE_PX ? line : undefined;
}
