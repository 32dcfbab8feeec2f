/**
 * The parser's shadings as gradients (ISO 32000-2, 8.7.4.5.3 and 8.7.4.5.4): `['RadialAxial', kind, box, stops, from,
 * to, radius, radius]` in pattern space. Radial ones whose circles do not lie in one another are none here.
 */
import type { Matrix } from '../../types/index.ts';
import { compose, determinant } from '../../geometry/transform.ts';
import { lineMatrix, type Gradient, type GradientStop } from '../../colour/gradient.ts';

/** Where a course is not extended, the parser puts a clear stop this near to its end. */
const EDGE = 2e-6;

type Stops = readonly (readonly [number, string])[];

function stopsOf(raw: Stops): GradientStop[] {
  const isEdge = (a: number, b: number): boolean => (raw[b]?.[0] ?? 0) - (raw[a]?.[0] ?? 0) <= EDGE;
  const from = raw.length > 2 && raw[0]?.[0] === 0 && isEdge(0, 1) ? 1 : 0;
  const to = raw.length - from > 2 && raw.at(-1)?.[0] === 1 && isEdge(raw.length - 2, raw.length - 1) ? raw.length - 1 : raw.length;
  let least = 0;
  return raw.slice(from, to).flatMap(([offset, hex]) => {
    least = Math.min(1, Math.max(least, offset));
    return /^#[0-9a-f]{6}$/i.test(hex) ? [{ offset: least, hex: hex.toLowerCase() }] : [];
  });
}

function circles(
  map: Matrix,
  p0: readonly number[],
  p1: readonly number[],
  r0: number,
  r1: number,
): Pick<Gradient, 'matrix' | 'inner'> | undefined {
  const [x0 = 0, y0 = 0] = p0;
  const [x1 = 0, y1 = 0] = p1;
  if (!(r1 > 0)) return undefined;
  const inner = { x: (x0 - x1) / r1, y: (y0 - y1) / r1, r: r0 / r1 };
  if (Math.hypot(inner.x, inner.y) + inner.r > 0.9995) return undefined;
  return { matrix: compose(map, [r1, 0, 0, r1, x1, y1]), inner };
}

/** @param map from pattern space to mm */
export function gradientFrom(raw: unknown, map: Matrix): Gradient | undefined {
  if (!Array.isArray(raw) || raw[0] !== 'RadialAxial') return undefined;
  const [, kind, , rawStops, p0, p1, r0, r1] = raw as [string, string, unknown, Stops, number[], number[], number, number];
  const stops = stopsOf(rawStops);
  if (stops.length < 2) return undefined;
  const sound = (matrix: Matrix): boolean => Math.abs(determinant(matrix)) > 1e-12;
  if (kind === 'axial') {
    const matrix = lineMatrix(map, { x: p0[0] ?? 0, y: p0[1] ?? 0 }, { x: p1[0] ?? 0, y: p1[1] ?? 0 });
    return sound(matrix) ? { kind: 'linear', spread: 'pad', stops, matrix } : undefined;
  }
  const isInward = r0 > r1;
  const round = isInward ? circles(map, p1, p0, r1, r0) : circles(map, p0, p1, r0, r1);
  const turned = isInward ? stops.map(({ offset, hex }) => ({ offset: 1 - offset, hex })).reverse() : stops;
  return round && sound(round.matrix) ? { kind: 'radial', spread: 'pad', stops: turned, ...round } : undefined;
}
