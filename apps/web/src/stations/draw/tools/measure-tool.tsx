/** The measure tool: drag from one place to another; length, angle and the ways along both axes. Shift: level or upright. */
import { describeLength } from '@lorvek/core/units';
import { addItems, pageOf, type DimensionEnd, type DimensionItem } from '@lorvek/model';
import type { Point } from '@lorvek/core/geometry';
import { useState } from 'react';
import { create } from 'zustand';
import { dispatch, newId, select, useDocument } from '../../../document/store.ts';
import { allTargets, snapPoint, type Snapped } from '../../../drawing/snap.ts';
import { toScreen, useView, type View } from '../../../drawing/view.ts';
import { straightened, type Tool, type ToolSetting } from './tool.ts';

interface Measured {
  readonly from: DimensionEnd;
  readonly to: DimensionEnd;
}

/** What was measured last: shown in the bench, kept as a dimension line on request. */
export const useMeasured = create<{ measured: Measured | undefined }>(() => ({ measured: undefined }));

const tidy = (n: number): number => Math.round(n * 1e4) / 1e4;
const endOf = (at: Point, fast: Snapped['fast']): DimensionEnd => ({ x: tidy(at.x), y: tidy(at.y), ...(fast ?? {}) });

export function describeMeasured(
  { from, to }: Measured,
  say: (mm: number) => string,
): { length: string; angle: string; dx: string; dy: string } {
  const [dx, dy] = [to.x - from.x, to.y - from.y];
  return {
    length: say(Math.hypot(dx, dy)),
    angle: `${Math.round((Math.atan2(dy, dx) * 18_000) / Math.PI) / 100}°`,
    dx: say(dx),
    dy: say(dy),
  };
}

/** Keeps what was measured as a dimension line on the drawing. */
export function keepMeasured(): void {
  const { measured } = useMeasured.getState();
  if (!measured) return;
  const { from, to } = measured;
  const [dx, dy] = [Math.abs(to.x - from.x), Math.abs(to.y - from.y)];
  const item: DimensionItem = {
    type: 'item',
    kind: 'dimension',
    id: newId('item'),
    name: 'Dimension',
    layer: null,
    matrix: [1, 0, 0, 1, 0, 0],
    from,
    to,
    measure: dy < 1e-3 * dx ? 'level' : dx < 1e-3 * dy ? 'upright' : 'straight',
    standOffMm: Math.max(5, Math.round(Math.hypot(dx, dy) * 0.06)),
  };
  if (dispatch(addItems, { items: [item], roots: [item.id] }, { origin: 'dimension.add' })) {
    useMeasured.setState({ measured: undefined });
    useView.setState({ tool: 'select' });
    select([item.id]);
  }
}

export function useMeasureTool({ drawing, view }: ToolSetting): Tool {
  const measured = useMeasured((state) => state.measured);
  const [from, setFrom] = useState<DimensionEnd>();
  const [snapped, setSnapped] = useState<Snapped>();
  const { unit } = pageOf(useDocument((state) => state.drawing));
  const find = (at: Point, free: boolean): Snapped => {
    if (!view || free) return { at, reasons: [], lines: [] };
    return snapPoint(allTargets(drawing), at, view);
  };
  const say = (mm: number): string => describeLength(Math.round(mm * 100) / 100, unit);
  const shown = measured ? describeMeasured(measured, say) : undefined;
  return {
    cursor: 'crosshair',
    snapped,
    note: from && shown ? `${shown.length} · ${shown.angle}  → ${shown.dx}  ↑ ${shown.dy}` : '',
    onDown: ({ at, event }) => {
      const found = find(at, event.ctrlKey);
      const end = endOf(found.at, found.fast);
      setFrom(end);
      useMeasured.setState({ measured: { from: end, to: end } });
    },
    onMove: ({ at, event }) => {
      const found = find(at, event.ctrlKey);
      setSnapped(found);
      if (!from) return;
      const to = event.shiftKey ? endOf(straightened(from, at, 90), undefined) : endOf(found.at, found.fast);
      useMeasured.setState({ measured: { from, to } });
    },
    onUp: () => setFrom(undefined),
    overlay: view && measured ? <MeasureOverlay measured={measured} view={view} /> : null,
  };
}

function MeasureOverlay({ measured, view }: { measured: Measured; view: View }) {
  const [a, b] = [toScreen(view, measured.from), toScreen(view, measured.to)];
  return (
    <svg className="pointer-events-none absolute inset-0 h-full w-full" data-testid="measure">
      <path d={`M${a.x} ${a.y}H${b.x}V${b.y}`} fill="none" stroke="#0d5c5f" strokeDasharray="3 3" opacity={0.7} />
      <line x1={a.x} y1={a.y} x2={b.x} y2={b.y} stroke="#fdfbf6" strokeWidth={3.5} opacity={0.8} />
      <line x1={a.x} y1={a.y} x2={b.x} y2={b.y} stroke="#0d5c5f" strokeWidth={1.5} />
      {[a, b].map((p, i) => (
        <path key={i} d={`M${p.x - 6} ${p.y}h12M${p.x} ${p.y - 6}v12`} stroke="#0d5c5f" strokeWidth={1.5} />
      ))}
    </svg>
  );
}
