/**
 * Plain shapes at exact size. Circular arcs are cubic Béziers of at most a quarter turn with the
 * usual handle 4/3·tan(θ/4); greatest radial error 2.7e-4 of the radius.
 */
import type { Box, Contour, Outline, Span } from '../types/index.ts';
import { InputError } from '../errors/index.ts';
import { polygon, reverseContour } from './outline.ts';
import { endX, endY, startX, startY } from './span.ts';
import { mapOutline, translation } from './transform.ts';

const QUARTER = (4 / 3) * Math.tan(Math.PI / 8);

function checkSize(widthMm: number, heightMm: number): void {
  if (!(widthMm > 0 && heightMm > 0 && Number.isFinite(widthMm + heightMm))) {
    throw new InputError('size', `A shape needs a width and a height above zero, not ${widthMm} by ${heightMm} mm.`);
  }
}

/** Quarter of an ellipse from (x0,y0) to (x1,y1) whose first tangent is horizontal or vertical. */
function quarter(x0: number, y0: number, x1: number, y1: number, firstHorizontal: boolean): Span {
  const dx = (x1 - x0) * QUARTER;
  const dy = (y1 - y0) * QUARTER;
  return firstHorizontal ? [x0, y0, x0 + dx, y0, x1, y1 - dy, x1, y1] : [x0, y0, x0, y0 + dy, x1 - dx, y1, x1, y1];
}

/** How the corners of a box are taken off: rounded outward, cut straight, or scooped inward. */
export type CornerKind = 'round' | 'cut' | 'scoop';

/** One corner from where it begins to where it ends, round the box's own corner point. */
function cornerSpan(from: readonly [number, number], to: readonly [number, number], firstHorizontal: boolean, kind: CornerKind): Span {
  const [x0, y0] = from;
  const [x1, y1] = to;
  if (kind === 'cut') return [x0, y0, x1, y1];
  return quarter(x0, y0, x1, y1, kind === 'round' ? firstHorizontal : !firstHorizontal);
}

/**
 * Box with its lower left corner at the origin; corners taken off by `cornerMm` (at most half the shorter side).
 * @param kind of the corners: round, cut across, or hollow
 * @throws InputError `input.size` for a side that is not above zero
 */
export function boxShape(widthMm: number, heightMm: number, cornerMm = 0, kind: CornerKind = 'round'): Outline {
  checkSize(widthMm, heightMm);
  const r = Math.min(Math.max(cornerMm, 0), widthMm / 2, heightMm / 2);
  const [w, h] = [widthMm, heightMm];
  const sides: Span[] = [
    [r, 0, w - r, 0],
    [w, r, w, h - r],
    [w - r, h, r, h],
    [0, h - r, 0, r],
  ];
  const corners: Span[] =
    r === 0
      ? []
      : [
          cornerSpan([w - r, 0], [w, r], true, kind),
          cornerSpan([w, h - r], [w - r, h], false, kind),
          cornerSpan([r, h], [0, h - r], true, kind),
          cornerSpan([0, r], [r, 0], false, kind),
        ];
  const spans = sides.flatMap((side, i) => [side, ...corners.slice(i, i + 1)]);
  const present = spans.filter((s) => s.length === 8 || s[0] !== s[2] || s[1] !== s[3]);
  return { contours: [{ closed: true, spans: present }] };
}

/**
 * Oval that fills the box from the origin to (width, height), counter-clockwise from its right end.
 * @returns four spans; off a true ellipse by less than 0.03 % of its size
 */
export function ovalShape(widthMm: number, heightMm: number): Outline {
  checkSize(widthMm, heightMm);
  const [w, h, x, y] = [widthMm, heightMm, widthMm / 2, heightMm / 2];
  const contour: Contour = {
    closed: true,
    spans: [quarter(w, y, x, h, false), quarter(x, h, 0, y, true), quarter(0, y, x, 0, false), quarter(x, 0, w, y, true)],
  };
  return { contours: [contour] };
}

/**
 * Regular polygon about the origin, its first corner at the top; a star when `inner` (share of the radius) is given.
 * @throws InputError `input.size`
 * @param sides 3 to 10 000
 * @param radiusMm from the middle to a corner
 */
export function polygonShape(sides: number, radiusMm: number, inner?: number): Outline {
  checkSize(radiusMm, radiusMm);
  if (!(Number.isInteger(sides) && sides >= 3 && sides <= 10_000))
    throw new InputError('size', `A polygon needs three corners or more, not ${sides}.`);
  const n = inner === undefined ? sides : 2 * sides;
  const xy: number[] = [];
  for (let i = 0; i < n; i++) {
    const angle = Math.PI / 2 + (2 * Math.PI * i) / n;
    const r = inner !== undefined && i % 2 === 1 ? radiusMm * inner : radiusMm;
    xy.push(r * Math.cos(angle), r * Math.sin(angle));
  }
  return { contours: [polygon(xy)] };
}

/**
 * Part of a circle about the origin: open, closed by its chord, or by two radii. @throws InputError `input.size`
 * @param fromDeg,sweepDeg degrees counter-clockwise from the right
 */
export function arcShape(radiusMm: number, fromDeg: number, sweepDeg: number, ends: 'open' | 'chord' | 'sector'): Outline {
  checkSize(radiusMm, radiusMm);
  const sweep = Math.max(-360, Math.min(360, sweepDeg)) * (Math.PI / 180);
  if (!(Math.abs(sweep) > 1e-6)) throw new InputError('size', 'An arc needs an angle above zero.');
  if (Math.abs(Math.abs(sweep) - 2 * Math.PI) < 1e-9)
    return mapOutline([1, 0, 0, 1, -radiusMm, -radiusMm], ovalShape(2 * radiusMm, 2 * radiusMm));
  const pieces = Math.max(1, Math.ceil(Math.abs(sweep) / (Math.PI / 2) - 1e-9));
  const step = sweep / pieces;
  const k = (4 / 3) * Math.tan(step / 4);
  const from = (fromDeg * Math.PI) / 180;
  const spans = Array.from({ length: pieces }, (_, i): Span => {
    const [ca, sa] = [Math.cos(from + i * step), Math.sin(from + i * step)];
    const [cb, sb] = [Math.cos(from + (i + 1) * step), Math.sin(from + (i + 1) * step)];
    return [ca, sa, ca - k * sa, sa + k * ca, cb + k * sb, sb - k * cb, cb, sb].map((n) => n * radiusMm);
  });
  const first = spans[0] as Span;
  const last = spans.at(-1) as Span;
  const [sx, sy, ex, ey] = [startX(first), startY(first), endX(last), endY(last)];
  if (ends === 'open') return { contours: [{ closed: false, spans }] };
  const closing: Span[] =
    ends === 'chord'
      ? [[ex, ey, sx, sy]]
      : [
          [ex, ey, 0, 0],
          [0, 0, sx, sy],
        ];
  const contour = { closed: true, spans: [...spans, ...closing] };
  return { contours: [sweep > 0 ? contour : reverseContour(contour)] };
}

/**
 * A box where it lies. @throws InputError `input.size` for one without width or height
 * @returns a closed contour of four lines, counter-clockwise from the lower left
 */
export const outlineOfBox = ({ minX, minY, maxX, maxY }: Box): Outline =>
  mapOutline(translation(minX, minY), boxShape(maxX - minX, maxY - minY));
