/**
 * Stroke to shape: the real outline of a line with a width. An open contour is run there and back and offset by half
 * the width, its ends being full reversals; a closed one is offset outward and knocked out by its inward offset.
 * Dashes cut the contour by length first (arc length by Gauss-Legendre, inverted by a table and Newton's method).
 */
import type { Contour, Outline, Span } from '../../types/index.ts';
import { InputError } from '../../errors/index.ts';
import { contourArea, EMPTY_OUTLINE, reverseContour } from '../outline.ts';
import { derivative, isLine, spanLength, subSpan } from '../span.ts';
import { clipContours, weld } from '../weld/weld.ts';
import { rawOffset, type Cap, type Join, type JoinSetup } from './raw-offset.ts';

/** Width, corners, ends and dashes of a line. */
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

const CELLS = 32;

/** Finds the parameter at which a span has run a length: a table of lengths, then Newton's steps held within a cell. */
class SpanRuler {
  private readonly span: Span;
  /** Length run at each of the table's parameters, mm. */
  private readonly run = [0];

  constructor(span: Span) {
    this.span = span;
    const cells = isLine(span) ? 1 : CELLS;
    for (let k = 0; k < cells; k++) this.run.push((this.run[k] ?? 0) + spanLength(span, k / cells, (k + 1) / cells));
  }

  get length(): number {
    return this.run.at(-1) ?? 0;
  }

  paramAt(length: number): number {
    const cells = this.run.length - 1;
    const cell = Math.min(
      cells - 1,
      Math.max(
        0,
        this.run.findLastIndex((run) => run <= length),
      ),
    );
    const from = this.run[cell] ?? 0;
    let [low, high] = [cell / cells, (cell + 1) / cells];
    let t = low + ((high - low) * (length - from)) / Math.max(1e-300, (this.run[cell + 1] ?? 0) - from);
    if (cells === 1) return t;
    for (let k = 0; k < 40; k++) {
      const off = from + spanLength(this.span, cell / cells, t) - length;
      if (Math.abs(off) < 1e-10 * Math.max(1, length)) break;
      if (off < 0) low = t;
      else high = t;
      const next = t - off / Math.hypot(derivative(this.span, t, 0), derivative(this.span, t, 1));
      t = next > low && next < high ? next : (low + high) / 2;
    }
    return t;
  }
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
    const ruler = new SpanRuler(span);
    const total = ruler.length;
    let done = 0;
    let t = 0;
    while (done < total - 1e-9 && out.length < MOST_DASHES) {
      const step = Math.min(rest, total - done);
      const next = done + step >= total - 1e-9 ? 1 : ruler.paramAt(done + step);
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
