/**
 * Making a foreign outline cuttable, step by step, each on its own: loose ends joined, lines that lie on one another
 * dropped, crossings welded, specks dropped, nodes thinned out. A step that changes nothing hands the outline on as it
 * is. Units mm. Each step's limits are the caller's.
 */
import Flatbush from 'flatbush';
import type { Contour, Outline, Point, Span } from '../types/index.ts';
import { contourArea, contourBox, contourLength, nodeCount, reverseContour } from '../geometry/outline.ts';
import { deviation } from '../geometry/deviation.ts';
import { joinLooseEnds } from '../geometry/edit/join-loose.ts';
import { thinOut } from '../geometry/edit/thin-out.ts';
import { weld } from '../geometry/weld/weld.ts';
import { checkFilm, crossingPairs } from '../check/cut-check.ts';
import { bumpsOf } from '../check/nodes.ts';
import { oneSpanFor } from '../geometry/edit/nodes.ts';
import { spanLength, subSpan } from '../geometry/span.ts';

const MOST_BUMPS = 400;
/** A contour taken back can cross another that was not; so often at most. */
const MOST_ROUNDS = 4;

export interface CleanLimits {
  /** Ends within this are joined. */
  readonly gapMm: number;
  /** Lines nearer than this all along are the same line. */
  readonly doubledMm: number;
  /** Parts whose area is below this squared are dropped. */
  readonly speckMm: number;
  /** Nodes are thinned out within this. */
  readonly thinMm: number;
}

export type CleanStep = 'join' | 'doubled' | 'weld' | 'specks' | 'bumps' | 'thin-out';

export interface Cleaned {
  readonly step: CleanStep;
  readonly outline: Outline;
  /** What was done, in a sentence. */
  readonly text: string;
  /** Where something was taken away. */
  readonly dropped: readonly Point[];
  /** How far the line moved at most, where it moved. */
  readonly deviationMm: number;
}

interface Dropped {
  readonly outline: Outline;
  /** The middle of each contour that went. */
  readonly dropped: readonly Point[];
}

function without(outline: Outline, stays: (contour: Contour, i: number) => boolean): Dropped {
  const gone = outline.contours.filter((contour, i) => !stays(contour, i)).map(contourBox);
  if (gone.length === 0) return { outline, dropped: [] };
  return {
    outline: { contours: outline.contours.filter(stays) },
    dropped: gone.map(({ minX, minY, maxX, maxY }) => ({ x: (minX + maxX) / 2, y: (minY + maxY) / 2 })),
  };
}

/**
 * Contours that lie on an earlier one all along, either way round, are dropped.
 * @param withinMm farther apart they are two lines, mm
 * @returns the outline without them, and how many went
 */
export function dropDoubled(outline: Outline, withinMm: number): Dropped {
  const { contours } = outline;
  if (contours.length < 2) return { outline, dropped: [] };
  const boxes = contours.map(contourBox);
  const index = new Flatbush(contours.length);
  for (const box of boxes) index.add(box.minX, box.minY, box.maxX, box.maxY);
  index.finish();
  const gone = new Set<number>();
  contours.forEach((contour, i) => {
    const box = boxes[i] as (typeof boxes)[number];
    const like = (k: number): boolean => {
      const other = boxes[k] as (typeof boxes)[number];
      const apart = Math.max(
        Math.abs(other.minX - box.minX),
        Math.abs(other.minY - box.minY),
        Math.abs(other.maxX - box.maxX),
        Math.abs(other.maxY - box.maxY),
      );
      return k > i && !gone.has(k) && apart <= withinMm;
    };
    if (gone.has(i)) return;
    for (const k of index.search(box.minX, box.minY, box.maxX, box.maxY, like)) {
      const other = contours[k] as Contour;
      const length = contourLength(contour);
      // a coarse look first: measuring the distance is dear
      if (Math.abs(contourLength(other) - length) > 0.02 * length + 4 * withinMm) continue;
      if (deviation({ contours: [contour] }, { contours: [other] }) <= withinMm) gone.add(k);
    }
  });
  return without(outline, (_, i) => !gone.has(i));
}

/**
 * Closed parts and holes smaller than the limit go.
 * @param speckMm side of the square of as much area, mm
 * @returns the outline without them, and how many went
 */
export const dropSpecks = (outline: Outline, speckMm: number): Dropped =>
  without(outline, (c) => !c.closed || Math.sqrt(Math.abs(contourArea(c))) >= speckMm);

/** The numbers of the contours that cross one another or themselves. */
const crossingContours = (outline: Outline): Map<string, readonly number[]> =>
  new Map(crossingPairs(outline).map((pair) => [[...pair].sort((a, b) => a - b).join(':'), pair]));

/**
 * Contours whose new line crosses what the old one did not have the old one again. Contours are as many as before.
 * @returns as many contours as before, some of them the old ones
 */
export function withoutNewCrossings(before: Outline, after: Outline): Outline {
  if (before === after || before.contours.length !== after.contours.length) return after;
  const known = crossingContours(before);
  let now = after;
  for (let round = 0; round < MOST_ROUNDS; round++) {
    const fresh = [...crossingContours(now)].filter(([pair]) => !known.has(pair)).flatMap(([, contours]) => contours);
    if (fresh.length === 0) return now;
    const back = new Set(fresh);
    now = { contours: now.contours.map((contour, i) => (back.has(i) ? (before.contours[i] as Contour) : contour)) };
  }
  return before;
}

/** Does an outline cross itself or run along itself? */
const crosses = (outline: Outline): boolean =>
  checkFilm([{ id: '', name: '', outline }]).some(({ code }) => code === 'crossing' || code === 'doubled');

/**
 * Closed contours as the non-zero rule fills them, without crossings; open ones stay.
 * @returns `wasWelded` false leaves the outline as it is
 */
export function weldCrossings(outline: Outline): { outline: Outline; wasWelded: boolean } {
  const closed = outline.contours.filter((c) => c.closed);
  if (closed.length === 0 || !crosses({ contours: closed })) return { outline, wasWelded: false };
  const upright = closed.length === 1 && contourArea(closed[0] as Contour) < 0 ? closed.map(reverseContour) : closed;
  const welded = weld([{ contours: upright }]);
  return { outline: { contours: [...welded.contours, ...outline.contours.filter((c) => !c.closed)] }, wasWelded: true };
}

/** How much of the line before and after a bump is redrawn with it, mm. */
const BLEND_MM = 2;

/** A span in two at `mm` from one of its ends; the part away from there is empty when the span is shorter. */
function partedNear(span: Span, atEnd: boolean, mm: number): { kept: Span[]; near: Span } {
  const length = spanLength(span);
  if (length <= mm * 1.2) return { kept: [], near: span };
  const t = atEnd ? 1 - mm / length : mm / length;
  return atEnd ? { kept: [subSpan(span, 0, t)], near: subSpan(span, t, 1) } : { kept: [subSpan(span, t, 1)], near: subSpan(span, 0, t) };
}

/** Each bump and a little of the line before and after it become one curve. @returns how many were smoothed */
export function smoothBumps(outline: Outline): { outline: Outline; smoothed: number } {
  let smoothed = 0;
  const contours = outline.contours.map((contour): Contour => {
    let spans: readonly Span[] = contour.spans;
    for (let round = 0; round < MOST_BUMPS; round++) {
      const [bump] = bumpsOf({ closed: contour.closed, spans });
      if (!bump || spans.length < bump.spans + 3) break;
      // turned so that the run lies at the front of the list
      const shift = contour.closed ? (bump.first - 1 + spans.length) % spans.length : 0;
      const turned = [...spans.slice(shift), ...spans.slice(0, shift)];
      const from = contour.closed ? 0 : bump.first - 1;
      const run = turned.slice(from, from + bump.spans + 2);
      const before = partedNear(run[0] as Span, true, BLEND_MM);
      const after = partedNear(run.at(-1) as Span, false, BLEND_MM);
      const redrawn = oneSpanFor([before.near, ...run.slice(1, -1), after.near]).span;
      spans = [...turned.slice(0, from), ...before.kept, redrawn, ...after.kept, ...turned.slice(from + run.length)];
      smoothed++;
    }
    return spans === contour.spans ? contour : { closed: contour.closed, spans };
  });
  return smoothed === 0 ? { outline, smoothed } : { outline: { contours }, smoothed };
}

const count = (n: number, one: string, many: string): string => `${n} ${n === 1 ? one : many}`;

/**
 * The steps in order, those that changed something; only some of them when they are named.
 * @returns an empty list for an outline that is cuttable already
 */
export function makeCuttable(outline: Outline, limits: CleanLimits, only?: readonly CleanStep[]): Cleaned[] {
  const out: Cleaned[] = [];
  let current = outline;
  type Work = { outline: Outline; text: string; dropped?: readonly Point[]; deviationMm?: number };
  const take = (step: CleanStep, work: () => Work | undefined): void => {
    const made = only === undefined || only.includes(step) ? work() : undefined;
    if (!made) return;
    current = made.outline;
    out.push({ step, dropped: [], deviationMm: 0, ...made });
  };
  take('join', () => {
    const { outline: next, joints } = joinLooseEnds(current, limits.gapMm);
    return joints > 0 ? { outline: next, text: `${count(joints, 'pair of loose ends', 'pairs of loose ends')} joined.` } : undefined;
  });
  take('doubled', () => {
    const { outline: next, dropped } = dropDoubled(current, limits.doubledMm);
    return dropped.length > 0
      ? { outline: next, dropped, text: `${count(dropped.length, 'doubled line', 'doubled lines')} dropped.` }
      : undefined;
  });
  take('weld', () => {
    const { outline: next, wasWelded } = weldCrossings(current);
    return wasWelded ? { outline: next, text: 'What crossed was welded.' } : undefined;
  });
  take('specks', () => {
    const { outline: next, dropped } = dropSpecks(current, limits.speckMm);
    return dropped.length > 0 ? { outline: next, dropped, text: `${count(dropped.length, 'speck', 'specks')} dropped.` } : undefined;
  });
  take('thin-out', () => {
    if (nodeCount(current) === 0) return undefined;
    const thin = thinOut(current, limits.thinMm);
    // a node or two fewer are not worth a change of the form
    if (thin.nodesAfter >= 0.7 * thin.nodesBefore) return undefined;
    const thinned = withoutNewCrossings(current, thin.outline);
    const nodesAfter = nodeCount(thinned);
    if (nodesAfter >= 0.7 * thin.nodesBefore) return undefined;
    const text = `${thin.nodesBefore} nodes became ${nodesAfter}, ${thin.deviation.toFixed(3)} mm off at most.`;
    return { outline: thinned, text, deviationMm: thin.deviation };
  });
  take('bumps', () => {
    const { outline: next, smoothed } = smoothBumps(current);
    const smooth = smoothed > 0 ? withoutNewCrossings(current, next) : current;
    if (smooth.contours.every((contour, i) => contour === current.contours[i])) return undefined;
    return { outline: smooth, text: `${count(smoothed, 'bump', 'bumps')} smoothed.`, deviationMm: deviation(current, smooth) };
  });
  return out;
}
