/**
 * Courses of colour along a line or between two circles: what a print shows where a film has one colour.
 * Sources: SVG 2, 14.2 (W3C 2018); ISO 32000-2, 8.7.4.5.3 and 8.7.4.5.4. A gradient has a space of its own, in which
 * a linear one runs from x = 0 to x = 1 and a radial one from its inner circle to the unit circle about the origin;
 * its matrix maps that to mm. Colours are mixed in sRGB, as both formats do unless told otherwise; all are solid.
 */
import type { Box, Matrix, Point } from '../types/index.ts';
import { compose, invert, mapPoint } from '../geometry/transform.ts';

/** A colour at a place of the gradient, 0 to 1. */
export interface GradientStop {
  /** 0 to 1, never falling along the list. */
  readonly offset: number;
  /** `#rrggbb` */
  readonly hex: string;
}

/** Colours along a line or about a point, in the space of its matrix. */
export interface Gradient {
  readonly kind: 'linear' | 'radial';
  readonly matrix: Matrix;
  readonly stops: readonly GradientStop[];
  /** What is painted beyond both ends: the last colour, the course there and back, the course over again. */
  readonly spread: 'pad' | 'reflect' | 'repeat';
  /** The circle that a radial one begins at; a point in the middle when absent. */
  readonly inner?: { readonly x: number; readonly y: number; readonly r: number } | undefined;
}

const MOST_PERIODS = 64;

const channel = (hex: string, i: number): number => Number.parseInt(hex.slice(1 + 2 * i, 3 + 2 * i), 16);

/**
 * The mean colour along its course.
 * @returns `#rrggbb`, each stretch between stops weighed by its length; black without stops
 */
export function meanColour({ stops }: Pick<Gradient, 'stops'>): string {
  const [first, last] = [stops[0], stops.at(-1)];
  if (!first || !last) return '#000000';
  const all = [{ ...first, offset: 0 }, ...stops, { ...last, offset: 1 }];
  const mean = [0, 1, 2].map((c) => {
    let sum = 0;
    for (let i = 1; i < all.length; i++) {
      const [a, b] = [all[i - 1] as GradientStop, all[i] as GradientStop];
      sum += ((channel(a.hex, c) + channel(b.hex, c)) / 2) * Math.max(0, b.offset - a.offset);
    }
    return Math.round(sum);
  });
  return `#${mean.map((n) => n.toString(16).padStart(2, '0')).join('')}`;
}

/**
 * The gradient under a further map.
 * @param matrix done after the gradient's own
 */
export const mapGradient = (matrix: Matrix, gradient: Gradient): Gradient => ({ ...gradient, matrix: compose(matrix, gradient.matrix) });

/**
 * A linear gradient from one point to another, across which `map` is still to be applied.
 * @returns from the gradient's own space, in which it runs from x = 0 to x = 1
 */
export function lineMatrix(map: Matrix, from: Point, to: Point): Matrix {
  const [dx, dy] = [to.x - from.x, to.y - from.y];
  return compose(map, [dx, dy, -dy, dx, from.x, from.y]);
}

/** The corners of a box in the gradient's own space. */
function cornersIn({ matrix }: Gradient, box: Box): Point[] {
  const back = invert(matrix);
  const corners: [number, number][] = [
    [box.minX, box.minY],
    [box.maxX, box.minY],
    [box.maxX, box.maxY],
    [box.minX, box.maxY],
  ];
  return back ? corners.map(([x, y]) => mapPoint(back, { x, y })) : [];
}

/** The stops of periods `from` to `to`, their offsets in periods. */
function periods({ stops, spread }: Gradient, from: number, to: number): GradientStop[] {
  const out: GradientStop[] = [];
  for (let n = from; n < to; n++) {
    const isBack = spread === 'reflect' && n % 2 !== 0;
    const turned = isBack ? stops.map(({ offset, hex }) => ({ offset: 1 - offset, hex })).reverse() : stops;
    const [first, last] = [turned[0], turned.at(-1)];
    if (!first || !last) return out;
    // what lies before the first stop and beyond the last has their colours, within each period
    for (const stop of [{ ...first, offset: 0 }, ...turned, { ...last, offset: 1 }])
      out.push({ offset: (n - from + stop.offset) / (to - from), hex: stop.hex });
  }
  return out;
}

/** How many circles a radial course needs to reach a point. */
function periodOf({ x, y }: Point, inner: NonNullable<Gradient['inner']>): number {
  let n = 1;
  const covers = (t: number): boolean => Math.hypot(x - inner.x * (1 - t), y - inner.y * (1 - t)) <= inner.r + (1 - inner.r) * t + 1e-9;
  while (n < MOST_PERIODS && !covers(n)) n++;
  return n;
}

/**
 * The same colours within `box` by a gradient that pads: for formats and canvases that know no other.
 * Courses that would be run through more than 64 times end there.
 * @param box mm, of what is painted
 */
export function unrolled(gradient: Gradient, box: Box): Gradient {
  if (gradient.spread === 'pad') return gradient;
  const corners = cornersIn(gradient, box);
  if (gradient.kind === 'linear') {
    const xs = corners.map(({ x }) => x);
    const from = Math.max(-MOST_PERIODS, Math.floor(Math.min(0, ...xs)));
    const to = Math.min(MOST_PERIODS, Math.ceil(Math.max(1, ...xs)));
    return {
      kind: 'linear',
      spread: 'pad',
      stops: periods(gradient, from, to),
      matrix: compose(gradient.matrix, [to - from, 0, 0, 1, from, 0]),
    };
  }
  const inner = gradient.inner ?? { x: 0, y: 0, r: 0 };
  const count = Math.max(1, ...corners.map((corner) => periodOf(corner, inner)));
  const [cx, cy, r] = [inner.x * (1 - count), inner.y * (1 - count), inner.r + (1 - inner.r) * count];
  return {
    kind: 'radial',
    spread: 'pad',
    stops: periods(gradient, 0, count),
    matrix: compose(gradient.matrix, [r, 0, 0, r, cx, cy]),
    inner: { x: (inner.x - cx) / r, y: (inner.y - cy) / r, r: inner.r / r },
  };
}

/**
 * The box within the gradient's own space that covers `box`; for painting it there.
 * @returns an empty box (least above greatest) where the gradient flattens the plane
 */
export function boxWithin(gradient: Gradient, box: Box): Box {
  const corners = cornersIn(gradient, box);
  const [xs, ys] = [corners.map(({ x }) => x), corners.map(({ y }) => y)];
  return { minX: Math.min(...xs), minY: Math.min(...ys), maxX: Math.max(...xs), maxY: Math.max(...ys) };
}
