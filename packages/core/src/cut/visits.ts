/**
 * Visits of contours: at which of its nodes each is begun, and the way between them with the tool up.
 * Method: for an order that is given the nodes are chosen by dynamic programming over the contours' nodes, as a shortest way
 * through layers (R. Bellman, Dynamic programming, 1957). Cost: contours times the square of the nodes of one. mm.
 */
import type { Contour, Point } from '../types/index.ts';
import { contourEnd } from '../geometry/outline.ts';
import { startX, startY } from '../geometry/span.ts';

/** Share of contours that are begun elsewhere when a round has not helped. */
const ELSEWHERE = 0.15;
const MOST_START_NODES = 24;

export interface Candidate {
  x: number;
  y: number;
  index: number;
}

export function candidates(contour: Contour): Candidate[] {
  const first = contour.spans[0];
  if (!first) return [];
  if (!contour.closed) {
    const end = contourEnd(contour);
    return [
      { x: startX(first), y: startY(first), index: 0 },
      { ...end, index: contour.spans.length },
    ];
  }
  const stride = Math.max(1, Math.ceil(contour.spans.length / MOST_START_NODES));
  return contour.spans.flatMap((span, index) => (index % stride === 0 ? [{ x: startX(span), y: startY(span), index }] : []));
}

/** Where the tool is after cutting from a start index. */
export function leaves(contour: Contour, start: number): Point {
  if (!contour.closed) {
    const first = contour.spans[0];
    return start === 0 || !first ? contourEnd(contour) : { x: startX(first), y: startY(first) };
  }
  const span = contour.spans[start];
  return span ? { x: startX(span), y: startY(span) } : { x: 0, y: 0 };
}

export interface Visit {
  contour: number;
  start: number;
  enter: Point;
  leave: Point;
}

const gap = (a: Point, b: Point): number => Math.hypot(a.x - b.x, a.y - b.y);

/** The nodes at which each contour is begun so that the whole way is shortest in this order: dynamic programming over them. */
export function chooseStarts(visits: readonly Visit[], lists: readonly Candidate[][], contours: readonly Contour[], from: Point): Visit[] {
  const before: Int32Array[] = [];
  let ends: { at: Point; cost: number }[] = [{ at: from, cost: 0 }];
  for (const { contour } of visits) {
    const nodes = lists[contour] ?? [];
    const back = new Int32Array(nodes.length);
    const next = nodes.map((node, k) => {
      let best = Infinity;
      ends.forEach(({ at: end, cost }, e) => {
        const sum = cost + Math.hypot(end.x - node.x, end.y - node.y);
        if (sum < best) {
          best = sum;
          back[k] = e;
        }
      });
      return { at: leaves(contours[contour] as Contour, node.index), cost: best };
    });
    before.push(back);
    ends = next;
  }
  let at0 = ends.reduce((best, { cost }, k) => (cost < (ends[best]?.cost ?? Infinity) ? k : best), 0);
  const chosen: Visit[] = [];
  for (let k = visits.length - 1; k >= 0; k--) {
    const { contour } = visits[k] as Visit;
    const node = lists[contour]?.[at0] as Candidate;
    chosen.push({ contour, start: node.index, enter: { x: node.x, y: node.y }, leave: leaves(contours[contour] as Contour, node.index) });
    at0 = before[k]?.[at0] ?? 0;
  }
  return chosen.reverse();
}

/** The same order with some contours begun at other nodes, so that the next tour looks elsewhere. */
export const begunElsewhere = (
  visits: readonly Visit[],
  lists: readonly Candidate[][],
  contours: readonly Contour[],
  random: () => number,
): Visit[] =>
  visits.map((visit) => {
    const nodes = lists[visit.contour] ?? [];
    const node = random() < ELSEWHERE ? nodes[Math.floor(random() * nodes.length)] : undefined;
    return node
      ? { contour: visit.contour, start: node.index, enter: node, leave: leaves(contours[visit.contour] as Contour, node.index) }
      : visit;
  });

export const wayOf = (visits: readonly Visit[], from: Point): number =>
  visits.reduce((sum, visit, k) => sum + gap(k === 0 ? from : (visits[k - 1] as Visit).leave, visit.enter), 0);
