/** Over the drawing: frame and handles of the selection, the mark-out box, numbers at the pointer. */
import { mapPoint, type Box, type Point } from '@lorvek/core/geometry';
import { handlePlace, SIZE_HANDLES, turnHandlePlace } from '../../drawing/hit.ts';
import type { Frame } from '../../drawing/selection.ts';
import type { Snapped } from '../../drawing/snap.ts';
import { toScreen, type View } from '../../drawing/view.ts';
import { describeLength, type LengthUnit } from '@lorvek/core/units';
import { isPlain, leavesOf } from '@lorvek/model';
import { useEffect, useState } from 'react';
import { create } from 'zustand';
import { useDocument } from '../../document/store.ts';
import { outlineOf, placedBoxOf, resultOf, useDerivedVersion } from '../../worker/derived.ts';

const corners = (box: Box): Point[] => [
  { x: box.minX, y: box.minY },
  { x: box.maxX, y: box.minY },
  { x: box.maxX, y: box.maxY },
  { x: box.minX, y: box.maxY },
];

const points = (view: View, frame: Frame): string =>
  corners(frame.box)
    .map((p) => toScreen(view, mapPoint(frame.matrix, p)))
    .map((p) => `${p.x.toFixed(1)},${p.y.toFixed(1)}`)
    .join(' ');

export function SelectionOverlay({
  frame,
  view,
  handles,
  members,
}: {
  frame: Frame;
  view: View;
  handles: boolean;
  members: readonly Frame[];
}) {
  const turn = turnHandlePlace(frame, view);
  const top = handlePlace(frame, view, { x: 0.5, y: 1 });
  return (
    <svg className="pointer-events-none absolute inset-0 h-full w-full" data-testid="selection">
      {members.map((member, i) => (
        <polygon key={i} points={points(view, member)} fill="none" stroke="#0d5c5f" strokeWidth={1} strokeDasharray="2 3" />
      ))}
      <polygon points={points(view, frame)} fill="none" stroke="#fdfbf6" strokeWidth={3} opacity={0.7} />
      <polygon points={points(view, frame)} fill="none" stroke="#0d5c5f" strokeWidth={1.25} />
      {handles ? (
        <>
          <line x1={top.x} y1={top.y} x2={turn.x} y2={turn.y} stroke="#0d5c5f" strokeWidth={1.25} />
          <circle cx={turn.x} cy={turn.y} r={5} fill="#fdfbf6" stroke="#0d5c5f" strokeWidth={1.5} />
          {SIZE_HANDLES.map((anchor) => {
            const p = handlePlace(frame, view, anchor);
            return (
              <path
                key={`${anchor.x}${anchor.y}`}
                d={`M${p.x - 4} ${p.y - 4}h5.5l2.5 2.5v5.5h-8z`}
                fill="#fdfbf6"
                stroke="#0d5c5f"
                strokeWidth={1.25}
              />
            );
          })}
        </>
      ) : null}
    </svg>
  );
}

export function MarkBox({ view, from, to, round }: { view: View; from: Point; to: Point; round?: boolean }) {
  const a = toScreen(view, from);
  const b = toScreen(view, to);
  const [x, y, w, h] = [Math.min(a.x, b.x), Math.min(a.y, b.y), Math.abs(a.x - b.x), Math.abs(a.y - b.y)];
  return (
    <svg className="pointer-events-none absolute inset-0 h-full w-full">
      {round ? (
        <ellipse cx={x + w / 2} cy={y + h / 2} rx={w / 2} ry={h / 2} fill="#0d5c5f22" stroke="#0d5c5f" />
      ) : (
        <rect x={x} y={y} width={w} height={h} fill="#0d5c5f14" stroke="#0d5c5f" strokeDasharray="4 3" />
      )}
    </svg>
  );
}

/** Numbers that travel with the pointer. */
export function PointerNote({ at, text }: { at: Point; text: string }) {
  return (
    <div
      className="numerals pointer-events-none absolute z-10 bg-ink px-1.5 py-0.5 text-2xs whitespace-nowrap text-sheet"
      style={{ left: at.x + 14, top: at.y + 14 }}
    >
      {text}
    </div>
  );
}

/** Draws attention to a place for a moment. */
export function Flash({ view, box, at }: { view: View; box: Box; at: number }) {
  const a = toScreen(view, { x: box.minX, y: box.maxY });
  const b = toScreen(view, { x: box.maxX, y: box.minY });
  return (
    <svg key={at} className="pointer-events-none absolute inset-0 h-full w-full" aria-hidden>
      <rect x={a.x - 12} y={a.y - 12} width={b.x - a.x + 24} height={b.y - a.y + 24} fill="none" stroke="#8a5200" strokeWidth={3}>
        <animate attributeName="opacity" values="1;0.2;1;0.2;1;0" dur="2.6s" fill="freeze" />
      </rect>
    </svg>
  );
}

/** What the pointer snapped to: lines across the window, equal gaps as arrows. */
export function SnapOverlay({ snapped, view, unit }: { snapped: Snapped; view: View; unit: LengthUnit }) {
  if (snapped.reasons.length === 0) return null;
  const p = toScreen(view, snapped.at);
  return (
    <svg className="pointer-events-none absolute inset-0 h-full w-full" data-testid="snap">
      {snapped.lines.map(({ axis, mm }) =>
        axis === 'x' ? (
          <line
            key={axis}
            x1={view.x + mm * view.scale}
            x2={view.x + mm * view.scale}
            y1={0}
            y2="100%"
            stroke="#8a5200"
            strokeDasharray="2 3"
          />
        ) : (
          <line
            key={axis}
            y1={view.y - mm * view.scale}
            y2={view.y - mm * view.scale}
            x1={0}
            x2="100%"
            stroke="#8a5200"
            strokeDasharray="2 3"
          />
        ),
      )}
      {snapped.lines.length === 0 && !snapped.gaps ? (
        <circle cx={p.x} cy={p.y} r={6} fill="none" stroke="#8a5200" strokeWidth={1.5} />
      ) : null}
      {(snapped.gaps ?? []).map(({ from, to }, i) => (
        <DimensionArrow
          key={i}
          from={toScreen(view, from)}
          to={toScreen(view, to)}
          text={describeLength(Math.round(Math.hypot(to.x - from.x, to.y - from.y) * 100) / 100, unit)}
        />
      ))}
    </svg>
  );
}

/** A double arrow with what it measures, in screen px. */
export function DimensionArrow({ from, to, text }: { from: Point; to: Point; text: string }) {
  const length = Math.hypot(to.x - from.x, to.y - from.y) || 1;
  const [dx, dy] = [(to.x - from.x) / length, (to.y - from.y) / length];
  const head = (p: Point, s: number): string =>
    `M${p.x} ${p.y}L${p.x + s * 7 * dx - 3 * dy} ${p.y + s * 7 * dy + 3 * dx}L${p.x + s * 7 * dx + 3 * dy} ${p.y + s * 7 * dy - 3 * dx}Z`;
  const middle = { x: (from.x + to.x) / 2, y: (from.y + to.y) / 2 };
  const width = text.length * 6.6 + 8;
  return (
    <g>
      <line x1={from.x} y1={from.y} x2={to.x} y2={to.y} stroke="#8a5200" strokeWidth={1.25} />
      <path d={head(from, 1) + head(to, -1)} fill="#8a5200" />
      {text ? (
        <>
          <rect x={middle.x - width / 2} y={middle.y - 8} width={width} height={16} fill="#fdfbf6" opacity={0.92} />
          <text x={middle.x} y={middle.y + 4} textAnchor="middle" fontSize={11} fill="#8a5200" className="numerals">
            {text}
          </text>
        </>
      ) : null}
    </g>
  );
}

/** What a card would do, shown before it is done: boxes where items would come to lie, and dimension arrows. */
export interface PlacingPreview {
  readonly boxes: readonly Box[];
  readonly arrows: readonly { readonly from: Point; readonly to: Point }[];
}

export const usePlacingPreview = create<{ shown: PlacingPreview | undefined }>(() => ({ shown: undefined }));

export function PlacingOverlay({ view, unit }: { view: View; unit: LengthUnit }) {
  const shown = usePlacingPreview((state) => state.shown);
  if (!shown) return null;
  return (
    <svg className="pointer-events-none absolute inset-0 h-full w-full" data-testid="placing">
      {shown.boxes.map((box, i) => {
        const a = toScreen(view, { x: box.minX, y: box.maxY });
        return (
          <rect
            key={i}
            x={a.x}
            y={a.y}
            width={(box.maxX - box.minX) * view.scale}
            height={(box.maxY - box.minY) * view.scale}
            fill="#8a520018"
            stroke="#8a5200"
            strokeDasharray="4 3"
          />
        );
      })}
      {shown.arrows.map(({ from, to }, i) => (
        <DimensionArrow
          key={i}
          from={toScreen(view, from)}
          to={toScreen(view, to)}
          text={describeLength(Math.round(Math.hypot(to.x - from.x, to.y - from.y) * 100) / 100, unit)}
        />
      ))}
    </svg>
  );
}

/** Shorter work is over before a sign would be read, ms. */
const QUIET_MS = 300;
const MOST_SIGNS = 12;

/** A quiet sign on each item whose outline is still being worked out: what is seen of it is the one before. */
export function WorkingSigns({ view }: { view: View }) {
  const drawing = useDocument((state) => state.drawing);
  useDerivedVersion((state) => state.version);
  const busy = leavesOf(drawing).filter((leaf) => !isPlain(leaf) && leaf.kind !== 'edge-cut' && resultOf(leaf) === undefined);
  const isBusy = busy.length > 0;
  const [shows, setShows] = useState(false);
  useEffect(() => {
    if (!isBusy) {
      setShows(false);
      return undefined;
    }
    const timer = setTimeout(() => setShows(true), QUIET_MS);
    return () => clearTimeout(timer);
  }, [isBusy]);
  if (!shows) return null;
  return (
    <>
      {busy.slice(0, MOST_SIGNS).map((leaf) => {
        const outline = outlineOf(leaf);
        const box = outline && placedBoxOf(outline, leaf.matrix);
        const at = toScreen(view, box ? { x: box.minX, y: box.maxY } : { x: leaf.matrix[4], y: leaf.matrix[5] });
        return (
          <span
            key={leaf.id}
            role="status"
            className="pointer-events-none absolute border border-line-strong bg-paper px-1.5 text-xs text-ink-soft"
            style={{ left: Math.max(24, at.x), top: Math.max(24, at.y - 20) }}
          >
            working…
          </span>
        );
      })}
    </>
  );
}
