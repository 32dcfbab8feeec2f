/**
 * From the graph to outlines by colour. Junctions first move to where the edges that meet in them point; then every
 * chain is fitted once and used by both of its sides. *Inlaid*: each colour is exactly its regions. *Overlaid*: colours
 * that surround others run through under them, so that lower outlines have no holes for what lies on top.
 */
import type { Contour, Outline, Span } from '../types/index.ts';
import { reverseContour, contourArea } from '../geometry/outline.ts';
import { evaluate } from '../geometry/span.ts';
import { flattenContour } from '../geometry/flatten.ts';
import { windingNumber } from '../geometry/hit.ts';
import { strokeToShape } from '../geometry/offset/stroke-to-shape.ts';
import { keepOverlap, weld } from '../geometry/weld/weld.ts';
import type { Evidence } from './evidence.ts';
import type { Graph } from './graph.ts';
import type { OnShare } from './pixels.ts';
import type { FitSettings } from './fit-chain.ts';
import { between, fitWays, pinned, type FittedWay } from './ways.ts';

type P = readonly [number, number];

/** The place that lines through the chains' last points come nearest to. */
function settleJunctions(graph: Graph): void {
  const ends = new Map<number, P[][]>();
  const note = (junction: number, points: P[]): void => {
    if (junction >= 0) ends.set(junction, [...(ends.get(junction) ?? []), points]);
  };
  for (const { xy, from, to } of graph.chains) {
    const points: P[] = [];
    for (let i = 0; i < xy.length; i += 2) points.push([xy[i] as number, xy[i + 1] as number]);
    // a tip that comes out beyond something else has both of its sides in one chain
    const count = Math.min(8, Math.ceil(points.length / 2));
    note(from, points.slice(0, count));
    note(to, points.slice(-count).reverse());
  }
  for (const [id, lists] of ends) {
    const junction = graph.junctions[id] as { x: number; y: number };
    let [a, b, c, p, q] = [0, 0, 0, 0, 0];
    for (const list of lists) {
      const used = list.slice(1, 7);
      if (used.length < 4) continue;
      const [mx, my] = [used.reduce((s, v) => s + v[0], 0) / used.length, used.reduce((s, v) => s + v[1], 0) / used.length];
      let [sxx, sxy, syy] = [0, 0, 0];
      for (const [x, y] of used) {
        sxx += (x - mx) ** 2;
        sxy += (x - mx) * (y - my);
        syy += (y - my) ** 2;
      }
      const angle = 0.5 * Math.atan2(2 * sxy, sxx - syy);
      const [nx, ny] = [-Math.sin(angle), Math.cos(angle)];
      const d = nx * mx + ny * my;
      a += nx * nx;
      b += nx * ny;
      c += ny * ny;
      p += nx * d;
      q += ny * d;
    }
    const det = a * c - b * b;
    if (det < 0.15) continue;
    const [x, y] = [(p * c - q * b) / det, (a * q - b * p) / det];
    if (Math.hypot(x - junction.x, y - junction.y) < 1.4) {
      junction.x = x;
      junction.y = y;
    }
  }
}

const backwards = (spans: readonly Span[]): Span[] => [...reverseContour({ closed: false, spans }).spans];

interface Ring {
  readonly label: number;
  readonly contour: Contour;
  /** In order; none for a ring without junctions. */
  readonly edges: readonly Edge[];
  /** Labels on its other side. */
  readonly others: ReadonlySet<number>;
  readonly area: number;
}

/** A stretch of a region's edge between two junctions. */
interface Edge {
  readonly spans: readonly Span[];
  readonly from: number;
  readonly to: number;
  readonly others: ReadonlySet<number>;
}

type Part = FittedWay['parts'][number];
type Junctions = Graph['junctions'];

/** Parts of a way that are one edge of a label, and whether that edge runs round. */
interface Run {
  readonly parts: readonly number[];
  readonly closed: boolean;
}

/** Runs of parts that have a label on one side; through joints that it owns they are one. */
function runsOf({ parts, joints, closed }: FittedWay, has: (part: number) => boolean, owns: (joint: number) => boolean): Run[] {
  const n = parts.length;
  const all = parts.map((_, k) => k);
  if (closed && all.every((k) => has(k) && (joints.length === 0 || owns(k)))) return [{ parts: all, closed: true }];
  // a ring is begun where two edges part
  const begins = (k: number): boolean => !(has(k) && has((k + n - 1) % n) && owns((k + n - 1) % n));
  const start = closed && joints.length > 0 ? Math.max(0, all.findIndex(begins)) : 0;
  const inOrder = all.map((k) => (k + start) % n);
  const out: Run[] = [];
  for (let i = 0; i < n; i++) {
    if (!has(inOrder[i] as number)) continue;
    const run = [inOrder[i] as number];
    while (i + 1 < n && owns(inOrder[i] as number) && has(inOrder[i + 1] as number)) run.push(inOrder[++i] as number);
    out.push({ parts: run, closed: false });
  }
  return out;
}

/** Edges of one label along a way, the label on their left with y up; through joints that it owns as one, if wanted. */
function edgesAlong(way: FittedWay, label: number, through: boolean, junctions: Junctions): (Edge & { readonly closed: boolean })[] {
  const { parts, joints, spans } = way;
  const n = parts.length;
  return (['left', 'right'] as const).flatMap((side) => {
    const other = side === 'left' ? 'right' : 'left';
    const runs = runsOf(
      way,
      (k) => parts[k]?.[side] === label,
      (k) => through && joints[k]?.owner === label,
    );
    return runs.map(({ parts: run, closed }) => {
      const others = new Set(run.map((k) => (parts[k] as Part)[other]));
      const turned = (list: readonly Span[]): readonly Span[] => (side === 'left' ? list : backwards(list));
      if (closed) return { spans: turned(joints.length === 0 ? spans : withoutSeam(spans)), from: -1, to: -1, others, closed };
      const [first, last] = [run[0] as number, run.at(-1) as number];
      const before = (way.closed ? joints[(first + n - 1) % n]?.junction : first === 0 ? way.first : joints[first - 1]?.junction) ?? -1;
      const after = joints[last]?.junction ?? way.last;
      // where ends of other ways moved this one a little, all still meet in the junction
      const along = turned(pinned(spansBetween(way, first, last), junctions[before], junctions[after]));
      const [from, to] = side === 'left' ? [before, after] : [after, before];
      return { spans: along, from, to, others, closed };
    });
  });
}

/** Spans of a way from one part to another, over the seam of a ring if need be. */
function spansBetween({ parts, spans }: FittedWay, first: number, last: number): Span[] {
  const [{ from }, { to }] = [parts[first] as Part, parts[last] as Part];
  if (last >= first) return between(spans, from, to);
  return seamless(between(spans, from, { index: spans.length - 1, t: 1 }), between(spans, { index: 0, t: 0 }, to));
}

/** A ring that does not begin amid a straight line. */
function withoutSeam(spans: readonly Span[]): readonly Span[] {
  const last = spans.at(-1);
  if (!last || spans.length < 4) return spans;
  const joined = seamless([last], spans.slice(0, -1));
  return joined.length < spans.length ? joined : spans;
}

/** Two lists of spans as one, without a node in a straight line. */
function seamless(before: readonly Span[], after: readonly Span[]): Span[] {
  const [a, z] = [before.at(-1), after[0]];
  if (!a || !z || a.length !== 4 || z.length !== 4) return [...before, ...after];
  return [...before.slice(0, -1), [a[0] as number, a[1] as number, z[2] as number, z[3] as number], ...after.slice(1)];
}

/** Rings of one label, the label on their left with y up. */
function ringsOf(label: number, ways: readonly FittedWay[], through: boolean, junctions: Junctions): Ring[] {
  const rings: Ring[] = [];
  const open = new Map<number, Edge[]>();
  const add = (edges: readonly Edge[], isWhole: boolean): void => {
    const spans = edges.flatMap((edge) => edge.spans);
    if (spans.length === 0) return;
    const contour: Contour = { closed: true, spans };
    const others = new Set(edges.flatMap((edge) => [...edge.others]));
    rings.push({ label, contour, edges: isWhole ? [] : edges, others, area: contourArea(contour) });
  };
  for (const way of ways)
    for (const edge of edgesAlong(way, label, through, junctions)) {
      if (edge.closed) add([edge], true);
      else open.set(edge.from, [...(open.get(edge.from) ?? []), edge]);
    }
  for (const list of open.values())
    while (list.length > 0) {
      let edge = list.pop() as Edge;
      const start = edge.from;
      const edges: Edge[] = [];
      for (;;) {
        edges.push(edge);
        if (edge.to === start) break;
        const next = open.get(edge.to);
        if (!next || next.length === 0) break;
        // where a label meets itself across a junction the sharpest way to the right keeps its regions apart (y is down)
        const came = directionOf(edge.spans, true);
        const turn = (one: Edge): number => {
          const d = directionOf(one.spans, false) - came;
          return Math.atan2(Math.sin(d), Math.cos(d));
        };
        let pick = 0;
        for (let k = 1; k < next.length; k++) if (turn(next[k] as Edge) < turn(next[pick] as Edge)) pick = k;
        edge = next.splice(pick, 1)[0] as Edge;
      }
      add(edges, false);
    }
  return rings;
}

/** Which way spans run at an end, radians. */
function directionOf(spans: readonly Span[], atEnd: boolean): number {
  const s = atEnd ? spans.at(-1) : spans[0];
  if (!s) return 0;
  const n = s.length;
  const [dx, dy] = atEnd
    ? [(s[n - 2] as number) - (s[n - 4] as number), (s[n - 1] as number) - (s[n - 3] as number)]
    : [(s[2] as number) - (s[0] as number), (s[3] as number) - (s[1] as number)];
  return Math.atan2(dy, dx);
}

const insideOf = (ring: Ring, x: number, y: number): boolean => windingNumber([flattenContour(ring.contour, 0.2)], x, y) !== 0;

/** How layers are made of borders. */
export interface LayerOptions {
  readonly stacking: 'inlaid' | 'overlaid';
  readonly fit: FitSettings;
  /** What the picture says beyond the chains. */
  readonly evidence?: Evidence | undefined;
  /** Labels that are not wanted as layers. */
  readonly without: ReadonlySet<number>;
  /** Overlaid: how far a colour runs on under one above that it only meets, pixels; 0 for none. */
  readonly trapPx: number;
  /** Hears how many of the edges are fitted, a share. */
  readonly onShare?: OnShare | undefined;
  /** The label of the pixel that a place lies in. */
  labelAt(x: number, y: number): number;
}

/** All parts of one label, pixels, y down. */
export interface Layer {
  readonly label: number;
  readonly outline: Outline;
}

/** @returns layers in painting order, lowest first; pixels with y down */
export function layersOf(graph: Graph, labels: readonly number[], options: LayerOptions): Layer[] {
  const { stacking, fit, without, trapPx } = options;
  settleJunctions(graph);
  const ways = fitWays(graph, fit, options.evidence, options.onShare);
  const isOverlaid = stacking === 'overlaid';
  const rings = new Map(labels.map((label) => [label, ringsOf(label, ways, isOverlaid, graph.junctions)]));
  const wanted = labels.filter((label) => !without.has(label));
  if (!isOverlaid) return wanted.map((label) => ({ label, outline: { contours: (rings.get(label) ?? []).map(({ contour }) => contour) } }));
  const layers = overlaid(wanted, rings, jointsOf(ways), options);
  return trapPx > 0 ? trapped(layers, ways, trapPx) : layers;
}

/** Under each edge between two colours the lower one runs on by the trap, so that nothing shows between them when cut apart. */
function trapped(layers: readonly Layer[], ways: readonly FittedWay[], trapPx: number): Layer[] {
  const chains = ways.flatMap(({ parts, spans, closed }) =>
    parts.map(({ left, right, from, to }) => ({ left, right, closed: closed && parts.length === 1, spans: between(spans, from, to) })),
  );
  const rank = new Map(layers.map(({ label }, i) => [label, i]));
  const upright = (outline: Outline): Outline => ({ contours: outline.contours.map(reverseContour) });
  return layers.map((layer) => {
    const own = rank.get(layer.label) as number;
    const above = new Map<number, Contour[]>();
    chains.forEach(({ left, right, closed, spans }) => {
      const other = left === layer.label ? right : right === layer.label ? left : undefined;
      if (other === undefined || (rank.get(other) ?? -1) <= own || spans.length === 0) return;
      above.set(other, [...(above.get(other) ?? []), { closed, spans }]);
    });
    const bands = [...above].flatMap(([other, contours]) => {
      const upper = layers[rank.get(other) as number] as Layer;
      const band = strokeToShape({ contours }, { width: 2 * trapPx, cap: 'butt', join: 'mitre', mitreLimit: 2 });
      const under = keepOverlap([band, upright(upper.outline)]);
      return under.contours.length > 0 ? [under] : [];
    });
    if (bands.length === 0) return layer;
    return { ...layer, outline: upright(weld([upright(layer.outline), ...bands])) };
  });
}

/** With y down a ring round a region has an area below zero, one round a hole above. */
const isHole = (ring: Ring): boolean => ring.area > 0;

/** What runs straight on over each junction, and over which labels. */
function jointsOf(ways: readonly FittedWay[]): ReadonlyMap<number, Joint> {
  const out = new Map<number, Joint>();
  for (const { joints, parts } of ways)
    joints.forEach(({ junction, owner }, k) => {
      const beside = [parts[k], parts[(k + 1) % parts.length]].flatMap((part) => (part ? [part.left, part.right] : []));
      out.set(junction, { owner, under: [...new Set(beside)].filter((label) => label !== owner) });
    });
  return out;
}

interface Joint {
  readonly owner: number;
  readonly under: readonly number[];
}

/** Order of painting: colours that surround others come first, then those whose edges run on straight over others come last. */
function ranks(
  labels: readonly number[],
  rings: ReadonlyMap<number, readonly Ring[]>,
  joints: ReadonlyMap<number, Joint>,
): Map<number, number> {
  const runsOver = new Map<string, number>();
  for (const { owner, under } of joints.values())
    for (const label of under) runsOver.set(`${owner} ${label}`, (runsOver.get(`${owner} ${label}`) ?? 0) + 1);
  const wins = new Map<number, number>();
  const round = (a: number, b: number): number =>
    (rings.get(a) ?? []).filter((ring) => isHole(ring) && ring.others.has(b)).reduce((sum, ring) => sum + Math.abs(ring.area), 0);
  const size = (label: number): number => Math.abs((rings.get(label) ?? []).reduce((sum, ring) => sum + ring.area, 0));
  for (const a of labels)
    for (const b of labels) {
      if (a === b) continue;
      const surrounds = round(a, b) - round(b, a);
      const isUnder = (runsOver.get(`${b} ${a}`) ?? 0) - (runsOver.get(`${a} ${b}`) ?? 0);
      if ((surrounds || isUnder || size(a) - size(b)) > 0) wins.set(a, (wins.get(a) ?? 0) + 1);
    }
  const order = [...labels].sort((a, b) => (wins.get(b) ?? 0) - (wins.get(a) ?? 0));
  return new Map(order.map((label, i) => [label, i]));
}

/** How far a colour runs on under what passes straight over it, pixels: the first that there is room for. */
const TUCKS = [1.5, 0.8, 3, 5];
/** How far towards its new place an edge itself may bend, of the way. */
const MOST_REACHED = 0.5;
/** What it runs under must reach this much farther. */
const SPARE_PX = 0.5;

/**
 * A ring whose edges under what passes straight over are put back under it: the edges beside run on as they came, so
 * that no node lies on the upper edge and nothing shows between the two.
 */
function tucked(
  { edges, contour }: Ring,
  isAbove: (label: number) => boolean,
  joints: ReadonlyMap<number, Joint>,
  labelAt: LayerOptions['labelAt'],
): Contour {
  const n = edges.length;
  if (n < 2) return contour;
  const lists = edges.map(({ spans }) => [...spans]);
  edges.forEach((edge, k) => {
    const [upper] = edge.others;
    if (upper === undefined || edge.others.size !== 1 || !isAbove(upper)) return;
    if (joints.get(edge.from)?.owner !== upper || joints.get(edge.to)?.owner !== upper) return;
    const [before, after] = [lists[(k + n - 1) % n] as Span[], lists[(k + 1) % n] as Span[]];
    for (const reach of TUCKS) {
      const under = runOn(edge.spans, before, after, reach, (x, y) => labelAt(x, y) === upper);
      if (!under) continue;
      const [p, q] = under;
      prolong(before, p, true);
      prolong(after, q, false);
      lists[k] = [[...p, ...q]];
      return;
    }
  });
  return { closed: true, spans: lists.flat() };
}

/** Where the edges on both sides of an edge come to when they run on under what lies over it; undefined without room. */
function runOn(
  edge: readonly Span[],
  before: readonly Span[],
  after: readonly Span[],
  reach: number,
  isUpper: (x: number, y: number) => boolean,
): readonly [P, P] | undefined {
  const [first, last] = [edge[0], edge.at(-1)];
  if (!first || !last || before.length === 0 || after.length === 0) return undefined;
  const [a, b]: [P, P] = [
    [first[0] as number, first[1] as number],
    [last.at(-2) as number, last.at(-1) as number],
  ];
  const [on, back] = [directionOf(before, true), directionOf(after, false) + Math.PI];
  const step = (p: P, angle: number, by: number): P => [p[0] + by * Math.cos(angle), p[1] + by * Math.sin(angle)];
  const [p, q] = [step(a, on, reach), step(b, back, reach)];
  const along = (q[0] - p[0]) * (b[0] - a[0]) + (q[1] - p[1]) * (b[1] - a[1]);
  const chord = Math.hypot(b[0] - a[0], b[1] - a[1]);
  if (along <= 0.2 * chord * chord) return undefined;
  // the edge itself must not reach where it is put, and what lies over it must cover the new one with something to spare
  const beside = (x: number, y: number): number => Math.abs((x - a[0]) * (b[1] - a[1]) - (y - a[1]) * (b[0] - a[0])) / chord;
  const depth = Math.min(beside(...p), beside(...q));
  const reaches = edge.some((span) =>
    [0.25, 0.5, 0.75, 1].some((t) => beside(evaluate(span, t, 0), evaluate(span, t, 1)) > MOST_REACHED * depth),
  );
  if (reaches) return undefined;
  const [pp, qq] = [step(a, on, reach + SPARE_PX), step(b, back, reach + SPARE_PX)];
  const samples = Math.ceil(2 * Math.hypot(qq[0] - pp[0], qq[1] - pp[1])) + 1;
  for (let k = 0; k <= samples; k++)
    for (const share of [0.6, 1]) {
      const t = k / samples;
      const [x0, y0] = [a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1])];
      const [x1, y1] = [pp[0] + t * (qq[0] - pp[0]), pp[1] + t * (qq[1] - pp[1])];
      if (!isUpper(x0 + share * (x1 - x0), y0 + share * (y1 - y0))) return undefined;
    }
  return [p, q];
}

/** Spans whose end runs on straight to a place. */
function prolong(spans: Span[], [x, y]: P, atEnd: boolean): void {
  const span = spans[atEnd ? spans.length - 1 : 0] as Span;
  const [x0, y0, x1, y1] = [span[0] as number, span[1] as number, span.at(-2) as number, span.at(-1) as number];
  if (atEnd && span.length === 4) spans[spans.length - 1] = [x0, y0, x, y];
  else if (atEnd) spans.push([x1, y1, x, y]);
  else if (span.length === 4) spans[0] = [x, y, x1, y1];
  else spans.unshift([x, y, x0, y0]);
}

function overlaid(
  labels: readonly number[],
  rings: ReadonlyMap<number, readonly Ring[]>,
  joints: ReadonlyMap<number, Joint>,
  { without, labelAt }: LayerOptions,
): Layer[] {
  const rank = ranks(labels, rings, joints);
  const rankOf = (label: number): number => (without.has(label) ? -1 : (rank.get(label) ?? -1));
  const outer = [...rings.values()].flat().filter((ring) => !isHole(ring));
  const pointOf = (ring: Ring): P => {
    const [x0, y0] = ring.contour.spans[0] as Span as readonly number[] as [number, number];
    return [x0, y0];
  };
  const layers = labels.map((label): Layer => {
    const own = rings.get(label) ?? [];
    const filled = own.filter((ring) => {
      if (!isHole(ring)) return false;
      if ([...ring.others].some((other) => rankOf(other) < rankOf(label))) return false;
      // what lies deeper in the hole must lie above too
      const lower = outer.filter(
        (other) => other.label !== label && rankOf(other.label) < rankOf(label) && Math.abs(other.area) < Math.abs(ring.area),
      );
      return !lower.some((other) => insideOf(ring, ...pointOf(other)));
    });
    const contours = own
      .filter((ring) => !filled.includes(ring))
      .filter((ring) => !filled.some((hole) => Math.abs(hole.area) > Math.abs(ring.area) && insideOf(hole, ...pointOf(ring))))
      .map((ring) => tucked(ring, (other) => rankOf(other) > rankOf(label), joints, labelAt));
    return { label, outline: { contours } };
  });
  return layers.sort((a, b) => (rank.get(a.label) ?? 0) - (rank.get(b.label) ?? 0));
}
