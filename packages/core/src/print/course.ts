/** The colour of a course of colours where it is printed. */
import type { Gradient, GradientStop } from '../colour/gradient.ts';
import { mapPoint } from '../geometry/transform.ts';
import type { Matrix, Point } from '../types/index.ts';
import { hexOf, rgbOf } from '../colour/index.ts';

/** What a course shows between two of its stops. @param t 0 at the first, 1 at the second */
export function stopBetween(a: GradientStop, b: GradientStop, t: number): GradientStop {
  const [from, to] = [rgbOf(a.hex), rgbOf(b.hex)];
  const hex = hexOf(from.map((v, i) => v + ((to[i] as number) - v) * t));
  return { offset: a.offset + (b.offset - a.offset) * t, hex };
}

/**
 * How far along its course a gradient is at a place of its own space; beyond 0 and 1 what lies outside. Of two circles the greater
 * answer counts, as what is painted last (ISO 32000-2, 8.7.4.5.4).
 */
function along({ kind, inner }: Gradient, { x, y }: Point): number {
  if (kind === 'linear') return x;
  const from = inner ?? { x: 0, y: 0, r: 0 };
  const [px, py, dr] = [x - from.x, y - from.y, 1 - from.r];
  // |p - s·d| = r + s·dr, with d from the inner circle's middle to the origin
  const a = from.x ** 2 + from.y ** 2 - dr ** 2;
  const b = -px * from.x - py * from.y + from.r * dr;
  const c = px ** 2 + py ** 2 - from.r ** 2;
  if (Math.abs(a) < 1e-12) return b === 0 ? 1 : c / (2 * b);
  const root = Math.sqrt(Math.max(0, b * b - a * c));
  return Math.max((b + root) / a, (b - root) / a);
}

/**
 * Colour of a course at a place.
 * @param back from the place to the gradient's own space
 * @returns #rrggbb
 */
export function courseAt(gradient: Gradient, back: Matrix, x: number, y: number): string {
  const raw = along(gradient, mapPoint(back, { x, y }));
  const wrapped = raw - Math.floor(raw);
  const t =
    gradient.spread === 'pad'
      ? Math.min(1, Math.max(0, raw))
      : gradient.spread === 'repeat'
        ? wrapped
        : Math.floor(raw) % 2 === 0
          ? wrapped
          : 1 - wrapped;
  const { stops } = gradient;
  const after = stops.findIndex(({ offset }) => offset >= t);
  if (after <= 0) return (after === 0 ? stops[0] : stops.at(-1))?.hex ?? '#000000';
  const [a, b] = [stops[after - 1] as GradientStop, stops[after] as GradientStop];
  return stopBetween(a, b, b.offset > a.offset ? (t - a.offset) / (b.offset - a.offset) : 1).hex;
}
