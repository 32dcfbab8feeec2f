/**
 * Connected regions of one label, from runs along the rows joined with those above (A. Rosenfeld, J. Pfaltz,
 * Sequential Operations in Digital Picture Processing, 1966), and what is done with small ones.
 */
import type { Shares } from './shares.ts';

/** Runs of like labels along the rows, and the regions that they form. */
export interface Regions {
  /** First pixel of each run, and at last the number of pixels. */
  readonly starts: Int32Array;
  readonly runs: number;
  /** The region of a run: a run of its own that stands for all. */
  regionOf(run: number): number;
  /** Pixels of a region. */
  sizeOf(region: number): number;
  labelOf(run: number): number;
  /** Each pair of runs that touch and the length that they share; those above one another and those in a row. */
  eachTouch(visit: (one: number, other: number, shared: number) => void): void;
}

/**
 * Where runs of like labels begin, row by row, the number of pixels at last; and the first run of each row, their number at last.
 * @param width,height of the picture, pixels
 */
export function runsOf(labels: Uint8Array, width: number, height: number): { starts: Int32Array; firstOfRow: Int32Array } {
  const firstOfRow = new Int32Array(height + 1);
  let runs = 0;
  for (let y = 0; y < height; y++) {
    firstOfRow[y] = runs++;
    for (let i = y * width + 1; i < (y + 1) * width; i++) if (labels[i] !== labels[i - 1]) runs++;
  }
  firstOfRow[height] = runs;
  const starts = new Int32Array(runs + 1);
  for (let y = 0; y < height; y++) {
    let k = firstOfRow[y] as number;
    starts[k++] = y * width;
    for (let i = y * width + 1; i < (y + 1) * width; i++) if (labels[i] !== labels[i - 1]) starts[k++] = i;
  }
  starts[runs] = width * height;
  return { starts, firstOfRow };
}

/** Connected parts of one label. Cost: the pixels. */
export function regionsOf(labels: Uint8Array, width: number, height: number): Regions {
  const { starts, firstOfRow } = runsOf(labels, width, height);
  const runs = starts.length - 1;
  const parent = new Int32Array(runs);
  const size = new Int32Array(runs);
  for (let k = 0; k < runs; k++) {
    parent[k] = k;
    size[k] = (starts[k + 1] as number) - (starts[k] as number);
  }
  const regionOf = (run: number): number => {
    let root = run;
    while (parent[root] !== root) root = parent[root] as number;
    for (let k = run; parent[k] !== root;) {
      const next = parent[k] as number;
      parent[k] = root;
      k = next;
    }
    return root;
  };
  const labelOf = (run: number): number => labels[starts[run] as number] as number;
  const eachAbove = (visit: (upper: number, lower: number, shared: number) => void): void => {
    for (let y = 1; y < height; y++) {
      const end = firstOfRow[y + 1] as number;
      let k = firstOfRow[y] as number;
      for (let upper = firstOfRow[y - 1] as number; upper < (firstOfRow[y] as number); upper++) {
        const from = (starts[upper] as number) + width;
        const to = (starts[upper + 1] as number) + width;
        while (k < end && (starts[k + 1] as number) <= from) k++;
        for (let lower = k; lower < end && (starts[lower] as number) < to; lower++)
          visit(upper, lower, Math.min(to, starts[lower + 1] as number) - Math.max(from, starts[lower] as number));
      }
    }
  };
  eachAbove((upper, lower) => {
    if (labelOf(upper) !== labelOf(lower)) return;
    const [a, b] = [regionOf(upper), regionOf(lower)];
    if (a === b) return;
    parent[b] = a;
    size[a] = (size[a] as number) + (size[b] as number);
  });
  return {
    starts,
    runs,
    regionOf,
    labelOf,
    sizeOf: (region) => size[region] as number,
    eachTouch: (visit) => {
      for (let y = 0; y < height; y++)
        for (let k = (firstOfRow[y] as number) + 1; k < (firstOfRow[y + 1] as number); k++) visit(k - 1, k, 1);
      eachAbove(visit);
    },
  };
}

/** A region with what lies beside it. */
export interface Part {
  readonly label: number;
  /** Labels beside it, and over how much of its edge. */
  readonly beside: ReadonlyMap<number, number>;
  readonly pixels: readonly number[];
}

/**
 * The regions of so many pixels at least and at most.
 * @param least,most pixels
 */
export function partsOf(regions: Regions, least: number, most: number): Part[] {
  const beside = new Map<number, Map<number, number>>();
  const note = (region: number, other: number, shared: number): void => {
    const size = regions.sizeOf(region);
    if (size < least || size > most) return;
    const label = regions.labelOf(other);
    const own = beside.get(region) ?? new Map<number, number>();
    beside.set(region, own.set(label, (own.get(label) ?? 0) + shared));
  };
  regions.eachTouch((one, other, shared) => {
    const [a, b] = [regions.regionOf(one), regions.regionOf(other)];
    if (a === b) return;
    note(a, b, shared);
    note(b, a, shared);
  });
  const pixels = new Map<number, number[]>([...beside.keys()].map((region) => [region, []]));
  for (let run = 0; run < regions.runs; run++) {
    const own = pixels.get(regions.regionOf(run));
    for (let i = regions.starts[run] as number; own && i < (regions.starts[run + 1] as number); i++) own.push(i);
  }
  return [...beside].map(([region, labels]) => ({ label: regions.labelOf(region), beside: labels, pixels: pixels.get(region) ?? [] }));
}

/**
 * Regions that are smaller than a number of pixels take the label that is most around them.
 * @param labels changed, and the shares with them
 * @param smallest pixels
 */
export function absorbSpecks(shares: Shares, labels: Uint8Array, smallest: number): void {
  // small ones among small ones wait until those are taken
  for (let round = 0; round < MOST_ROUNDS && absorbOnce(shares, labels, smallest); round++);
}

const MOST_ROUNDS = 8;

/** @returns whether any region was taken */
function absorbOnce(shares: Shares, labels: Uint8Array, smallest: number): boolean {
  const regions = regionsOf(labels, shares.width, shares.height);
  /** Pixels of each label of large regions that lie beside a small one. */
  const votes = new Map<number, Map<number, number>>();
  const vote = (region: number, other: number, count: number): void => {
    if (regions.sizeOf(region) >= smallest || regions.sizeOf(other) < smallest) return;
    const label = regions.labelOf(other);
    let own = votes.get(region);
    if (!own) votes.set(region, (own = new Map<number, number>()));
    own.set(label, (own.get(label) ?? 0) + count);
  };
  regions.eachTouch((one, other, shared) => {
    const [a, b] = [regions.regionOf(one), regions.regionOf(other)];
    if (a === b) return;
    vote(a, b, shared);
    vote(b, a, shared);
  });
  const winners = new Map([...votes].map(([region, own]) => [region, ([...own].sort((a, b) => b[1] - a[1])[0] as [number, number])[0]]));
  return takeOver(regions, shares, labels, winners);
}

/** Regions become wholly of the labels that they are given. @returns whether there were any */
function takeOver(regions: Regions, shares: Shares, labels: Uint8Array, winners: ReadonlyMap<number, number>): boolean {
  if (winners.size === 0) return false;
  for (let k = 0; k < regions.runs; k++) {
    const winner = winners.get(regions.regionOf(k));
    if (winner === undefined) continue;
    for (let i = regions.starts[k] as number; i < (regions.starts[k + 1] as number); i++) {
      labels[i] = winner;
      shares.take(i, winner);
    }
  }
  return true;
}

/**
 * Regions that stand out too little for their size become of the label that is most around them: what they differ by
 * is weighed against the length of their edge (region merging; G. Koepfler, C. Lopez, J.-M. Morel, 1994).
 * @param apart how far the colours of two labels are from one another, in what noise makes of one colour
 */
export function absorbFaint(shares: Shares, labels: Uint8Array, apart: (one: number, other: number) => number): void {
  for (let round = 0; round < MOST_ROUNDS && absorbFaintOnce(shares, labels, apart); round++);
}

function absorbFaintOnce(shares: Shares, labels: Uint8Array, apart: (one: number, other: number) => number): boolean {
  const regions = regionsOf(labels, shares.width, shares.height);
  /** Of each region the length of its edge with each larger one, and of all of its edge. */
  const edges = new Map<number, { all: number; with: Map<number, number> }>();
  const add = (region: number, other: number, shared: number): void => {
    let own = edges.get(region);
    if (!own) edges.set(region, (own = { all: 0, with: new Map<number, number>() }));
    own.all += shared;
    if (regions.sizeOf(other) > regions.sizeOf(region)) own.with.set(other, (own.with.get(other) ?? 0) + shared);
  };
  const labelOf = new Map<number, number>();
  for (let k = 0; k < regions.runs; k++) labelOf.set(regions.regionOf(k), regions.labelOf(k));
  regions.eachTouch((one, other, shared) => {
    const [a, b] = [regions.regionOf(one), regions.regionOf(other)];
    if (a === b) return;
    add(a, b, shared);
    add(b, a, shared);
  });
  const winners = new Map<number, number>();
  for (const [region, own] of edges) {
    const [most] = [...own.with].sort((a, b) => b[1] - a[1]);
    // what it lies beside must stay as it is
    if (!most || winners.has(most[0])) continue;
    const [mine, theirs] = [labelOf.get(region) as number, labelOf.get(most[0]) as number];
    if (regions.sizeOf(region) * apart(mine, theirs) ** 2 < own.all) winners.set(region, theirs);
  }
  return takeOver(regions, shares, labels, winners);
}
