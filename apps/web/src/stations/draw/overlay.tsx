/** Over the drawing: frame and handles of the selection, the mark-out box, numbers at the pointer. */
import { mapPoint, type Box, type Point } from '@lorvek/core/geometry';
import { handlePlace, SIZE_HANDLES, turnHandlePlace } from '../../drawing/hit.ts';
import type { Frame } from '../../drawing/selection.ts';
import { toScreen, type View } from '../../drawing/view.ts';

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
