/**
 * Sweep: what a shape covers while it moves straight on (block shade) or shrinks toward a point (converging shade),
 * with true curves and hardly more nodes than the shape has.
 *
 * Method: convolution of the boundary with the way (L. Guibas, L. Ramshaw, J. Stolfi, A Kinetic Framework for
 * Computational Geometry, FOCS 1983). Stretches of the boundary that face the way are moved to its end, the others
 * stay, and where one passes into the other a straight line joins them. The result winds round every point as often
 * as the way back from it meets the shape in separate pieces, so that positive fill gives the sweep exactly.
 * Shrinking toward a point is the same in the lines through that point. Spans are divided where they run along the
 * way: exactly for a straight way (a quadratic), by bisection toward a point.
 * Units mm. Cost: one weld. Limits: the point must not lie on the boundary.
 */
import type { Contour, Matrix, Outline, Point, Span } from '../types/index.ts';
import { at, derivative, endX, endY, evaluate, quadraticRoots, startX, startY, subSpan } from '../geometry/span.ts';
import { joinOutlines } from '../geometry/outline.ts';
import { mapOutline, mapPoint } from '../geometry/transform.ts';
import { clipContours, weld } from '../geometry/weld/weld.ts';

interface Way {
  /** Where a point ends. */
  readonly end: Matrix;
  /** Direction in which the point (x, y) sets out. */
  heading(x: number, y: number): readonly [number, number];
  /** Parameters in (0,1) where a span runs along the way. */
  along(span: Span): number[];
}

function straight(dx: number, dy: number): Way {
  return {
    end: [1, 0, 0, 1, dx, dy],
    heading: () => [dx, dy],
    along: (span) => {
      if (span.length === 4) return [];
      const cross = (k: number): number => (at(span, 2 * k + 2) - at(span, 2 * k)) * dy - (at(span, 2 * k + 3) - at(span, 2 * k + 1)) * dx;
      const [c0, c1, c2] = [cross(0), cross(1), cross(2)];
      return quadraticRoots(c0 - 2 * c1 + c2, 2 * (c1 - c0), c0);
    },
  };
}

const STEPS = 16;

function toward(p: Point, share: number): Way {
  const k = 1 - share;
  const facing = (span: Span, t: number): number =>
    derivative(span, t, 0) * (p.y - evaluate(span, t, 1)) - derivative(span, t, 1) * (p.x - evaluate(span, t, 0));
  return {
    end: [k, 0, 0, k, share * p.x, share * p.y],
    heading: (x, y) => [p.x - x, p.y - y],
    along: (span) => {
      if (span.length === 4) return [];
      const out: number[] = [];
      for (let i = 0; i < STEPS; i++) {
        let [low, high] = [i / STEPS, (i + 1) / STEPS];
        const sign = Math.sign(facing(span, low));
        if (sign === Math.sign(facing(span, high))) continue;
        for (let n = 0; n < 48; n++) {
          const mid = (low + high) / 2;
          if (Math.sign(facing(span, mid)) === sign) low = mid;
          else high = mid;
        }
        out.push((low + high) / 2);
      }
      return out;
    },
  };
}

/** Parts shorter than this in parameter are not worth a node. */
const SHORTEST = 1e-6;

function pieces(span: Span, way: Way): Span[] {
  const cuts = way
    .along(span)
    .filter((t) => t > SHORTEST && t < 1 - SHORTEST)
    .sort((a, b) => a - b);
  const ends = [0, ...cuts, 1];
  return ends.slice(1).flatMap((to, i) => {
    const from = at(ends, i);
    return to - from < SHORTEST ? [] : [subSpan(span, from, to)];
  });
}

/** Does the outer side of the boundary (the right of its direction) face the way? */
function faces(span: Span, way: Way): boolean {
  const [dx, dy] = [derivative(span, 0.5, 0), derivative(span, 0.5, 1)];
  const [hx, hy] = way.heading(evaluate(span, 0.5, 0), evaluate(span, 0.5, 1));
  return dy * hx - dx * hy > 0;
}

function moved(span: Span, way: Way): Span {
  const out: number[] = [];
  for (let i = 0; i < span.length; i += 2) {
    const p = mapPoint(way.end, { x: at(span, i), y: at(span, i + 1) });
    out.push(p.x, p.y);
  }
  return out;
}

function convolve(contour: Contour, way: Way): Contour {
  const parts = contour.spans.flatMap((span) => pieces(span, way)).map((span) => ({ span, facing: faces(span, way) }));
  const spans: Span[] = [];
  parts.forEach(({ span, facing }, i) => {
    const next = parts[(i + 1) % parts.length] as (typeof parts)[number];
    const placed = facing ? moved(span, way) : span;
    spans.push(placed);
    if (next.facing === facing) return;
    const foot = { x: endX(span), y: endY(span) };
    const tip = mapPoint(way.end, foot);
    spans.push(facing ? [endX(placed), endY(placed), startX(next.span), startY(next.span)] : [foot.x, foot.y, tip.x, tip.y]);
  });
  return { closed: true, spans };
}

function sweep(shape: Outline, way: Way): Outline {
  const contours = shape.contours.filter((contour) => contour.closed && contour.spans.length > 0).map((contour) => convolve(contour, way));
  return clipContours('union', contours, [], 'positive');
}

/**
 * What a clean shape covers on its way by (dx, dy). Law: contains the shape and the shape at the way's end.
 * @param dx,dy mm
 */
export const sweepAlong = (shape: Outline, dx: number, dy: number): Outline =>
  dx === 0 && dy === 0 ? shape : sweep(shape, straight(dx, dy));

/**
 * What a clean shape covers while it shrinks toward a point by a share of its size, 0 to 1 (1: all the way).
 * @param p the vanishing point, mm
 */
export function sweepToward(shape: Outline, p: Point, share: number): Outline {
  if (share <= 0) return shape;
  const way = toward(p, Math.min(share, 0.9999));
  const swept = sweep(shape, way);
  // where the shape lies round the point the convolution may leave out what only the ends cover
  return weld([joinOutlines([swept]), shape, mapOutline(way.end, shape)]);
}
