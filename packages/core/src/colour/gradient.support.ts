/** The colour of a gradient at a place, straight from its definition; what the tests compare with. */
import { invert, mapPoint } from '../geometry/transform.ts';
import type { Gradient } from './gradient.ts';

const channels = (hex: string): number[] => [1, 3, 5].map((i) => Number.parseInt(hex.slice(i, i + 2), 16));

/** Where along the course a place lies, not yet folded by the spread: the largest circle through it that is none below zero. */
function courseAt({ kind, matrix, inner }: Gradient, x: number, y: number): number {
  const back = invert(matrix);
  if (!back) throw new Error('flat');
  const p = mapPoint(back, { x, y });
  if (kind === 'linear') return p.x;
  const { x: fx, y: fy, r } = inner ?? { x: 0, y: 0, r: 0 };
  // |p - f (1 - t)| = r + (1 - r) t
  const [ax, ay] = [p.x - fx, p.y - fy];
  const a = fx * fx + fy * fy - (1 - r) ** 2;
  const b = ax * fx + ay * fy - r * (1 - r);
  const c = ax * ax + ay * ay - r * r;
  const root = Math.sqrt(Math.max(0, b * b - a * c));
  return Math.max((-b + root) / a, (-b - root) / a);
}

function folded(t: number, spread: Gradient['spread']): number {
  if (spread === 'pad') return Math.min(1, Math.max(0, t));
  if (spread === 'repeat') return t - Math.floor(t);
  const two = t - 2 * Math.floor(t / 2);
  return two > 1 ? 2 - two : two;
}

/** Red, green and blue, 0 to 255. */
export function colourAt(gradient: Gradient, x: number, y: number): number[] {
  const t = folded(courseAt(gradient, x, y), gradient.spread);
  const { stops } = gradient;
  const next = stops.findIndex(({ offset }) => offset > t);
  if (next === 0) return channels(stops[0]?.hex ?? '');
  const a = stops.at(next < 0 ? -1 : next - 1);
  const b = next < 0 ? a : stops[next];
  if (!a || !b || a === b) return channels(a?.hex ?? '');
  const k = (t - a.offset) / (b.offset - a.offset);
  const [from, to] = [channels(a.hex), channels(b.hex)];
  return from.map((v, i) => v + k * ((to[i] ?? 0) - v));
}
