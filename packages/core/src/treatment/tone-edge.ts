/**
 * The region on one side of a two-tone edge: straight, a wave, or a drawn line, across a box. The wave is a sine,
 * each quarter of it one cubic whose ends have the sine's place and slope (greatest error 0.4 % of the amplitude).
 * Units mm; the edge runs through the middle of the box, turned and shifted; the region lies on its left.
 */
import type { Box, Outline, Span } from '../types/index.ts';
import { at, endX, endY, startX, startY } from '../geometry/span.ts';
import { InputError, LimitError } from '../errors/index.ts';
import { compose, mapOutline, rotation, translation } from '../geometry/transform.ts';
import { bounds } from '../geometry/outline.ts';
import { weld } from '../geometry/weld/weld.ts';

/** The edge between the two films. */
export interface ToneEdge {
  readonly edge: 'straight' | 'wave' | 'drawn';
  /** Direction in which the edge runs; at 0 the upper part takes the other film. */
  readonly angleDeg: number;
  /** Shift of the edge to its left, from the middle of the box. */
  readonly shiftMm: number;
  readonly amplitudeMm: number;
  readonly waveMm: number;
  /** Where the wave begins, as a share of its length in percent. */
  readonly phasePct: number;
  /** Of a drawn edge: an open line or a closed shape, in the item's own space. */
  readonly path?: Outline | undefined;
}

const MOST_WAVES = 2000;

/** A run of sine quarters from x0 on, y about zero. */
function waveSpans(from: number, to: number, edge: ToneEdge): Span[] {
  const quarter = edge.waveMm / 4;
  if (!(edge.waveMm > 0)) throw new InputError('treatment', 'A wave needs a length above zero.', { field: 'waveMm' });
  if ((to - from) / edge.waveMm > MOST_WAVES) throw new LimitError('treatment', 'The waves are too short for this shape.');
  const start = Math.floor(from / edge.waveMm - 1) * edge.waveMm - (edge.phasePct / 100) * edge.waveMm;
  const a = edge.amplitudeMm;
  const level = [0, a, 0, -a];
  // handles: at the crest level, at the zero along the sine's slope; 0.3642 of the quarter fits the sine best at both
  const slope = [(a * Math.PI) / 2, 0, (-a * Math.PI) / 2, 0];
  const k = 0.3642;
  const out: Span[] = [];
  for (let i = 0; start + i * quarter < to + edge.waveMm; i++) {
    const x = start + i * quarter;
    const [y0, y1] = [at(level, i % 4), at(level, (i + 1) % 4)];
    const [s0, s1] = [at(slope, i % 4), at(slope, (i + 1) % 4)];
    out.push([x, y0, x + k * quarter, y0 + k * s0, x + (1 - k) * quarter, y1 - k * s1, x + quarter, y1]);
  }
  return out;
}

const line = (...xy: number[]): Span => xy;

/** Everything to the left of a chain of spans, down to `far` from it, as a closed contour. */
function leftOf(spans: readonly Span[], far: number): Outline {
  const [first, last] = [spans[0] as Span, spans.at(-1) as Span];
  const [ax, ay, bx, by] = [startX(first), startY(first), endX(last), endY(last)];
  const length = Math.hypot(bx - ax, by - ay) || 1;
  const [dx, dy] = [(bx - ax) / length, (by - ay) / length];
  const [nx, ny] = [-dy * far, dx * far];
  const [px, py] = [ax - dx * far, ay - dy * far];
  const [qx, qy] = [bx + dx * far, by + dy * far];
  return {
    contours: [
      {
        closed: true,
        spans: [
          line(px, py, ax, ay),
          ...spans,
          line(bx, by, qx, qy),
          line(qx, qy, qx + nx, qy + ny),
          line(qx + nx, qy + ny, px + nx, py + ny),
          line(px + nx, py + ny, px, py),
        ],
      },
    ],
  };
}

/**
 * @throws InputError `input.treatment` for a wave without length or a drawn edge without a line
 * @param box of what is toned, mm
 * @returns the ground on which the tone is shown
 */
export function edgeRegion(box: Box, edge: ToneEdge): Outline {
  const size = Math.hypot(box.maxX - box.minX, box.maxY - box.minY) + Math.abs(edge.shiftMm) + Math.abs(edge.amplitudeMm) + 1;
  if (edge.edge === 'drawn') {
    const contour = edge.path?.contours.find((c) => c.spans.length > 0);
    if (!edge.path || !contour)
      throw new InputError('treatment', 'Draw the edge first: a line or a shape across the letters.', { field: 'path' });
    if (contour.closed) return weld([edge.path]);
    const own = bounds(edge.path);
    return weld([leftOf(contour.spans, size + Math.hypot(own.maxX - own.minX, own.maxY - own.minY))]);
  }
  const spans = edge.edge === 'straight' ? [line(-size, 0, size, 0)] : waveSpans(-size, size, edge);
  const place = compose(
    translation((box.minX + box.maxX) / 2, (box.minY + box.maxY) / 2),
    compose(rotation(edge.angleDeg), translation(0, edge.shiftMm)),
  );
  return mapOutline(place, leftOf(spans, 2 * size));
}
