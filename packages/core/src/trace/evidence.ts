/**
 * What a picture says of its edges beyond their points: for each pixel the share of its first colour less what the
 * chains of points cover of it. Along straight and bent antialiased edges that is next to nothing; where a corner was
 * rounded off or drawn out, or a tip is missing, it is not. So a change of an edge can be judged by whether its
 * pixels come to be covered as they say. Units pixels and shares of one.
 */
import { bellOf, blur, blurredAt, energyOf } from './blur.ts';
import { Coverage } from './coverage.ts';
import type { Chain, Graph } from './graph.ts';
import type { P } from './line-fit.ts';
import { STRIP_PIXELS } from './pixels.ts';
import type { Shares } from './shares.ts';

/**
 * How a change of an edge suits the picture.
 * @param before, after points along it from the same place to the same place
 * @param about, radius where pixels are asked
 * @returns squared differences of the pixels' shares after the change, less those before; a whole pixel is one
 */
export type Judge = (before: readonly P[], after: readonly P[], about: P, radius: number) => number;

/** Kernels of blur that are tried, standard deviations in pixels; 0 is none. */
const BLURS = [0, 0.4, 0.6, 0.8, 1, 1.25, 1.5, 1.8, 2.2, 2.6];
/** Mixed pixels that the blur is told from. */
const MOST_ASKED = 4000;
/** What is missing is kept in so many parts of a pixel. */
const PARTS = 8192;
/** How far beyond a chain's last points its junctions may lie, pixels. */
const TO_JUNCTION = 2;
/** A pixel that misses more than this, squared, counts as this. */
const MOST_MISSING = 0.04;

export class Evidence {
  private readonly graph: Graph;
  private readonly outside: number;
  private readonly shares: Shares;
  private readonly times: number;
  /** Of each pixel's first colour, in so many parts. */
  private readonly missing: Int16Array;
  private readonly bell: Float64Array | undefined;
  /** Standard deviation of the blur, in the graph's pixels; 0 for none. */
  readonly blurPx: number;
  /** What a whole pixel is worth when blurred. */
  private readonly energy: number;

  /**
   * @param graph as it was built, its junctions where they were found
   * @param outside the label round the picture
   * @param isBlurred edges were blurred, by how much is told from them
   * @param times the graph's pixels are so many times smaller than those of the shares
   */
  constructor(graph: Graph, shares: Shares, outside: number, times: number, isBlurred: boolean) {
    this.shares = shares;
    this.times = times;
    this.graph = graph;
    this.outside = outside;
    const mixed = mixedOf(shares);
    const blur = isBlurred ? this.findBlur(mixed) : 0;
    this.blurPx = blur * times;
    this.bell = bellOf(blur);
    this.energy = energyOf(this.bell);
    this.missing = new Int16Array(shares.width * shares.height);
    this.eachMissing(mixed, [this.bell], (i, missing) => (this.missing[i] = Math.round(PARTS * missing)));
  }

  /** The blur with which the least is missing. */
  private findBlur(mixed: Int32Array): number {
    const bells = BLURS.map(bellOf);
    const step = Math.max(1, Math.floor(mixed.length / MOST_ASKED));
    const sums = bells.map(() => 0);
    const asked = mixed.filter((_, k) => k % step === 0);
    this.eachMissing(asked, bells, (_, missing, k) => (sums[k] = (sums[k] as number) + Math.min(MOST_MISSING, missing * missing)));
    return BLURS[sums.indexOf(Math.min(...sums))] ?? 0;
  }

  /** Calls for pixels, which are in order, with what is missing of their first colour, through each blur; strip by strip. */
  private eachMissing(
    pixels: Int32Array,
    bells: readonly (Float64Array | undefined)[],
    visit: (i: number, missing: number, bell: number) => void,
  ): void {
    const { width, height, first } = this.shares;
    const edges = edgesOf(this.graph, this.times);
    const beyond = Math.max(0, ...bells.map((bell) => (bell ? bell.length - 1 : 0)));
    const rows = Math.max(1, Math.floor(STRIP_PIXELS / width));
    let from = 0;
    for (let top = 0; top < height; top += rows) {
      const bottom = Math.min(height, top + rows);
      let to = from;
      while (to < pixels.length && (pixels[to] as number) < bottom * width) to++;
      const asked = pixels.subarray(from, to);
      from = to;
      const [above, below] = [Math.max(0, top - beyond), Math.min(height, bottom + beyond)];
      const cover = new Coverage(0, above, width, below - above);
      for (const [label, list] of asked.length > 0 ? edges : []) {
        cover.clear();
        for (const edge of list) if (edge.bottom >= above && edge.top <= below) draw(cover, edge, this.graph, this.times);
        const covered = cover.sums();
        const all = label === this.outside ? 1 : 0;
        for (const i of asked) {
          if (first[i] !== label) continue;
          const y = Math.floor(i / width);
          bells.forEach((bell, k) => {
            const seen = all + blurredAt(covered, cover.stride, width, cover.height, i - y * width, y - above, bell);
            visit(i, this.shares.shareAt(i) - seen, k);
          });
        }
      }
    }
  }

  /** Share of a label that a pixel says and the chains do not cover. */
  private of(x: number, y: number, label: number): number {
    const { width, height, first, second } = this.shares;
    if (x < 0 || y < 0 || x >= width || y >= height) return 0;
    const i = y * width + x;
    const missing = (this.missing[i] as number) / PARTS;
    if (first[i] === label) return missing;
    return second[i] === label ? -missing : 0;
  }

  /** A judge of chains that have a label on one side: on the left of their way, or with -1 on the right. */
  judge(label: number, side: 1 | -1): Judge {
    const { times, bell, energy } = this;
    const reach = bell ? bell.length - 1 : 0;
    return (before, after, [ax, ay], radius) => {
      const [mx, my, most] = [ax / times, ay / times, (radius / times) ** 2];
      const ring = [...after, ...[...before].reverse()].map(([x, y]): P => [x / times, y / times]);
      let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
      for (const [x, y] of ring) {
        x0 = Math.min(x0, x);
        y0 = Math.min(y0, y);
        x1 = Math.max(x1, x);
        y1 = Math.max(y1, y);
      }
      // pixels that are not asked are not looked at
      const r = radius / times;
      const [left, top] = [Math.floor(Math.max(x0, mx - r)) - reach, Math.floor(Math.max(y0, my - r)) - reach];
      const [right, bottom] = [Math.ceil(Math.min(x1, mx + r)) + reach, Math.ceil(Math.min(y1, my + r)) + reach];
      if (right < left || bottom < top) return 0;
      const cover = new Coverage(left, top, right - left + 1, bottom - top + 1);
      let last = ring.at(-1) as P;
      for (const p of ring) {
        cover.line(last[0], last[1], p[0], p[1], side);
        last = p;
      }
      const covered = cover.sums();
      if (bell) blur(covered, cover.stride, cover.height, bell);
      let sum = 0;
      for (let y = 0; y < cover.height; y++)
        for (let x = 0; x < cover.width; x++) {
          const more = covered[y * cover.stride + x] as number;
          const apart = (left + x + 0.5 - mx) ** 2 + (top + y + 0.5 - my) ** 2;
          if (Math.abs(more) > 1e-6 && apart < most) sum += more * (more - 2 * this.of(left + x, top + y, label));
        }
      return sum / energy;
    };
  }
}

/** Pixels of two colours, in order. */
function mixedOf(shares: Shares): Int32Array {
  const n = shares.first.length;
  let count = 0;
  for (let i = 0; i < n; i++) if (shares.isMixed(i)) count++;
  const out = new Int32Array(count);
  for (let i = 0, k = 0; i < n; i++) if (shares.isMixed(i)) out[k++] = i;
  return out;
}

/** A chain as an edge of one of its labels. */
interface Edge {
  readonly chain: Chain;
  /** The label is on its left, or with -1 on its right. */
  readonly sign: 1 | -1;
  /** Rows that it lies in, ends in junctions aside. */
  readonly top: number;
  readonly bottom: number;
}

/** The edges of each label; rows in pixels so many times larger than the graph's. */
function edgesOf({ chains }: Graph, times: number): Map<number, Edge[]> {
  const out = new Map<number, Edge[]>();
  for (const chain of chains) {
    if (chain.left === chain.right) continue;
    let [top, bottom] = [Infinity, -Infinity];
    for (let i = 1; i < chain.xy.length; i += 2) {
      top = Math.min(top, chain.xy[i] as number);
      bottom = Math.max(bottom, chain.xy[i] as number);
    }
    const rows = { top: top / times - TO_JUNCTION, bottom: bottom / times + TO_JUNCTION };
    for (const [label, sign] of [
      [chain.left, 1],
      [chain.right, -1],
    ] as const) {
      const own = out.get(label);
      if (own) own.push({ chain, sign, ...rows });
      else out.set(label, [{ chain, sign, ...rows }]);
    }
  }
  return out;
}

function draw(cover: Coverage, { chain, sign }: Edge, { junctions }: Graph, times: number): void {
  const { xy, closed, from, to } = chain;
  const n = xy.length;
  const start = closed ? { x: xy[n - 2] as number, y: xy[n - 1] as number } : junctions[from];
  let [x, y] = start ? [start.x, start.y] : [xy[0] as number, xy[1] as number];
  for (let i = 0; i < n; i += 2) {
    const [u, v] = [xy[i] as number, xy[i + 1] as number];
    cover.line(x / times, y / times, u / times, v / times, sign);
    x = u;
    y = v;
  }
  const end = closed ? undefined : junctions[to];
  if (end) cover.line(x / times, y / times, end.x / times, end.y / times, sign);
}
