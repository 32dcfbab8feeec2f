/**
 * In which order films lie on one another so that a drawing shows what it showed.
 *
 * Method: parts come in the order they are seen, later ones on earlier ones. Wherever a part covers an earlier one of
 * another key (a colour, a film), the later key has to lie above. The keys and these demands are a directed graph: its
 * strongly connected components (R. Tarjan, Depth-first search and linear graph algorithms, 1972) of more than one key
 * are knots, where no order of whole films shows the drawing; between components the topological order with the
 * earliest first (A. B. Kahn, 1962) is taken. What covers what is told along level lines (`rows.ts`): some hundred over
 * the whole, and one through the middle of each part up to `MOST_ROWS`. Units mm. Open outlines hide nothing.
 * Limits: parts that meet by less than some `tol` are taken as side by side, and so are those whose common ground lies
 * between two lines, or beyond `MOST_PAIRS`; `comparedLooks` looks along other lines.
 */
import FlatQueue from 'flatqueue';
import type { Box } from '../types/index.ts';
import { isEmptyBox, joinBoxes, EMPTY_BOX } from '../geometry/outline.ts';
import { holds, rowsOf, type Covering } from './rows.ts';
import { boxesOf, type SeenPart } from './seen-part.ts';

/** An order of keys, and the knots that no order shows. */
export interface Stacking {
  /** Keys, bottom first; those of a knot one after the other. */
  readonly order: readonly string[];
  /** Keys that lie both over and under one another. */
  readonly knots: readonly (readonly string[])[];
}

/** Level lines over the whole. */
const ROWS = 160;
const MOST_ROWS = 1500;
/** Pairs that lie over one another on a row are looked at up to so many in all. */
const MOST_PAIRS = 4_000_000;
/** Accuracy of what stands for the outlines, as a share of the whole, and at most, mm. */
const TOL_SHARE = 1 / 5000;
const TOL_MM = 0.02;

const wholeOf = (parts: readonly SeenPart[]): Box => boxesOf(parts).reduce(joinBoxes, EMPTY_BOX);
const tolOf = ({ minX, minY, maxX, maxY }: Box): number => Math.min(TOL_MM, TOL_SHARE * Math.hypot(maxX - minX, maxY - minY));

/** Level lines to look along: over the whole, and through the middle of the parts. */
function levelsOf(parts: readonly SeenPart[], { minY, maxY }: Box): number[] {
  const levels = Array.from({ length: ROWS }, (_, i) => minY + ((i + 0.618) / ROWS) * (maxY - minY));
  const step = Math.ceil(parts.length / (MOST_ROWS - ROWS));
  boxesOf(parts).forEach((box, i) => {
    if (i % step === 0 && !isEmptyBox(box)) levels.push(box.minY + 0.487 * (box.maxY - box.minY));
  });
  return levels;
}

interface Stretch {
  readonly part: number;
  readonly from: number;
  readonly to: number;
}

/** Pairs of stretches of a row that have more than `least` in common, each with the middle of that; by a sweep in x. */
function* commonOf(row: readonly Covering[], least: number): Generator<{ a: number; b: number; x: number }> {
  const stretches = row
    .flatMap(({ part, stretches: own }) => own.map(([from, to]): Stretch => ({ part, from, to })))
    .sort((p, q) => p.from - q.from);
  let open: Stretch[] = [];
  for (const next of stretches) {
    open = open.filter(({ to }) => to > next.from);
    for (const one of open) {
      const to = Math.min(one.to, next.to);
      if (one.part !== next.part && to - next.from > least) yield { a: one.part, b: next.part, x: (next.from + to) / 2 };
    }
    open.push(next);
  }
}

/** Pairs of parts of which the second lies on the first. @param isKnown pairs that need not be looked at any more */
function* coverings(parts: readonly SeenPart[], isKnown: (low: number, high: number) => boolean): Generator<[low: number, high: number]> {
  const whole = wholeOf(parts);
  if (isEmptyBox(whole)) return;
  const tol = tolOf(whole);
  const rows = rowsOf(parts, tol);
  let pairs = 0;
  for (const y of levelsOf(parts, whole)) {
    if (pairs > MOST_PAIRS) break;
    let near: readonly ReadonlyMap<number, Covering>[] | undefined;
    for (const { a, b, x } of commonOf(rows(y), 6 * tol)) {
      if (++pairs > MOST_PAIRS) break;
      const [low, high] = [Math.min(a, b), Math.max(a, b)];
      if (isKnown(low, high)) continue;
      // edges that two parts share are not quite alike: common ground reaches a little up and down as well
      near ??= [y - 4 * tol, y + 4 * tol].map((beside) => new Map(rows(beside).map((one) => [one.part, one])));
      if (near.every((row) => [a, b].every((part) => holds(row.get(part)?.stretches ?? [], x)))) yield [low, high];
    }
  }
}

/** Which key has to lie above which. */
function demandsOf(parts: readonly SeenPart[]): Map<string, Set<string>> {
  const above = new Map<string, Set<string>>();
  for (const { key } of parts) if (!above.has(key)) above.set(key, new Set());
  if (above.size < 2) return above;
  const keyOf = (part: number): string => parts[part]?.key ?? '';
  const isKnown = (low: number, high: number): boolean => keyOf(low) === keyOf(high) || above.get(keyOf(low))?.has(keyOf(high)) === true;
  for (const [low, high] of coverings(parts, isKnown)) above.get(keyOf(low))?.add(keyOf(high));
  return above;
}

/** Layers that show parts as they are seen, and the layer of each part. */
export interface SplitKeys {
  /** Keys, bottom first; one that lies both over and under another comes more than once. */
  readonly layers: readonly string[];
  /** The layer of each part. */
  readonly of: readonly number[];
}

/**
 * Keys in as many layers as it takes to show the parts whole, as they are seen: each part lies in the lowest layer of its key
 * that is above all it covers.
 * @returns a layer a part, by its number
 */
export function splitKeys(parts: readonly SeenPart[]): SplitKeys {
  const under = parts.map(() => new Set<number>());
  for (const [low, high] of coverings(parts, (a, b) => parts[a]?.key === parts[b]?.key || under[b]?.has(a) === true)) under[high]?.add(low);
  const layers: string[] = [];
  const of: number[] = [];
  parts.forEach(({ key }, i) => {
    const least = Math.max(-1, ...[...(under[i] ?? [])].map((low) => of[low] ?? -1));
    const found = layers.findIndex((own, at) => at > least && own === key);
    if (found < 0) layers.push(key);
    of.push(found < 0 ? layers.length - 1 : found);
  });
  return { layers, of };
}

/** Strongly connected components; without recursion, for there may be as many keys as a picture has colours. */
function componentsOf(above: ReadonlyMap<string, ReadonlySet<string>>): string[][] {
  const order = new Map<string, number>();
  const low = new Map<string, number>();
  const open: string[] = [];
  const isOpen = new Set<string>();
  const out: string[][] = [];
  const lower = (key: string, to: number): void => void low.set(key, Math.min(low.get(key) ?? to, to));
  const enter = (key: string): { key: string; uppers: IterableIterator<string> } => {
    order.set(key, order.size);
    lower(key, order.get(key) ?? 0);
    open.push(key);
    isOpen.add(key);
    return { key, uppers: (above.get(key) ?? new Set<string>()).values() };
  };
  for (const root of above.keys()) {
    const way = order.has(root) ? [] : [enter(root)];
    for (let here = way.at(-1); here; here = way.at(-1)) {
      const { value: next, done } = here.uppers.next();
      if (!done) {
        if (!order.has(next)) way.push(enter(next));
        else if (isOpen.has(next)) lower(here.key, order.get(next) ?? 0);
        continue;
      }
      way.pop();
      const before = way.at(-1);
      if (before) lower(before.key, low.get(here.key) ?? 0);
      if (low.get(here.key) !== order.get(here.key)) continue;
      const component = open.splice(open.lastIndexOf(here.key));
      for (const one of component) isOpen.delete(one);
      out.push(component);
    }
  }
  return out;
}

/**
 * The order of the keys, bottom first.
 * @param parts as they are seen, later ones on earlier ones
 * @param fixed pairs of a key and one that has to lie above it whatever the parts say
 */
export function stackKeys(parts: readonly SeenPart[], fixed: readonly (readonly [string, string])[] = []): Stacking {
  const above = demandsOf(parts);
  for (const [below, key] of fixed) {
    for (const one of [below, key]) if (!above.has(one)) above.set(one, new Set());
    above.get(below)?.add(key);
  }
  const first = new Map([...above.keys()].map((key, i) => [key, i]));
  const rank = (component: readonly string[]): number => Math.min(...component.map((key) => first.get(key) ?? 0));
  const done = inReach(
    above,
    componentsOf(above).sort((a, b) => rank(a) - rank(b)),
  );
  const inOrder = (keys: readonly string[]): string[] =>
    keptOrder(
      [...keys].sort((a, b) => (first.get(a) ?? 0) - (first.get(b) ?? 0)),
      fixed,
    );
  return { order: done.flatMap(inOrder), knots: done.filter((component) => component.length > 1).map(inOrder) };
}

/** The components so that each comes after all that lie below it; of several that may come next, the one that was first. */
function inReach(above: ReadonlyMap<string, ReadonlySet<string>>, components: readonly string[][]): string[][] {
  const home = new Map(components.flatMap((component) => component.map((key) => [key, component] as const)));
  // how many components each one waits for, and which wait for it
  const waits = new Map(components.map((component) => [component, 0]));
  const uppersOf = new Map(components.map((component) => [component, new Set<string[]>()]));
  for (const [key, uppers] of above)
    for (const upper of uppers) {
      const [lower, higher] = [home.get(key) as string[], home.get(upper) as string[]];
      const known = uppersOf.get(lower) as Set<string[]>;
      if (lower === higher || known.has(higher)) continue;
      known.add(higher);
      waits.set(higher, (waits.get(higher) ?? 0) + 1);
    }
  const place = new Map(components.map((component, i) => [component, i]));
  const free = new FlatQueue<string[]>();
  for (const component of components) if (waits.get(component) === 0) free.push(component, place.get(component) ?? 0);
  const done: string[][] = [];
  for (let next = free.pop(); next; next = free.pop()) {
    done.push(next);
    for (const higher of uppersOf.get(next) ?? []) {
      const left = (waits.get(higher) ?? 0) - 1;
      waits.set(higher, left);
      if (left === 0) free.push(higher, place.get(higher) ?? 0);
    }
  }
  return done;
}

/** The keys of a knot, as the given pairs want them; pairs that contradict one another are left. */
function keptOrder(keys: readonly string[], fixed: readonly (readonly [string, string])[]): string[] {
  const waiting = new Set(keys);
  const belowOf = new Map<string, string[]>();
  for (const [below, above] of fixed)
    if (below !== above && waiting.has(below) && waiting.has(above)) belowOf.set(above, [...(belowOf.get(above) ?? []), below]);
  if (belowOf.size === 0) return [...keys];
  const out: string[] = [];
  while (waiting.size > 0) {
    const isFree = (key: string): boolean => !(belowOf.get(key) ?? []).some((below) => waiting.has(below));
    const next = [...waiting].find(isFree) ?? ([...waiting][0] as string);
    waiting.delete(next);
    out.push(next);
  }
  return out;
}

/** How fine the look is sampled, each way. */
const SAMPLES = 96;

/**
 * The share of the covered ground that shows another key than before, 0 to 1.
 * @param before as they were seen, later ones on earlier ones
 * @param after as they are seen now
 */
export function comparedLooks(before: readonly SeenPart[], after: readonly SeenPart[]): number {
  const box = wholeOf(before);
  if (isEmptyBox(box)) return 0;
  const tol = tolOf(box);
  const [was, is] = [rowsOf(before, tol), rowsOf(after, tol)];
  const look = (y: number) => {
    const [rowBefore, rowAfter] = [was(y), is(y)];
    return (x: number): readonly [string | undefined, string | undefined] => [keyAt(before, rowBefore, x), keyAt(after, rowAfter, x)];
  };
  let [covered, other] = [0, 0];
  for (let row = 0; row < SAMPLES; row++) {
    // off the middle by an irrational step, so that rows of alike parts are not all met or all missed
    const y = box.minY + ((row + ((row * 0.7548776662) % 1)) / SAMPLES) * (box.maxY - box.minY);
    const [here, beside] = [look(y), look(y < (box.minY + box.maxY) / 2 ? y + 4 * tol : y - 4 * tol)];
    for (let column = 0; column < SAMPLES; column++) {
      const k = row * SAMPLES + column;
      const x = box.minX + ((column + ((k * 0.6180339887) % 1)) / SAMPLES) * (box.maxX - box.minX);
      const [a, b] = here(x);
      if (a !== undefined || b !== undefined) covered++;
      if (a === b) continue;
      // a line along a level edge would be told apart all its way by rounding: ground is wider than that
      const [c, d] = beside(x);
      if (c !== d) other++;
    }
  }
  return covered === 0 ? 0 : other / covered;
}

/** The key that is seen at a place of a row. */
const keyAt = (parts: readonly SeenPart[], row: readonly Covering[], x: number): string | undefined => {
  const top = topAt(row, x);
  return top === undefined ? undefined : parts[top]?.key;
};

const topAt = (row: readonly Covering[], x: number): number | undefined => row.findLast(({ stretches }) => holds(stretches, x))?.part;
