/**
 * The picture's regions as a planar graph: chains of points between regions, each kept once and used by both sides, so
 * that neighbours share their edge exactly. Method: marching squares over pixel centres with any number of labels;
 * where three or more regions meet stands a junction. Between two centres the edge's place comes from the shares: their
 * sum along the row or column across the edge is the edge's distance, which is exact for straight antialiased edges.
 * Units pixels, y down, pixel centres at halves.
 */
import { ROWS_A_SHARE, type OnShare } from './pixels.ts';
import type { Shares } from './shares.ts';

/** What lies outside of the picture when no label does. */
export const OUTSIDE = 254;

/** A border between two labels, from junction to junction or all round. */
export interface Chain {
  /** x, y alternating; a closed one does not repeat its first point. */
  readonly xy: number[];
  readonly closed: boolean;
  /** Labels to the left and right of its way, seen with y up. */
  readonly left: number;
  readonly right: number;
  /** Junctions at its ends, -1 for none. */
  readonly from: number;
  readonly to: number;
}

/** The borders of all labels, and the junctions where they meet. */
export interface Graph {
  readonly chains: readonly Chain[];
  readonly junctions: { x: number; y: number }[];
}

/** A pixel whose share is beyond this is wholly of its colour. */
const WHOLE = 0.985;
const WALK = 3;
/** Lines over more pixels than this have their two edges apart. */
const NARROW = 5;

/** The shares may move an edge a little past the centres of its two pixels. */
const nearBy = (along: number): number => Math.min(1.3, Math.max(-0.3, along));

class Builder {
  private readonly labels: Uint8Array;
  private readonly shares: Shares;
  private readonly outside: number;
  private readonly w: number;
  private readonly h: number;
  readonly places = new Map<number, readonly [number, number]>();
  readonly links = new Map<number, number[]>();
  readonly sides = new Map<number, readonly [number, number, number, number]>();
  readonly junctions: { x: number; y: number }[] = [];
  /** Middles of the cells that junctions stand in. */
  readonly cells: (readonly [number, number])[] = [];
  private readonly junctionBase: number;
  private readonly isSharp: boolean;

  constructor(shares: Shares, labels: Uint8Array, outside: number, isSharp: boolean) {
    this.isSharp = isSharp;
    this.shares = shares;
    this.labels = labels;
    this.outside = outside;
    this.w = shares.width;
    this.h = shares.height;
    this.junctionBase = 2 * (this.w + 3) * (this.h + 3);
  }

  label(x: number, y: number): number {
    return x < 0 || y < 0 || x >= this.w || y >= this.h ? this.outside : (this.labels[y * this.w + x] as number);
  }

  /** Share of a label in a pixel. */
  private of(x: number, y: number, label: number): number {
    if (x < 0 || y < 0 || x >= this.w || y >= this.h) return label === this.outside ? 1 : 0;
    return this.shares.of(y * this.w + x, label);
  }

  /** How far along from the centre of one pixel to that of the next the edge lies, by the shares. */
  private crossing(x: number, y: number, dx: number, dy: number): number {
    const [a, b] = [this.label(x, y), this.label(x + dx, y + dy)];
    if (x < 0 || y < 0 || x + dx >= this.w || y + dy >= this.h) return 0.5;
    const [own, next] = [this.of(x, y, a), this.of(x + dx, y + dy, b)];
    const back = this.runOf(x, y, -dx, -dy, a, b);
    const on = this.runOf(x + dx, y + dy, dx, dy, b, a);
    if (this.isSharp && (back === undefined) !== (on === undefined)) {
      const from = back ? this.narrow(x, y, dx, dy, a, b) : this.narrow(x + dx, y + dy, -dx, -dy, b, a);
      if (from !== undefined) return nearBy(back ? from : 1 - from);
    }
    // a line thinner than a pixel is as wide as its share
    if (next < 0.5) return 1 - next / 2;
    if (own < 0.5) return own / 2;
    // the first colour's shares from where it is whole, less the way to there, measured from this pixel's centre
    if (back && on) return nearBy(back.sum - back.count + (on.count - on.sum) + 0.5);
    const [p, q] = [own - this.of(x, y, b), this.of(x + dx, y + dy, a) - next];
    return p - q > 1e-6 ? Math.min(1, Math.max(0, p / (p - q))) : 0.5;
  }

  /**
   * Shares of a colour from a pixel on away from the edge until it is whole, and over how many pixels; undefined when
   * a third colour or a fall on the way says that it is not this edge alone.
   */
  private runOf(x: number, y: number, dx: number, dy: number, own: number, other: number): { sum: number; count: number } | undefined {
    let [sum, before] = [0, 0];
    for (let k = 0; k <= WALK; k++) {
      const [u, v] = [x + k * dx, y + k * dy];
      const s = this.of(u, v, own);
      if (s >= WHOLE) return { sum: sum + (k === 0 ? s : 0), count: Math.max(1, k) };
      if (Math.abs(s + this.of(u, v, other) - 1) > 0.02 || s < before - 0.02) return undefined;
      sum += s;
      before = s;
    }
    return undefined;
  }

  /**
   * Where a line begins that is nowhere whole, so that its two edges share their pixels: it is as wide as the sum of its
   * shares and lies about their middle. From a pixel of what lies beside it, in the direction of the line.
   * @returns undefined when it is whole somewhere, has no other side near, or a third colour lies on the way
   */
  private narrow(x: number, y: number, dx: number, dy: number, beside: number, line: number): number | undefined {
    let [sum, moment] = [0, 0];
    for (let k = 0; ; k--) {
      const own = this.of(x + k * dx, y + k * dy, beside);
      if (own >= WHOLE) break;
      if (k < -WALK) return undefined;
      sum += 1 - own;
      moment += k * (1 - own);
    }
    let [before, falls] = [0, false];
    for (let k = 1; ; k++) {
      const [u, v] = [x + k * dx, y + k * dy];
      const own = this.of(u, v, line);
      const rest = this.of(u, v, beside);
      if (k > 1 && rest >= WHOLE) break;
      if (k > NARROW || own >= WHOLE || Math.abs(own + rest - 1) > 0.02) return undefined;
      if (own < before - 0.02) falls = true;
      else if (falls && own > before + 0.02) return undefined;
      sum += own;
      moment += k * own;
      before = own;
    }
    return moment / sum - sum / 2;
  }

  private across(x: number, y: number): number {
    const key = 2 * ((y + 1) * (this.w + 3) + x + 1);
    if (!this.places.has(key)) {
      this.places.set(key, [x + 0.5 + this.crossing(x, y, 1, 0), y + 0.5]);
      this.sides.set(key, [x + 0.5, y + 0.5, this.label(x, y), this.label(x + 1, y)]);
    }
    return key;
  }

  private down(x: number, y: number): number {
    const key = 2 * ((y + 1) * (this.w + 3) + x + 1) + 1;
    if (!this.places.has(key)) {
      this.places.set(key, [x + 0.5, y + 0.5 + this.crossing(x, y, 0, 1)]);
      this.sides.set(key, [x + 0.5, y + 0.5, this.label(x, y), this.label(x, y + 1)]);
    }
    return key;
  }

  private link(a: number, b: number): void {
    for (const [p, q] of [
      [a, b],
      [b, a],
    ] as const) {
      const list = this.links.get(p);
      if (list) list.push(q);
      else this.links.set(p, [q]);
    }
  }

  private junction(keys: readonly number[], x: number, y: number): void {
    this.cells.push([x + 1, y + 1]);
    const places = keys.map((key) => this.places.get(key) as readonly [number, number]);
    const id = this.junctionBase + this.junctions.length;
    this.junctions.push({
      x: places.reduce((s, p) => s + p[0], 0) / places.length,
      y: places.reduce((s, p) => s + p[1], 0) / places.length,
    });
    for (const key of keys) this.link(key, id);
  }

  cell(x: number, y: number): void {
    const [tl, tr, bl, br] = [this.label(x, y), this.label(x + 1, y), this.label(x, y + 1), this.label(x + 1, y + 1)];
    if (tl === tr && tl === bl && tl === br) return;
    const keys: number[] = [];
    if (tl !== tr) keys.push(this.across(x, y));
    if (tr !== br) keys.push(this.down(x + 1, y));
    if (bl !== br) keys.push(this.across(x, y + 1));
    if (tl !== bl) keys.push(this.down(x, y));
    if (keys.length === 2) return this.link(keys[0] as number, keys[1] as number);
    if (keys.length === 3) return this.junction(keys, x, y);
    const [top, right, bottom, left] = keys as [number, number, number, number];
    const falling = tl === br;
    const rising = tr === bl;
    if (!falling && !rising) return this.junction(keys, x, y);
    const mean = (label: number): number =>
      this.of(x, y, label) + this.of(x + 1, y, label) + this.of(x, y + 1, label) + this.of(x + 1, y + 1, label);
    if (falling && (!rising || mean(tl) >= mean(tr))) {
      this.link(top, right);
      this.link(bottom, left);
    } else {
      this.link(top, left);
      this.link(right, bottom);
    }
  }

  isJunction(key: number): boolean {
    return key >= this.junctionBase;
  }

  junctionIndex(key: number): number {
    return key - this.junctionBase;
  }
}

/**
 * Labels left and right of the way from one crossing towards another or a junction. Told by where they stand in the
 * grid, for the shares may move a crossing past the centre of a pixel.
 */
function sidesOf(builder: Builder, key: number, towards: number, backwards: boolean): [number, number] {
  const gridOf = (k: number): readonly [number, number] => {
    if (builder.isJunction(k)) return builder.cells[builder.junctionIndex(k)] as readonly [number, number];
    const [x, y] = builder.sides.get(k) as readonly [number, number, number, number];
    return k % 2 === 0 ? [x + 0.5, y] : [x, y + 0.5];
  };
  const [px, py] = gridOf(key);
  const [nx, ny] = gridOf(towards);
  const [cx, cy, a, b] = builder.sides.get(key) as readonly [number, number, number, number];
  // seen with y up, the first centre lies left of the way when this is below zero
  const cross = (backwards ? -1 : 1) * ((nx - px) * (cy - py) - (ny - py) * (cx - px));
  return cross < 0 ? [a, b] : [b, a];
}

/**
 * @param outside label of what surrounds the picture, OUTSIDE when none of its own does
 * @param isSharp edges are as drawn, not blurred: lines that are nowhere whole can be told from their shares
 */
export function buildGraph(
  shares: Shares,
  labels: Uint8Array,
  outside: number,
  isSharp: boolean,
  onShare: OnShare = () => undefined,
): Graph {
  const builder = new Builder(shares, labels, outside, isSharp);
  const { width, height } = shares;
  for (let y = -1; y < height; y++) {
    if (y % ROWS_A_SHARE === 0) onShare(y / height);
    for (let x = -1; x < width; x++) {
      const i = y * width + x;
      const own = labels[i];
      // most of a picture lies within a region
      if (x >= 0 && y >= 0 && x + 1 < width && y + 1 < height)
        if (own === labels[i + 1] && own === labels[i + width] && own === labels[i + width + 1]) continue;
      builder.cell(x, y);
    }
  }
  return { chains: chainsOf(builder), junctions: builder.junctions };
}

/** Crossings in a row from junction to junction, or round. */
function chainsOf(builder: Builder): Chain[] {
  const placeOf = (key: number): readonly [number, number] => {
    if (!builder.isJunction(key)) return builder.places.get(key) as readonly [number, number];
    const { x, y } = builder.junctions[builder.junctionIndex(key)] as { x: number; y: number };
    return [x, y];
  };
  const chains: Chain[] = [];
  const used = new Set<number>();
  const run = (start: number, from: number): void => {
    const keys: number[] = [start];
    used.add(start);
    let [before, now, end] = [from, start, -1];
    for (;;) {
      const next = (builder.links.get(now) ?? []).find((key) => key !== before && (builder.isJunction(key) || !used.has(key)));
      if (next === undefined) break;
      if (builder.isJunction(next)) {
        end = next;
        break;
      }
      used.add(next);
      keys.push(next);
      [before, now] = [now, next];
    }
    const closed = from < 0 && end < 0;
    const first = keys[0] as number;
    const second = keys[1] ?? (end >= 0 ? end : undefined);
    const [left, right] = second !== undefined ? sidesOf(builder, first, second, false) : sidesOf(builder, first, from, true);
    chains.push({
      xy: keys.flatMap((key) => [...placeOf(key)]),
      closed,
      left,
      right,
      from: from >= 0 ? builder.junctionIndex(from) : -1,
      to: end >= 0 ? builder.junctionIndex(end) : -1,
    });
  };
  for (const [key, next] of builder.links) {
    if (!builder.isJunction(key)) continue;
    for (const start of next) if (!used.has(start)) run(start, key);
  }
  for (const key of builder.links.keys()) if (!builder.isJunction(key) && !used.has(key)) run(key, -1);
  return chains;
}
