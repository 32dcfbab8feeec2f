/**
 * Ground that parts of one key cover more than once: what the sum of their areas counts too much.
 * Method: parts whose boxes meet make a cluster; a cluster's sum less the area of its union (`weld`). Units mm².
 * Limits: it is asked after every change, so that clusters of more than `MOST_IN_CLUSTER` parts, and what goes beyond
 * `MOST_NODES` in all, are left out: their sum stands.
 */
import type { Box } from '../types/index.ts';
import { area, isEmptyBox, nodeCount } from '../geometry/outline.ts';
import { weld } from '../geometry/weld/weld.ts';
import { boxesOf, indexOf, solidOf, type SeenPart } from './seen-part.ts';

const MOST_IN_CLUSTER = 60;
const MOST_NODES = 6000;

/** By key; keys whose parts lie apart are not in it. @complexity one union for each cluster */
export function twiceCovered(parts: readonly SeenPart[]): Map<string, number> {
  const boxes = boxesOf(parts);
  const index = indexOf(boxes);
  const seen = new Set<number>();
  const out = new Map<string, number>();
  let nodes = 0;
  parts.forEach(({ key }, first) => {
    if (seen.has(first) || !index) return;
    const cluster = [first];
    seen.add(first);
    for (let at = 0; at < cluster.length; at++) {
      const box = boxes[cluster[at] as number] as Box;
      if (isEmptyBox(box)) continue;
      for (const next of index.search(box.minX, box.minY, box.maxX, box.maxY, (i) => parts[i]?.key === key && !seen.has(i))) {
        seen.add(next);
        cluster.push(next);
      }
    }
    if (cluster.length < 2 || cluster.length > MOST_IN_CLUSTER) return;
    const own = cluster.map((i) => solidOf((parts[i] as SeenPart).outline));
    nodes += own.reduce((total, outline) => total + nodeCount(outline), 0);
    if (nodes > MOST_NODES) return;
    const sum = own.reduce((total, outline) => total + Math.abs(area(outline)), 0);
    const twice = sum - Math.abs(area(weld(own)));
    if (twice > 1e-6 * sum) out.set(key, (out.get(key) ?? 0) + twice);
  });
  return out;
}
