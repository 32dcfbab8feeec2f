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
import { endsOf, passingsOf, type End, type Passing } from './joints.ts';
import { meeting, type P } from './line-fit.ts';
import type { OnShare } from './pixels.ts';

/** A chain as part of a way, in its direction or against it. */
interface Part {
  readonly chain: number;
  readonly against: boolean;
}

/** A junction between two parts of a way, and the region that the way belongs to. */
interface Joint {
  readonly junction: number;
  readonly owner: number;
  readonly isBridge: boolean;
}

/** Chains that follow one another through junctions. */
interface Way {
  readonly parts: readonly Part[];
  /** The junctions between parts, the last also behind the last part when the way is closed. */
  readonly joints: readonly Joint[];
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

const pointsOf = ({ xy }: Chain): P[] => {
  const out: P[] = [];
  for (let i = 0; i < xy.length; i += 2) out.push([xy[i] as number, xy[i + 1] as number]);
  return out;
};

/** Chains joined to ways through the junctions that they run straight through. */
function findWays(graph: Graph, passings: ReadonlyMap<number, Passing>): Way[] {
  const next = new Map<string, Joint & { readonly end: End }>();
  const keyOf = (chain: number, atEnd: boolean): string => `${chain}${atEnd ? '+' : '-'}`;
  for (const [junction, { ends, isBridge }] of passings) {
    const [p, q] = ends;
    // the region that lies on the same side of both, going through
    const [a, b] = [graph.chains[p.chain] as Chain, graph.chains[q.chain] as Chain];
    const sidesIn = p.atEnd ? [a.left, a.right] : [a.right, a.left];
    const sidesOut = q.atEnd ? [b.right, b.left] : [b.left, b.right];
    const owners = [0, 1].filter((k) => sidesIn[k] === sidesOut[k]);
    if (owners.length !== 1) continue;
    const owner = sidesIn[owners[0] as number] as number;
    next.set(keyOf(p.chain, p.atEnd), { end: q, junction, owner, isBridge });
    next.set(keyOf(q.chain, q.atEnd), { end: p, junction, owner, isBridge });
  }
  const ways: Way[] = [];
  const used = new Set<number>();
  const walk = (start: Part): void => {
    const parts: Part[] = [];
    const joints: Joint[] = [];
    let part: Part | undefined = start;
    let closed = false;
    while (part) {
      used.add(part.chain);
      parts.push(part);
      const on = next.get(keyOf(part.chain, !part.against));
      if (!on) break;
      joints.push(on);
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
    const clear = (joint: Joint | undefined, p: P): boolean => {
      const at = joint && graph.junctions[joint.junction];
      return !at || Math.hypot(p[0] - at.x, p[1] - at.y) > rounded;
    };
    const before = k > 0 ? way.joints[k - 1] : way.closed ? way.joints[last] : undefined;
    const after = way.joints[k];
    // short parts amid others have no points that tell
    const isAmid = before !== undefined && after !== undefined && way.parts.length > 2;
    const isMixed = isAmid && apart(graph, before, after) < 2 * rounded + MIXED_AMID;
    const kept = isMixed ? [] : list.filter((p) => clear(before, p) && clear(after, p));
    for (const [x, y] of kept.length >= 2 || isAmid ? kept : list) out.push(x, y);
  });
  return out;
}

/** Between junctions as far apart as both are rounded and so much more all is mixed, pixels. */
const MIXED_AMID = 1.5;

function apart({ junctions }: Graph, one: Joint, other: Joint): number {
  const [a, b] = [junctions[one.junction] as Place, junctions[other.junction] as Place];
  return Math.hypot(a.x - b.x, a.y - b.y);
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

/**
 * Spans from one place to another, the second not before the first.
 * @param from,to a span by its number, and the place along it
 */
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
    const spans = fitChain(
      { xy, closed: isRing, from: place(first), to: place(last) },
      asItWavers(settings, chain),
      evidence && judgeOf(way, graph, evidence),
    );
    const cuts = cutsOf(way, spans, graph, ends);
    if (typeof cuts === 'number') {
      partedAt(way, cuts).forEach(fit);
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
  const passings = passingsOf(graph, ends, points, { cornerDeg: settings.cornerDeg, rounded: settings.joint });
  // what runs into others is fitted once these have told where they run
  const ways = findWays(graph, passings).sort((a, b) => b.joints.length - a.joints.length);
  ways.forEach((way, k) => {
    if (k % WAYS_A_SHARE === 0) onShare(k / ways.length);
    fit(way);
  });
  return fitted.map((way) => ({ ...way, spans: ended(way, graph) }));
}

/** A way without one of its joints, which does not lie along it. */
function partedAt({ parts, joints, closed }: Way, k: number): Way[] {
  const [before, after] = [joints.slice(0, k), joints.slice(k + 1)];
  if (closed) return [{ parts: [...parts.slice(k + 1), ...parts.slice(0, k + 1)], joints: [...after, ...before], closed: false }];
  return [
    { parts: parts.slice(0, k + 1), joints: before, closed },
    { parts: parts.slice(k + 1), joints: after, closed },
  ];
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
 * @returns the joint that does not lie along it in order when there is one
 */
function cutsOf(
  way: Way,
  spans: readonly Span[],
  graph: Graph,
  ends: ReadonlyMap<number, readonly End[]>,
): { spans: readonly Span[]; at: Cut[] } | number {
  let all = spans;
  if (spans.length === 0) return way.joints.length === 0 ? { spans, at: [START, START] } : 0;
  const aims = way.joints.map(({ junction }) => aimOf(junction, way, graph, ends.get(junction) ?? []));
  if (way.closed) {
    const aim = aims.at(-1) as P;
    const seam = nearestOn(all, aim, START);
    if (seam.far > mostOff(way.joints.at(-1))) return way.joints.length - 1;
    all = [...between(all, seam, { index: all.length - 1, t: 1 }), ...between(all, START, seam)];
    const [x, y] = [startX(all[0] as Span), startY(all[0] as Span)];
    const end = all.at(-1) as Span;
    all = [...all.slice(0, -1), [...end.slice(0, -2), x, y]];
  }
  const cuts: Cut[] = [START];
  const moved: { junction: number; x: number; y: number }[] = [];
  for (const [k, joint] of way.joints.entries()) {
    const isSeam = way.closed && k === way.joints.length - 1;
    const cut = isSeam ? { index: all.length - 1, t: 1, far: 0 } : nearestOn(all, aims[k] as P, cuts.at(-1) as Cut);
    if (cut.far > mostOff(joint)) return k;
    cuts.push({ index: cut.index, t: cut.t });
    const span = all[cut.index] as Span;
    moved.push({ junction: joint.junction, x: evaluate(span, cut.t, 0), y: evaluate(span, cut.t, 1) });
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
const MOST_OFF_BRIDGE = 2.5;

const mostOff = (joint: Joint | undefined): number => (joint?.isBridge ? MOST_OFF_BRIDGE : MOST_OFF);

/** Where the third edge of a joint runs into the way, told from the points of all three. */
function aimOf(junction: number, way: Way, graph: Graph, ends: readonly End[]): P {
  const { x, y } = graph.junctions[junction] as { x: number; y: number };
  const own = new Set(way.parts.map(({ chain }) => chain));
  const third = ends.find(({ chain }) => !own.has(chain));
  const stem = third?.stem ?? third?.line;
  const along = ends.find(({ chain, line }) => own.has(chain) && line)?.line;
  const meets = stem && along && meeting(stem, along);
  return meets && Math.hypot(meets[0] - x, meets[1] - y) < MOST_OFF ? meets : [x, y];
}
