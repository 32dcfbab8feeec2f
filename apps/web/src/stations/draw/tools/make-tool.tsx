/** Making shapes by dragging: box, oval, polygon, star, line, arc, freehand. A click makes one of a usual size. */
import { fitPoints, type Point } from '@lorvek/core/geometry';
import { describeLength } from '@lorvek/core/units';
import { addItems, pageOf, type Item } from '@lorvek/model';
import { useState } from 'react';
import { dispatch } from '../../../document/store.ts';
import { allTargets, snapPoint, type Snapped } from '../../../drawing/snap.ts';
import { toScreen, useView, type ShapeTool } from '../../../drawing/view.ts';
import { boxBetween } from '../drag.ts';
import { arcBetween, newArc, newPolygon, newShape, shapeOf } from '../new-items.ts';
import { MarkBox } from '../overlay.tsx';
import { CLICK_PX, straightened, type Tool, type ToolSetting } from './tool.ts';

interface Made {
  readonly shape: ShapeTool;
  readonly from: Point;
  readonly to: Point;
  readonly square: boolean;
}

const tidy = (n: number): number => Math.round(n * 100) / 100;

function describe({ shape, from, to, square }: Made, say: (mm: number) => string): string {
  const [dx, dy] = [to.x - from.x, to.y - from.y];
  if (shape === 'polygon' || shape === 'star') return `R ${say(Math.hypot(dx, dy))}`;
  if (shape === 'line' || shape === 'arc') return `${say(Math.hypot(dx, dy))} · ${Math.round((Math.atan2(dy, dx) * 1800) / Math.PI) / 10}°`;
  const r = boxBetween(from, to, square);
  return `${say(r.width)} × ${say(r.height)}`;
}

function itemFor(made: Made, drawing: ToolSetting['drawing'], isClick: boolean): Item {
  const { shape, from, to, square } = made;
  const radius = isClick ? 50 : Math.hypot(to.x - from.x, to.y - from.y);
  const far = isClick ? { x: from.x + 100, y: from.y } : to;
  const { corners, starPct } = useView.getState();
  if (shape === 'polygon' || shape === 'star') return newPolygon(drawing, from, radius, corners, shape === 'star' ? starPct : null);
  if (shape === 'line')
    return shapeOf(drawing, 'Line', { contours: [{ closed: false, spans: [[tidy(from.x), tidy(from.y), tidy(far.x), tidy(far.y)]] }] });
  if (shape === 'arc') return newArc(drawing, from, far);
  return newShape(
    drawing,
    shape === 'oval' ? 'oval' : 'box',
    isClick ? { x: from.x, y: from.y, width: 100, height: shape === 'oval' ? 100 : 60 } : boxBetween(from, to, square),
  );
}

export function useMakeTool({ drawing, view }: ToolSetting, shape: ShapeTool): Tool {
  const [made, setMade] = useState<Made>();
  const [snapped, setSnapped] = useState<Snapped>();
  const [trail, setTrail] = useState<readonly Point[]>([]);
  const { unit } = pageOf(drawing);
  const find = (at: Point): Snapped => {
    if (!view) return { at, reasons: [], lines: [] };
    return snapPoint(allTargets(drawing), at, view);
  };
  const add = (item: Item): void => {
    if (dispatch(addItems, { items: [item], roots: [item.id] }, { origin: `${shape}.add` })) useView.setState({ tool: 'select' });
  };
  const finishTrail = (): void => {
    setTrail([]);
    if (!view || trail.length < 3) return;
    const tolMm = useView.getState().smoothing / 2 / view.scale;
    const [first, last] = [trail[0] as Point, trail.at(-1) as Point];
    const closed = Math.hypot(first.x - last.x, first.y - last.y) * view.scale < 12;
    const contour = fitPoints(
      (closed ? trail.slice(0, -1) : trail).flatMap((p) => [p.x, p.y]),
      { tolMm, cornerDeg: 60, closed },
    );
    if (contour.spans.length > 0) add(shapeOf(drawing, closed ? 'Drawn shape' : 'Drawn line', { contours: [contour] }));
  };
  return {
    cursor: 'crosshair',
    snapped,
    note: made ? describe(made, (mm) => describeLength(tidy(mm), unit)) : '',
    onDown: ({ at, event }) => {
      if (shape === 'freehand') return setTrail([at]);
      const from = find(at).at;
      setMade({ shape, from, to: from, square: event.shiftKey });
    },
    onMove: ({ at, event }) => {
      if (shape === 'freehand') {
        if (trail.length > 0) setTrail([...trail, at]);
        return;
      }
      const found = event.ctrlKey ? { at, reasons: [], lines: [] } : find(at);
      setSnapped(found);
      if (!made) return;
      const isLine = shape === 'line' || shape === 'arc';
      setMade({ ...made, to: isLine && event.shiftKey ? straightened(made.from, at) : found.at, square: event.shiftKey });
    },
    onUp: () => {
      setSnapped(undefined);
      if (shape === 'freehand') return finishTrail();
      if (!made || !view) return;
      setMade(undefined);
      add(itemFor(made, drawing, Math.hypot(made.to.x - made.from.x, made.to.y - made.from.y) * view.scale < CLICK_PX));
    },
    overlay: view ? <Overlay made={made} trail={trail} view={view} /> : null,
  };
}

function Overlay({ made, trail, view }: { made: Made | undefined; trail: readonly Point[]; view: NonNullable<ToolSetting['view']> }) {
  const points = (list: readonly Point[]): string =>
    list
      .map((p) => toScreen(view, p))
      .map((p) => `${p.x.toFixed(1)},${p.y.toFixed(1)}`)
      .join(' ');
  if (trail.length > 1)
    return (
      <svg className="pointer-events-none absolute inset-0 h-full w-full">
        <polyline points={points(trail)} fill="none" stroke="#0d5c5f" strokeWidth={1.5} />
      </svg>
    );
  if (!made) return null;
  if (made.shape === 'box' || made.shape === 'oval') {
    const r = boxBetween(made.from, made.to, made.square);
    return <MarkBox view={view} from={{ x: r.x, y: r.y }} to={{ x: r.x + r.width, y: r.y + r.height }} round={made.shape === 'oval'} />;
  }
  const [a, b] = [toScreen(view, made.from), toScreen(view, made.to)];
  const radius = Math.hypot(b.x - a.x, b.y - a.y);
  return (
    <svg className="pointer-events-none absolute inset-0 h-full w-full">
      {made.shape === 'line' || made.shape === 'arc' ? (
        <polyline
          points={points(made.shape === 'arc' ? arcBetween(made.from, made.to).samples : [made.from, made.to])}
          fill="none"
          stroke="#0d5c5f"
        />
      ) : (
        <>
          <circle cx={a.x} cy={a.y} r={radius} fill="#0d5c5f22" stroke="#0d5c5f" strokeDasharray="4 3" />
          <line x1={a.x} y1={a.y} x2={b.x} y2={b.y} stroke="#0d5c5f" />
        </>
      )}
    </svg>
  );
}
