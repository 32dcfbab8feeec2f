/**
 * Edges that run on straight through a junction. Where three regions meet, one of them often lies on top of the two
 * others: its edge goes on as if the junction were not there (a T junction; D. A. Huffman, Impossible Objects as
 * Nonsense Sentences, 1971). The chains on both sides of such a junction are fitted as one *way* and parted
 * afterwards, so that neither a bend nor a node tells where something passes under. Units pixels, y down.
 */
import type { Span } from '../types/index.ts';
import { evaluate, projectNear, startX, startY, subSpan } from '../geometry/span.ts';
import type { Evidence, Judge } from './evidence.ts';
import { fitChain, type FitSettings } from './fit-chain.ts';
import type { Chain, Graph } from './graph.ts';
import { fitLine, meeting, type LineFit, type P } from './line-fit.ts';
import type { OnShare } from './pixels.ts';

/** A chain as part of a way, in its direction or against it. */
interface Part {
  readonly chain: number;
  readonly against: boolean;
}

/** Chains that follow one another through junctions. */
interface Way {
  readonly parts: readonly Part[];
  /** The junctions between parts, the last also behind the last part when the way is closed. */
  readonly joints: readonly { readonly junction: number; readonly owner: number }[];
  readonly closed: boolean;
}

/** A fitted stretch of edge between two junctions that both of its regions have a corner in, or a closed one. */
export interface FittedWay {
  readonly spans: readonly Span[];
  readonly parts: readonly {
    readonly left: number;
    readonly right: number;
    /** Where the part begins and ends on the way: span and parameter. */
    readonly from: Cut;
    readonly to: Cut;
  }[];
  readonly joints: Way['joints'];
  readonly closed: boolean;
  /** Junctions at its ends, -1 for none. */
  readonly first: number;
  readonly last: number;
}

interface Place {
  readonly x: number;
  readonly y: number;
}

interface Cut {
  readonly index: number;
  readonly t: number;
}

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

interface End {
  readonly chain: number;
  readonly atEnd: boolean;
  /** Runs away from the junction. */
  readonly line: LineFit | undefined;
  /** By how much its direction may be wrong for want of length, degrees. */
  readonly slack: number;
}

const pointsOf = ({ xy }: Chain): P[] => {
  const out: P[] = [];
  for (let i = 0; i < xy.length; i += 2) out.push([xy[i] as number, xy[i + 1] as number]);
  return out;
};

/** The line along which a chain leaves a junction; a short one's from end to end. */
function leaving(
  points: readonly P[],
  at: P,
  atEnd: boolean,
  other: P | undefined,
  rounded: number,
): { line: LineFit | undefined; slack: number } {
  const used: P[] = [];
  const n = points.length;
  let [known, over] = [undefined as LineFit | undefined, LEAST_OVER_PX];
  for (let k = 0; k < n; k++) {
    const p = points[atEnd ? n - 1 - k : k] as P;
    const d = Math.hypot(p[0] - at[0], p[1] - at[1]);
    if (d > rounded + OVER_PX) break;
    if (d < rounded) continue;
    // where it bends away, what came before tells
    if (d > rounded + over && used.length >= 4) {
      const line = fitLine(used);
      if (known && line && line.rms > BENDS_RMS) return { line: known, slack: 0 };
      [known, over] = [line, over + 1];
    }
    used.push(p);
  }
  if (used.length >= 4) {
    const line = fitLine(used);
    return { line: known && line && line.rms > BENDS_RMS ? known : line, slack: 0 };
  }
  const far = other ? Math.hypot(other[0] - at[0], other[1] - at[1]) : 0;
  if (!other || far < SHORTEST_PX || n > 2 * far + 4) return { line: undefined, slack: 0 };
  return { line: fitLine([at, other]), slack: Math.atan(MOST_BESIDE / far) / DEGREE };
}

const turnOf = (p: LineFit, q: LineFit): number => Math.abs(Math.atan2(p.dx * q.dy - p.dy * q.dx, p.dx * q.dx + p.dy * q.dy)) / DEGREE;

/** How far the middle of one lies beside the other, against their distance. */
function beside(p: LineFit, q: LineFit): number {
  const gap = (a: LineFit, b: LineFit): number => Math.abs((b.x - a.x) * a.dy - (b.y - a.y) * a.dx);
  return Math.max(gap(p, q), gap(q, p));
}

/** The two of three ends that run on into one another; undefined when none do, or it cannot be told which. */
function through(ends: readonly End[], cornerDeg: number): readonly [End, End] | undefined {
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

/** Which chains end in each junction, and along which lines. */
function endsOf(graph: Graph, points: readonly (readonly P[])[], rounded: number): Map<number, End[]> {
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

/** Chains joined to ways through the junctions that they run straight through. */
function findWays(graph: Graph, ends: ReadonlyMap<number, readonly End[]>, cornerDeg: number): Way[] {
  const next = new Map<string, { end: End; junction: number; owner: number }>();
  const keyOf = (chain: number, atEnd: boolean): string => `${chain}${atEnd ? '+' : '-'}`;
  for (const [junction, list] of ends) {
    if (list.length !== 3) continue;
    const pair = through(list, cornerDeg);
    if (!pair) continue;
    const [p, q] = pair;
    // the region that lies on the same side of both, going through
    const [a, b] = [graph.chains[p.chain] as Chain, graph.chains[q.chain] as Chain];
    const sidesIn = p.atEnd ? [a.left, a.right] : [a.right, a.left];
    const sidesOut = q.atEnd ? [b.right, b.left] : [b.left, b.right];
    const owners = [0, 1].filter((k) => sidesIn[k] === sidesOut[k]);
    if (owners.length !== 1) continue;
    const owner = sidesIn[owners[0] as number] as number;
    next.set(keyOf(p.chain, p.atEnd), { end: q, junction, owner });
    next.set(keyOf(q.chain, q.atEnd), { end: p, junction, owner });
  }
  const ways: Way[] = [];
  const used = new Set<number>();
  const walk = (start: Part): void => {
    const parts: Part[] = [];
    const joints: { junction: number; owner: number }[] = [];
    let part: Part | undefined = start;
    let closed = false;
    while (part) {
      used.add(part.chain);
      parts.push(part);
      const on = next.get(keyOf(part.chain, !part.against));
      if (!on) break;
      joints.push({ junction: on.junction, owner: on.owner });
      if (used.has(on.end.chain)) {
        closed = on.end.chain === start.chain;
        if (!closed) joints.pop();
        break;
      }
      part = { chain: on.end.chain, against: on.end.atEnd };
    }
    ways.push({ parts, joints, closed });
  };
  graph.chains.forEach((chain, k) => {
    if (used.has(k)) return;
    if (chain.closed) return walk({ chain: k, against: false });
    if (!next.has(keyOf(k, false))) walk({ chain: k, against: false });
    else if (!next.has(keyOf(k, true))) walk({ chain: k, against: true });
  });
  // what is left runs round through joints alone
  graph.chains.forEach((_, k) => !used.has(k) && walk({ chain: k, against: false }));
  return ways;
}

/** The points of a way; those near to joints are mixed of three colours and tell nothing. */
function wayPoints(way: Way, points: readonly (readonly P[])[], graph: Graph, rounded: number): number[] {
  const out: number[] = [];
  const last = way.parts.length - 1;
  way.parts.forEach(({ chain, against }, k) => {
    const own = points[chain] as readonly P[];
    const list = against ? [...own].reverse() : own;
    const clear = (joint: { junction: number } | undefined, p: P): boolean => {
      const at = joint && graph.junctions[joint.junction];
      return !at || Math.hypot(p[0] - at.x, p[1] - at.y) > rounded;
    };
    const before = k > 0 ? way.joints[k - 1] : way.closed ? way.joints[last] : undefined;
    const after = way.joints[k];
    const kept = list.filter((p) => clear(before, p) && clear(after, p));
    // short parts amid others have no points that tell
    const isAmid = before !== undefined && after !== undefined && way.parts.length > 2;
    for (const [x, y] of kept.length >= 2 || isAmid ? kept : list) out.push(x, y);
  });
  return out;
}

/** The place on spans nearest to a point, not before another place. */
function nearestOn(spans: readonly Span[], p: P, after: Cut): Cut & { far: number } {
  let best: Cut & { far: number } = { index: after.index, t: after.t, far: Infinity };
  for (let index = after.index; index < spans.length; index++) {
    const span = spans[index] as Span;
    const steps = span.length === 4 ? 1 : 4;
    for (let k = 0; k < steps; k++) {
      const t = projectNear(span, (k + 0.5) / steps, p[0], p[1]);
      if (index === after.index && t < after.t) continue;
      const far = Math.hypot(evaluate(span, t, 0) - p[0], evaluate(span, t, 1) - p[1]);
      if (far < best.far) best = { index, t, far };
    }
  }
  return best;
}

/** Spans from one place to another, the second not before the first. */
export function between(spans: readonly Span[], from: Cut, to: Cut): Span[] {
  if (from.index === to.index) return to.t > from.t ? [subSpan(spans[from.index] as Span, from.t, to.t)] : [];
  const out: Span[] = [];
  if (from.t < 1) out.push(from.t === 0 ? (spans[from.index] as Span) : subSpan(spans[from.index] as Span, from.t, 1));
  for (let k = from.index + 1; k < to.index; k++) out.push(spans[k] as Span);
  if (to.t > 0) out.push(to.t === 1 ? (spans[to.index] as Span) : subSpan(spans[to.index] as Span, 0, to.t));
  return out;
}

/** @returns every chain once, as a part of a way; junctions are moved onto the ways that run through them */
export function fitWays(graph: Graph, given: FitSettings, evidence?: Evidence, onShare: OnShare = () => undefined): FittedWay[] {
  const settings = { ...given, joint: Math.max(given.rounded, MIXED_BLURS * (evidence?.blurPx ?? 0)) };
  const points = graph.chains.map(pointsOf);
  const place = (id: number): P | undefined => {
    const j = id >= 0 ? graph.junctions[id] : undefined;
    return j && [j.x, j.y];
  };
  const ends = endsOf(graph, points, settings.joint);
  const fitted: FittedWay[] = [];
  const fit = (way: Way): void => {
    const [a, z] = [way.parts[0] as Part, way.parts.at(-1) as Part];
    const chain = graph.chains[a.chain] as Chain;
    const isRing = way.closed || chain.closed;
    const first = isRing ? -1 : a.against ? chain.to : chain.from;
    const end = graph.chains[z.chain] as Chain;
    const last = isRing ? -1 : z.against ? end.from : end.to;
    const xy =
      way.parts.length === 1 && !way.closed ? flat(points[a.chain] as P[], a.against) : wayPoints(way, points, graph, settings.joint);
    const spans = fitChain(xy, isRing, place(first), place(last), asItWavers(settings, chain), evidence && judgeOf(way, graph, evidence));
    const cuts = cutsOf(way, spans, graph, ends);
    if (!cuts) {
      // its joints do not lie along it: each chain by itself
      for (const part of way.parts) fit({ parts: [part], joints: [], closed: false });
      return;
    }
    fitted.push({
      spans: cuts.spans,
      closed: isRing,
      joints: way.joints,
      first,
      last,
      parts: way.parts.map(({ chain: k, against }, i) => {
        const { left, right } = graph.chains[k] as Chain;
        const [from, to] = [cuts.at[i] as Cut, cuts.at[i + 1] as Cut];
        return { left: against ? right : left, right: against ? left : right, from, to };
      }),
    });
  };
  const ways = findWays(graph, ends, settings.cornerDeg);
  ways.forEach((way, k) => {
    if (k % WAYS_A_SHARE === 0) onShare(k / ways.length);
    fit(way);
  });
  return fitted.map((way) => ({ ...way, spans: ended(way, graph) }));
}

/** Beside junctions blur mixes three colours, over so many of its standard deviations. */
const MIXED_BLURS = 2;
/** Progress is told after so many. */
const WAYS_A_SHARE = 64;

/** How much less closely edges are followed that waver, against how much more they do. */
const LESS_CLOSELY = 0.5;

/** Edges that waver are calmed more, and followed less closely. */
function asItWavers(settings: FitSettings, { left, right }: Chain): FitSettings {
  const times = settings.wavers?.(left, right) ?? 1;
  if (settings.calm === 0 || times <= 1) return settings;
  return { ...settings, calm: Math.round(settings.calm * times * times), tol: settings.tol * (1 + LESS_CLOSELY * (times - 1)) };
}

const judgeOf = (way: Way, graph: Graph, evidence: Evidence): Judge | undefined => {
  if (way.parts.length > 1) return undefined;
  const { chain: k, against } = way.parts[0] as Part;
  const { left } = graph.chains[k] as Chain;
  return evidence.judge(left, against ? -1 : 1);
};

const flat = (points: readonly P[], against: boolean): number[] => (against ? [...points].reverse() : points).flat();

const ended = ({ spans, first, last }: FittedWay, { junctions }: Graph): Span[] => pinned(spans, junctions[first], junctions[last]);

/** Spans with their ends on the places of junctions. */
export function pinned(spans: readonly Span[], a: Place | undefined, z: Place | undefined): Span[] {
  const out = [...spans];
  if (a && out[0]) out[0] = [a.x, a.y, ...out[0].slice(2)];
  const end = out.at(-1);
  if (z && end) out[out.length - 1] = [...end.slice(0, -2), z.x, z.y];
  return out;
}

/**
 * Where the joints lie on a fitted way; their junctions move there. A ring is turned to begin in its last joint.
 * @returns undefined when they do not lie along it in order
 */
function cutsOf(
  way: Way,
  spans: readonly Span[],
  graph: Graph,
  ends: ReadonlyMap<number, readonly End[]>,
): { spans: readonly Span[]; at: Cut[] } | undefined {
  let all = spans;
  if (spans.length === 0) return way.joints.length === 0 ? { spans, at: [START, START] } : undefined;
  const aims = way.joints.map(({ junction }) => aimOf(junction, way, graph, ends.get(junction) ?? []));
  if (way.closed) {
    const aim = aims.at(-1) as P;
    const seam = nearestOn(all, aim, START);
    if (seam.far > MOST_OFF) return undefined;
    all = [...between(all, seam, { index: all.length - 1, t: 1 }), ...between(all, START, seam)];
    const [x, y] = [startX(all[0] as Span), startY(all[0] as Span)];
    const end = all.at(-1) as Span;
    all = [...all.slice(0, -1), [...end.slice(0, -2), x, y]];
  }
  const cuts: Cut[] = [START];
  const moved: { junction: number; x: number; y: number }[] = [];
  for (const [k, { junction }] of way.joints.entries()) {
    const isSeam = way.closed && k === way.joints.length - 1;
    const cut = isSeam ? { index: all.length - 1, t: 1, far: 0 } : nearestOn(all, aims[k] as P, cuts.at(-1) as Cut);
    if (cut.far > MOST_OFF) return undefined;
    cuts.push({ index: cut.index, t: cut.t });
    const span = all[cut.index] as Span;
    moved.push({ junction, x: evaluate(span, cut.t, 0), y: evaluate(span, cut.t, 1) });
  }
  if (!way.closed) cuts.push({ index: all.length - 1, t: 1 });
  for (const { junction, x, y } of moved) {
    const at = graph.junctions[junction] as { x: number; y: number };
    at.x = x;
    at.y = y;
  }
  return { spans: all, at: cuts };
}

const START: Cut = { index: 0, t: 0 };
/** A joint farther off its way than this is none, pixels. */
const MOST_OFF = 1.5;

/** Where the third edge of a joint runs into the way, told from the points of all three. */
function aimOf(junction: number, way: Way, graph: Graph, ends: readonly End[]): P {
  const { x, y } = graph.junctions[junction] as { x: number; y: number };
  const own = new Set(way.parts.map(({ chain }) => chain));
  const stem = ends.find(({ chain }) => !own.has(chain))?.line;
  const along = ends.find(({ chain, line }) => own.has(chain) && line)?.line;
  const meets = stem && along && meeting(stem, along);
  return meets && Math.hypot(meets[0] - x, meets[1] - y) < MOST_OFF ? meets : [x, y];
}
