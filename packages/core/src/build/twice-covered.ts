/**
 * Ground that parts of one key cover more than once: what the sum of their areas counts too much.
 * Method: parts whose boxes meet make a cluster; a cluster's sum less the area of its union (`weld`). Units mm².
 * Limits: it is asked after every change, so that clusters of more than `MOST_IN_CLUSTER` parts, and what goes beyond
 * `MOST_NODES` in all, are left out: their sum stands.
 */
import { area, nodeCount } from '../geometry/outline.ts';
import { weld } from '../geometry/weld/weld.ts';
import { boxesOf, clustersOf, solidOf, type SeenPart } from './seen-part.ts';

const MOST_IN_CLUSTER = 60;
const MOST_NODES = 6000;

/**
 * By key; keys whose parts lie apart are not in it. @complexity one union for each cluster
 * @returns mm² that parts of a key cover more than once
 */
export function twiceCovered(parts: readonly SeenPart[]): Map<string, number> {
  const out = new Map<string, number>();
  let nodes = 0;
  for (const cluster of clustersOf(boxesOf(parts), (i, j) => parts[i]?.key === parts[j]?.key)) {
    const { key } = parts[cluster[0] as number] as SeenPart;
    if (cluster.length < 2 || cluster.length > MOST_IN_CLUSTER) continue;
    const own = cluster.map((i) => solidOf((parts[i] as SeenPart).outline));
    nodes += own.reduce((total, outline) => total + nodeCount(outline), 0);
    if (nodes > MOST_NODES) continue;
    const sum = own.reduce((total, outline) => total + Math.abs(area(outline)), 0);
    const twice = sum - Math.abs(area(weld(own)));
    if (twice > 1e-6 * sum) out.set(key, (out.get(key) ?? 0) + twice);
  }
  return out;
}
