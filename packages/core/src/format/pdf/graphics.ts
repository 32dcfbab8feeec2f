/** The state of drawing on a page, its paths and its clips. */
import type { Box, Contour, Matrix, Outline, Span } from '../../types/index.ts';
import { mapOutline, translation } from '../../geometry/transform.ts';
import { bounds } from '../../geometry/outline.ts';
import { at } from '../../geometry/span.ts';
import { boxShape } from '../../geometry/shapes.ts';
import { keepOverlap } from '../../geometry/weld/weld.ts';
import type { Gradient } from '../../colour/gradient.ts';
import type { PdfFont } from './engine.ts';

/** What painting is cut off to. */
export interface Clip {
  readonly outline: Outline;
  /** Set when the clip is an upright box. */
  readonly box: Box | undefined;
}

/** The graphics state (ISO 32000-1, 8.4). */
export interface Graphics {
  readonly matrix: Matrix;
  readonly clip: Clip | undefined;
  readonly fill: string | undefined;
  readonly stroke: string | undefined;
  /** Gradients of the colours above, in mm. */
  readonly fillGradient: Gradient | undefined;
  readonly strokeGradient: Gradient | undefined;
  /** What patterns are placed by: the map of the page or of the form at hand. */
  readonly base: Matrix;
  readonly fillAlpha: number;
  readonly strokeAlpha: number;
  readonly width: number;
  readonly cap: 'butt' | 'round' | 'square';
  readonly join: 'mitre' | 'round' | 'bevel';
  readonly mitreLimit: number;
  readonly dash: readonly number[];
  readonly dashOffset: number;
  readonly font: PdfFont | undefined;
  readonly size: number;
  readonly charSpace: number;
  readonly wordSpace: number;
  readonly widen: number;
  readonly leading: number;
  readonly rise: number;
  readonly mode: number;
}

/** The state at the beginning of a page. */
export const INITIAL: Omit<Graphics, 'matrix' | 'base'> = {
  clip: undefined,
  fill: '#000000',
  stroke: '#000000',
  fillGradient: undefined,
  strokeGradient: undefined,
  fillAlpha: 1,
  strokeAlpha: 1,
  width: 1,
  cap: 'butt',
  join: 'mitre',
  mitreLimit: 10,
  dash: [],
  dashOffset: 0,
  font: undefined,
  size: 1,
  charSpace: 0,
  wordSpace: 0,
  widen: 1,
  leading: 0,
  rise: 0,
  mode: 0,
};

/** Ends of lines, by their number. */
export const CAPS = ['butt', 'round', 'square'] as const;
/** Corners of lines, by their number. */
export const JOINS = ['mitre', 'round', 'bevel'] as const;

/**
 * Drawing commands of the parser: 0 to, 1 line, 2 cubic, 3 quadratic, 4 close.
 * @returns an empty outline for no data
 */
export function outlineFrom(data: ArrayLike<number> | null | undefined): Outline {
  const contours: Contour[] = [];
  let [spans, x, y, sx, sy]: [Span[], number, number, number, number] = [[], 0, 0, 0, 0];
  const end = (closed: boolean): void => {
    if (spans.length > 0) contours.push({ closed, spans });
    spans = [];
  };
  const n = (i: number): number => data?.[i] ?? 0;
  for (let i = 0; i < (data?.length ?? 0);) {
    switch (n(i)) {
      case 0:
        end(false);
        [sx, sy] = [x, y] = [n(i + 1), n(i + 2)];
        i += 3;
        break;
      case 1:
        if (n(i + 1) !== x || n(i + 2) !== y) spans.push([x, y, n(i + 1), n(i + 2)]);
        [x, y] = [n(i + 1), n(i + 2)];
        i += 3;
        break;
      case 2:
        spans.push([x, y, n(i + 1), n(i + 2), n(i + 3), n(i + 4), n(i + 5), n(i + 6)]);
        [x, y] = [n(i + 5), n(i + 6)];
        i += 7;
        break;
      case 3: {
        const [qx, qy, ex, ey] = [n(i + 1), n(i + 2), n(i + 3), n(i + 4)];
        spans.push([x, y, x + (2 / 3) * (qx - x), y + (2 / 3) * (qy - y), ex + (2 / 3) * (qx - ex), ey + (2 / 3) * (qy - ey), ex, ey]);
        [x, y] = [ex, ey];
        i += 5;
        break;
      }
      default:
        if (x !== sx || y !== sy) spans.push([x, y, sx, sy]);
        [x, y] = [sx, sy];
        end(true);
        i += 1;
    }
  }
  end(false);
  return { contours };
}

/**
 * Does a box lie in another?
 * @returns true when edges lie on one another
 */
export const within = (inner: Box, outer: Box): boolean =>
  inner.minX >= outer.minX - 1e-6 && inner.maxX <= outer.maxX + 1e-6 && inner.minY >= outer.minY - 1e-6 && inner.maxY <= outer.maxY + 1e-6;

const apart = (a: Box, b: Box): boolean => a.minX >= b.maxX || a.maxX <= b.minX || a.minY >= b.maxY || a.maxY <= b.minY;

/** The box of an outline that is an upright box itself. */
function asBox(outline: Outline): Box | undefined {
  const [only] = outline.contours;
  if (outline.contours.length !== 1 || !only || only.spans.length > 4 || only.spans.length < 3) return undefined;
  const upright = only.spans.every((s) => s.length === 4 && (Math.abs(at(s, 0) - at(s, 2)) < 1e-6 || Math.abs(at(s, 1) - at(s, 3)) < 1e-6));
  return upright ? bounds(outline) : undefined;
}

/** A box as an outline. */
export const boxOutline = (b: Box): Outline => mapOutline(translation(b.minX, b.minY), boxShape(b.maxX - b.minX, b.maxY - b.minY));

/**
 * A clip cut off further.
 * @param clip absent: nothing is cut off yet
 * @returns a box for as long as all of its parts are upright boxes: where it lies round all, nothing needs to be cut
 */
export function meet(clip: Clip | undefined, more: Outline): Clip {
  const box = asBox(more);
  if (!clip) return { outline: more, box };
  if (clip.box && box) {
    const both: Box = {
      minX: Math.max(clip.box.minX, box.minX),
      minY: Math.max(clip.box.minY, box.minY),
      maxX: Math.min(clip.box.maxX, box.maxX),
      maxY: Math.min(clip.box.maxY, box.maxY),
    };
    const empty = both.minX >= both.maxX || both.minY >= both.maxY;
    return { outline: empty ? { contours: [] } : boxOutline(both), box: empty ? undefined : both };
  }
  return { outline: clipped(more, clip), box: undefined };
}

/**
 * An outline cut off to a clip.
 * @returns the same outline without a clip, or when all of it lies in the clip's box
 */
export function clipped(outline: Outline, clip: Clip | undefined): Outline {
  if (!clip || outline.contours.length === 0) return outline;
  if (clip.outline.contours.length === 0) return clip.outline;
  const own = bounds(outline);
  if (clip.box && within(own, clip.box)) return outline;
  if (apart(own, bounds(clip.outline))) return { contours: [] };
  return keepOverlap([outline, clip.outline]);
}

/**
 * Spans of a letter's contour, the way back to the start included.
 * @returns the same spans when the contour comes back to its start by itself
 */
export function closedSpans({ spans }: Contour): readonly Span[] {
  const [first, last] = [spans[0] as Span, spans.at(-1) as Span];
  const [x, y] = [at(last, last.length - 2), at(last, last.length - 1)];
  return x === at(first, 0) && y === at(first, 1) ? spans : [...spans, [x, y, at(first, 0), at(first, 1)]];
}
