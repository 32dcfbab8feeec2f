/** Old and new of an outline over one another on the drawing, the new one's nodes marked: what thinning and cleaning change. */
import { formatPath, mapPoint, nodeCount, startX, startY, type Matrix, type Outline } from '@lorvek/core/geometry';
import { useMemo } from 'react';
import { create } from 'zustand';
import { toScreen, type View } from './view.ts';

export interface Compared {
  readonly matrix: Matrix;
  readonly before: Outline;
  readonly after: Outline;
}

export const useCompared = create<{ pairs: readonly Compared[] }>(() => ({ pairs: [] }));

/** Nodes are marked up to so many, beyond which they would hide the line. */
const MOST_MARKED = 3000;

const marks = (outline: Outline, toPage: (x: number, y: number) => { x: number; y: number }, half: number): string =>
  outline.contours
    .flatMap(({ spans }) => spans)
    .map((span) => {
      const p = toPage(startX(span), startY(span));
      return `M${(p.x - half).toFixed(1)} ${(p.y - half).toFixed(1)}h${2 * half}v${2 * half}h${-2 * half}z`;
    })
    .join('');

function Pair({ pair: { matrix, before, after }, view }: { pair: Compared; view: View }) {
  const [old, fresh] = useMemo(() => [formatPath(before, 4), formatPath(after, 4)], [before, after]);
  const [a, b, c, d, e, f] = matrix;
  const toPage = (x: number, y: number): { x: number; y: number } => toScreen(view, mapPoint(matrix, { x, y }));
  const k = view.scale;
  const map = `matrix(${a * k} ${-b * k} ${c * k} ${-d * k} ${view.x + e * k} ${view.y - f * k})`;
  return (
    <g fill="none">
      <path d={fresh} transform={map} stroke="#fdfbf6" strokeWidth={7} vectorEffect="non-scaling-stroke" />
      <path d={old} transform={map} stroke="#c4473a" strokeWidth={3} vectorEffect="non-scaling-stroke" />
      <path d={fresh} transform={map} stroke="#0d5c5f" strokeWidth={1.5} vectorEffect="non-scaling-stroke" />
      {nodeCount(after) <= MOST_MARKED ? <path d={marks(after, toPage, 4)} fill="#fdfbf6" stroke="#0d5c5f" /> : null}
    </g>
  );
}

export function ComparedOverlay({ view }: { view: View }) {
  const pairs = useCompared((state) => state.pairs);
  if (pairs.length === 0) return null;
  return (
    <svg className="pointer-events-none absolute inset-0 h-full w-full" data-testid="compared">
      {pairs.map((pair, i) => (
        <Pair key={i} pair={pair} view={view} />
      ))}
    </svg>
  );
}

/** What the colours of the two lines mean. */
export function ComparedKey() {
  return (
    <p className="flex gap-3 text-[13px] text-ink-soft">
      <span>
        <span className="mr-1 inline-block h-0.5 w-4 bg-[#c4473a] align-middle" />
        old
      </span>
      <span>
        <span className="mr-1 inline-block h-0.5 w-4 bg-[#0d5c5f] align-middle" />
        new
      </span>
    </p>
  );
}
