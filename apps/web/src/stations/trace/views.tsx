/** Original, cleaned picture and result side by side, moved and enlarged together; a wipe of the original over the result. */
import { Maximize, Minus, Plus } from 'lucide-react';
import { useEffect, useRef, useState, type PointerEvent, type ReactNode, type WheelEvent } from 'react';
import { create } from 'zustand';
import type { PictureItem } from '@lorvek/model';
import { IconButton } from '../../ui/button.tsx';
import { PickLayer } from './pick-layer.tsx';
import { useTracing } from './trace-store.ts';

interface Sight {
  /** Enlargement over fitting the column, and the middle of what is shown as shares of the picture. */
  readonly zoom: number;
  readonly x: number;
  readonly y: number;
  /** Share of the result's column that shows the original. */
  readonly wipe: number;
}

export const useSight = create<Sight>(() => ({ zoom: 1, x: 0.5, y: 0.5, wipe: 0 }));

const clamp = (v: number, low: number, high: number): number => Math.min(high, Math.max(low, v));

export function zoomBy(factor: number): void {
  useSight.setState(({ zoom }) => ({ zoom: clamp(zoom * factor, 1, 60) }));
}

const CHECKER = 'repeating-conic-gradient(#e4ddcc 0 25%, #fdfbf6 0 50%) 0 0 / 16px 16px';

/** A column: its content is as large as the picture and moved by the common sight. */
function Column({ title, ratio, children, ground }: { title: string; ratio: number; children: ReactNode; ground?: string }) {
  const { zoom, x, y } = useSight();
  const box = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState({ width: 1, height: 1 });
  const held = useRef<{ x: number; y: number } | undefined>(undefined);
  useEffect(() => {
    if (!box.current) return undefined;
    const watch = new ResizeObserver(([entry]) => entry && setSize({ width: entry.contentRect.width, height: entry.contentRect.height }));
    watch.observe(box.current);
    return () => watch.disconnect();
  }, []);
  const fit = Math.min(size.width, size.height * ratio) * 0.94;
  const [w, h] = [fit * zoom, (fit * zoom) / ratio];
  const move = (event: PointerEvent): void => {
    const from = held.current;
    if (!from) return;
    held.current = { x: event.clientX, y: event.clientY };
    useSight.setState((s) => ({ x: clamp(s.x - (event.clientX - from.x) / w, 0, 1), y: clamp(s.y - (event.clientY - from.y) / h, 0, 1) }));
  };
  const wheel = (event: WheelEvent): void => zoomBy(event.deltaY < 0 ? 1.2 : 1 / 1.2);
  return (
    <section aria-label={title} className="flex min-w-0 flex-1 flex-col border-r last:border-r-0">
      <h2 className="rule-label border-b bg-paper px-2 py-1">{title}</h2>
      <div
        ref={box}
        className="relative min-h-0 flex-1 cursor-grab touch-none overflow-hidden"
        style={{ background: ground ?? 'var(--color-desk)' }}
        onPointerDown={(event) => {
          held.current = { x: event.clientX, y: event.clientY };
          event.currentTarget.setPointerCapture(event.pointerId);
        }}
        onPointerMove={move}
        onPointerUp={() => (held.current = undefined)}
        onWheel={wheel}
      >
        <div className="absolute" style={{ width: w, height: h, left: size.width / 2 - x * w, top: size.height / 2 - y * h }}>
          {children}
        </div>
      </div>
    </section>
  );
}

function Cleaned() {
  const cleaned = useTracing((state) => state.answer?.cleaned);
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const context = canvas.current?.getContext('2d');
    if (!canvas.current || !context || !cleaned) return;
    canvas.current.width = cleaned.width;
    canvas.current.height = cleaned.height;
    context.putImageData(new ImageData(new Uint8ClampedArray(cleaned.data), cleaned.width, cleaned.height), 0, 0);
  }, [cleaned]);
  return <canvas ref={canvas} className="h-full w-full" aria-label="Cleaned picture" />;
}

function Result() {
  const answer = useTracing((state) => state.answer);
  if (!answer) return null;
  const { lines } = answer;
  return (
    <svg
      viewBox={`0 0 ${answer.widthPx} ${answer.heightPx}`}
      className="absolute inset-0 h-full w-full"
      role="img"
      aria-label="Result"
      data-testid="traced"
    >
      <g transform={`matrix(1 0 0 -1 0 ${answer.heightPx})`}>
        {answer.layers.flatMap(({ hex, parts }) =>
          parts.map(({ path, x, y }) => (
            <path
              key={hex}
              d={path}
              transform={`translate(${x} ${y})`}
              {...(lines ? { fill: 'none', stroke: hex, strokeWidth: 1.5, vectorEffect: 'non-scaling-stroke' } : { fill: hex })}
            />
          )),
        )}
      </g>
    </svg>
  );
}

export function TraceViews({ picture }: { picture: PictureItem }) {
  const wipe = useSight((state) => state.wipe);
  const zoom = useSight((state) => state.zoom);
  const ratio = picture.widthPx / picture.heightPx;
  const [image, setImage] = useState<HTMLImageElement | null>(null);
  const frame = useTracing((state) => state.answer);
  const worked = frame ? frame.widthPx / frame.heightPx : ratio;
  const original = <img src={`/api/assets/${picture.asset}`} alt="" draggable={false} className="h-full w-full" />;
  return (
    <div className="flex h-full flex-col">
      <div className="flex min-h-0 flex-1">
        <Column title="Original" ratio={ratio} ground={CHECKER}>
          <img ref={setImage} src={`/api/assets/${picture.asset}`} alt="" draggable={false} className="h-full w-full" />
          <PickLayer picture={picture} image={image} />
        </Column>
        <Column title="Cleaned" ratio={worked} ground={CHECKER}>
          <Cleaned />
        </Column>
        <Column title="Result" ratio={worked} ground={CHECKER}>
          <Result />
          {wipe > 0 ? (
            <div className="absolute inset-0 border-r-2 border-teal" style={{ clipPath: `inset(0 ${100 - wipe}% 0 0)` }}>
              {original}
            </div>
          ) : null}
        </Column>
      </div>
      <div className="flex h-11 shrink-0 items-center justify-center gap-3 border-t bg-paper">
        <IconButton label="Smaller" onClick={() => zoomBy(1 / 1.5)}>
          <Minus size={15} />
        </IconButton>
        <span className="numerals w-14 text-center text-xs">{Math.round(zoom * 100)} %</span>
        <IconButton label="Larger" onClick={() => zoomBy(1.5)}>
          <Plus size={15} />
        </IconButton>
        <IconButton label="Fit" onClick={() => useSight.setState({ zoom: 1, x: 0.5, y: 0.5 })}>
          <Maximize size={15} />
        </IconButton>
        <label className="ml-4 flex items-center gap-2 text-[13px]">
          Wipe the original over the result
          <input
            type="range"
            min={0}
            max={100}
            value={wipe}
            className="w-48 accent-teal"
            onChange={(event) => useSight.setState({ wipe: Number(event.target.value) })}
          />
        </label>
      </div>
    </div>
  );
}
