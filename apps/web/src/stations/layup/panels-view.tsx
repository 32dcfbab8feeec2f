/** The whole as a ghost with its panels on it; seams are dragged here. */
import { describeLength, type LengthUnit } from '@lorvek/core/units';
import type { Box } from '@lorvek/core/geometry';
import type { PanelsFill } from '@lorvek/model';
import type { LaidPanels } from '@lorvek/model/lay-places';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { X } from 'lucide-react';
import { useEffect, useRef, useState, type PointerEvent } from 'react';
import { pathOf } from '../../drawing/paint.ts';
import { paintItem } from '../../drawing/print-page.ts';
import { useDerivedVersion } from '../../worker/derived.ts';
import { IconButton } from '../../ui/button.tsx';
import { useSizeOf, type Size } from '../../ui/use-size.ts';
import { change } from './change.ts';
import { usePanelsView } from './panels-card.tsx';

interface Seam {
  readonly axis: 'x' | 'y';
  readonly index: number;
}

const PAD_PX = 26;
const REACH_PX = 7;

interface Place {
  readonly scale: number;
  readonly left: number;
  readonly top: number;
}

const placeOf = (box: Box, width: number, height: number): Place => {
  const [w, h] = [Math.max(1, box.maxX - box.minX), Math.max(1, box.maxY - box.minY)];
  const scale = Math.max(1e-6, Math.min((width - 2 * PAD_PX) / w, (height - 2 * PAD_PX) / h));
  return { scale, left: (width - w * scale) / 2, top: (height - h * scale) / 2 };
};

interface Shown {
  readonly sheet: SheetPlan;
  readonly laid: LaidPanels;
  readonly unit: LengthUnit;
  /** A seam under the pointer, and where it would go. */
  readonly drag: (Seam & { readonly at: number }) | undefined;
}

function paint(context: CanvasRenderingContext2D, width: number, height: number, { sheet, laid, unit, drag }: Shown): void {
  const { box, panels } = laid;
  const { scale, left, top } = placeOf(box, width, height);
  const bottom = height - top;
  const [x, y] = [(v: number) => left + (v - box.minX) * scale, (v: number) => bottom - (v - box.minY) * scale];
  context.save();
  context.transform(scale, 0, 0, -scale, left - box.minX * scale, bottom + box.minY * scale);
  context.globalAlpha = 0.45;
  const [first] = sheet.parts;
  for (const item of first?.art ?? []) paintItem(context, item);
  if (sheet.layer.type === 'film')
    for (const part of sheet.parts)
      for (const { outline, line } of part.sources) {
        if (!line) continue;
        context.fillStyle = sheet.layer.hex;
        context.fill(pathOf(outline));
      }
  context.restore();
  context.lineWidth = 1.5;
  context.strokeStyle = '#0d5c5f';
  context.fillStyle = '#16202e';
  context.textAlign = 'center';
  for (const { number, box: b } of panels) {
    context.strokeRect(x(b.minX), y(b.maxY), (b.maxX - b.minX) * scale, (b.maxY - b.minY) * scale);
    context.font = '600 16px Archivo, sans-serif';
    context.fillText(String(number), x((b.minX + b.maxX) / 2), y((b.minY + b.maxY) / 2) + 2);
    context.font = '11px Archivo, sans-serif';
    const size = `${describeLength(Math.round(b.maxX - b.minX), unit)} × ${describeLength(Math.round(b.maxY - b.minY), unit)}`;
    if (context.measureText(size).width < (b.maxX - b.minX) * scale)
      context.fillText(size, x((b.minX + b.maxX) / 2), y((b.minY + b.maxY) / 2) + 18);
  }
  if (!drag) return;
  context.strokeStyle = '#b3700f';
  context.setLineDash([5, 4]);
  context.beginPath();
  if (drag.axis === 'x') {
    context.moveTo(x(drag.at), top - 8);
    context.lineTo(x(drag.at), bottom + 8);
  } else {
    context.moveTo(left - 8, y(drag.at));
    context.lineTo(width - left + 8, y(drag.at));
  }
  context.stroke();
  context.setLineDash([]);
  const from = drag.axis === 'x' ? box.minX : box.minY;
  context.font = '600 12px Archivo, sans-serif';
  context.fillText(
    describeLength(Math.round(10 * (drag.at - from)) / 10, unit),
    drag.axis === 'x' ? x(drag.at) : left + 30,
    drag.axis === 'x' ? top - 12 : y(drag.at) - 6,
  );
}

interface ViewProps {
  readonly sheet: SheetPlan;
  readonly fill: PanelsFill;
  readonly laid: LaidPanels;
  readonly unit: LengthUnit;
}

/** Seams are dragged to where they belong. */
function useSeams({ sheet, fill, laid }: ViewProps, size: Size) {
  const [drag, setDrag] = useState<Seam & { at: number }>();
  const at = (event: PointerEvent): { x: number; y: number; px: Place } => {
    const px = placeOf(laid.box, size.width, size.height);
    const { offsetX, offsetY } = event.nativeEvent;
    return { x: laid.box.minX + (offsetX - px.left) / px.scale, y: laid.box.minY + (size.height - px.top - offsetY) / px.scale, px };
  };
  const down = (event: PointerEvent<HTMLCanvasElement>): void => {
    const { x, y, px } = at(event);
    const near = (['x', 'y'] as const).flatMap((axis) =>
      laid.seams[axis].map((place, index) => ({ axis, index, at: place, away: Math.abs((axis === 'x' ? x : y) - place) * px.scale })),
    );
    const [best] = near.sort((a, b) => a.away - b.away);
    if (!best || best.away > REACH_PX) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    setDrag({ axis: best.axis, index: best.index, at: best.at });
  };
  const move = (event: PointerEvent): void => {
    if (!drag) return;
    const { x, y } = at(event);
    const [from, to] = drag.axis === 'x' ? [laid.box.minX, laid.box.maxX] : [laid.box.minY, laid.box.maxY];
    setDrag({ ...drag, at: Math.min(to - 1, Math.max(from + 1, Math.round(drag.axis === 'x' ? x : y))) });
  };
  const up = (): void => {
    if (!drag) return;
    const own = laid.seams[drag.axis].map((place, i) => (i === drag.index ? drag.at : place)).sort((a, b) => a - b);
    setDrag(undefined);
    change(sheet.layer.id, { fill: { ...fill, way: 'seams', seams: { x: [...laid.seams.x], y: [...laid.seams.y], [drag.axis]: own } } });
  };
  return { drag, down, move, up, cancel: () => setDrag(undefined) };
}

export function PanelsView(props: ViewProps) {
  const { sheet, laid, unit } = props;
  const canvas = useRef<HTMLCanvasElement>(null);
  const version = useDerivedVersion((state) => state.version);
  const size = useSizeOf(canvas);
  const { drag, down, move, up, cancel } = useSeams(props, size);
  useEffect(() => {
    const element = canvas.current;
    const context = element?.getContext('2d');
    if (!element || !context || size.width === 0) return;
    const ratio = window.devicePixelRatio || 1;
    [element.width, element.height] = [size.width * ratio, size.height * ratio];
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    paint(context, size.width, size.height, { sheet, laid, unit, drag });
  }, [sheet, laid, unit, drag, version, size]);
  return (
    <section aria-label="The whole with its panels" className="flex h-64 shrink-0 flex-col border-t border-line-strong bg-paper">
      <header className="flex h-8 shrink-0 items-center gap-2 px-2">
        <strong>The whole</strong>
        <span className="text-[13px] text-ink-soft">
          {laid.panels.length} panels, numbered as they go up. Drag a seam to where it belongs.
        </span>
        <span className="flex-1" />
        <IconButton label="Hide the whole" onClick={() => usePanelsView.setState({ open: false })}>
          <X size={15} />
        </IconButton>
      </header>
      <canvas
        ref={canvas}
        role="img"
        aria-label={`The whole in ${laid.panels.length} panels`}
        className="min-h-0 w-full flex-1 touch-none"
        style={{ cursor: drag ? (drag.axis === 'x' ? 'ew-resize' : 'ns-resize') : 'default' }}
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={up}
        onPointerCancel={cancel}
      />
    </section>
  );
}
