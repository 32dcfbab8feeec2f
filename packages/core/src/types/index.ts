/**
 * Data shapes shared by every folder of the core.
 * Units: mm, y up, matrices map column vectors. Operations live in the subject folders.
 */

/** A place in the plane, mm. */
export interface Point {
  readonly x: number;
  readonly y: number;
}

/** Axis-parallel box, mm. Empty when minX > maxX. */
export interface Box {
  readonly minX: number;
  readonly minY: number;
  readonly maxX: number;
  readonly maxY: number;
}

/** Affine map `x' = a x + c y + e`, `y' = b x + d y + f`, as [a, b, c, d, e, f]. */
export type Matrix = readonly [number, number, number, number, number, number];

/**
 * A straight span as [x0,y0,x1,y1] or a cubic Bézier span as [x0,y0,x1,y1,x2,y2,x3,y3], mm.
 * Never changed in place: an untouched span is handed on as the same array.
 */
export type Span = readonly number[];

/** A chain of spans, each starting where the one before ends; a closed one ends where it starts. */
export interface Contour {
  readonly closed: boolean;
  readonly spans: readonly Span[];
}

/**
 * A shape: closed contours (outer ones counter-clockwise, holes clockwise, non-zero fill rule)
 * and open ones, which have length but no area.
 */
export interface Outline {
  readonly contours: readonly Contour[];
}

/** What a long computation is given: a way to stop it, a place to report to, a time budget. */
export interface Control {
  /** An AbortSignal will do. */
  signal?: { readonly aborted: boolean };
  onProgress?: (done: number, total: number, phase: string) => void;
  budgetMs?: number;
  seed?: number;
}
