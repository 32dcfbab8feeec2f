/**
 * Stroke to shape: the real outline of a line with a width. An open contour is run there and back and offset by half
 * the width, its ends being full reversals; a closed one is offset outward and knocked out by its inward offset.
 * Dashes cut the contour by length first (arc length by Gauss-Legendre, inverted by bisection).
 */
import type { Contour, Outline, Span } from '../../types/index.ts';
import { InputError } from '../../errors/index.ts';
import { contourArea, EMPTY_OUTLINE, reverseContour } from '../outline.ts';
import { spanLength, subSpan } from '../span.ts';
import { clipContours, weld } from '../weld/weld.ts';
import { rawOffset, type Cap, type Join, type JoinSetup } from './raw-offset.ts';

export interface StrokeOptions {
  readonly width: number;
  readonly cap: Cap;
  readonly join: Join;
  readonly mitreLimit?: number;
  /** Lengths drawn and left out in turn, mm; an odd list is run twice. */
  readonly dash?: readonly number[];
  readonly dashOffset?: number;
  readonly tol?: number;
}

/** Parameter at which a span has run `length` mm. */
function paramAt(span: Span, length: number): number {
  let [low, high] = [0, 1];
  for (let k = 0; k < 40; k++) {
    const mid = (low + high) / 2;
    if (spanLength(span, 0, mid) < length) low = mid;
    else high = mid;
  }
  return (low + high) / 2;
}

const MOST_DASHES = 100_000;

/** The drawn stretches of a contour as open contours. */
function cutDashes(contour: Contour, dash: readonly number[], dashOffset: number): Contour[] {
  const pattern = dash.length % 2 === 1 ? [...dash, ...dash] : dash;
  const period = pattern.reduce((sum, n) => sum + n, 0);
  let index = 0;
  let left = ((dashOffset % period) + period) % period;
  while (left >= (pattern[index] as number)) {
    left -= pattern[index] as number;
    index = (index + 1) % pattern.length;
  }
  let rest = (pattern[index] as number) - left;
  const out: Contour[] = [];
  let current: Span[] = [];
  const finish = (): void => {
    if (current.length > 0) out.push({ closed: false, spans: current });
    current = [];
  };
  for (const span of contour.spans) {
    const total = spanLength(span);
    let done = 0;
    let t = 0;
    while (done < total - 1e-9 && out.length < MOST_DASHES) {
      const step = Math.min(rest, total - done);
      const next = done + step >= total - 1e-9 ? 1 : paramAt(span, done + step);
      if (index % 2 === 0 && next > t) current.push(subSpan(span, t, next));
      [done, t, rest] = [done + step, next, rest - step];
      if (rest > 1e-9) continue;
      if (index % 2 === 0) finish();
      index = (index + 1) % pattern.length;
      rest = pattern[index] as number;
    }
  }
  finish();
  return out;
}

function strokeOpen(contour: Contour, half: number, setup: JoinSetup): Contour[] {
  const there = { closed: true, spans: [...contour.spans, ...reverseContour(contour).spans] };
  const raw = rawOffset(there, half, setup);
  return raw ? clipContours('union', [raw], [], 'positive').contours.slice() : [];
}

function strokeClosed(contour: Contour, half: number, setup: JoinSetup): Contour[] {
  const outward = contourArea(contour) < 0 ? reverseContour(contour) : contour;
  const rawContours = (d: number): Contour[] => {
    const raw = rawOffset(outward, d, setup);
    return raw ? clipContours('union', [raw], [], 'positive').contours.slice() : [];
  };
  return clipContours('difference', rawContours(half), rawContours(-half)).contours.slice();
}

/**
 * @returns the outline of all strokes, welded; empty for nothing to stroke
 * @throws InputError `input.stroke` for an impossible width or dash
 */
export function strokeToShape(o: Outline, opts: StrokeOptions): Outline {
  if (!(opts.width > 0 && opts.width <= 1e5))
    throw new InputError('stroke', `A stroke must be wider than 0 and at most 100 m, not ${opts.width} mm.`, { field: 'width' });
  const dash = opts.dash ?? [];
  const period = dash.reduce((sum, n) => sum + n, 0);
  if (dash.some((n) => !(n >= 0 && Number.isFinite(n)))) throw new InputError('stroke', 'A dash must be 0 or longer.', { field: 'dash' });
  const setup: JoinSetup = { join: opts.join, cap: opts.cap, mitreLimit: opts.mitreLimit ?? 4, tol: opts.tol ?? 0.004 };
  const contours = o.contours.filter((contour) => contour.spans.length > 0);
  const pieces = period > 0 ? contours.flatMap((contour) => cutDashes(contour, dash, opts.dashOffset ?? 0)) : contours;
  const shapes = pieces.map((piece): Outline => ({
    contours: piece.closed ? strokeClosed(piece, opts.width / 2, setup) : strokeOpen(piece, opts.width / 2, setup),
  }));
  return shapes.length === 0 ? EMPTY_OUTLINE : weld(shapes);
}
