/** What a press takes hold of among the nodes of a shape, and where a drag of it leads; without the screen, so that it is tested alone. */
import {
  compose,
  evaluate,
  handlesOf,
  invert,
  isLine,
  mapPoint,
  moveHandle,
  moveNodes,
  nodeKind,
  nodePlace,
  nodesOf,
  type Matrix,
  type NodeAddress,
  type NodeKind,
  type Outline,
  type Point,
} from '@lorvek/core/geometry';
import type { ShapeItem } from '@lorvek/model';
import type { Snapped } from '../../../drawing/snap.ts';
import type { View } from '../../../drawing/view.ts';

/** So near is on it, px. */
export const NEAR_PX = 7;

export type Grabbed =
  | { kind: 'nodes'; from: Point; outline: Outline; moved: boolean; toggled?: NodeAddress }
  | { kind: 'handle'; address: NodeAddress; side: 'before' | 'after'; node: NodeKind; outline: Outline }
  | { kind: 'mark'; from: Point; to: Point; add: boolean };

export const same = (a: NodeAddress, b: NodeAddress): boolean => a.contour === b.contour && a.node === b.node;

export function screenMap(view: View, item: ShapeItem): Matrix {
  return compose([view.scale, 0, 0, -view.scale, view.x, view.y], item.matrix);
}

/** All nodes with their places on the screen. */
export function placesOf(outline: Outline, map: Matrix): { address: NodeAddress; screen: Point }[] {
  return outline.contours.flatMap((contour, c) =>
    Array.from({ length: nodesOf(contour) }, (_, node) => ({
      address: { contour: c, node },
      screen: mapPoint(map, nodePlace(contour, node)),
    })),
  );
}

/** The nearest place on the line: contour, span, parameter; undefined beyond reach. */
export function placeOnLine(outline: Outline, map: Matrix, screen: Point): { contour: number; span: number; t: number } | undefined {
  let best: { contour: number; span: number; t: number } | undefined;
  let least = NEAR_PX;
  outline.contours.forEach((contour, c) =>
    contour.spans.forEach((span, s) => {
      const steps = isLine(span) ? 60 : 40;
      for (let k = 1; k < steps; k++) {
        const t = k / steps;
        const p = mapPoint(map, { x: evaluate(span, t, 0), y: evaluate(span, t, 1) });
        const far = Math.hypot(p.x - screen.x, p.y - screen.y);
        if (far < least) [best, least] = [{ contour: c, span: s, t }, far];
      }
    }),
  );
  return best;
}

/** The handle of a chosen node under the pointer. */
function handleNear(
  outline: Outline,
  map: Matrix,
  chosen: readonly NodeAddress[],
  screen: Point,
): { address: NodeAddress; side: 'before' | 'after' } | undefined {
  for (const address of chosen) {
    const contour = outline.contours[address.contour];
    if (!contour) continue;
    const handles = handlesOf(contour, address.node);
    for (const side of ['before', 'after'] as const) {
      const h = handles[side];
      const p = h && mapPoint(map, h);
      if (p && Math.hypot(p.x - screen.x, p.y - screen.y) <= NEAR_PX) return { address, side };
    }
  }
  return undefined;
}

/** The nodes in a box on the screen. */
export function nodesWithin(outline: Outline, map: Matrix, a: Point, b: Point): NodeAddress[] {
  const inside = ({ x, y }: Point): boolean =>
    x >= Math.min(a.x, b.x) && x <= Math.max(a.x, b.x) && y >= Math.min(a.y, b.y) && y <= Math.max(a.y, b.y);
  return placesOf(outline, map).flatMap(({ screen, address }) => (inside(screen) ? [address] : []));
}

/** The nodes at both ends of a span. */
function endsOf(outline: Outline, { contour, span }: { contour: number; span: number }): NodeAddress[] {
  const own = outline.contours[contour];
  const n = own ? nodesOf(own) : 1;
  return [
    { contour, node: span },
    { contour, node: (span + 1) % n },
  ];
}

/** A press on the nodes: what it takes hold of, and what is chosen by it. */
export interface Press {
  readonly grabbed?: Grabbed;
  readonly chosen?: readonly NodeAddress[];
}

interface PressedAt {
  readonly at: Point;
  readonly screen: Point;
  /** Shift: into or out of what is chosen; Alt: a handle goes its own way. */
  readonly event: { readonly shiftKey: boolean; readonly altKey: boolean };
}

/**
 * What a press takes: a handle of a chosen node before a node, a node before the line, whose span's ends are chosen.
 * @param map from the shape to the screen
 * @returns undefined where nothing of the shape is near
 */
export function pressAt(
  outline: Outline,
  map: Matrix,
  chosen: readonly NodeAddress[],
  { at, screen, event }: PressedAt,
): Press | undefined {
  const handle = handleNear(outline, map, chosen, screen);
  if (handle) {
    const contour = outline.contours[handle.address.contour];
    const node = contour && !event.altKey ? nodeKind(contour, handle.address.node) : 'corner';
    return { grabbed: { kind: 'handle', ...handle, node, outline } };
  }
  const hit = placesOf(outline, map).find(({ screen: p }) => Math.hypot(p.x - screen.x, p.y - screen.y) <= NEAR_PX)?.address;
  if (hit) {
    const isChosen = chosen.some((one) => same(one, hit));
    if (event.shiftKey) return { chosen: isChosen ? chosen.filter((one) => !same(one, hit)) : [...chosen, hit] };
    const grabbed: Grabbed = { kind: 'nodes', from: at, outline, moved: false, toggled: hit };
    return isChosen ? { grabbed } : { grabbed, chosen: [hit] };
  }
  const line = placeOnLine(outline, map, screen);
  return line && { chosen: endsOf(outline, line), grabbed: { kind: 'nodes', from: at, outline, moved: false } };
}

/** The shape with the handle dragged to a place of the drawing. */
export function withHandleAt(item: ShapeItem, grabbed: Grabbed & { kind: 'handle' }, at: Point): Outline | undefined {
  const back = invert(item.matrix);
  return back && moveHandle(grabbed.outline, grabbed.address, grabbed.side, mapPoint(back, at), grabbed.node);
}

/**
 * The shape with the chosen nodes dragged: the node that was taken is snapped, the others go along; level or upright with Shift.
 * @param snap what the place that is wanted becomes
 */
export function withNodesAt(
  item: ShapeItem,
  grabbed: Grabbed & { kind: 'nodes' },
  chosen: readonly NodeAddress[],
  { at, event }: { readonly at: Point; readonly event: { readonly shiftKey: boolean } },
  snap: (wanted: Point) => Snapped,
): { readonly outline: Outline; readonly snapped: Snapped } | undefined {
  const back = invert(item.matrix);
  if (!back) return undefined;
  const contour = grabbed.toggled && grabbed.outline.contours[grabbed.toggled.contour];
  const place = contour && grabbed.toggled ? mapPoint(item.matrix, nodePlace(contour, grabbed.toggled.node)) : grabbed.from;
  const snapped = snap({ x: place.x + at.x - grabbed.from.x, y: place.y + at.y - grabbed.from.y });
  let [dx, dy] = [snapped.at.x - place.x, snapped.at.y - place.y];
  if (event.shiftKey) [dx, dy] = Math.abs(dx) > Math.abs(dy) ? [dx, 0] : [0, dy];
  const [zero, way] = [mapPoint(back, { x: 0, y: 0 }), mapPoint(back, { x: dx, y: dy })];
  return { outline: moveNodes(grabbed.outline, chosen, way.x - zero.x, way.y - zero.y), snapped };
}
