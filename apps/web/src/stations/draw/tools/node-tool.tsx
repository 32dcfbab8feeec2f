/** The node tool: choose, drag, mark out nodes; drag handles; double click on the line for a new node. */
import {
  compose,
  contourBox,
  handlesOf,
  insertNode,
  invert,
  isLine,
  evaluate,
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
import { describeLength } from '@lorvek/core/units';
import { itemOf, pageOf, selectableOf, type Drawing, type ShapeItem } from '@lorvek/model';
import { useRef, useState } from 'react';
import { newId, select, useDocument } from '../../../document/store.ts';
import { itemAt } from '../../../drawing/hit.ts';
import { choose, chosenOf, putOutline, shapeAtWork } from '../../../drawing/node-work.ts';
import { snapPoint, snapTargets, type Snapped, type SnapTargets } from '../../../drawing/snap.ts';
import { toDrawing, toScreen, useView, type View } from '../../../drawing/view.ts';
import { outlineOf } from '../../../worker/derived.ts';
import { MarkBox } from '../overlay.tsx';
import { type Tool, type ToolSetting } from './tool.ts';

const NEAR_PX = 7;
/** Beyond this only the nodes in the window near the pointer could be told apart anyway. */
const MOST_SHOWN = 3000;

type Grabbed =
  | { kind: 'nodes'; from: Point; outline: Outline; moved: boolean; toggled?: NodeAddress }
  | { kind: 'handle'; address: NodeAddress; side: 'before' | 'after'; node: NodeKind; outline: Outline }
  | { kind: 'mark'; from: Point; to: Point; add: boolean };

const same = (a: NodeAddress, b: NodeAddress): boolean => a.contour === b.contour && a.node === b.node;

function screenMap(view: View, item: ShapeItem): Matrix {
  return compose([view.scale, 0, 0, -view.scale, view.x, view.y], item.matrix);
}

/** All nodes with their places on the screen. */
function placesOf(outline: Outline, map: Matrix): { address: NodeAddress; screen: Point }[] {
  return outline.contours.flatMap((contour, c) =>
    Array.from({ length: nodesOf(contour) }, (_, node) => ({
      address: { contour: c, node },
      screen: mapPoint(map, nodePlace(contour, node)),
    })),
  );
}

/** The nearest place on the line: contour, span, parameter; undefined beyond reach. */
function placeOnLine(outline: Outline, map: Matrix, screen: Point): { contour: number; span: number; t: number } | undefined {
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
function nodesWithin(outline: Outline, map: Matrix, a: Point, b: Point): NodeAddress[] {
  const inside = ({ x, y }: Point): boolean =>
    x >= Math.min(a.x, b.x) && x <= Math.max(a.x, b.x) && y >= Math.min(a.y, b.y) && y <= Math.max(a.y, b.y);
  return placesOf(outline, map).flatMap(({ screen, address }) => (inside(screen) ? [address] : []));
}

/** Another item to work on the nodes of. */
function takeShape(drawing: Drawing, id: string, entered: string | undefined): void {
  select([selectableOf(drawing, id, entered)]);
  const next = itemOf(drawing, id);
  if (next) choose(next.id, []);
}

/** A new node where the line runs under the pointer. */
function addNodeAt(item: ShapeItem, outline: Outline, map: Matrix, screen: Point): void {
  const line = placeOnLine(outline, map, screen);
  if (line && putOutline(item, insertNode(outline, line.contour, line.span, line.t), 'node.add'))
    choose(item.id, [{ contour: line.contour, node: line.span + 1 }]);
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

export function useNodeTool({ drawing, selection, view }: ToolSetting): Tool {
  useView((state) => state.nodes);
  const entered = useDocument((state) => state.entered);
  const [grabbed, setGrabbed] = useState<Grabbed>();
  const [snapped, setSnapped] = useState<Snapped>();
  const group = useRef('');
  const targets = useRef<SnapTargets | undefined>(undefined);
  const item = shapeAtWork(drawing, selection);
  const outline = item && outlineOf(item);
  const { unit } = pageOf(drawing);

  const takeOther = (at: Point): void => {
    const hit = view ? itemAt(drawing, at, view) : undefined;
    if (hit !== undefined && hit !== item?.id) takeShape(drawing, hit, entered);
  };

  const down: Tool['onDown'] = ({ at, screen, event }) => {
    if (!item || !outline || !view) return takeOther(at);
    group.current = newId('node');
    const map = screenMap(view, item);
    const handle = handleNear(outline, map, chosenOf(item.id), screen);
    if (handle) {
      const contour = outline.contours[handle.address.contour];
      const kind = contour && !event.altKey ? nodeKind(contour, handle.address.node) : 'corner';
      return setGrabbed({ kind: 'handle', ...handle, node: kind, outline });
    }
    const hit = placesOf(outline, map).find(({ screen: p }) => Math.hypot(p.x - screen.x, p.y - screen.y) <= NEAR_PX)?.address;
    const chosen = chosenOf(item.id);
    if (hit) {
      const isChosen = chosen.some((one) => same(one, hit));
      if (event.shiftKey) return choose(item.id, isChosen ? chosen.filter((one) => !same(one, hit)) : [...chosen, hit]);
      if (!isChosen) choose(item.id, [hit]);
      return setGrabbed({ kind: 'nodes', from: at, outline, moved: false, toggled: hit });
    }
    const line = placeOnLine(outline, map, screen);
    if (line) {
      choose(item.id, endsOf(outline, line));
      return setGrabbed({ kind: 'nodes', from: at, outline, moved: false });
    }
    const other = itemAt(drawing, at, view);
    if (other !== undefined && other !== item.id) return takeOther(at);
    return setGrabbed({ kind: 'mark', from: at, to: at, add: event.shiftKey });
  };

  const move: Tool['onMove'] = ({ at, event }) => {
    if (!grabbed || !item || !view) return;
    const back = invert(item.matrix);
    if (!back) return;
    if (grabbed.kind === 'mark') return setGrabbed({ ...grabbed, to: at });
    if (grabbed.kind === 'handle')
      return void putOutline(
        item,
        moveHandle(grabbed.outline, grabbed.address, grabbed.side, mapPoint(back, at), grabbed.node),
        'node.handle',
        group.current,
      );
    if (!grabbed.moved && Math.hypot(at.x - grabbed.from.x, at.y - grabbed.from.y) * view.scale < 3) return;
    targets.current ??= snapTargets(drawing, new Set([item.id]));
    const anchor = grabbed.toggled && grabbed.outline.contours[grabbed.toggled.contour];
    const place = anchor && grabbed.toggled ? mapPoint(item.matrix, nodePlace(anchor, grabbed.toggled.node)) : grabbed.from;
    const wanted = { x: place.x + at.x - grabbed.from.x, y: place.y + at.y - grabbed.from.y };
    const found = event.ctrlKey ? { at: wanted, reasons: [], lines: [] } : snapPoint(targets.current, wanted, view);
    setSnapped(found);
    let [dx, dy] = [found.at.x - place.x, found.at.y - place.y];
    if (event.shiftKey) [dx, dy] = Math.abs(dx) > Math.abs(dy) ? [dx, 0] : [0, dy];
    const [zero, way] = [mapPoint(back, { x: 0, y: 0 }), mapPoint(back, { x: dx, y: dy })];
    setGrabbed({ ...grabbed, moved: true });
    putOutline(item, moveNodes(grabbed.outline, chosenOf(item.id), way.x - zero.x, way.y - zero.y), 'node.move', group.current);
  };

  const up = (): void => {
    targets.current = undefined;
    setSnapped(undefined);
    setGrabbed(undefined);
    if (grabbed?.kind !== 'mark' || !item || !outline || !view) return;
    const found = nodesWithin(outline, screenMap(view, item), toScreen(view, grabbed.from), toScreen(view, grabbed.to));
    choose(item.id, grabbed.add ? [...chosenOf(item.id), ...found.filter((one) => !chosenOf(item.id).some((c) => same(c, one)))] : found);
  };

  const only = item && outline && chosenOf(item.id).length === 1 ? chosenOf(item.id)[0] : undefined;
  const contour = only && outline?.contours[only.contour];
  const place = only && contour && item ? mapPoint(item.matrix, nodePlace(contour, only.node)) : undefined;
  const say = (mm: number): string => describeLength(Math.round(mm * 100) / 100, unit);
  return {
    cursor: 'default',
    snapped,
    note: grabbed?.kind === 'nodes' && grabbed.moved && place ? `${say(place.x)}, ${say(place.y)}` : '',
    onDown: down,
    onMove: move,
    onUp: up,
    onDoubleClick: ({ screen }) => {
      if (item && outline && view) addNodeAt(item, outline, screenMap(view, item), screen);
    },
    overlay:
      view && item && outline ? (
        <>
          <NodeOverlay outline={outline} map={screenMap(view, item)} chosen={chosenOf(item.id)} view={view} />
          {grabbed?.kind === 'mark' ? <MarkBox view={view} from={grabbed.from} to={grabbed.to} /> : null}
        </>
      ) : null,
  };
}

function NodeOverlay({ outline, map, chosen, view }: { outline: Outline; map: Matrix; chosen: readonly NodeAddress[]; view: View }) {
  const size = useView((state) => state.sizes.drawing);
  const d = outline.contours
    .map((contour) => {
      const on = (x: number, y: number): string => {
        const p = mapPoint(map, { x, y });
        return `${p.x.toFixed(1)} ${p.y.toFixed(1)}`;
      };
      const parts = contour.spans.map((s) => {
        const q = (k: number): string => on(s[k] as number, s[k + 1] as number);
        return s.length === 4 ? `L${q(2)}` : `C${q(2)} ${q(4)} ${q(6)}`;
      });
      const first = contour.spans[0];
      return first ? `M${on(first[0] as number, first[1] as number)}${parts.join('')}${contour.closed ? 'Z' : ''}` : '';
    })
    .join('');
  const [low, high] = [toDrawing(view, { x: 0, y: size.height }), toDrawing(view, { x: size.width, y: 0 })];
  const shown = outline.contours.some((contour) => contourBox(contour).minX > high.x && low.x > high.x)
    ? []
    : placesOf(outline, map)
        .filter(({ screen }) => screen.x > -8 && screen.y > -8 && screen.x < size.width + 8 && screen.y < size.height + 8)
        .slice(0, MOST_SHOWN);
  return (
    <svg className="pointer-events-none absolute inset-0 h-full w-full" data-testid="nodes">
      <path d={d} fill="none" stroke="#fdfbf6" strokeWidth={2.5} opacity={0.75} />
      <path d={d} fill="none" stroke="#0d5c5f" strokeWidth={1.2} />
      {chosen.map((address) => {
        const contour = outline.contours[address.contour];
        if (!contour) return null;
        const p = mapPoint(map, nodePlace(contour, address.node));
        const handles = handlesOf(contour, address.node);
        return [handles.before, handles.after].map((h, i) => {
          if (!h) return null;
          const q = mapPoint(map, h);
          return (
            <g key={`${address.contour} ${address.node} ${i}`} stroke="#0d5c5f">
              <line x1={p.x} y1={p.y} x2={q.x} y2={q.y} />
              <circle cx={q.x} cy={q.y} r={3.5} fill="#fdfbf6" />
            </g>
          );
        });
      })}
      {shown.map(({ address, screen }) => {
        const isChosen = chosen.some((one) => same(one, address));
        const contour = outline.contours[address.contour];
        const isCorner = !contour || nodeKind(contour, address.node) === 'corner';
        const look = { fill: isChosen ? '#0d5c5f' : '#fdfbf6', stroke: '#0d5c5f', strokeWidth: 1.25 };
        return isCorner ? (
          <rect key={`${address.contour} ${address.node}`} x={screen.x - 3.5} y={screen.y - 3.5} width={7} height={7} {...look} />
        ) : (
          <circle key={`${address.contour} ${address.node}`} cx={screen.x} cy={screen.y} r={4} {...look} />
        );
      })}
    </svg>
  );
}
