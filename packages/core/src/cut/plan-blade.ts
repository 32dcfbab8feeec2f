/**
 * From a contour to the way the tool's holder travels.
 * A drag knife's tip trails its holder by the blade offset d, along the direction of the cut. Either the machine
 * corrects for that (the plain polyline is sent), or the plan does: the holder leads the tip by d along the tangent,
 * and at corners swings on an arc of radius d round the corner, so that the tip turns on the spot.
 * Units: mm. Chord error at most `CHORD_MM`; limits: the blade's angle at the first entry is not known.
 */
import type { Contour, Outline, Span } from '../types/index.ts';
import { at, chordSteps, derivative, endTangent, endX, endY, evaluate, reverseSpan, startX, startY } from '../geometry/span.ts';

/** What the tool follows with the blade down: [x0,y0,…], the last point included; a closed one ends where it began. */
export interface ToolPath {
  readonly xy: Float64Array;
  readonly closed: boolean;
}

/** How far the tip trails the axis, and what is done about it. mm. */
export interface BladeSetup {
  readonly bladeOffsetMm: number;
  /** How far a closed contour is cut past its start. */
  readonly overcutMm: number;
  /** Turns sharper than this are corners, degrees. */
  readonly cornerDeg: number;
  /** Does the plan correct for the blade offset, or the machine? */
  readonly compensate: boolean;
  /** Where a closed contour begins: at the node that is near, or in the middle of its longest straight run. Absent: at a node. */
  readonly entry?: 'node' | 'straight';
}

/** Leaves room for the rounding to 0.025 mm units within 0.03 mm in all. */
const CHORD_MM = 0.01;
const SWING_STEP = Math.PI / 18;

/**
 * The same closed contour from another of its nodes; an open one may run backwards (start = span count).
 * @param start number of the node, from 0
 */
export function startContourAt(contour: Contour, start: number): Contour {
  if (start === 0) return contour;
  if (!contour.closed) return { closed: false, spans: contour.spans.map(reverseSpan).reverse() };
  return { closed: true, spans: [...contour.spans.slice(start), ...contour.spans.slice(0, start)] };
}

/** Straight within a hundredth of a mm. */
function isStraight(span: Span): boolean {
  if (span.length === 4) return true;
  const [x0, y0] = [startX(span), startY(span)];
  const [dx, dy] = [endX(span) - x0, endY(span) - y0];
  const long = Math.hypot(dx, dy);
  const off = (x: number, y: number): number => Math.abs((x - x0) * dy - (y - y0) * dx) / Math.max(long, 1e-9);
  return long > 1e-6 && [0.25, 0.5, 0.75].every((t) => off(evaluate(span, t, 0), evaluate(span, t, 1)) < 0.01);
}

/**
 * The same closed contour from the middle of its longest straight run: a trailing blade turns into its way there, where
 * nothing is lost by it, and is straight behind its holder at the first corner. Without such a run it stays as it is.
 * @returns the same contour when no run of it is straight
 */
export function startOnStraight(contour: Contour): Contour {
  if (!contour.closed) return contour;
  let best = -1;
  let longest = 0;
  contour.spans.forEach((span, i) => {
    const long = Math.hypot(endX(span) - startX(span), endY(span) - startY(span));
    if (long > longest && isStraight(span)) [best, longest] = [i, long];
  });
  const span = contour.spans[best];
  if (!span) return contour;
  const [x, y] = [(startX(span) + endX(span)) / 2, (startY(span) + endY(span)) / 2];
  const { spans } = contour;
  return {
    closed: true,
    spans: [[x, y, endX(span), endY(span)], ...spans.slice(best + 1), ...spans.slice(0, best), [startX(span), startY(span), x, y]],
  };
}

/** Spans of the first `length` mm of a contour, for the overcut. */
function head(contour: Contour, length: number): Span[] {
  const out: Span[] = [];
  let left = length;
  for (const span of contour.spans) {
    if (left <= 0) break;
    const chord = Math.hypot(endX(span) - startX(span), endY(span) - startY(span));
    if (chord <= left) {
      out.push(span);
      left -= chord;
      continue;
    }
    const t = left / chord;
    const steps = chordSteps(span, CHORD_MM);
    for (let k = 0; k < steps && k / steps < t; k++) {
      const t1 = Math.min((k + 1) / steps, t);
      out.push([evaluate(span, k / steps, 0), evaluate(span, k / steps, 1), evaluate(span, t1, 0), evaluate(span, t1, 1)]);
    }
    left = 0;
  }
  return out;
}

function plain(spans: readonly Span[]): number[] {
  const out: number[] = [];
  spans.forEach((span, i) => {
    if (i === 0) out.push(startX(span), startY(span));
    const steps = chordSteps(span, CHORD_MM);
    for (let k = 1; k < steps; k++) out.push(evaluate(span, k / steps, 0), evaluate(span, k / steps, 1));
    out.push(endX(span), endY(span));
  });
  return out;
}

function tangentAt(span: Span, t: number): [number, number] {
  const dx = derivative(span, t, 0);
  const dy = derivative(span, t, 1);
  const speed = Math.hypot(dx, dy);
  return speed > 1e-9 ? [dx / speed, dy / speed] : endTangent(span, t < 0.5 ? 0 : 1);
}

function leading(spans: readonly Span[], setup: BladeSetup): number[] {
  const d = setup.bladeOffsetMm;
  const out: number[] = [];
  let heading: number | undefined;
  for (const span of spans) {
    const [sx, sy] = endTangent(span, 0);
    const turnTo = Math.atan2(sy, sx);
    if (heading !== undefined) {
      const turn = Math.atan2(Math.sin(turnTo - heading), Math.cos(turnTo - heading));
      if (Math.abs(turn) > (setup.cornerDeg * Math.PI) / 180) {
        const steps = Math.ceil(Math.abs(turn) / SWING_STEP);
        for (let k = 1; k < steps; k++) {
          const angle = heading + (turn * k) / steps;
          out.push(startX(span) + d * Math.cos(angle), startY(span) + d * Math.sin(angle));
        }
      }
    }
    const steps = chordSteps(span, CHORD_MM);
    for (let k = 0; k <= steps; k++) {
      const [tx, ty] = tangentAt(span, k / steps);
      out.push(evaluate(span, k / steps, 0) + d * tx, evaluate(span, k / steps, 1) + d * ty);
    }
    const [ex, ey] = endTangent(span, 1);
    heading = Math.atan2(ey, ex);
  }
  return out;
}

/**
 * The holder's way along every contour of an outline, blade down.
 * @returns one path a contour, in the outline's order; none for an empty outline
 */
export function planBlade(outline: Outline, setup: BladeSetup): ToolPath[] {
  return outline.contours.flatMap((contour) => {
    if (contour.spans.length === 0) return [];
    const overcut = contour.closed && setup.overcutMm > 0 ? head(contour, setup.overcutMm) : [];
    const spans = [...contour.spans, ...overcut];
    const xy = setup.compensate && setup.bladeOffsetMm > 0 ? leading(spans, setup) : plain(spans);
    return [{ xy: Float64Array.from(xy), closed: contour.closed && at(xy, 0) === at(xy, xy.length - 2) }];
  });
}
