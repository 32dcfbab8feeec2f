/**
 * Outlines without crossings. Curves of thin parts may come to cross one another however closely they are fitted; then
 * the contours that cross are welded, these alone, for a picture has thousands that do not. Units mm, looked at in
 * pixels.
 */
import { crossingPairs } from '../check/cut-check.ts';
import { bounds, contourArea } from '../geometry/outline.ts';
import { parsePath } from '../geometry/path.ts';
import { mapOutline } from '../geometry/transform.ts';
import { weld } from '../geometry/weld/weld.ts';
import type { Contour, Outline } from '../types/index.ts';

/**
 * Curves of thin parts may come to cross one another; those contours are welded, so that no blade meets a crossing.
 * @param mm size of a pixel
 * @returns the same outline when nothing crosses
 */
export function withoutCrossings(outline: Outline, mm: number): Outline {
  let now = outline;
  // slivers that come out of welding may cross once more
  for (let round = 0; round < MOST_WELDS; round++) {
    const next = weldCrossing(now, mm);
    if (next === now) break;
    now = { contours: next.contours.filter((contour) => Math.abs(contourArea(contour)) > NOTHING_PX * mm * mm) };
  }
  return now;
}

const MOST_WELDS = 4;
/** Crossings are looked for at so many times the pixel, in what the check takes for mm. */
const LOOKED_AT = 3;
/** Contours of less than this are what rounding leaves, pixels squared. */
const NOTHING_PX = 0.02;

/** @returns the same outline when nothing crosses */
function weldCrossing(outline: Outline, mm: number): Outline {
  const scaled = (times: number): Outline => mapOutline([times / mm, 0, 0, times / mm, 0, 0], outline);
  const pairs = crossingPairs(scaled(LOOKED_AT));
  if (pairs.length === 0) return outline;
  const large = scaled(10);
  const back = (contours: readonly Contour[]): readonly Contour[] => mapOutline([mm / 10, 0, 0, mm / 10, 0, 0], { contours }).contours;
  const whole: Contour[] = [];
  for (const group of groupsOf(pairs)) {
    const own = large.contours.filter((_, i) => group.has(i));
    const [widest] = own.map(contourArea).sort((a, b) => Math.abs(b) - Math.abs(a));
    if (own.every((contour) => contourArea(contour) < 0)) {
      whole.push(...weldedHoles(own));
      continue;
    }
    // else holes that cross without what they are holes of can only be told with all the rest
    if ((widest ?? 0) < 0) return { contours: back(weld([large]).contours) };
    whole.push(...weld([{ contours: own }]).contours);
  }
  const crossing = new Set(pairs.flat());
  return { contours: [...outline.contours.filter((_, i) => !crossing.has(i)), ...back(whole)] };
}

/** Holes alone are welded within a sheet that they are cut out of; what is left of them, without the sheet. */
function weldedHoles(holes: readonly Contour[]): readonly Contour[] {
  const { minX, minY, maxX, maxY } = bounds({ contours: holes });
  const [x0, y0, x1, y1] = [minX - SHEET, minY - SHEET, maxX + SHEET, maxY + SHEET];
  const sheet = parsePath(`M${x0} ${y0}L${x1} ${y0}L${x1} ${y1}L${x0} ${y1}Z`);
  const { contours } = weld([{ contours: [...sheet.contours, ...holes] }]);
  return contours.filter((contour) => bounds({ contours: [contour] }).minX > x0 + SHEET / 2);
}

/** How far the sheet reaches beyond the holes, tenths of a pixel. */
const SHEET = 100;

/** What is paired with one another, directly or by others. */
function groupsOf(pairs: readonly (readonly [number, number])[]): Set<number>[] {
  let groups: Set<number>[] = [];
  for (const [a, b] of pairs) {
    const meets = groups.filter((group) => group.has(a) || group.has(b));
    groups = [...groups.filter((group) => !meets.includes(group)), new Set([a, b, ...meets.flatMap((group) => [...group])])];
  }
  return groups;
}
