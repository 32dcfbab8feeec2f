/**
 * The quickest layout: boxes of the parts on shelves across the strip, the longest first (next fit, decreasing: E. Coffman,
 * M. Garey, D. Johnson, R. Tarjan, Performance bounds for level-oriented two-dimensional packing algorithms, 1980). It is
 * there at once, and what a search finds is never longer. Behind what lies on the strip already.
 */
import type { Matrix, Outline } from '../types/index.ts';
import { bounds } from '../geometry/outline.ts';
import { compose, rotation, translation, mappedBounds } from '../geometry/transform.ts';

/** A part and how often it is laid. */
export interface ShelfPart {
  readonly outline: Outline;
  readonly copies: number;
}

/** The layout, what found no room, and where it ends. */
export interface Shelved {
  readonly placed: readonly { readonly part: number; readonly copy: number; readonly turnDeg: number; readonly map: Matrix }[];
  readonly leftOut: readonly { readonly part: number; readonly copy: number }[];
  readonly usedLengthMm: number;
}

interface Turned {
  readonly part: number;
  readonly turnDeg: number;
  readonly map: Matrix;
  readonly lengthMm: number;
  readonly acrossMm: number;
}

interface ShelfStrip {
  readonly widthMm: number;
  readonly lengthMm?: number;
  readonly gapMm: number;
  readonly fixed?: readonly Outline[];
}

/** The turn that takes least of the strip's length and fits across it. */
function lyingFlat(outline: Outline, part: number, turns: readonly number[], widthMm: number): Turned | undefined {
  let best: Turned | undefined;
  for (const turnDeg of turns) {
    const { minX, minY, maxX, maxY } = mappedBounds(rotation(turnDeg), outline);
    const [lengthMm, acrossMm] = [maxX - minX, maxY - minY];
    if (acrossMm > widthMm || (best && best.lengthMm <= lengthMm)) continue;
    best = { part, turnDeg, map: compose(translation(-minX, -minY), rotation(turnDeg)), lengthMm, acrossMm };
  }
  return best;
}

/** Lays boxes of parts on shelves. @param turns degrees, multiples of 90 */
export function onShelves(
  parts: readonly ShelfPart[],
  { widthMm, lengthMm = Infinity, gapMm, fixed = [] }: ShelfStrip,
  turns: readonly number[],
): Shelved {
  const lying = parts.map(({ outline }, part) => lyingFlat(outline, part, turns, widthMm));
  const leftOut: { part: number; copy: number }[] = [];
  const order = parts.flatMap(({ copies }, part) => Array.from({ length: copies }, (_, copy) => ({ part, copy })));
  const placed: Shelved['placed'][number][] = [];
  const behind = fixed.reduce((most, outline) => Math.max(most, bounds(outline).maxX), -Infinity);
  let shelf = behind > 0 ? behind + gapMm : 0;
  let [across, deep, usedLengthMm] = [0, 0, Math.max(0, behind)];
  for (const { part, copy } of order.sort((a, b) => (lying[b.part]?.lengthMm ?? 0) - (lying[a.part]?.lengthMm ?? 0))) {
    const flat = lying[part];
    if (flat && across > 0 && across + flat.acrossMm > widthMm + 1e-9) {
      shelf += deep + gapMm;
      [across, deep] = [0, 0];
    }
    if (!flat || shelf + flat.lengthMm > lengthMm + 1e-9) {
      leftOut.push({ part, copy });
      continue;
    }
    placed.push({ part, copy, turnDeg: flat.turnDeg, map: compose(translation(shelf, across), flat.map) });
    across += flat.acrossMm + gapMm;
    deep = Math.max(deep, flat.lengthMm);
    usedLengthMm = Math.max(usedLengthMm, shelf + flat.lengthMm);
  }
  return { placed, leftOut, usedLengthMm };
}
