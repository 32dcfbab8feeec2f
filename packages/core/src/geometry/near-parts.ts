/** The parts of lines that run near to the boundary of an outline, found by samples along them. */
import type { Contour, Outline, Point } from '../types/index.ts';
import { nearest, segmentsOf, type Segments } from './distance.ts';
import { flatten, flattenContour } from './flatten.ts';
import { polygon } from './outline.ts';
import { at } from './span.ts';

/** Parts of lines that lie near others, and a point here and there on them. */
export interface NearParts {
  /** The parts as open lines of straight spans; a contour that is near all round is given back as it came. */
  readonly parts: Outline;
  /** The greatest distance that was met on them, mm, at most the one asked for. */
  readonly reachMm: number;
  /** A point here and there on them. */
  readonly samples: readonly Point[];
}

const FLAT_MM = 0.02;

/** Corners of a flattened contour with points between them, none farther apart than a step. */
function sampled(contour: Contour, stepMm: number): { point: Point; corner: boolean }[] {
  const { closed, xy } = flattenContour(contour, FLAT_MM);
  const n = xy.length / 2;
  const out: { point: Point; corner: boolean }[] = [];
  for (let i = 0; i < n; i++) {
    const [x, y] = [at(xy, 2 * i), at(xy, 2 * i + 1)];
    out.push({ point: { x, y }, corner: true });
    if (i === n - 1 && !closed) break;
    const [dx, dy] = [at(xy, 2 * ((i + 1) % n)) - x, at(xy, 2 * ((i + 1) % n) + 1) - y];
    const parts = Math.ceil(Math.hypot(dx, dy) / stepMm);
    for (let k = 1; k < parts; k++) out.push({ point: { x: x + (dx * k) / parts, y: y + (dy * k) / parts }, corner: false });
  }
  return out;
}

/** Runs of true in a list that may go round, as indices in order. */
function runsOf(flags: readonly boolean[], isRound: boolean): number[][] {
  const n = flags.length;
  const first = isRound ? flags.indexOf(false) : 0;
  const runs: number[][] = [];
  let run: number[] = [];
  for (let k = 0; k < n; k++) {
    const i = (first + k) % n;
    if (flags[i]) run.push(i);
    if ((!flags[i] || k === n - 1) && run.length > 0) {
      runs.push(run);
      run = [];
    }
  }
  return runs;
}

/**
 * The parts of lines that run within a distance of an outline's boundary, their ends to within a step.
 * @complexity O(samples · log n)
 * @param lines what is looked at, open or closed
 * @param to the outline whose boundary is meant
 * @param withinMm the distance, mm
 * @param stepMm from sample to sample along the lines, mm
 */
export function nearParts(lines: Outline, to: Outline, withinMm: number, stepMm: number): NearParts {
  const segments = segmentsOf(flatten(to, FLAT_MM));
  const contours: Contour[] = [];
  const samples: Point[] = [];
  let reachMm = 0;
  for (const contour of segments ? lines.contours : []) {
    const points = sampled(contour, stepMm);
    const distances = points.map(({ point }) => nearest(segments as Segments, point.x, point.y));
    const flags = distances.map((mm) => mm < withinMm);
    points.forEach(({ point }, i) => {
      if (!flags[i]) return;
      reachMm = Math.max(reachMm, at(distances, i));
      samples.push(point);
    });
    if (flags.every(Boolean)) contours.push(contour);
    else
      for (const run of runsOf(flags, contour.closed)) {
        const kept = run.map((i) => points[i]).filter((one, k) => one && (one.corner || k === 0 || k === run.length - 1));
        const xy = kept.flatMap((one) => (one ? [one.point.x, one.point.y] : []));
        if (kept.length > 1) contours.push({ closed: false, spans: polygon(xy).spans.slice(0, -1) });
      }
  }
  return { parts: { contours }, reachMm, samples };
}
