/** Basic shapes of SVG as outlines in user space (y down). Sizes that cannot be give nothing. */
import type { Contour, Outline, Span } from '../../types/index.ts';
import { EMPTY_OUTLINE } from '../../geometry/outline.ts';
import { mapOutline } from '../../geometry/transform.ts';
import { boxShape, ovalShape } from '../../geometry/shapes.ts';
import { arcSpans, parsePathData } from './path-data.ts';
import { pairs } from './style.ts';
import { length, type LengthContext } from './values.ts';

type Values = ReadonlyMap<string, string>;

/** Placed by mapping, with the winding that a reader of the file expects. */
const moved = (outline: Outline, x: number, y: number): Outline => mapOutline([1, 0, 0, 1, x, y], outline);

function rect(get: (name: string, of: 'x' | 'y') => number | undefined): Outline {
  const [x, y, w, h] = [get('x', 'x') ?? 0, get('y', 'y') ?? 0, get('width', 'x') ?? 0, get('height', 'y') ?? 0];
  if (!(w > 0 && h > 0)) return EMPTY_OUTLINE;
  const valid = (n: number | undefined): number | undefined => (n !== undefined && n >= 0 ? n : undefined);
  const [ax, ay] = [valid(get('rx', 'x')), valid(get('ry', 'y'))];
  const [rx, ry] = [Math.min(ax ?? ay ?? 0, w / 2), Math.min(ay ?? ax ?? 0, h / 2)];
  if (rx <= 0 || ry <= 0) return moved(boxShape(w, h), x, y);
  const corner = (x0: number, y0: number, x1: number, y1: number): Span[] =>
    arcSpans([x0, y0], [x1, y1], { rx, ry, turnDeg: 0, large: false, sweep: true });
  const spans: Span[] = [
    [x + rx, y, x + w - rx, y],
    ...corner(x + w - rx, y, x + w, y + ry),
    [x + w, y + ry, x + w, y + h - ry],
    ...corner(x + w, y + h - ry, x + w - rx, y + h),
    [x + w - rx, y + h, x + rx, y + h],
    ...corner(x + rx, y + h, x, y + h - ry),
    [x, y + h - ry, x, y + ry],
    ...corner(x, y + ry, x + rx, y),
  ];
  return { contours: [{ closed: true, spans: spans.filter((s) => s.length === 8 || s[0] !== s[2] || s[1] !== s[3]) }] };
}

function polyline(text: string, closed: boolean): Outline {
  const points = pairs(text);
  if (points.length < 2) return EMPTY_OUTLINE;
  const spans = points.slice(1).map(([x, y], i): Span => [...(points[i] as [number, number]), x, y]);
  if (closed) spans.push([...(points.at(-1) as [number, number]), ...(points[0] as [number, number])]);
  const kept = spans.filter((s) => s[0] !== s[2] || s[1] !== s[3]);
  return { contours: kept.length > 0 ? [{ closed, spans: kept } satisfies Contour] : [] };
}

type Get = (attribute: string, of: 'x' | 'y' | 'diagonal') => number | undefined;

function oval(get: Get, rx: number | undefined, ry: number | undefined): Outline {
  const [a, b] = [rx ?? ry ?? 0, ry ?? rx ?? 0];
  return a > 0 && b > 0 ? moved(ovalShape(2 * a, 2 * b), (get('cx', 'x') ?? 0) - a, (get('cy', 'y') ?? 0) - b) : EMPTY_OUTLINE;
}

const PLAIN: Record<string, (get: Get, values: Values) => Outline> = {
  rect: (get) => rect(get),
  circle: (get) => oval(get, get('r', 'diagonal'), undefined),
  ellipse: (get) => oval(get, get('rx', 'x'), get('ry', 'y')),
  line: (get) => ({
    contours: [{ closed: false, spans: [[get('x1', 'x') ?? 0, get('y1', 'y') ?? 0, get('x2', 'x') ?? 0, get('y2', 'y') ?? 0]] }],
  }),
  polyline: (_, values) => polyline(values.get('points') ?? '', false),
  polygon: (_, values) => polyline(values.get('points') ?? '', true),
};

/** @returns the outline, and whether its path data breaks off */
export function shapeOutline(name: string, values: Values, context: LengthContext): { outline: Outline; isBroken: boolean } {
  if (name === 'path') {
    const d = values.get('d') ?? '';
    const { contours, isBroken } = parsePathData(/^path\(\s*["']([\s\S]*)["']\s*\)$/.exec(d)?.[1] ?? d);
    return { outline: { contours }, isBroken };
  }
  const get: Get = (attribute, of) => length(values.get(attribute), context, of);
  return { outline: PLAIN[name]?.(get, values) ?? EMPTY_OUTLINE, isBroken: false };
}
