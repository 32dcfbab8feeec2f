/**
 * Outlines that run badly on a machine: far too many nodes, and bumps.
 * A bump is a few sharp turns one after the other within a short way that take one another back, so that the line goes
 * on as before: a step or a tooth that nobody drew. Units mm, degrees. Cost: linear in the nodes.
 */
import type { Contour, Point } from '../types/index.ts';
import { at, endTangent, spanLength, startX, startY } from '../geometry/span.ts';
import type { CheckPart, Finding } from './cut-check.ts';

/** Outlines of fewer nodes are never crowded. */
const LEAST_NODES = 60;
/** Nodes nearer together than this on average are too many. */
const CROWDED_MM = 0.35;
const BUMP_MM = 0.8;
const SHARP_DEG = 28;
/** How nearly the line must go on as before. */
const BACK_DEG = 16;
const MOST_PLACES = 40;

/** @returns one finding a part whose outline has far more nodes than its form needs */
export function findCrowded(parts: readonly CheckPart[]): Finding[] {
  return parts.flatMap((part): Finding[] => {
    const nodes = part.outline.contours.reduce((sum, c) => sum + c.spans.length, 0);
    if (nodes < LEAST_NODES) return [];
    const crowded = part.outline.contours.filter((c) => c.spans.length >= LEAST_NODES);
    const length = crowded.reduce((sum, c) => sum + c.spans.reduce((s, span) => s + spanLength(span), 0), 0);
    const own = crowded.reduce((sum, c) => sum + c.spans.length, 0);
    if (own === 0 || length / own >= CROWDED_MM) return [];
    const [first] = crowded[0]?.spans ?? [];
    return [
      {
        code: 'many-nodes',
        level: 'warning',
        text: `“${part.name}” has ${own} nodes, one every ${(length / own).toFixed(2)} mm: the machine will be slow and the edge uneven.`,
        place: first && { x: startX(first), y: startY(first) },
        parts: [part.id],
      },
    ];
  });
}

/** Turn from one direction to another, degrees, left above zero. */
function turn([ax, ay]: readonly [number, number], [bx, by]: readonly [number, number]): number {
  return (Math.atan2(ax * by - ay * bx, ax * bx + ay * by) * 180) / Math.PI;
}

/**
 * Indices of the nodes at which a bump begins and how many spans it takes.
 * @complexity spans
 */
export function bumpsOf(contour: Contour): { first: number; spans: number; at: Point }[] {
  const { spans, closed } = contour;
  const n = spans.length;
  const out: { first: number; spans: number; at: Point }[] = [];
  const span = (i: number): readonly number[] => spans[((i % n) + n) % n] as readonly number[];
  for (let i = closed ? 0 : 1; i < (closed ? n : n - 1); i++) {
    const first = turn(endTangent(span(i - 1), 1), endTangent(span(i), 0));
    if (Math.abs(first) < SHARP_DEG) continue;
    let length = 0;
    for (let k = 0; k < 3 && i + k + 1 < (closed ? i + n - 1 : n); k++) {
      length += spanLength(span(i + k));
      if (length > BUMP_MM) break;
      const second = turn(endTangent(span(i + k), 1), endTangent(span(i + k + 1), 0));
      const whole = turn(endTangent(span(i - 1), 1), endTangent(span(i + k + 1), 0));
      if (Math.abs(second) > SHARP_DEG && Math.abs(whole) < BACK_DEG) {
        out.push({ first: ((i % n) + n) % n, spans: k + 1, at: { x: at(span(i) as number[], 0), y: at(span(i) as number[], 1) } });
        i += k + 1;
        break;
      }
    }
  }
  return out;
}

/** @returns one finding a part that has bumps */
export function findBumps(parts: readonly CheckPart[]): Finding[] {
  return parts.flatMap((part): Finding[] => {
    const bumps = part.outline.contours.flatMap(bumpsOf).slice(0, MOST_PLACES);
    const [first] = bumps;
    if (!first) return [];
    const many = bumps.length > 1 ? ` at ${bumps.length} places` : '';
    return [
      {
        code: 'bump',
        level: 'warning',
        text: `The outline of “${part.name}” has a bump${many}: a step of less than ${BUMP_MM} mm that the blade will follow.`,
        place: first.at,
        parts: [part.id],
      },
    ];
  });
}
