/** The node tool: choose, drag, mark out nodes; drag handles; double click on the line for a new node. */
import {
  contourBox,
  handlesOf,
  insertNode,
  mapPoint,
  nodeKind,
  nodePlace,
  type Matrix,
  type NodeAddress,
  type Outline,
  type Point,
} from '@lorvek/core/geometry';
import { describeLength, type LengthUnit } from '@lorvek/core/units';
import { itemOf, pageOf, selectableOf, type Drawing, type ShapeItem } from '@lorvek/model';
import { useRef, useState } from 'react';
import { newId, select, useDocument } from '../../../document/store.ts';
import { itemAt } from '../../../drawing/hit.ts';
import { choose, chosenOf, putOutline, shapeAtWork } from '../../../drawing/node-work.ts';
import { snapPoint, snapTargets, type Snapped, type SnapTargets } from '../../../drawing/snap.ts';
import { toDrawing, toScreen, useView, type View } from '../../../drawing/view.ts';
import { outlineOf } from '../../../worker/derived.ts';
import { MarkBox } from '../overlay.tsx';
import type { PointerInfo } from '../../../drawing/viewport.tsx';
import { nodesWithin, placeOnLine, placesOf, pressAt, same, screenMap, withHandleAt, withNodesAt, type Grabbed } from './node-grab.ts';
import { CLICK_PX, type Tool, type ToolSetting } from './tool.ts';

/** Beyond this only the nodes in the window near the pointer could be told apart anyway. */
const MOST_SHOWN = 3000;

/** Another item under the pointer to work on the nodes of. @returns whether there is one */
function takeOther(drawing: Drawing, at: Point, view: View, current: string | undefined): boolean {
  const hit = itemAt(drawing, at, view);
  if (hit === undefined || hit === current) return false;
  select([selectableOf(drawing, hit, useDocument.getState().entered)]);
  const next = itemOf(drawing, hit);
  if (next) choose(next.id, []);
  return true;
}

/** A new node where the line runs under the pointer. */
function addNodeAt(item: ShapeItem, outline: Outline, map: Matrix, screen: Point): void {
  const line = placeOnLine(outline, map, screen);
  if (line && putOutline(item, insertNode(outline, line.contour, line.span, line.t), 'node.add'))
    choose(item.id, [{ contour: line.contour, node: line.span + 1 }]);
}

/** Where the only chosen node is, in words. */
function placeNote(item: ShapeItem, outline: Outline, unit: LengthUnit): string {
  const [only, more] = chosenOf(item.id);
  const contour = only && !more && outline.contours[only.contour];
  if (!only || !contour) return '';
  const { x, y } = mapPoint(item.matrix, nodePlace(contour, only.node));
  const say = (mm: number): string => describeLength(Math.round(mm * 100) / 100, unit);
  return `${say(x)}, ${say(y)}`;
}

/** What is chosen after a box was marked out. */
function markedOut(
  outline: Outline,
  chosen: readonly NodeAddress[],
  { from, to, add }: Grabbed & { kind: 'mark' },
  { map, view }: { map: Matrix; view: View },
): readonly NodeAddress[] {
  const found = nodesWithin(outline, map, toScreen(view, from), toScreen(view, to));
  return add ? [...chosen, ...found.filter((one) => !chosen.some((c) => same(c, one)))] : found;
}

interface OverlayProps {
  readonly item: ShapeItem;
  readonly outline: Outline;
  readonly view: View;
  readonly grabbed: Grabbed | undefined;
}

function Overlay({ item, outline, view, grabbed }: OverlayProps) {
  return (
    <>
      <NodeOverlay outline={outline} map={screenMap(view, item)} chosen={chosenOf(item.id)} view={view} />
      {grabbed?.kind === 'mark' ? <MarkBox view={view} from={grabbed.from} to={grabbed.to} /> : null}
    </>
  );
}

export function useNodeTool({ drawing, selection, view }: ToolSetting): Tool {
  useView((state) => state.nodes);
  const [grabbed, setGrabbed] = useState<Grabbed>();
  const [snapped, setSnapped] = useState<Snapped>();
  const group = useRef('');
  const targets = useRef<SnapTargets | undefined>(undefined);
  const item = shapeAtWork(drawing, selection);
  const outline = item && outlineOf(item);
  const { unit } = pageOf(drawing);

  const down: Tool['onDown'] = (info) => {
    if (!view || !item || !outline) return void (view && takeOther(drawing, info.at, view, undefined));
    group.current = newId('node');
    const press = pressAt(outline, screenMap(view, item), chosenOf(item.id), info);
    if (press) {
      if (press.chosen) choose(item.id, press.chosen);
      return setGrabbed(press.grabbed);
    }
    if (!takeOther(drawing, info.at, view, item.id)) setGrabbed({ kind: 'mark', from: info.at, to: info.at, add: info.event.shiftKey });
  };

  const dragNodes = (from: Grabbed & { kind: 'nodes' }, info: PointerInfo, on: { item: ShapeItem; view: View }): void => {
    const { at, event } = info;
    if (!from.moved && Math.hypot(at.x - from.from.x, at.y - from.from.y) * on.view.scale < CLICK_PX) return;
    targets.current ??= snapTargets(drawing, new Set([on.item.id]));
    const near = targets.current;
    const moved = withNodesAt(on.item, from, chosenOf(on.item.id), info, (wanted) =>
      event.ctrlKey ? { at: wanted, reasons: [], lines: [] } : snapPoint(near, wanted, on.view),
    );
    if (!moved) return;
    setSnapped(moved.snapped);
    setGrabbed({ ...from, moved: true });
    putOutline(on.item, moved.outline, 'node.move', group.current);
  };

  const move: Tool['onMove'] = (info) => {
    if (!grabbed || !item || !view) return;
    if (grabbed.kind === 'mark') return setGrabbed({ ...grabbed, to: info.at });
    if (grabbed.kind === 'nodes') return dragNodes(grabbed, info, { item, view });
    const next = withHandleAt(item, grabbed, info.at);
    if (next) putOutline(item, next, 'node.handle', group.current);
  };

  const up = (): void => {
    targets.current = undefined;
    setSnapped(undefined);
    setGrabbed(undefined);
    if (grabbed?.kind !== 'mark' || !item || !outline || !view) return;
    choose(item.id, markedOut(outline, chosenOf(item.id), grabbed, { map: screenMap(view, item), view }));
  };

  return {
    cursor: 'default',
    snapped,
    note: item && outline && grabbed?.kind === 'nodes' && grabbed.moved ? placeNote(item, outline, unit) : '',
    onDown: down,
    onMove: move,
    onUp: up,
    onDoubleClick: ({ screen }) => {
      if (item && outline && view) addNodeAt(item, outline, screenMap(view, item), screen);
    },
    overlay: view && item && outline ? <Overlay item={item} outline={outline} view={view} grabbed={grabbed} /> : null,
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
