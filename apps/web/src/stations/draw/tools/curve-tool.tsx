/** The curve tool: click for a corner, drag for handles, click on the first node to close; Enter finishes it open. */
import { type Outline, type Point, type Span } from '@lorvek/core/geometry';
import { describeLength } from '@lorvek/core/units';
import { addItems, pageOf } from '@lorvek/model';
import { useCallback, useEffect, useState, type Dispatch, type SetStateAction } from 'react';
import { dispatch, useDocument } from '../../../document/store.ts';
import { allTargets, snapPoint, type Snapped } from '../../../drawing/snap.ts';
import { toScreen, useView, type View } from '../../../drawing/view.ts';
import { shapeOf } from '../new-items.ts';
import { CLICK_PX, straightened, type Tool, type ToolSetting } from './tool.ts';

interface CurveNode extends Point {
  /** The handle that goes on from here; the one before is its mirror. */
  readonly handle?: Point;
}

const CLOSE_PX = 9;

const mirrored = (node: CurveNode): Point | undefined => node.handle && { x: 2 * node.x - node.handle.x, y: 2 * node.y - node.handle.y };

function spanBetween(a: CurveNode, b: CurveNode): Span {
  const back = mirrored(b);
  if (!a.handle && !back) return [a.x, a.y, b.x, b.y];
  const [p, q] = [a.handle ?? a, back ?? b];
  return [a.x, a.y, p.x, p.y, q.x, q.y, b.x, b.y];
}

/** Nodes as an outline; undefined for fewer than two. */
function outlineOf(nodes: readonly CurveNode[], closed: boolean): Outline | undefined {
  if (nodes.length < 2) return undefined;
  const pairs = nodes.slice(1).map((node, i) => spanBetween(nodes[i] as CurveNode, node));
  const spans = closed ? [...pairs, spanBetween(nodes.at(-1) as CurveNode, nodes[0] as CurveNode)] : pairs;
  return { contours: [{ closed, spans }] };
}

/** Enter and Escape end the curve, Backspace takes its last node; another tool takes all of it. */
function useCurveKeys(
  active: boolean,
  nodes: readonly CurveNode[],
  setNodes: Dispatch<SetStateAction<readonly CurveNode[]>>,
  finish: (nodes: readonly CurveNode[], closed: boolean) => void,
): void {
  useEffect(() => {
    if (!active) {
      setNodes((list) => (list.length === 0 ? list : []));
      return undefined;
    }
    const key = (event: KeyboardEvent): void => {
      if (nodes.length === 0 || (event.target instanceof HTMLElement && event.target.matches('input, textarea'))) return;
      if (event.key === 'Enter' || event.key === 'Escape') finish(nodes, false);
      else if (event.key === 'Backspace' || event.key === 'Delete') setNodes(nodes.slice(0, -1));
      else return;
      event.preventDefault();
      event.stopImmediatePropagation();
    };
    window.addEventListener('keydown', key, true);
    return () => window.removeEventListener('keydown', key, true);
  }, [active, nodes, setNodes, finish]);
}

export function useCurveTool({ drawing, view }: ToolSetting, active: boolean): Tool {
  const [nodes, setNodes] = useState<readonly CurveNode[]>([]);
  const [pointer, setPointer] = useState<Point>();
  const [snapped, setSnapped] = useState<Snapped>();
  const [pulling, setPulling] = useState(false);
  const { unit } = pageOf(drawing);

  const finish = useCallback((list: readonly CurveNode[], closed: boolean): void => {
    setNodes([]);
    setPulling(false);
    const outline = outlineOf(list, closed);
    if (!outline) return;
    const item = shapeOf(useDocument.getState().drawing, closed ? 'Shape' : 'Curve', outline);
    if (dispatch(addItems, { items: [item], roots: [item.id] }, { origin: 'curve.add' })) useView.setState({ tool: 'select' });
  }, []);

  useCurveKeys(active, nodes, setNodes, finish);
  const find = (at: Point, free: boolean): Snapped => {
    if (!view || free) return { at, reasons: [], lines: [] };
    return snapPoint(allTargets(drawing), at, view);
  };
  const closesAt = (at: Point): boolean => {
    const [first] = nodes;
    return (
      first !== undefined && nodes.length > 1 && view !== undefined && Math.hypot(at.x - first.x, at.y - first.y) * view.scale < CLOSE_PX
    );
  };
  const last = nodes.at(-1);
  const length = last && pointer ? Math.hypot(pointer.x - last.x, pointer.y - last.y) : 0;
  return {
    cursor: 'crosshair',
    snapped,
    note: last && pointer && !pulling ? describeLength(Math.round(length * 100) / 100, unit) : '',
    onDown: ({ at, event }) => {
      if (closesAt(at)) return finish(nodes, true);
      const place = event.shiftKey && last ? straightened(last, at) : find(at, event.ctrlKey).at;
      setNodes([...nodes, { x: place.x, y: place.y }]);
      setPulling(true);
    },
    onMove: ({ at, event }) => {
      const found = pulling ? { at, reasons: [], lines: [] } : find(at, event.ctrlKey);
      setSnapped(found);
      setPointer(event.shiftKey && last ? straightened(last, at) : found.at);
      if (!pulling || !last || !view) return;
      const far = Math.hypot(at.x - last.x, at.y - last.y) * view.scale > CLICK_PX;
      if (far) setNodes([...nodes.slice(0, -1), { x: last.x, y: last.y, handle: event.shiftKey ? straightened(last, at) : at }]);
    },
    onUp: () => setPulling(false),
    onDoubleClick: () => finish(nodes.slice(0, -1), false),
    overlay: view && nodes.length > 0 ? <CurveOverlay nodes={nodes} pointer={pulling ? undefined : pointer} view={view} /> : null,
  };
}

function CurveOverlay({ nodes, pointer, view }: { nodes: readonly CurveNode[]; pointer: Point | undefined; view: View }) {
  const shown = pointer ? [...nodes, pointer] : nodes;
  const on = (p: Point): string => {
    const s = toScreen(view, p);
    return `${s.x.toFixed(1)} ${s.y.toFixed(1)}`;
  };
  const d = (outlineOf(shown, false)?.contours[0]?.spans ?? [])
    .map((s, i) => {
      const point = (k: number): string => on({ x: s[k] as number, y: s[k + 1] as number });
      const start = i === 0 ? `M${point(0)}` : '';
      return s.length === 4 ? `${start}L${point(2)}` : `${start}C${point(2)} ${point(4)} ${point(6)}`;
    })
    .join('');
  return (
    <svg className="pointer-events-none absolute inset-0 h-full w-full" data-testid="curve">
      <path d={d} fill="none" stroke="#fdfbf6" strokeWidth={3} opacity={0.7} />
      <path d={d} fill="none" stroke="#0d5c5f" strokeWidth={1.5} />
      {nodes.map((node, i) => {
        const p = toScreen(view, node);
        const [h, k] = [node.handle, mirrored(node)].map((q) => q && toScreen(view, q));
        return (
          <g key={i} stroke="#0d5c5f">
            {h && k ? (
              <>
                <line x1={k.x} y1={k.y} x2={h.x} y2={h.y} />
                <circle cx={h.x} cy={h.y} r={3} fill="#fdfbf6" />
                <circle cx={k.x} cy={k.y} r={3} fill="#fdfbf6" />
              </>
            ) : null}
            <rect x={p.x - 3.5} y={p.y - 3.5} width={7} height={7} fill={i === 0 ? '#0d5c5f' : '#fdfbf6'} />
          </g>
        );
      })}
    </svg>
  );
}
