/**
 * From the graph to outlines by colour. Junctions first move to where the edges that meet in them point; then every
 * chain is fitted once and used by both of its sides. *Inlaid*: each colour is exactly its regions. *Overlaid*: colours
 * that surround others run through under them, so that lower outlines have no holes for what lies on top.
 */
import type { Contour, Outline, Span } from '../types/index.ts';
import { reverseContour, contourArea } from '../geometry/outline.ts';
import { flattenContour } from '../geometry/flatten.ts';
import { windingNumber } from '../geometry/hit.ts';
import { strokeToShape } from '../geometry/offset/stroke-to-shape.ts';
import { keepOverlap, weld } from '../geometry/weld/weld.ts';
import type { Chain, Graph } from './graph.ts';
import { fitChain, type FitSettings } from './fit-chain.ts';

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
    note(from, points.slice(0, 8));
    note(to, points.slice(-8).reverse());
  }
  for (const [id, lists] of ends) {
    const junction = graph.junctions[id] as { x: number; y: number };
    let [a, b, c, p, q] = [0, 0, 0, 0, 0];
    for (const list of lists) {
      const used = list.slice(1, 7);
      if (used.length < 3) continue;
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
  /** Labels on its other side. */
  readonly others: ReadonlySet<number>;
  readonly area: number;
}

interface Edge {
  readonly spans: readonly Span[];
  readonly from: number;
  readonly to: number;
  readonly other: number;
}

/** Rings of one label, the label on their left with y up. */
function ringsOf(label: number, chains: readonly Chain[], fitted: readonly (readonly Span[])[]): Ring[] {
  const rings: Ring[] = [];
  const open = new Map<number, Edge[]>();
  const add = (spans: readonly Span[], others: ReadonlySet<number>): void => {
    if (spans.length === 0) return;
    const contour: Contour = { closed: true, spans };
    rings.push({ label, contour, others, area: contourArea(contour) });
  };
  chains.forEach((chain, i) => {
    const spans = fitted[i] as readonly Span[];
    for (const [own, other, way, from, to] of [
      [chain.left, chain.right, spans, chain.from, chain.to],
      [chain.right, chain.left, undefined, chain.to, chain.from],
    ] as const) {
      if (own !== label) continue;
      const list = way ?? backwards(spans);
      if (chain.closed) add(list, new Set([other]));
      else open.set(from, [...(open.get(from) ?? []), { spans: list, from, to, other }]);
    }
  });
  const directionOf = (spans: readonly Span[], atEnd: boolean): number => {
    const s = (atEnd ? spans.at(-1) : spans[0]) as Span;
    const n = s.length;
    const [dx, dy] = atEnd
      ? [(s[n - 2] as number) - (s[n - 4] as number), (s[n - 1] as number) - (s[n - 3] as number)]
      : [(s[2] as number) - (s[0] as number), (s[3] as number) - (s[1] as number)];
    return Math.atan2(dy, dx);
  };
  for (const list of open.values())
    while (list.length > 0) {
      let edge = list.pop() as Edge;
      const start = edge.from;
      const spans: Span[] = [];
      const others = new Set<number>();
      for (;;) {
        for (const span of edge.spans) spans.push(span);
        others.add(edge.other);
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
      add(spans, others);
    }
  return rings;
}

const insideOf = (ring: Ring, x: number, y: number): boolean => windingNumber([flattenContour(ring.contour, 0.2)], x, y) !== 0;

export interface LayerOptions {
  readonly stacking: 'inlaid' | 'overlaid';
  readonly fit: FitSettings;
  /** Labels that are not wanted as layers. */
  readonly without: ReadonlySet<number>;
  /** Overlaid: how far a colour runs on under one above that it only meets, pixels; 0 for none. */
  readonly trapPx: number;
}

export interface Layer {
  readonly label: number;
  readonly outline: Outline;
}

/** @returns layers in painting order, lowest first; pixels with y down */
export function layersOf(graph: Graph, labels: readonly number[], { stacking, fit, without, trapPx }: LayerOptions): Layer[] {
  settleJunctions(graph);
  const fitted = graph.chains.map(({ xy, closed, from, to }) => {
    const place = (id: number): P | undefined => {
      const j = id >= 0 ? graph.junctions[id] : undefined;
      return j && [j.x, j.y];
    };
    return fitChain(xy, closed, place(from), place(to), fit);
  });
  const rings = new Map(labels.map((label) => [label, ringsOf(label, graph.chains, fitted)]));
  const wanted = labels.filter((label) => !without.has(label));
  if (stacking === 'inlaid')
    return wanted.map((label) => ({ label, outline: { contours: (rings.get(label) ?? []).map(({ contour }) => contour) } }));
  const layers = overlaid(wanted, rings, without);
  return trapPx > 0 ? trapped(layers, graph.chains, fitted, trapPx) : layers;
}

/** Under each edge between two colours the lower one runs on by the trap, so that nothing shows between them when cut apart. */
function trapped(layers: readonly Layer[], chains: readonly Chain[], fitted: readonly (readonly Span[])[], trapPx: number): Layer[] {
  const rank = new Map(layers.map(({ label }, i) => [label, i]));
  const upright = (outline: Outline): Outline => ({ contours: outline.contours.map(reverseContour) });
  return layers.map((layer) => {
    const own = rank.get(layer.label) as number;
    const above = new Map<number, Contour[]>();
    chains.forEach(({ left, right, closed }, i) => {
      const other = left === layer.label ? right : right === layer.label ? left : undefined;
      const spans = fitted[i] as readonly Span[];
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

/** Order of painting: colours that surround others come first. */
function ranks(labels: readonly number[], rings: ReadonlyMap<number, readonly Ring[]>): Map<number, number> {
  const wins = new Map<number, number>();
  const round = (a: number, b: number): number =>
    (rings.get(a) ?? []).filter((ring) => isHole(ring) && ring.others.has(b)).reduce((sum, ring) => sum + Math.abs(ring.area), 0);
  const size = (label: number): number => Math.abs((rings.get(label) ?? []).reduce((sum, ring) => sum + ring.area, 0));
  for (const a of labels)
    for (const b of labels) {
      if (a === b) continue;
      const [over, under] = [round(a, b), round(b, a)];
      if (over > under || (over === under && size(a) > size(b))) wins.set(a, (wins.get(a) ?? 0) + 1);
    }
  const order = [...labels].sort((a, b) => (wins.get(b) ?? 0) - (wins.get(a) ?? 0));
  return new Map(order.map((label, i) => [label, i]));
}

function overlaid(labels: readonly number[], rings: ReadonlyMap<number, readonly Ring[]>, without: ReadonlySet<number>): Layer[] {
  const rank = ranks(labels, rings);
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
      .map(({ contour }) => contour);
    return { label, outline: { contours } };
  });
  return layers.sort((a, b) => (rank.get(a.label) ?? 0) - (rank.get(b.label) ?? 0));
}
