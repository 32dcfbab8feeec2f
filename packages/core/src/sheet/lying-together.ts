/** Which outlines lie on one another, on a grid of a thousandth of the whole: for parts that have to stay together. */
import type { Box, Outline } from '../types/index.ts';
import { flatten } from '../geometry/flatten.ts';
import { bounds, isEmptyBox } from '../geometry/outline.ts';
import { at } from '../geometry/span.ts';
import { coverOf, coversMeet } from './cover.ts';

/** Sets of outlines that meet, by index; an empty one is a set of its own. */
export function lyingTogether(outlines: readonly Outline[]): number[][] {
  const boxes = outlines.map(bounds);
  const whole = boxes.reduce((size, box) => (isEmptyBox(box) ? size : Math.max(size, box.maxX - box.minX, box.maxY - box.minY)), 0);
  const cell = Math.max(whole / 1000, 1e-3);
  const covers = outlines.map((outline, i) =>
    isEmptyBox(boxes[i] as Box) ? undefined : coverOf(flatten(outline, cell / 4), boxes[i] as Box, cell, 0),
  );
  const home = outlines.map((_, i) => i);
  const find = (i: number): number => {
    while (at(home, i) !== i) i = at(home, i);
    return i;
  };
  covers.forEach((a, i) => {
    for (let j = 0; j < i; j++) {
      const b = covers[j];
      if (a && b && find(i) !== find(j) && coversMeet(a, b)) home[find(i)] = find(j);
    }
  });
  const sets = new Map<number, number[]>();
  outlines.forEach((_, i) => sets.set(find(i), [...(sets.get(find(i)) ?? []), i]));
  return [...sets.values()];
}
