/**
 * Placing boxes: align to an edge or centre of a frame, distribute by gap, edge pitch or centre pitch.
 * Gap is the clear way between neighbours; edge pitch is from one's first edge to the next one's first edge;
 * centre pitch is from centre to centre. Order along the axis is the order of the boxes' centres.
 * Units mm. Pure arithmetic, exact to rounding.
 */
import type { Box } from '../types/index.ts';
import { InputError } from '../errors/index.ts';
import { at } from '../geometry/span.ts';

export type Axis = 'x' | 'y';
/** Which line of the box: its low edge (left, lower), middle, or high edge (right, upper). */
export type Line = 'low' | 'middle' | 'high';
export type Spacing = 'gap' | 'edge-pitch' | 'centre-pitch';

const low = (box: Box, axis: Axis): number => (axis === 'x' ? box.minX : box.minY);
const high = (box: Box, axis: Axis): number => (axis === 'x' ? box.maxX : box.maxY);
const centre = (box: Box, axis: Axis): number => (low(box, axis) + high(box, axis)) / 2;
const lineOf = (box: Box, axis: Axis, line: Line): number =>
  line === 'low' ? low(box, axis) : line === 'high' ? high(box, axis) : centre(box, axis);

/** Shifts that bring a line of each box onto the same line of the frame. @returns one shift a box, mm */
export const align = (boxes: readonly Box[], frame: Box, axis: Axis, line: Line): number[] =>
  boxes.map((box) => lineOf(frame, axis, line) - lineOf(box, axis, line));

export interface Distribution {
  /** One shift a box, in the boxes' own order, mm. */
  readonly shifts: readonly number[];
  /** From the first low edge to the last high edge afterwards, mm. */
  readonly overallMm: number;
}

/**
 * Distributes boxes along an axis, the first one staying where it is.
 * @param distanceMm the gap or pitch; undefined: as even as the room from the first to the last box gives
 * @throws InputError `input.distance` when it is no number
 */
export function distribute(boxes: readonly Box[], axis: Axis, spacing: Spacing, distanceMm?: number): Distribution {
  if (distanceMm !== undefined && !Number.isFinite(distanceMm))
    throw new InputError('distance', `The distance must be a number, not ${distanceMm}.`);
  const order = boxes.map((_, i) => i).sort((a, b) => centre(boxes[a] as Box, axis) - centre(boxes[b] as Box, axis) || a - b);
  const sorted = order.map((i) => boxes[i] as Box);
  if (sorted.length < 2) return { shifts: boxes.map(() => 0), overallMm: sorted[0] ? high(sorted[0], axis) - low(sorted[0], axis) : 0 };
  const sizes = sorted.map((box) => high(box, axis) - low(box, axis));
  const step = distanceMm ?? evenStep(sorted, sizes, axis, spacing);
  const starts = [low(sorted[0] as Box, axis)];
  for (let i = 1; i < sorted.length; i++) {
    const before = at(starts, i - 1);
    const [own, last] = [at(sizes, i), at(sizes, i - 1)];
    starts.push(spacing === 'gap' ? before + last + step : spacing === 'edge-pitch' ? before + step : before + last / 2 + step - own / 2);
  }
  const shifts = new Array<number>(boxes.length).fill(0);
  order.forEach((index, i) => {
    shifts[index] = at(starts, i) - low(sorted[i] as Box, axis);
  });
  const overallMm = Math.max(...starts.map((s, i) => s + at(sizes, i))) - Math.min(...starts);
  return { shifts, overallMm };
}

/** The gap or pitch that keeps the first and the last box where they are. */
function evenStep(sorted: readonly Box[], sizes: readonly number[], axis: Axis, spacing: Spacing): number {
  const [first, last] = [sorted[0] as Box, sorted.at(-1) as Box];
  const spaces = sorted.length - 1;
  if (spacing === 'edge-pitch') return (low(last, axis) - low(first, axis)) / spaces;
  if (spacing === 'centre-pitch') return (centre(last, axis) - centre(first, axis)) / spaces;
  return (high(last, axis) - low(first, axis) - sizes.reduce((sum, size) => sum + size, 0)) / spaces;
}
export { repeatMaps, type Repeat } from './repeat.ts';
