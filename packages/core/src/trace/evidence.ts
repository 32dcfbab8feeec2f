/**
 * What a picture says of its edges beyond their points: for each pixel the share of its first colour less what the
 * chains of points cover of it. Along straight and bent antialiased edges that is next to nothing; where a corner was
 * rounded off or drawn out, or a tip is missing, it is not. So a change of an edge can be judged by whether its
 * pixels come to be covered as they say. Units pixels and shares of one.
 */
import { Coverage } from './coverage.ts';
import type { Chain, Graph } from './graph.ts';
import type { P } from './line-fit.ts';
import type { Shares } from './unmix.ts';

/**
 * How a change of an edge suits the picture.
 * @param before, after points along it from the same place to the same place
 * @returns squared differences of the pixels' shares after the change, less those before
 */
export type Judge = (before: readonly P[], after: readonly P[]) => number;

export class Evidence {
  private readonly shares: Shares;
  private readonly missing: Float32Array;
  private readonly times: number;

  /**
   * @param graph as it was built, its junctions where they were found
   * @param outside the label round the picture
   */
  constructor(graph: Graph, shares: Shares, outside: number, times = 1) {
    this.times = times;
    const { width, height, first, second, share } = shares;
    this.shares = shares;
    this.missing = new Float32Array(width * height);
    const mixed: number[] = [];
    for (let i = 0; i < first.length; i++) if (first[i] !== second[i]) mixed.push(i);
    const cover = new Coverage(0, 0, width, height);
    for (const label of new Set(graph.chains.flatMap(({ left, right }) => [left, right]))) {
      cover.clear();
      for (const chain of graph.chains) {
        if (chain.left === chain.right) continue;
        if (chain.left === label) draw(cover, chain, graph, 1, times);
        else if (chain.right === label) draw(cover, chain, graph, -1, times);
      }
      const covered = cover.sums();
      const all = label === outside ? 1 : 0;
      for (const i of mixed) {
        if (first[i] !== label) continue;
        const row = Math.floor(i / width);
        this.missing[i] = (share[i] as number) - all - (covered[i + row * (cover.stride - width)] as number);
      }
    }
  }

  /** Share of a label that a pixel says and the chains do not cover. */
  private of(x: number, y: number, label: number): number {
    const { width, height, first, second } = this.shares;
    if (x < 0 || y < 0 || x >= width || y >= height) return 0;
    const i = y * width + x;
    if (first[i] === label) return this.missing[i] as number;
    return second[i] === label ? -(this.missing[i] as number) : 0;
  }

  /** A judge of chains that have a label on one side: on the left of their way, or with -1 on the right. */
  judge(label: number, side: 1 | -1): Judge {
    return (before, after) => {
      const ring = [...after, ...[...before].reverse()].map(([x, y]): P => [x / this.times, y / this.times]);
      let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
      for (const [x, y] of ring) {
        x0 = Math.min(x0, x);
        y0 = Math.min(y0, y);
        x1 = Math.max(x1, x);
        y1 = Math.max(y1, y);
      }
      const [left, top] = [Math.floor(x0), Math.floor(y0)];
      const cover = new Coverage(left, top, Math.ceil(x1) - left + 1, Math.ceil(y1) - top + 1);
      let last = ring.at(-1) as P;
      for (const p of ring) {
        cover.line(last[0], last[1], p[0], p[1], side);
        last = p;
      }
      const covered = cover.sums();
      let sum = 0;
      for (let y = 0; y < cover.height; y++)
        for (let x = 0; x < cover.width; x++) {
          const more = covered[y * cover.stride + x] as number;
          if (Math.abs(more) > 1e-6) sum += more * (more - 2 * this.of(left + x, top + y, label));
        }
      return sum;
    };
  }
}

function draw(cover: Coverage, { xy, closed, from, to }: Chain, { junctions }: Graph, sign: number, times: number): void {
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
