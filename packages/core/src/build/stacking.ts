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
 * between two lines; `comparedLooks` looks along other lines.
 */
import type { Box } from '../types/index.ts';
import { flatten, type Polyline } from '../geometry/flatten.ts';
import { windingNumber } from '../geometry/hit.ts';
import { isEmptyBox, joinBoxes, EMPTY_BOX } from '../geometry/outline.ts';
import { holds, rowsOf, type Covering } from './rows.ts';
import { boxesOf, indexOf, solidOf, type SeenPart } from './seen-part.ts';

export interface Stacking {
  /** Keys, bottom first; those of a knot one after the other. */
  readonly order: readonly string[];
  /** Keys that lie both over and under one another. */
  readonly knots: readonly (readonly string[])[];
}

/** Level lines over the whole. */
const ROWS = 160;
const MOST_ROWS = 1500;
/** Accuracy of what stands for the outlines, as a share of the whole, and at most, mm. */
const TOL_SHARE = 1 / 5000;
const TOL_MM = 0.02;

const wholeOf = (parts: readonly SeenPart[]): Box => boxesOf(parts).reduce(joinBoxes, EMPTY_BOX);
const tolOf = ({ minX, minY, maxX, maxY }: Box): number => Math.min(TOL_MM, TOL_SHARE * Math.hypot(maxX - minX, maxY - minY));

/** The longest stretch that two parts cover both, as its middle and length. */
function common(a: Covering, b: Covering): { x: number; length: number } | undefined {
  let best: { x: number; length: number } | undefined;
  for (const [a0, a1] of a.stretches)
    for (const [b0, b1] of b.stretches) {
      const [from, to] = [Math.max(a0, b0), Math.min(a1, b1)];
      if (to - from > (best?.length ?? 0)) best = { x: (from + to) / 2, length: to - from };
    }
  return best;
}

/** Level lines to look along: over the whole, and through the middle of the parts. */
function levelsOf(parts: readonly SeenPart[], { minY, maxY }: Box): number[] {
  const levels = Array.from({ length: ROWS }, (_, i) => minY + ((i + 0.618) / ROWS) * (maxY - minY));
  const step = Math.ceil(parts.length / (MOST_ROWS - ROWS));
  boxesOf(parts).forEach((box, i) => {
    if (i % step === 0 && !isEmptyBox(box)) levels.push(box.minY + 0.487 * (box.maxY - box.minY));
  });
  return levels;
}

/** Which key has to lie above which. */
function demandsOf(parts: readonly SeenPart[]): Map<string, Set<string>> {
  const above = new Map<string, Set<string>>();
  for (const { key } of parts) if (!above.has(key)) above.set(key, new Set());
  const whole = wholeOf(parts);
  if (isEmptyBox(whole) || above.size < 2) return above;
  const tol = tolOf(whole);
  const rows = rowsOf(parts, tol);
  const keyOf = ({ part }: Covering): string => parts[part]?.key ?? '';
  for (const y of levelsOf(parts, whole)) {
    const here = rows(y);
    let near: [Covering[], Covering[]] | undefined;
    here.forEach((upper, u) => {
      for (const lower of here.slice(0, u)) {
        const [low, high] = [keyOf(lower), keyOf(upper)];
        if (low === high || above.get(low)?.has(high)) continue;
        const found = common(lower, upper);
        if (!found || found.length < 6 * tol) continue;
        // edges that two parts share are not quite alike: common ground reaches a little up and down as well
        near ??= [rows(y - 4 * tol), rows(y + 4 * tol)];
        const isGround = near.every((list) =>
          [lower, upper].every(({ part }) => list.some((one) => one.part === part && holds(one.stretches, found.x))),
        );
        if (isGround) above.get(low)?.add(high);
      }
    });
  }
  return above;
}

/** Strongly connected components. */
function componentsOf(above: ReadonlyMap<string, ReadonlySet<string>>): string[][] {
  const order = new Map<string, number>();
  const low = new Map<string, number>();
  const open: string[] = [];
  const isOpen = new Set<string>();
  const out: string[][] = [];
  const visit = (key: string): void => {
    order.set(key, order.size);
    low.set(key, order.get(key) as number);
    open.push(key);
    isOpen.add(key);
    for (const next of above.get(key) ?? []) {
      if (!order.has(next)) visit(next);
      if (isOpen.has(next)) low.set(key, Math.min(low.get(key) as number, low.get(next) as number));
    }
    if (low.get(key) !== order.get(key)) return;
    const component = open.splice(open.indexOf(key));
    for (const one of component) isOpen.delete(one);
    out.push(component);
  };
  for (const key of above.keys()) if (!order.has(key)) visit(key);
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
  const components = componentsOf(above).sort((a, b) => rank(a) - rank(b));
  const home = new Map(components.flatMap((component) => component.map((key) => [key, component] as const)));
  const waitsFor = new Map(components.map((component) => [component, new Set<string[]>()]));
  for (const [key, uppers] of above)
    for (const upper of uppers) {
      const [lower, higher] = [home.get(key) as string[], home.get(upper) as string[]];
      if (lower !== higher) waitsFor.get(higher)?.add(lower);
    }
  const done: string[][] = [];
  while (done.length < components.length) {
    const next = components.find((one) => !done.includes(one) && [...(waitsFor.get(one) ?? [])].every((lower) => done.includes(lower)));
    if (!next) break;
    done.push(next);
  }
  const inOrder = (keys: readonly string[]): string[] =>
    keptOrder(
      [...keys].sort((a, b) => (first.get(a) ?? 0) - (first.get(b) ?? 0)),
      fixed,
    );
  return { order: done.flatMap(inOrder), knots: done.filter((component) => component.length > 1).map(inOrder) };
}

/** The keys of a knot, as the given pairs want them; pairs that contradict one another are left. */
function keptOrder(keys: readonly string[], fixed: readonly (readonly [string, string])[]): string[] {
  const waiting = [...keys];
  const out: string[] = [];
  while (waiting.length > 0) {
    const isFree = (key: string): boolean => !fixed.some(([below, above]) => above === key && below !== key && waiting.includes(below));
    out.push(...waiting.splice(Math.max(0, waiting.findIndex(isFree)), 1));
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

/** Which key is seen at a place; undefined: nothing lies there. */
export function seenAtOf(parts: readonly SeenPart[]): (x: number, y: number) => string | undefined {
  const index = indexOf(boxesOf(parts));
  const lines = new Map<number, readonly Polyline[]>();
  return (x, y) => {
    const found = index?.search(x, y, x, y).sort((a, b) => b - a) ?? [];
    const top = found.find((i) => {
      const known = lines.get(i) ?? flatten(solidOf((parts[i] as SeenPart).outline), 0.05);
      lines.set(i, known);
      return windingNumber(known, x, y) !== 0;
    });
    return top === undefined ? undefined : parts[top]?.key;
  };
}
