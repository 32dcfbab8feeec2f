/**
 * Where a graphic is divided: seams along one axis, so that they cross as little artwork as may be. Method: the length of
 * artwork that a straight seam crosses is piecewise linear between the corners of the outlines, so the places worth a
 * look are the corners (both sides of each), what the sizes allow at most, and an even raster between. Over these, dynamic
 * programming (Bellman 1957): the best cost with so many seams up to a place, the sizes of panels a sliding window over
 * the places before (a queue of falling costs). Exact over the places. Units mm.
 */
import type { Polyline } from '../geometry/index.ts';

/** A stretch that is divided by so many seams, and the sizes that panels may have. mm. */
export interface SeamProblem {
  readonly from: number;
  readonly to: number;
  readonly count: number;
  readonly overlapMm: number;
  /** Greatest and least size of a panel, overlap and all. */
  readonly mostMm: number;
  readonly leastMm: number;
}

/** Artwork is crossed from one side of a corner to the other. */
const BESIDE = 0.02;
const RASTER = 4000;
/** A seam away from its even place by the whole length counts as so much crossed artwork, so that panels are alike where it is no matter. */
const EVENNESS = 0.01;
/** Artwork that the edges of a lap cross counts for at most this, half of it from so much on: of seams as good one with a free lap is taken. */
const LAP_MM = 0.02;
const LAP_HALF_MM = 100;

/** @returns how many panels of at most `mostMm` a length needs */
export const panelsNeeded = (lengthMm: number, mostMm: number, overlapMm: number): number =>
  lengthMm <= mostMm + 1e-6 ? 1 : Math.ceil((lengthMm - overlapMm) / (mostMm - overlapMm) - 1e-6);

/** Least and greatest place of seam `k` (from 1), when all others give way. */
function reach({ from, to, count, overlapMm, mostMm, leastMm }: SeamProblem, k: number): [number, number] {
  const [half, after] = [overlapMm / 2, count - k];
  const least = Math.max(from + leastMm - half + (k - 1) * (leastMm - overlapMm), to - mostMm + half - (after - 1) * (mostMm - overlapMm));
  const most = Math.min(from + mostMm - half + (k - 1) * (mostMm - overlapMm), to - leastMm + half - (after - 1) * (leastMm - overlapMm));
  return [least, most];
}

/** Places worth a look within the reach of any seam, rising. */
function placesOf(problem: SeamProblem, outlines: readonly Polyline[][], axis: 0 | 1): Float64Array {
  const windows = Array.from({ length: problem.count - 1 }, (_, i) => reach(problem, i + 1));
  const corners = outlines.flatMap((lines) =>
    lines.flatMap(({ xy }) => Array.from({ length: xy.length / 2 }, (_, i) => xy[2 * i + axis] as number)),
  );
  const step = (problem.to - problem.from) / RASTER;
  const found = windows.flatMap(([least, most]) => {
    const raster = Array.from({ length: Math.max(0, Math.floor((most - least) / step)) }, (_, i) => least + i * step);
    return [least, most, (least + most) / 2, ...raster];
  });
  const lap = problem.overlapMm / 2 + BESIDE;
  for (const corner of corners) found.push(corner - BESIDE, corner + BESIDE, corner - lap, corner + lap);
  const inside = (v: number): boolean => windows.some(([least, most]) => v >= least - 1e-9 && v <= most + 1e-9);
  const sorted = Float64Array.from(found.filter(inside)).sort();
  return sorted.filter((v, i) => i === 0 || v - (sorted[i - 1] as number) > 1e-7);
}

function firstAbove(places: Float64Array, value: number): number {
  let [low, high] = [0, places.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((places[middle] as number) > value) high = middle;
    else low = middle + 1;
  }
  return low;
}

/**
 * Length of artwork under a seam at each place; each outline by the even-odd rule.
 * @param places in order
 * @param axis the coordinate that seams have, 0 x, 1 y
 * @returns mm a place
 */
export function crossedLengths(places: Float64Array, outlines: readonly Polyline[][], axis: 0 | 1): Float64Array {
  const crossed = new Float64Array(places.length);
  for (const lines of outlines) {
    const hits = new Map<number, number[]>();
    for (const { xy } of lines) gatherHits(xy, axis, places, hits);
    for (const [place, list] of hits) {
      list.sort((a, b) => a - b);
      for (let i = 0; i + 1 < list.length; i += 2)
        crossed[place] = (crossed[place] as number) + (list[i + 1] as number) - (list[i] as number);
    }
  }
  return crossed;
}

function gatherHits(xy: Float64Array, axis: 0 | 1, places: Float64Array, hits: Map<number, number[]>): void {
  const n = xy.length / 2;
  for (let i = 0, j = n - 1; i < n; j = i++) {
    const [a, b] = [xy[2 * j + axis] as number, xy[2 * i + axis] as number];
    const [p, q] = [xy[2 * j + 1 - axis] as number, xy[2 * i + 1 - axis] as number];
    const [low, high] = a < b ? [a, b] : [b, a];
    for (let k = firstAbove(places, low); k < places.length && (places[k] as number) <= high; k++) {
      const at = p + (((places[k] as number) - a) / (b - a)) * (q - p);
      const list = hits.get(k);
      if (list) list.push(at);
      else hits.set(k, [at]);
    }
  }
}

/** Seams along one axis, and how much artwork they cross. */
export interface Seams {
  readonly places: number[];
  /** Length of artwork that they cross, mm. */
  readonly crossedMm: number;
}

/** The cheapest place for the seam before, of those that leave a panel of a size that may be; asked for places in their order. */
class CheapestBefore {
  /** Places that may be it, ever dearer ones. */
  private readonly queue: number[] = [];
  private head = 0;
  private entering = 0;

  constructor(
    private readonly places: Float64Array,
    private readonly costs: Float64Array,
    private readonly problem: Pick<SeamProblem, 'overlapMm' | 'mostMm' | 'leastMm'>,
  ) {}

  of(i: number): number | undefined {
    const { places, costs, queue } = this;
    const { overlapMm, mostMm, leastMm } = this.problem;
    const at = places[i] as number;
    for (; this.entering < i && at - (places[this.entering] as number) >= leastMm - overlapMm - 1e-7; this.entering++) {
      while (queue.length > this.head && (costs[queue.at(-1) as number] as number) >= (costs[this.entering] as number)) queue.pop();
      queue.push(this.entering);
    }
    while (this.head < queue.length && at - (places[queue[this.head] as number] as number) > mostMm - overlapMm + 1e-7) this.head++;
    return queue[this.head];
  }
}

/**
 * @param outlines flattened, one list of rings an outline
 * @param axis the coordinate that seams have, 0 x, 1 y
 * @returns the seams that cross least; undefined when no panels of these sizes fit
 */
export function findSeams(problem: SeamProblem, outlines: readonly Polyline[][], axis: 0 | 1): Seams | undefined {
  const { from, to, count } = problem;
  if (count === 1) return { places: [], crossedMm: 0 };
  const places = placesOf(problem, outlines, axis);
  const crossed = crossedLengths(places, outlines, axis);
  const half = problem.overlapMm / 2;
  const edges = [-half, half].map((by) =>
    crossedLengths(
      places.map((at) => at + by),
      outlines,
      axis,
    ),
  );
  const costOf = (k: number, place: number): number => {
    const even = from + ((to - from) * k) / count;
    const atEdges = edges.reduce((sum, lengths) => sum + (lengths[place] as number), 0);
    return (
      (crossed[place] as number) +
      (LAP_MM * atEdges) / (atEdges + LAP_HALF_MM) +
      (EVENNESS * Math.abs((places[place] as number) - even)) / (to - from)
    );
  };
  let costs: Float64Array = Float64Array.from(places, () => Infinity);
  const cameFrom: Int32Array[] = [];
  for (let k = 1; k < count; k++) {
    const [least, most] = reach(problem, k);
    const before = k === 1 ? undefined : new CheapestBefore(places, costs, problem);
    const next = Float64Array.from(places, () => Infinity);
    const came = new Int32Array(places.length).fill(-1);
    for (let i = 0; i < places.length; i++) {
      const at = places[i] as number;
      const previous = before ? before.of(i) : -1;
      if (previous === undefined || at < least - 1e-7 || at > most + 1e-7) continue;
      next[i] = costOf(k, i) + (before ? (costs[previous] as number) : 0);
      came[i] = previous;
    }
    costs = next;
    cameFrom.push(came);
  }
  let best = costs.reduce((b, cost, i) => (cost < (costs[b] ?? Infinity) ? i : b), 0);
  if (!Number.isFinite(costs[best] ?? Infinity)) return undefined;
  const chosen: number[] = [];
  for (let k = count - 2; k >= 0; k--) {
    chosen.unshift(best);
    best = (cameFrom[k] as Int32Array)[best] as number;
  }
  return { places: chosen.map((i) => places[i] as number), crossedMm: chosen.reduce((sum, i) => sum + (crossed[i] as number), 0) };
}
