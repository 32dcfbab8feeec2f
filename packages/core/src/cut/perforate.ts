/**
 * A line as perforation: cuts with bridges between them. Bridges are of equal length, none at a corner or at the start:
 * each stretch between corners begins and ends with a cut, so the corners are cut through. Cuts come as near to the
 * wanted length as the stretch allows. Curves are walked as chords within 5 µm. Units mm.
 */
import type { Contour, Outline, Span } from '../types/index.ts';
import { flattenContour } from '../geometry/flatten.ts';
import { at } from '../geometry/span.ts';

/** Lengths of cuts and bridges, mm. */
export interface Perforation {
  readonly cutMm: number;
  readonly bridgeMm: number;
  /** Each line has so many bridges at least: cuts become shorter until it does, or as short as the bridges are. */
  readonly leastBridges?: number;
}

/** By which cuts become shorter at a time. */
const SHORTER = 0.85;
const CORNER = Math.cos((30 * Math.PI) / 180);
const CHORD_MM = 0.005;

/** Indices of the points at which the line turns sharply. */
function cornersOf(xy: Float64Array, closed: boolean): number[] {
  const n = xy.length / 2;
  const out: number[] = [];
  for (let i = closed ? 0 : 1; i < (closed ? n : n - 1); i++) {
    const [p, q] = [(i - 1 + n) % n, (i + 1) % n];
    const [ax, ay] = [at(xy, 2 * i) - at(xy, 2 * p), at(xy, 2 * i + 1) - at(xy, 2 * p + 1)];
    const [bx, by] = [at(xy, 2 * q) - at(xy, 2 * i), at(xy, 2 * q + 1) - at(xy, 2 * i + 1)];
    const lengths = Math.hypot(ax, ay) * Math.hypot(bx, by);
    if (lengths > 0 && (ax * bx + ay * by) / lengths < CORNER) out.push(i);
  }
  return out;
}

/** Points of the line from one index to another, going on past the end of a closed one. */
function stretch(xy: Float64Array, from: number, count: number): [number, number][] {
  const n = xy.length / 2;
  return Array.from({ length: count + 1 }, (_, k) => [at(xy, 2 * ((from + k) % n)), at(xy, 2 * ((from + k) % n) + 1)]);
}

/** Parts of a polyline between lengths along it, as open contours. */
function partsOf(points: readonly [number, number][], from: readonly number[], to: readonly number[]): Contour[] {
  const out: Contour[] = from.map(() => ({ closed: false, spans: [] as Span[] }));
  let [walked, part] = [0, 0];
  for (let i = 1; i < points.length; i++) {
    const [[ax, ay], [bx, by]] = [points[i - 1] as [number, number], points[i] as [number, number]];
    const length = Math.hypot(bx - ax, by - ay);
    for (let k = part; k < from.length && (from[k] as number) < walked + length; k++) {
      const s0 = Math.max(0, (from[k] as number) - walked) / length;
      const s1 = Math.min(length, (to[k] as number) - walked) / length;
      if (s1 > s0) (out[k]?.spans as Span[]).push([ax + (bx - ax) * s0, ay + (by - ay) * s0, ax + (bx - ax) * s1, ay + (by - ay) * s1]);
      if ((to[k] as number) <= walked + length) part = k + 1;
    }
    walked += length;
  }
  return out.filter(({ spans }) => spans.length > 0);
}

function perforateStretch(points: readonly [number, number][], { cutMm, bridgeMm }: Perforation): Contour[] {
  const total = points.slice(1).reduce((sum, [x, y], i) => {
    const [px, py] = points[i] as [number, number];
    return sum + Math.hypot(x - px, y - py);
  }, 0);
  const bridges = Math.max(0, Math.round((total - cutMm) / (cutMm + bridgeMm)));
  const cut = (total - bridges * bridgeMm) / (bridges + 1);
  // a stretch too short for a bridge is cut whole
  const count = cut > 0 ? bridges + 1 : 1;
  const own = cut > 0 ? cut : total;
  const from = Array.from({ length: count }, (_, k) => k * (own + bridgeMm));
  return partsOf(
    points,
    from,
    from.map((f) => f + own),
  );
}

/** @returns open contours, the cuts. @complexity O(points) */
export function perforate({ contours }: Outline, perforation: Perforation): Outline {
  return {
    contours: contours.flatMap((contour) => {
      const { xy } = flattenContour(contour, CHORD_MM);
      const n = xy.length / 2;
      if (n < 2) return [];
      const corners = cornersOf(xy, contour.closed);
      const [first, last] = contour.closed ? [corners[0] ?? 0, (corners[0] ?? 0) + n] : [0, n - 1];
      const ends = [...(contour.closed ? corners.slice(1) : corners), last];
      const stretches = ends.map((end, k) => {
        const from = k === 0 ? first : (ends[k - 1] as number);
        return stretch(xy, from, end - from);
      });
      const cutsOf = (cutMm: number): Contour[] => stretches.flatMap((points) => perforateStretch(points, { ...perforation, cutMm }));
      let { cutMm } = perforation;
      let cuts = cutsOf(cutMm);
      // between the cuts of each stretch there is one bridge fewer than cuts
      while (cuts.length - stretches.length < (perforation.leastBridges ?? 0) && cutMm * SHORTER >= perforation.bridgeMm)
        cuts = cutsOf((cutMm *= SHORTER));
      return cuts;
    }),
  };
}
