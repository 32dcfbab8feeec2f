/**
 * Parts that lie on one another as what is seen of each: nothing is covered twice and nothing cut that is hidden.
 * Method: from each part the later ones of another key whose boxes meet it are knocked out (`knockOutWelded`, each
 * looked through once); parts that
 * nothing covers stay bit for bit. Units mm. Open lines are no surfaces: they hide nothing and stay whole.
 * @complexity O(n log n) searches and one knock-out for each part that is covered
 */
import type { Box, Contour, Outline } from '../types/index.ts';
import { area, bounds, boxesMeet, contourBox, EMPTY_OUTLINE, isEmptyBox, joinOutlines } from '../geometry/outline.ts';
import { asCutter, knockOutWelded, weld } from '../geometry/weld/weld.ts';
import { boxesOf, indexOf, solidOf, type SeenPart } from './seen-part.ts';

/** What is left of a part that is hidden all but rounding, mm². */
const HIDDEN_MM2 = 1e-4;

const openOf = ({ contours }: Outline): Contour[] => contours.filter(({ closed }) => !closed);

/**
 * What is seen of each part, in the same order; the same object where nothing covers it, an empty outline where all is
 * hidden.
 * @param among keys that are cut out of one another; all when absent
 * @param onShare told how much of it is done, 0 to 1
 */
export function seenOfParts(
  parts: readonly SeenPart[],
  among?: ReadonlySet<string>,
  onShare: (share: number) => void = () => undefined,
): Outline[] {
  const boxes = boxesOf(parts);
  const index = indexOf(boxes);
  const known = new Map<number, Outline>();
  const cutterOf = (j: number): Outline => {
    const cutter = known.get(j) ?? asCutter((parts[j] as SeenPart).outline);
    known.set(j, cutter);
    return cutter;
  };
  return parts.map(({ key, outline }, i) => {
    onShare(i / parts.length);
    const box = boxes[i] as Box;
    if (!index || isEmptyBox(box) || (among && !among.has(key))) return outline;
    const covers = (j: number): boolean => j > i && parts[j]?.key !== key && (!among || among.has(parts[j]?.key ?? ''));
    const cutters = index.search(box.minX, box.minY, box.maxX, box.maxY, covers);
    if (cutters.length === 0) return outline;
    const solid = solidOf(outline);
    const seen = cutOut(solid, cutters, boxes, cutterOf);
    const open = openOf(outline);
    if (Math.abs(area(seen)) <= HIDDEN_MM2) return open.length > 0 ? { contours: open } : EMPTY_OUTLINE;
    // what only shares an edge, or a box, is not touched
    if (isSameArea(seen, solid)) return outline;
    return open.length > 0 ? { contours: [...seen.contours, ...open] } : seen;
  });
}

/** So many cutters at a time: what is hidden is mostly hidden by a few of them. */
const AT_ONCE = 4;

/** What is left of an outline, the cutters that cover most of it first, and those that cannot reach what is left not at all. */
function cutOut(solid: Outline, cutters: readonly number[], boxes: readonly Box[], cutterOf: (j: number) => Outline): Outline {
  let left = solid;
  const own = bounds(solid);
  const sharedWith = (j: number): number => {
    const { minX, minY, maxX, maxY } = boxes[j] as Box;
    return (Math.min(own.maxX, maxX) - Math.max(own.minX, minX)) * (Math.min(own.maxY, maxY) - Math.max(own.minY, minY));
  };
  let waiting = [...cutters].sort((a, b) => sharedWith(b) - sharedWith(a));
  while (waiting.length > 0 && left.contours.length > 0) {
    const now = waiting.slice(0, AT_ONCE);
    left = knockOutWelded(left, joinOutlines(now.map(cutterOf)));
    const rest = left.contours.map(contourBox);
    waiting = waiting.slice(AT_ONCE).filter((j) => rest.some((box) => boxesMeet(box, boxes[j] as Box)));
  }
  return left;
}

const isSameArea = (a: Outline, b: Outline): boolean => Math.abs(area(a) - area(b)) < 1e-9 * Math.max(1, Math.abs(area(b)));

/**
 * Groups of the numbers of parts of one key that lie on or against one another; alone ones are groups of one.
 * @param parts of one key only
 * @complexity an index over the boxes, and a weld of each pair whose boxes meet
 */
export function touchingOfKey(parts: readonly SeenPart[]): number[][] {
  const boxes = boxesOf(parts);
  const index = indexOf(boxes);
  const home = parts.map((_, i) => i);
  const pieces = new Map<number, number>();
  const alone = (i: number): number => {
    const known = pieces.get(i) ?? piecesOf([(parts[i] as SeenPart).outline]);
    pieces.set(i, known);
    return known;
  };
  const isOnePiece = (i: number, j: number): boolean =>
    piecesOf([(parts[i] as SeenPart).outline, (parts[j] as SeenPart).outline]) < alone(i) + alone(j);
  const find = (i: number): number => {
    let at = i;
    while (home[at] !== at) at = home[at] = home[home[at] as number] as number;
    return at;
  };
  parts.forEach(({ key }, i) => {
    const box = boxes[i] as Box;
    if (!index || isEmptyBox(box)) return;
    for (const j of index.search(box.minX, box.minY, box.maxX, box.maxY, (k) => k > i && parts[k]?.key === key))
      if (find(i) !== find(j) && boxesMeet(box, boxes[j] as Box) && isOnePiece(i, j)) home[find(j)] = find(i);
  });
  const groups = new Map<number, number[]>();
  parts.forEach((_, i) => groups.set(find(i), [...(groups.get(find(i)) ?? []), i]));
  return [...groups.values()];
}

/** In how many pieces an outline lies: holes do not count, for what meets may also close a ring. */
const piecesOf = (outlines: readonly Outline[]): number =>
  weld(outlines).contours.filter((contour) => area({ contours: [contour] }) > 0).length;

/** A part of a flattened drawing, and the parts that it is made of. */
export interface FlatPart {
  readonly of: readonly number[];
  readonly outline: Outline;
}

/**
 * The drawing as it is seen, in pieces: what touches and has one key is one piece. In the order of the lowest part of each.
 * @param parts later ones on earlier ones
 * @param onShare is told how much is done, 0 to 1
 */
export function flattenParts(parts: readonly SeenPart[], onShare?: (share: number) => void): FlatPart[] {
  const seen = seenOfParts(parts, undefined, onShare).map((outline, i) => ({ key: parts[i]?.key ?? '', outline }));
  return touchingOfKey(seen).flatMap((of) => {
    const own = of.map((i) => (seen[i] as SeenPart).outline).filter(({ contours }) => contours.length > 0);
    const [only] = own;
    if (!only) return [];
    if (own.length === 1) return [{ of, outline: only }];
    return [{ of, outline: { contours: [...weld(own).contours, ...own.flatMap(openOf)] } }];
  });
}
