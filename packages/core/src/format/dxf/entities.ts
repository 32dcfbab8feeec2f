/** DXF entities as contours in their block's own units: what each draws, without colour or layer. */
import type { Contour, Matrix, Span } from '../../types/index.ts';
import { at, endX, endY, startX, startY } from '../../geometry/span.ts';
import { arcSpans, bulgeSpans, ellipseSpans, splineSpans, throughPoints } from './curves.ts';
import type { DxfRecord, Pair } from './pairs.ts';

/** The plane of an entity as a map to the plan (arbitrary axis algorithm of the DXF Reference). */
export function planeOf(record: DxfRecord, elevation: number): Matrix {
  const [nx, ny, nz] = [record.number(210, 0), record.number(220, 0), record.number(230, 1)];
  const size = Math.hypot(nx, ny, nz);
  if (!(size > 0) || (nx === 0 && ny === 0 && nz > 0)) return [1, 0, 0, 1, 0, 0];
  const n = [nx / size, ny / size, nz / size] as const;
  const up = Math.abs(n[0]) < 1 / 64 && Math.abs(n[1]) < 1 / 64 ? ([0, 1, 0] as const) : ([0, 0, 1] as const);
  const cross = (a: readonly number[], b: readonly number[]): [number, number, number] => [
    at(a, 1) * at(b, 2) - at(a, 2) * at(b, 1),
    at(a, 2) * at(b, 0) - at(a, 0) * at(b, 2),
    at(a, 0) * at(b, 1) - at(a, 1) * at(b, 0),
  ];
  const raw = cross(up, n);
  const length = Math.hypot(...raw);
  const ax = raw.map((v) => v / length);
  const ay = cross(n, ax);
  return [at(ax, 0), at(ax, 1), ay[0], ay[1], n[0] * elevation, n[1] * elevation];
}

const RADIAN = Math.PI / 180;
const FULL = 2 * Math.PI;

/** End of a turn that begins at `from` and runs counter-clockwise. */
const turnTo = (from: number, to: number): number => {
  const turn = (((to - from) % FULL) + FULL) % FULL;
  return from + (turn < 1e-12 ? FULL : turn);
};

interface Vertex {
  readonly x: number;
  readonly y: number;
  readonly bulge: number;
}

function polyline(vertices: readonly Vertex[], closed: boolean): Contour[] {
  const spans: Span[] = [];
  vertices.forEach((v, i) => {
    const next = vertices[i + 1] ?? (closed ? vertices[0] : undefined);
    if (next && next !== v) spans.push(...bulgeSpans(v.x, v.y, next.x, next.y, v.bulge));
  });
  return spans.length > 0 ? [{ closed: closed || isRound(spans), spans }] : [];
}

const isRound = (spans: readonly Span[]): boolean => {
  const [first, last] = [spans[0] as Span, spans.at(-1) as Span];
  const size = Math.abs(startX(first)) + Math.abs(startY(first)) + 1;
  return spans.length > 1 && Math.hypot(startX(first) - endX(last), startY(first) - endY(last)) < 1e-9 * size;
};

const contour = (spans: readonly Span[] | undefined): Contour[] => (spans && spans.length > 0 ? [{ closed: isRound(spans), spans }] : []);

/** Vertices of a light polyline: each begins with its x. */
export function lightVertices(pairs: readonly Pair[]): Vertex[] {
  const out: { x: number; y: number; bulge: number }[] = [];
  for (const { code, value } of pairs) {
    if (code === 10) out.push({ x: Number(value), y: 0, bulge: 0 });
    const last = out.at(-1);
    if (last && code === 20) last.y = Number(value);
    if (last && code === 42) last.bulge = Number(value);
  }
  return out;
}

/**
 * The plain entities; undefined for those that are no drawing of this kind.
 * @param vertices that follow a polyline of the older kind
 * @param tol of curves that are no cubics, in drawing units
 */
export function contoursOf(record: DxfRecord, vertices: readonly DxfRecord[], tol: number): Contour[] | undefined {
  const n = (code: number, otherwise?: number): number => record.number(code, otherwise);
  switch (record.type) {
    case 'LINE':
      return [{ closed: false, spans: [[n(10), n(20), n(11), n(21)]] }];
    case 'CIRCLE':
      return contour(n(40) > 0 ? arcSpans(n(10), n(20), n(40), 0, FULL) : []);
    case 'ARC':
      return contour(n(40) > 0 ? arcSpans(n(10), n(20), n(40), n(50) * RADIAN, turnTo(n(50) * RADIAN, n(51) * RADIAN)) : []);
    case 'ELLIPSE':
      return ellipse(record);
    case 'LWPOLYLINE':
      return polyline(lightVertices(record.pairs), (n(70) & 1) === 1);
    case 'POLYLINE': {
      // frames of smoothed polylines only steer them
      const shown = vertices.filter((vertex) => (vertex.number(70) & 16) === 0);
      return polyline(
        shown.map((v) => ({ x: v.number(10), y: v.number(20), bulge: v.number(42) })),
        (n(70) & 1) === 1,
      );
    }
    case 'SPLINE':
      return contour(spline(record, tol));
    case 'SOLID':
    case 'TRACE': {
      const order = record.has(13) ? [0, 1, 3, 2] : [0, 1, 2];
      return polyline(
        order.map((k) => ({ x: n(10 + k), y: n(20 + k), bulge: 0 })),
        true,
      );
    }
    default:
      return undefined;
  }
}

function ellipse(record: DxfRecord): Contour[] {
  const n = (code: number, otherwise?: number): number => record.number(code, otherwise);
  const [ux, uy] = [n(11), n(21)];
  const ratio = n(40, 1) * (n(230, 1) < 0 ? -1 : 1);
  return contour(ellipseSpans([n(10), n(20)], [ux, uy], [-uy * ratio, ux * ratio], n(41, 0), turnTo(n(41, 0), n(42, FULL))));
}

function spline(record: DxfRecord, tol: number): Span[] | undefined {
  const [xs, ys] = [record.numbers(10), record.numbers(20)];
  const weights = record.numbers(41);
  const isWeighted = weights.length === xs.length;
  const control = xs.map((x, i) => [x, at(ys, i), isWeighted ? at(weights, i) : 1] as const);
  const made = splineSpans({ degree: record.number(71, 3), knots: record.numbers(40), control }, tol);
  if (made) return made;
  const [fx, fy] = [record.numbers(11), record.numbers(21)];
  const through = fx.length > 1 ? fx.map((x, i) => [x, at(fy, i)] as const) : control.map(([x, y]) => [x, y] as const);
  const direction = (code: number): readonly [number, number] | undefined => {
    const [x, y] = [record.number(code), record.number(code + 10)];
    return Math.hypot(x, y) > 0 && Number.isFinite(x + y) ? [x, y] : undefined;
  };
  const ends = { first: direction(12), last: direction(13) };
  return through.every(([x, y]) => Number.isFinite(x) && Number.isFinite(y)) ? throughPoints(through, ends) : undefined;
}

const BOUNDARY_END = new Set([97, 75, 76, 98, 78, 47, 450]);

/**
 * Boundaries of a hatch, each closed.
 * @param tol in drawing units
 */
export function hatchContours(record: DxfRecord, tol: number): Contour[] {
  const first = record.pairs.findIndex(({ code }) => code === 91);
  const out: Contour[] = [];
  let k = first + 1;
  const { pairs } = record;
  const take = (): Pair[] => {
    const from = k++;
    while (k < pairs.length && pairs[k]?.code !== 92 && !BOUNDARY_END.has(pairs[k]?.code ?? 0)) k++;
    return pairs.slice(from, k);
  };
  while (first >= 0 && k < pairs.length && pairs[k]?.code === 92) {
    const isPolyline = (Number(pairs[k]?.value) & 2) === 2;
    const own = take();
    const spans = isPolyline ? (polyline(lightVertices(own), true)[0]?.spans ?? []) : edges(own, tol);
    if (spans.length > 0) out.push({ closed: true, spans });
    // references to the objects that the boundary was taken from
    while (k < pairs.length && (pairs[k]?.code === 97 || pairs[k]?.code === 330)) k++;
  }
  return out;
}

function edges(pairs: readonly Pair[], tol: number): Span[] {
  const starts = pairs.flatMap(({ code }, i) => (code === 72 ? [i] : []));
  return starts.flatMap((from, e): Span[] => {
    const own = pairs.slice(from, starts[e + 1] ?? pairs.length);
    const all = (code: number): number[] => own.filter((pair) => pair.code === code).map((pair) => Number(pair.value));
    const n = (code: number, otherwise = 0): number => all(code)[0] ?? otherwise;
    const left = n(73, 1) !== 0;
    // angles of edges that run clockwise are counted clockwise
    const turn = (): readonly [number, number] => {
      const [a, b] = [n(50) * RADIAN, turnTo(n(50) * RADIAN, n(51) * RADIAN)];
      return left ? [a, b] : [-a, -b];
    };
    switch (n(72)) {
      case 1:
        return [[n(10), n(20), n(11), n(21)]];
      case 2:
        return arcSpans(n(10), n(20), n(40), ...turn());
      case 3: {
        const [ux, uy, ratio] = [n(11), n(21), n(40, 1)];
        return ellipseSpans([n(10), n(20)], [ux, uy], [-uy * ratio, ux * ratio], ...turn());
      }
      case 4: {
        const ys = all(20);
        const weights = all(42);
        const control = all(10).map((x, i) => [x, at(ys, i), weights.length > 0 ? at(weights, i) : 1] as const);
        return splineSpans({ degree: n(94, 3), knots: all(40), control }, tol) ?? [];
      }
      default:
        return [];
    }
  });
}
