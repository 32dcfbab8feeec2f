/** Building, joining and turning outlines round; measuring them: area, box, length, nodes. All exact. */
import type { Box, Contour, Outline, Span } from '../types/index.ts';
import { endX, endY, reverseSpan, spanArea, spanLength, spansBox, startX, startY } from './span.ts';

/** The box of nothing. */
export const EMPTY_BOX: Box = { minX: Infinity, minY: Infinity, maxX: -Infinity, maxY: -Infinity };
/** An outline without contours. */
export const EMPTY_OUTLINE: Outline = { contours: [] };

/** Is it the box of nothing? */
export const isEmptyBox = (box: Box): boolean => box.minX > box.maxX;

/**
 * Smallest box round both.
 * @returns the other one when one is empty
 */
export function joinBoxes(a: Box, b: Box): Box {
  return {
    minX: Math.min(a.minX, b.minX),
    minY: Math.min(a.minY, b.minY),
    maxX: Math.max(a.maxX, b.maxX),
    maxY: Math.max(a.maxY, b.maxY),
  };
}

/**
 * A box grown on all sides by `by` mm.
 * @param by below zero it shrinks, perhaps to an empty box
 */
export const growBox = (box: Box, by: number): Box => ({
  minX: box.minX - by,
  minY: box.minY - by,
  maxX: box.maxX + by,
  maxY: box.maxY + by,
});

/**
 * Do boxes share a place, edges included?
 * @returns false for an empty one
 */
export const boxesMeet = (a: Box, b: Box): boolean => a.minX <= b.maxX && b.minX <= a.maxX && a.minY <= b.maxY && b.minY <= a.maxY;

/**
 * One outline with the contours of all.
 * @returns contours as they are: what lies twice is there twice; `weld` makes one shape of them
 */
export const joinOutlines = (outlines: readonly Outline[]): Outline => ({
  contours: outlines.flatMap((outline) => outline.contours),
});

/**
 * The same contour run the other way.
 * @returns a new contour of the same nodes, begun at the same one when closed
 */
export const reverseContour = (contour: Contour): Contour => ({
  closed: contour.closed,
  spans: contour.spans.map(reverseSpan).reverse(),
});

/**
 * Closed contour of straight spans through points [x0,y0,x1,y1,…], not repeating the first.
 * @param xy three points or more, mm
 */
export function polygon(xy: ArrayLike<number>): Contour {
  const spans: Span[] = [];
  const n = xy.length / 2;
  for (let i = 0; i < n; i++) {
    const j = (i + 1) % n;
    spans.push([xy[2 * i] as number, xy[2 * i + 1] as number, xy[2 * j] as number, xy[2 * j + 1] as number]);
  }
  return { closed: true, spans };
}

/**
 * Signed area of a contour, mm², positive when counter-clockwise; 0 for an open one.
 * @complexity spans; exact for cubics, by their control points
 */
export function contourArea(contour: Contour): number {
  const first = contour.spans[0];
  if (!contour.closed || !first) return 0;
  let sum = 0;
  for (const span of contour.spans) sum += spanArea(span, startX(first), startY(first));
  return sum;
}

/**
 * Area of the closed contours, mm²: outer ones less holes. Law: unchanged by translation and start node.
 * @complexity spans
 */
export const area = (outline: Outline): number => outline.contours.reduce((sum, contour) => sum + contourArea(contour), 0);

/**
 * Exact box of a contour.
 * @returns an empty box for a contour without spans
 */
export const contourBox = (contour: Contour): Box => spansBox(contour.spans);

/**
 * Exact box, mm; `EMPTY_BOX` (min above max) for an empty outline.
 * @complexity spans; extremes of cubics are solved for, not sampled
 */
export const bounds = (outline: Outline): Box =>
  outline.contours.reduce<Box>((box, contour) => joinBoxes(box, contourBox(contour)), EMPTY_BOX);

/**
 * Length of a contour, mm.
 * @returns to about 1e-9 of itself
 */
export const contourLength = (contour: Contour): number => contour.spans.reduce((sum, span) => sum + spanLength(span), 0);

/**
 * Length of all contours, mm.
 * @complexity spans; each is halved until its length stands
 */
export const pathLength = (outline: Outline): number => outline.contours.reduce((sum, contour) => sum + contourLength(contour), 0);

/**
 * On-curve nodes: one per span of a closed contour, one more for an open one.
 * @returns what a cut file and the ticket count
 */
export const nodeCount = (outline: Outline): number =>
  outline.contours.reduce((sum, contour) => sum + contour.spans.length + (contour.closed ? 0 : 1), 0);

/** Where a contour begins. */
export function contourStart(contour: Contour): { x: number; y: number } {
  const first = contour.spans[0];
  return first ? { x: startX(first), y: startY(first) } : { x: 0, y: 0 };
}

/** Where a contour ends: its start when closed. */
export function contourEnd(contour: Contour): { x: number; y: number } {
  const last = contour.spans.at(-1);
  return last ? { x: endX(last), y: endY(last) } : { x: 0, y: 0 };
}
