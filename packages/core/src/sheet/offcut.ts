/**
 * What is left of a sheet that was cut: the piece beside the work that is worth keeping. Its outline follows the work in
 * steps; the largest upright rectangle in it says what size it counts as.
 * Method: a skyline of the work from one long edge of the material in columns of `COLUMN_MM`, on the side with more room;
 * largest rectangle under a histogram by a stack, O(columns). Units: mm, x along the material, y across.
 */
import type { Box, Contour, Outline, Span } from '../types/index.ts';

/** What is left of a piece, and the largest rectangle in it. */
export interface Offcut {
  /** Of the piece, from its own lower left corner. */
  readonly outline: Outline;
  /** Largest rectangle in it: across the material, and along it. */
  readonly widthMm: number;
  readonly lengthMm: number;
}

const COLUMN_MM = 10;
/** Narrower than this is waste. */
export const LEAST_OFFCUT_MM = 60;

/** The largest rectangle under bars that stand side by side. @returns first bar, count of bars, height */
export function largestUnder(bars: readonly number[]): { from: number; count: number; height: number } {
  const stack: { at: number; height: number }[] = [];
  let best = { from: 0, count: 0, height: 0 };
  for (let i = 0; i <= bars.length; i++) {
    const height = i < bars.length ? Math.max(0, bars[i] as number) : 0;
    let at = i;
    for (let top = stack.at(-1); top && top.height >= height; top = stack.at(-1)) {
      stack.pop();
      at = top.at;
      if ((i - at) * top.height > best.count * best.height) best = { from: at, count: i - at, height: top.height };
    }
    stack.push({ at, height });
  }
  return best;
}

/**
 * @param used boxes of what was cut, within the sheet
 * @param gapMm what is left beside the work
 * @returns undefined when nothing worth keeping is left
 */
export function offcutOf(used: readonly Box[], lengthMm: number, widthMm: number, gapMm: number): Offcut | undefined {
  const columns = Math.floor(lengthMm / COLUMN_MM);
  if (columns < 1 || !(widthMm > 0)) return undefined;
  const step = lengthMm / columns;
  const free = (from: 'above' | 'below'): number[] => {
    const bars = new Array<number>(columns).fill(widthMm);
    for (const { minX, minY, maxX, maxY } of used) {
      const [first, last] = [Math.max(0, Math.floor((minX - gapMm) / step)), Math.min(columns - 1, Math.floor((maxX + gapMm) / step))];
      const left = Math.max(0, from === 'above' ? widthMm - maxY - gapMm : minY - gapMm);
      for (let i = first; i <= last; i++) bars[i] = Math.min(bars[i] as number, left);
    }
    return bars;
  };
  const sides = (['above', 'below'] as const).map((side) => {
    const bars = free(side);
    return { bars, best: largestUnder(bars) };
  });
  const [above, below] = sides as [(typeof sides)[number], (typeof sides)[number]];
  const { bars, best } = below.best.count * below.best.height > above.best.count * above.best.height ? below : above;
  const [along, across] = [best.count * step, best.height];
  if (Math.min(along, across) < LEAST_OFFCUT_MM) return undefined;
  // the piece holds together where it is not narrower than what counts as waste
  let [from, to] = [best.from, best.from + best.count - 1];
  while (from > 0 && (bars[from - 1] as number) >= LEAST_OFFCUT_MM / 2) from--;
  while (to < columns - 1 && (bars[to + 1] as number) >= LEAST_OFFCUT_MM / 2) to++;
  return { outline: skyline(bars.slice(from, to + 1), step), widthMm: across, lengthMm: along };
}

/** The outline of bars that hang from one edge, as a closed contour from the origin, its straight edge above. */
function skyline(bars: readonly number[], step: number): Outline {
  const top = Math.max(...bars);
  const points: [number, number][] = [
    [bars.length * step, top],
    [0, top],
  ];
  bars.forEach((bar, i) => {
    const y = top - bar;
    const before = points.at(-1) as [number, number];
    // a step only where the height changes
    if (i === 0 || before[1] !== y) points.push([i * step, y]);
    if (i === bars.length - 1 || bars[i + 1] !== bar) points.push([(i + 1) * step, y]);
  });
  const spans = points.map((point, i): Span => [...point, ...(points[(i + 1) % points.length] as [number, number])]);
  const contour: Contour = { closed: true, spans: spans.filter(([x0, y0, x1, y1]) => x0 !== x1 || y0 !== y1) };
  return { contours: [contour] };
}
