/**
 * A short way through many pieces of work, each entered at one end and left at the other.
 *
 * Method: 2-opt and sequential 3-opt moves among near neighbours (S. Lin, Computer solutions of the traveling salesman
 * problem, 1965; D. Johnson, L. McGeoch, The traveling salesman problem: a case study, 1997), from a queue of what may
 * still be improved (J. Bentley, Fast algorithms for geometric traveling salesman problems, 1992); then kicks: two
 * neighbouring stretches of the way change places, what is about them is improved again, and what is longer is taken back
 * (O. Martin, S. Otto, E. Felten, Large-step Markov chains for the TSP, 1991; kicks within a stretch: D. Applegate,
 * W. Cook, A. Rohe, Chained Lin-Kernighan for large problems, 2003). A piece that comes back to where it was begun, and may
 * be begun at several places, is begun at the best of them whenever what is about it has changed, and is taken elsewhere
 * with all of them in view. Pieces may have to come before others: moves against that are not made.
 * The way is open: from a given place or any, to a given one or any. Seeded; for a given number of kicks the same every time.
 */
import type { Box, Point } from '../types/index.ts';
import { randomFrom } from '../search/random.ts';
import { Round, type RoundOptions, type Stop, type VisitedStop } from './round.ts';
import Flatbush from 'flatbush';

export type { Stop, VisitedStop } from './round.ts';

export interface TourOptions extends RoundOptions {
  readonly seed?: number;
  /** `near` of a tour of the same stops. */
  readonly near?: Int32Array | undefined;
}

/** Stops that are looked at about each. */
export const NEIGHBOURS = 10;
const KICK = 50;
const LEAST_GAIN = 1e-9;

const pointBox = ({ x, y }: Point): Box => ({ minX: x, minY: y, maxX: x, maxY: y });

function boxOf(places: Float64Array): Box {
  let [minX, minY, maxX, maxY] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let p = 0; p < places.length; p += 2) {
    [minX, maxX] = [Math.min(minX, places[p] as number), Math.max(maxX, places[p] as number)];
    [minY, maxY] = [Math.min(minY, places[p + 1] as number), Math.max(maxY, places[p + 1] as number)];
  }
  return { minX, minY, maxX, maxY };
}

/** Stops near each, so many a stop, -1 for none. What may be begun at several places is near by all of them. */
function nearStops(stops: readonly Stop[]): Int32Array {
  const near = new Int32Array(stops.length * NEIGHBOURS).fill(-1);
  if (stops.length < 2) return near;
  const boxes = stops.map(({ places }) => places && boxOf(places));
  const tree = new Flatbush(2 * stops.length);
  stops.forEach(({ enter, leave }, i) => {
    for (const end of [enter, leave]) {
      const { minX, minY, maxX, maxY } = boxes[i] ?? pointBox(end);
      tree.add(minX, minY, maxX, maxY);
    }
  });
  tree.finish();
  stops.forEach(({ enter, leave }, i) => {
    const found = new Set<number>();
    const box = boxes[i];
    const middle = box && { x: (box.minX + box.maxX) / 2, y: (box.minY + box.maxY) / 2 };
    for (const end of [enter, leave]) {
      const { x, y } = middle ?? end;
      for (const hit of tree.neighbors(x, y, 2 * NEIGHBOURS + 2)) {
        const j = hit >> 1;
        if (j !== i && found.size < (end === enter && !middle ? NEIGHBOURS / 2 : NEIGHBOURS)) found.add(j);
      }
    }
    [...found].slice(0, NEIGHBOURS).forEach((j, k) => (near[i * NEIGHBOURS + k] = j));
  });
  return near;
}

/** The stops nearest to where the way begins or ends. */
function nearestTo(place: Point | undefined, stops: readonly Stop[]): number[] {
  if (!place) return [];
  const away = ({ x, y }: Point): number => Math.hypot(x - place.x, y - place.y);
  const found: { stop: number; mm: number }[] = [];
  stops.forEach(({ enter, leave }, stop) => {
    const mm = Math.min(away(enter), away(leave));
    if (found.length === NEIGHBOURS / 2 && mm >= (found.at(-1)?.mm ?? 0)) return;
    found.push({ stop, mm });
    found.sort((a, b) => a.mm - b.mm);
    found.length = Math.min(found.length, NEIGHBOURS / 2);
  });
  return found.map(({ stop }) => stop);
}

/** x, y and radius of a circle about the places of each stop. */
function circlesAbout(stops: readonly Stop[]): Float64Array {
  const circles = new Float64Array(3 * stops.length);
  stops.forEach(({ places }, stop) => {
    if (!places) return;
    const { minX, minY, maxX, maxY } = boxOf(places);
    circles.set([(minX + maxX) / 2, (minY + maxY) / 2, Math.hypot(maxX - minX, maxY - minY) / 2], 3 * stop);
  });
  return circles;
}

/** A way through stops that is made shorter. The order that it is given is where it begins. */
export class Tour {
  /** Stops near each, so many a stop, -1 for none. */
  readonly near: Int32Array;
  private readonly round: Round;
  /** Stops near where the way begins and ends. */
  private readonly nearClosing: Int32Array;
  private readonly circles: Float64Array;
  private readonly queued: Uint8Array;
  private queue: number[] = [];
  /** The ends of what is cut, see `Round.joinThree`. */
  private readonly cut = new Int32Array(6);
  private readonly random: () => number;

  constructor(stops: readonly Stop[], { seed = 1, near, ...options }: TourOptions = {}) {
    this.round = new Round(stops, options);
    this.near = near ?? nearStops(stops);
    this.nearClosing = Int32Array.from([...nearestTo(options.to, stops), ...nearestTo(options.from, stops)]);
    this.circles = circlesAbout(stops);
    this.queued = new Uint8Array(this.round.count);
    this.random = randomFrom(seed);
  }

  private touch(end: number): void {
    const stop = end >> 1;
    if (this.queued[stop] === 1) return;
    this.queued[stop] = 1;
    this.queue.push(stop);
  }

  private touchCut(ends: number): void {
    for (let k = 0; k < ends; k++) this.touch(this.cut[k] as number);
  }

  /** @returns what the first move about a stop that helps gains */
  private improve(stop: number): number {
    return this.tryBegin(stop) || this.tryFlip(stop) || this.tryFrom(2 * stop) || this.tryFrom(2 * stop + 1) || this.tryElsewhere(stop);
  }

  /** The best of a stop's places between two ends. @returns -1 when none takes less than `most` */
  private placeBetween(stop: number, before: number, after: number, most: number): number {
    const { round } = this;
    const places = round.places[stop] as Float64Array;
    let [best, least] = [-1, most];
    for (let p = 0; p < places.length; p += 2) {
      const [x, y] = [places[p] as number, places[p + 1] as number];
      const way = round.gapTo(before, x, y) + round.gapTo(after, x, y);
      if (way < least) [least, best] = [way, p / 2];
    }
    return best;
  }

  /** The way between two ends by one of a stop's places. */
  private wayBy(stop: number, place: number, before: number, after: number): number {
    const places = this.round.places[stop] as Float64Array;
    const [x, y] = [places[2 * place] as number, places[2 * place + 1] as number];
    return this.round.gapTo(before, x, y) + this.round.gapTo(after, x, y);
  }

  /** Begins a stop at the place that lies best between what comes before and after it. */
  private tryBegin(stop: number): number {
    const { round } = this;
    if (!round.places[stop]) return 0;
    const k = round.positionOf(stop);
    const [before, after] = [round.tail(k - 1), round.head(k + 1)];
    const now = round.gap(before, round.head(k)) + round.gap(round.tail(k), after);
    const best = this.placeBetween(stop, before, after, now - LEAST_GAIN);
    if (best < 0) return 0;
    round.begin(stop, best);
    this.touch(before);
    this.touch(2 * stop);
    this.touch(after);
    return now - this.wayBy(stop, best, before, after);
  }

  /** Runs a stop the other way. */
  private tryFlip(stop: number): number {
    const { round } = this;
    const k = round.positionOf(stop);
    const [before, after, head, tail] = [round.tail(k - 1), round.head(k + 1), round.head(k), round.tail(k)];
    const gain = round.gap(before, head) + round.gap(tail, after) - round.gap(before, tail) - round.gap(head, after);
    if (gain <= LEAST_GAIN || !round.flip(k)) return 0;
    this.touch(before);
    this.touch(head);
    this.touch(after);
    return gain;
  }

  /** Takes a stop that may be begun at several places out of the way, and in again next to one near it, begun where that is best. */
  private tryElsewhere(stop: number): number {
    const { round, cut } = this;
    if (!round.places[stop]) return 0;
    const k = round.positionOf(stop);
    const [head, tail, before, after] = [round.head(k), round.tail(k), round.tail(k - 1), round.head(k + 1)];
    const freed = round.gap(before, head) + round.gap(tail, after) - round.gap(before, after);
    if (freed <= LEAST_GAIN) return 0;
    for (let m = stop * NEIGHBOURS; m < (stop + 1) * NEIGHBOURS; m++) {
      const other = this.near[m] as number;
      if (other < 0) break;
      for (let end = 2 * other; end < 2 * other + 2; end++) {
        const mate = round.mate(end);
        if (mate >> 1 === stop) continue;
        const most = freed + round.gap(end, mate) - LEAST_GAIN;
        if (this.leastBy(stop, end, mate) >= most) continue;
        const best = this.placeBetween(stop, end, mate, most);
        if (best < 0) continue;
        [cut[0], cut[1], cut[2], cut[3], cut[4], cut[5]] = [head, before, after, tail, end, mate];
        if (!round.joinThree(cut)) continue;
        round.begin(stop, best);
        this.touchCut(6);
        return most + LEAST_GAIN - this.wayBy(stop, best, end, mate);
      }
    }
    return 0;
  }

  /** What the way between two ends by a stop takes at least: no place is nearer than the circle about all of them. */
  private leastBy(stop: number, before: number, after: number): number {
    const { circles, round } = this;
    const [x, y, radius] = [circles[3 * stop] as number, circles[3 * stop + 1] as number, circles[3 * stop + 2] as number];
    return Math.max(0, round.gapTo(before, x, y) - radius) + Math.max(0, round.gapTo(after, x, y) - radius);
  }

  /** Cuts the way at an end, and one or two more, and joins them anew, when that is shorter. */
  private tryFrom(t1: number): number {
    const { round, cut } = this;
    const t2 = round.mate(t1);
    const freed = round.gap(t1, t2);
    if (freed <= LEAST_GAIN) return 0;
    cut[0] = t1;
    cut[1] = t2;
    const stop = t2 >> 1;
    const near = stop === round.closing ? this.nearClosing : this.near;
    const first = stop === round.closing ? 0 : stop * NEIGHBOURS;
    for (let m = first; m < Math.min(first + NEIGHBOURS, near.length); m++) {
      const other = near[m] as number;
      if (other < 0) break;
      for (let t3 = 2 * other; t3 < 2 * other + 2; t3++) {
        const left = freed - round.gap(t2, t3);
        if (left <= LEAST_GAIN || t3 === t1) continue;
        const t4 = round.mate(t3);
        if (t4 === t2) continue;
        cut[2] = t3;
        cut[3] = t4;
        const open = left + round.gap(t3, t4);
        const gain = this.tryTwo(open) || this.tryThree(open);
        if (gain > 0) return gain;
      }
    }
    return 0;
  }

  /** Two ways are cut: what lies between them is reversed. @param open what cutting both and joining them once leaves */
  private tryTwo(open: number): number {
    const { round } = this;
    const [t1, t2, t3, t4] = [this.cut[0] as number, this.cut[1] as number, this.cut[2] as number, this.cut[3] as number];
    const isHead = round.isHead(t2);
    if (isHead !== round.isHead(t3)) return 0;
    const gain = open - round.gap(t4, t1);
    if (gain <= LEAST_GAIN) return 0;
    const [i, j] = isHead ? [t2, t4] : [t1, t3];
    if (!round.reverseShorter(round.positionOf(i >> 1), round.positionOf(j >> 1))) return 0;
    this.touchCut(4);
    return gain;
  }

  /** A third way is cut near where the second was. */
  private tryThree(open: number): number {
    const { round, cut } = this;
    const [t1, t2, t3, t4] = [cut[0] as number, cut[1] as number, cut[2] as number, cut[3] as number];
    const stop = t4 >> 1;
    const near = stop === round.closing ? this.nearClosing : this.near;
    const first = stop === round.closing ? 0 : stop * NEIGHBOURS;
    for (let m = first; m < Math.min(first + NEIGHBOURS, near.length); m++) {
      const other = near[m] as number;
      if (other < 0) break;
      for (let t5 = 2 * other; t5 < 2 * other + 2; t5++) {
        const left = open - round.gap(t4, t5);
        if (left <= LEAST_GAIN || t5 === t1 || t5 === t2 || t5 === t3) continue;
        const t6 = round.mate(t5);
        const gain = left + round.gap(t5, t6) - round.gap(t6, t1);
        if (gain <= LEAST_GAIN) continue;
        cut[4] = t5;
        cut[5] = t6;
        if (!round.joinThree(cut)) continue;
        this.touchCut(6);
        return gain;
      }
    }
    return 0;
  }

  private settle(isOver: () => boolean = () => false): number {
    let gain = 0;
    for (let k = 0; k < this.queue.length; k++) {
      if ((k & 63) === 63 && isOver()) {
        for (const stop of this.queue) this.queued[stop] = 0;
        break;
      }
      const stop = this.queue[k] as number;
      this.queued[stop] = 0;
      for (let found = this.improve(stop); found > 0; found = this.improve(stop)) gain += found;
      if (k > 4096) {
        this.queue = this.queue.slice(k + 1);
        k = -1;
      }
    }
    this.queue = [];
    return gain;
  }

  /** Two neighbouring stretches change places; what is no shorter then is taken back. */
  private kick(): void {
    const { round } = this;
    const reach = Math.min(KICK, Math.floor((round.count - 1) / 2));
    const [first, second] = [1 + Math.floor(this.random() * reach), 1 + Math.floor(this.random() * reach)];
    const low = Math.floor(this.random() * round.count);
    const [middle, high] = [round.on(low, first), round.on(low, first + second - 1)];
    const [before, a0, a1] = [round.tail(low - 1), round.head(low), round.tail(middle - 1)];
    const [b0, b1, after] = [round.head(middle), round.tail(high), round.head(high + 1)];
    let gain = round.gap(before, a0) + round.gap(a1, b0) + round.gap(b1, after);
    gain -= round.gap(before, b0) + round.gap(b1, a0) + round.gap(a1, after);
    if (!round.swap(low, first, second)) return;
    for (const end of [before, a0, a1, b0, b1, after]) this.touch(end);
    gain += this.settle();
    if (gain >= -1e-12) round.keep();
    else round.takeBack();
  }

  /** Improves the way as it stands. @param isOver asked now and then: what is found by then stays */
  descend(isOver?: () => boolean): void {
    for (let stop = 0; stop < this.round.count; stop++) this.touch(2 * stop);
    this.settle(isOver);
    this.round.keep();
  }

  /** Kicks until it is enough. @param isOver asked before each some of them */
  search(isOver: (kicks: number) => boolean): void {
    if (this.round.count < 4) return;
    for (let kicks = 0; !isOver(kicks); kicks++) this.kick();
  }

  /** Stops in the order of the way, which of them are run backwards, and at which of its places each is begun (-1: as it came). */
  result(): VisitedStop[] {
    return this.round.visited();
  }
}
