/**
 * The parallel of a whole closed contour with its joins, loops and all; the weld with positive fill then keeps the
 * part that is meant. Joins: round by arcs, mitre at true corners up to a limit, bevel, square caps at reversals.
 * Where the contour turns away from the parallel the join goes back through the corner itself, as polygon offset
 * does, so that what vanishes cancels.
 */
import type { Contour, Span } from '../../types/index.ts';
import { at, endX, endY, startX, startY } from '../span.ts';
import { directionAt, drawParallel, turnBetween, type Pen } from './parallel-curve.ts';

/** How corners are made. */
export type Join = 'round' | 'mitre' | 'bevel';
/** How ends of open lines are made. */
export type Cap = 'butt' | 'round' | 'square';

/** How corners and ends are made, and how exactly, mm. */
export interface JoinSetup {
  readonly join: Join;
  readonly mitreLimit: number;
  readonly tol: number;
  /** At a full reversal (the end of a stroke); the join when absent. */
  readonly cap?: Cap;
}

/**
 * Circular arc as cubics; radial error of a piece of angle θ: r·2/27·sin⁶(θ/4)/cos²(θ/4) (M. Goldapp, 1991).
 * @param cx,cy middle, mm
 * @param from,sweep radians, counter-clockwise above zero
 * @param tol mm; pieces are added until it holds, 64 at most
 */
export function arcSpans(cx: number, cy: number, r: number, from: number, sweep: number, tol: number): Span[] {
  let pieces = Math.max(1, Math.ceil(Math.abs(sweep) / (Math.PI / 2) - 1e-9));
  const error = (n: number): number => {
    const quarter = Math.abs(sweep) / n / 4;
    return (r * 2 * Math.sin(quarter) ** 6) / (27 * Math.cos(quarter) ** 2);
  };
  while (pieces < 64 && error(pieces) > tol) pieces++;
  const step = sweep / pieces;
  const k = (4 / 3) * Math.tan(step / 4);
  return Array.from({ length: pieces }, (_, i) => {
    const [ca, sa] = [Math.cos(from + i * step), Math.sin(from + i * step)];
    const [cb, sb] = [Math.cos(from + (i + 1) * step), Math.sin(from + (i + 1) * step)];
    return [
      cx + r * ca,
      cy + r * sa,
      cx + r * (ca - k * sa),
      cy + r * (sa + k * ca),
      cx + r * (cb + k * sb),
      cy + r * (sb - k * cb),
      cx + r * cb,
      cy + r * sb,
    ];
  });
}

class ContourPen implements Pen {
  readonly spans: Span[] = [];
  private x = Number.NaN;
  private y = Number.NaN;

  lineTo(x: number, y: number): void {
    if (this.spans.length > 0 || !Number.isNaN(this.x)) {
      if (Math.abs(this.x - x) > 1e-12 || Math.abs(this.y - y) > 1e-12) this.spans.push([this.x, this.y, x, y]);
    }
    this.x = x;
    this.y = y;
  }

  draw(span: Span): void {
    let piece = span;
    if (!Number.isNaN(this.x)) {
      if (Math.hypot(this.x - startX(span), this.y - startY(span)) < 1e-6) piece = [this.x, this.y, ...span.slice(2)];
      else this.lineTo(startX(span), startY(span));
    }
    this.spans.push(piece);
    this.x = endX(piece);
    this.y = endY(piece);
  }

  close(): Contour | undefined {
    const first = this.spans[0];
    const last = this.spans.at(-1);
    if (!first || !last) return undefined;
    const gap = Math.hypot(this.x - startX(first), this.y - startY(first));
    if (gap > 1e-9) this.lineTo(startX(first), startY(first));
    else this.spans[this.spans.length - 1] = [...last.slice(0, -2), startX(first), startY(first)];
    return { closed: true, spans: this.spans };
  }
}

/** Less is no corner, radians. */
const NO_TURN = 1e-3;

const isReversal = (turn: number): boolean => Math.abs(turn) > Math.PI - 1e-6;

/** From the end of one parallel to the start of the next, round the node they share. */
function drawJoin(before: Span, after: Span, d: number, setup: JoinSetup, pen: Pen): void {
  const [px, py] = [startX(after), startY(after)];
  const [ax, ay] = directionAt(before, 1);
  const [bx, by] = directionAt(after, 0);
  const turn = turnBetween([ax, ay], [bx, by]);
  const end = (): void => pen.lineTo(px + d * by, py - d * bx);
  if (Math.abs(turn) < NO_TURN) return end();
  if (!isReversal(turn) && turn * d <= 0) {
    pen.lineTo(px, py);
    return end();
  }
  const kind = setup.cap && isReversal(turn) ? setup.cap : setup.join;
  if (kind === 'round') {
    const from = Math.atan2(-ax * d, ay * d);
    const sweep = isReversal(turn) ? Math.PI * Math.sign(d) : turn;
    for (const arc of arcSpans(px, py, Math.abs(d), from, sweep, setup.tol / 2)) pen.draw(arc);
  } else if (kind === 'mitre' && 1 / Math.cos(turn / 2) <= setup.mitreLimit) {
    const k = d / (1 + ax * bx + ay * by);
    pen.lineTo(px + k * (ay + by), py - k * (ax + bx));
  } else if (kind === 'square') {
    const reach = Math.abs(d);
    pen.lineTo(px + d * ay + reach * ax, py - d * ax + reach * ay);
    pen.lineTo(px + d * by - reach * bx, py - d * bx - reach * by);
  }
  end();
}

/** What a contour's parallel takes at least where it goes round corners: an arc for each quarter of a turn. */
export function arcsRoundCorners({ spans }: Contour, d: number): number {
  const turns = spans.map((span, i) => turnBetween(directionAt(span, 1), directionAt(spans[(i + 1) % spans.length] as Span, 0)));
  return turns.reduce((sum, turn) => sum + (turn * d > NO_TURN * Math.abs(d) ? Math.ceil(Math.abs(turn) / (Math.PI / 2) - 1e-9) : 0), 0);
}

const isPoint = (span: Span): boolean => span.every((value, i) => value === at(span, i & 1));

/**
 * The raw parallel of a closed contour at `d` mm to the right of its direction; undefined for a point.
 * @param setup how its corners are made
 * @returns a contour that crosses itself where the parallel does: it is to be cleaned by the winding of its parts
 */
export function rawOffset(contour: Contour, d: number, setup: JoinSetup): Contour | undefined {
  const spans = contour.spans.filter((span) => !isPoint(span));
  const pen = new ContourPen();
  spans.forEach((span, i) => {
    drawParallel(span, d, setup.tol, pen);
    drawJoin(span, spans[(i + 1) % spans.length] as Span, d, setup, pen);
  });
  return pen.close();
}
