/**
 * Centre lines of a line drawing, for pens and engraving: what is dark is thinned to lines one pixel wide, the lines
 * become a graph of ends and junctions, its edges curves. Sources: Z. Guo, R. Hall, Parallel thinning with two-subiteration
 * algorithms, CACM 32, 1989 (their first one: slanting lines that are two pixels wide stay, which others take off whole);
 * curves as in `geometry/edit/fit-points.ts`. Units pixels, y down.
 * Limits: ends are short or long by up to half a line's width; where wide lines cross, the junction may lie beside the crossing.
 */
import type { Contour, Outline } from '../types/index.ts';
import { fitPoints } from '../geometry/edit/fit-points.ts';
import type { Plane } from './pixels.ts';

const NEIGHBOURS = [
  [0, -1],
  [1, -1],
  [1, 0],
  [1, 1],
  [0, 1],
  [-1, 1],
  [-1, 0],
  [-1, -1],
] as const;

/** A mask with a border of one pixel, so that every pixel has eight neighbours. */
interface Mask {
  readonly width: number;
  readonly on: Uint8Array;
  readonly around: readonly number[];
}

function maskOf({ width, height, rgb }: Plane): Mask {
  const w = width + 2;
  const on = new Uint8Array(w * (height + 2));
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) if ((rgb[3 * (y * width + x)] as number) < 127.5) on[(y + 1) * w + x + 1] = 1;
  return { width: w, on, around: NEIGHBOURS.map(([dx, dy]) => dy * w + dx) };
}

/** May the pixel be taken off in this half of a round without breaking a line or shortening its end? @param n of its neighbours, from above clockwise */
function canGo(n: readonly number[], half: 0 | 1): boolean {
  const at = (k: number): number => n[k % 8] as number;
  let [parts, first, second] = [0, 0, 0];
  for (let k = 0; k < 8; k += 2) {
    if (at(k) === 0 && (at(k + 1) | at(k + 2)) === 1) parts++;
    first += at(k + 7) | at(k);
    second += at(k) | at(k + 1);
  }
  const count = Math.min(first, second);
  if (parts !== 1 || count < 2 || count > 3) return false;
  return half === 0 ? ((at(4) | at(5) | (1 - at(7))) & at(6)) === 0 : ((at(0) | at(1) | (1 - at(3))) & at(2)) === 0;
}

function thin({ on, around }: Mask): void {
  let live = [...on.keys()].filter((i) => on[i]);
  for (let changed = true; changed;) {
    changed = false;
    for (const half of [0, 1] as const) {
      const gone = live.filter((i) =>
        canGo(
          around.map((d) => on[i + d] as number),
          half,
        ),
      );
      for (const i of gone) on[i] = 0;
      if (gone.length > 0) {
        changed = true;
        live = live.filter((i) => on[i]);
      }
    }
  }
}

/** Neighbours on the line; a diagonal one only where no straight one leads there. */
function nextOf({ on, around }: Mask, i: number): number[] {
  const straight = [0, 2, 4, 6].filter((k) => on[i + (around[k] as number)]);
  const slanted = [1, 3, 5, 7].filter(
    (k) => on[i + (around[k] as number)] && !on[i + (around[k - 1] as number)] && !on[i + (around[(k + 1) % 8] as number)],
  );
  return [...straight, ...slanted].map((k) => i + (around[k] as number));
}

interface Chain {
  readonly pixels: readonly number[];
  readonly closed: boolean;
}

/** Lines between ends and junctions, and closed lines without either. */
function chainsOf(mask: Mask): Chain[] {
  const { on } = mask;
  const pixels = [...on.keys()].filter((i) => on[i]);
  const next = new Map(pixels.map((i) => [i, nextOf(mask, i)]));
  const isNode = (i: number): boolean => (next.get(i)?.length ?? 0) !== 2;
  const used = new Set<string>();
  const key = (a: number, b: number): string => (a < b ? `${a} ${b}` : `${b} ${a}`);
  const chains: Chain[] = [];
  const follow = (from: number, to: number): Chain => {
    const line = [from, to];
    used.add(key(from, to));
    for (;;) {
      const [last, before] = [line.at(-1) as number, line.at(-2) as number];
      if (isNode(last) || last === from) break;
      const on2 = next.get(last)?.find((i) => i !== before);
      if (on2 === undefined || used.has(key(last, on2))) break;
      used.add(key(last, on2));
      line.push(on2);
    }
    return { pixels: line, closed: line.length > 2 && line.at(-1) === line[0] };
  };
  for (const start of pixels.filter(isNode))
    for (const to of next.get(start) ?? []) if (!used.has(key(start, to))) chains.push(follow(start, to));
  for (const start of pixels)
    for (const to of next.get(start) ?? []) if (!isNode(start) && !used.has(key(start, to))) chains.push(follow(start, to));
  return chains;
}

/** Side lines shorter than this share of the lines' usual width are frayed edges. */
const SPUR_SHARE = 1.1;

/** Without the short side lines that a frayed edge leaves; ends of lines stay. */
function pruned(chains: readonly Chain[], lineWidth: number): Chain[] {
  const uses = new Map<number, number>();
  for (const { pixels } of chains)
    for (const end of [pixels[0], pixels.at(-1)]) if (end !== undefined) uses.set(end, (uses.get(end) ?? 0) + 1);
  return chains.filter(({ pixels, closed }) => {
    const [a, b] = [uses.get(pixels[0] as number) ?? 0, uses.get(pixels.at(-1) as number) ?? 0];
    return closed || pixels.length > SPUR_SHARE * lineWidth || Math.min(a, b) > 1 || Math.max(a, b) < 3;
  });
}

/** Chains that meet where only two are left go on as one. */
function joined(chains: readonly Chain[]): Chain[] {
  const left = [...chains];
  for (let again = true; again;) {
    again = false;
    const at = new Map<number, Chain[]>();
    for (const chain of left)
      if (!chain.closed)
        for (const end of [chain.pixels[0], chain.pixels.at(-1)]) if (end !== undefined) at.set(end, [...(at.get(end) ?? []), chain]);
    for (const [end, [one, two, third]] of at) {
      if (!one || !two || third || one === two) continue;
      const first = one.pixels.at(-1) === end ? one.pixels : [...one.pixels].reverse();
      const rest = two.pixels[0] === end ? two.pixels : [...two.pixels].reverse();
      const pixels = [...first, ...rest.slice(1)];
      left.splice(left.indexOf(one), 1);
      left.splice(left.indexOf(two), 1);
      left.push({ pixels, closed: pixels.length > 3 && pixels[0] === pixels.at(-1) });
      again = true;
      break;
    }
  }
  return left;
}

/** Steps of pixels drawn smooth: ends stay, every other point goes between its neighbours. */
function smoothed(xy: readonly number[], closed: boolean, passes: number): number[] {
  let from = [...xy];
  const n = xy.length / 2;
  for (let pass = 0; pass < passes; pass++) {
    const to = [...from];
    for (let i = closed ? 0 : 1; i < (closed ? n : n - 1); i++)
      for (let c = 0; c < 2; c++) {
        const [before, after] = [from[2 * ((i + n - 1) % n) + c] as number, from[2 * ((i + 1) % n) + c] as number];
        to[2 * i + c] = (before + 2 * (from[2 * i + c] as number) + after) / 4;
      }
    from = to;
  }
  return from;
}

/** What lines are traced along their middle with. */
export interface CentreOptions {
  readonly tolPx: number;
  readonly cornerDeg: number;
  /** Lines shorter than this are dropped, pixels. */
  readonly shortestPx: number;
}

const SMOOTHING = 4;

/** @param plane of `twoToned` @returns open and closed lines, pixels, y down */
export function centreLines(plane: Plane, { tolPx, cornerDeg, shortestPx }: CentreOptions): Outline {
  const mask = maskOf(plane);
  const dark = mask.on.reduce((sum, v) => sum + v, 0);
  thin(mask);
  const length = Math.max(
    1,
    mask.on.reduce((sum, v) => sum + v, 0),
  );
  const chains = joined(pruned(chainsOf(mask), dark / length));
  const contours = chains.flatMap(({ pixels, closed }): Contour[] => {
    if (pixels.length < Math.max(2, shortestPx)) return [];
    const ring = closed ? pixels.slice(0, -1) : pixels;
    const xy = ring.flatMap((i) => [(i % mask.width) - 0.5, Math.floor(i / mask.width) - 0.5]);
    const contour = fitPoints(smoothed(xy, closed, SMOOTHING), { tolMm: tolPx, cornerDeg, closed });
    return contour.spans.length > 0 ? [contour] : [];
  });
  return { contours };
}
