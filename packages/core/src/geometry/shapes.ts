/**
 * Plain shapes at exact size. Circular arcs are cubic Béziers of at most a quarter turn with the
 * usual handle 4/3·tan(θ/4); greatest radial error 2.7e-4 of the radius.
 */
import type { Contour, Outline, Span } from '../types/index.ts';
import { InputError } from '../errors/index.ts';

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

/** Box with its lower left corner at the origin; corners rounded by `cornerMm` (at most half the shorter side). */
export function boxShape(widthMm: number, heightMm: number, cornerMm = 0): Outline {
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
      : [quarter(w - r, 0, w, r, true), quarter(w, h - r, w - r, h, false), quarter(r, h, 0, h - r, true), quarter(0, r, r, 0, false)];
  const spans = sides.flatMap((side, i) => [side, ...corners.slice(i, i + 1)]);
  const present = spans.filter((s) => s.length === 8 || s[0] !== s[2] || s[1] !== s[3]);
  return { contours: [{ closed: true, spans: present }] };
}

/** Oval that fills the box from the origin to (width, height), counter-clockwise from its right end. */
export function ovalShape(widthMm: number, heightMm: number): Outline {
  checkSize(widthMm, heightMm);
  const [w, h, x, y] = [widthMm, heightMm, widthMm / 2, heightMm / 2];
  const contour: Contour = {
    closed: true,
    spans: [quarter(w, y, x, h, false), quarter(x, h, 0, y, true), quarter(0, y, x, 0, false), quarter(x, 0, w, y, true)],
  };
  return { contours: [contour] };
}
