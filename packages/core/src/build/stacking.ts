/**
 * In which order films lie on one another so that a drawing shows what it showed.
 *
 * Method: parts come in the order they are seen, later ones on earlier ones. Wherever a part covers an earlier one of
 * another key (a colour, a film), the later key has to lie above. The keys and these demands are a directed graph: its
 * strongly connected components (R. Tarjan, Depth-first search and linear graph algorithms, 1972) of more than one key
 * are knots, where no order of whole films shows the drawing; between components the topological order with the
 * earliest first (A. B. Kahn, 1962) is taken. Units mm. Open outlines hide nothing.
 * Limits: `MOST_TESTS` overlaps are worked out exactly; pairs beyond are taken as apart, which `comparedLooks` would show.
 */
import Flatbush from 'flatbush';
import type { Box, Outline } from '../types/index.ts';
import { flatten, type Polyline } from '../geometry/flatten.ts';
import { windingNumber } from '../geometry/hit.ts';
import { area, bounds, isEmptyBox, joinBoxes, EMPTY_BOX, pathLength } from '../geometry/outline.ts';
import { keepOverlap } from '../geometry/weld/weld.ts';

export interface SeenPart {
  readonly key: string;
  readonly outline: Outline;
}

export interface Stacking {
  /** Keys, bottom first; those of a knot one after the other. */
  readonly order: readonly string[];
  /** Keys that lie both over and under one another. */
  readonly knots: readonly (readonly string[])[];
}

const MOST_TESTS = 6000;
const MOST_PAIRS = 2_000_000;
/** What parts that only meet may share by rounding: mm² for each mm of edge, and mm² at least. */
const MEETING_MM = 0.005;
const MEETING_MM2 = 0.01;

/** The closed contours, which hide what lies below. */
const solidOf = (outline: Outline): Outline =>
  outline.contours.every(({ closed }) => closed) ? outline : { contours: outline.contours.filter(({ closed }) => closed) };

/** An index over the boxes of parts; those without an inside have none. */
export function indexOf(boxes: readonly Box[]): Flatbush | undefined {
  if (boxes.length === 0) return undefined;
  const index = new Flatbush(boxes.length);
  for (const box of boxes) {
    if (isEmptyBox(box)) index.add(Infinity, Infinity, -Infinity, -Infinity);
    else index.add(box.minX, box.minY, box.maxX, box.maxY);
  }
  index.finish();
  return index;
}

export const boxesOf = (parts: readonly SeenPart[]): Box[] => parts.map(({ outline }) => bounds(solidOf(outline)));

/** Do two parts cover common ground, more than rounding leaves where they meet? */
function coverCommon(a: Outline, b: Outline): boolean {
  const common = keepOverlap([solidOf(a), solidOf(b)]);
  return Math.abs(area(common)) > Math.max(MEETING_MM2, MEETING_MM * pathLength(common));
}

/** Which key has to lie above which. */
function demandsOf(parts: readonly SeenPart[]): Map<string, Set<string>> {
  const above = new Map<string, Set<string>>();
  for (const { key } of parts) if (!above.has(key)) above.set(key, new Set());
  const boxes = boxesOf(parts);
  const index = indexOf(boxes);
  let [tests, pairs] = [0, 0];
  parts.forEach((upper, j) => {
    const box = boxes[j] as Box;
    if (!index || isEmptyBox(box) || pairs > MOST_PAIRS) return;
    const below = index.search(box.minX, box.minY, box.maxX, box.maxY, (i) => {
      pairs++;
      return i < j && parts[i]?.key !== upper.key;
    });
    for (const i of below.sort((a, b) => a - b)) {
      const lower = parts[i] as SeenPart;
      if (above.get(lower.key)?.has(upper.key) || tests >= MOST_TESTS) continue;
      tests++;
      if (coverCommon(lower.outline, upper.outline)) above.get(lower.key)?.add(upper.key);
    }
  });
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

/** How fine the look is sampled, points each way. */
const SAMPLES = 96;

/**
 * The share of the covered ground that shows another key than before, 0 to 1.
 * @param before as they were seen, later ones on earlier ones
 * @param after as they are seen now
 */
export function comparedLooks(before: readonly SeenPart[], after: readonly SeenPart[]): number {
  const [seenBefore, seenAfter] = [seenAtOf(before), seenAtOf(after)];
  const box = boxesOf(before).reduce(joinBoxes, EMPTY_BOX);
  if (isEmptyBox(box)) return 0;
  let [covered, other] = [0, 0];
  for (let k = 0; k < SAMPLES * SAMPLES; k++) {
    // off the middle of the cells by an irrational step, so that rows of alike parts are not all met or all missed
    const x = box.minX + ((k % SAMPLES) + ((k * 0.6180339887) % 1)) * ((box.maxX - box.minX) / SAMPLES);
    const y = box.minY + (Math.floor(k / SAMPLES) + ((k * 0.7548776662) % 1)) * ((box.maxY - box.minY) / SAMPLES);
    const [was, is] = [seenBefore(x, y), seenAfter(x, y)];
    if (was !== undefined || is !== undefined) covered++;
    if (was !== is) other++;
  }
  return covered === 0 ? 0 : other / covered;
}

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
