/** What the Repeat card asks for, as copies of the core: pitch or gap, how many fit into a length. */
import type { Repeat } from '@lorvek/core/placing';

export type Pitch = 'pitch' | 'gap';

export interface Asked {
  kind: Repeat['kind'];
  copies: number;
  rows: number;
  dx: number;
  dy: number;
  cx: number;
  cy: number;
  step: number;
  turning: boolean;
  /** Are the steps from edge to same edge, or the clear way between copies? */
  measured: Pitch;
}

export function toRepeat(asked: Asked, width: number, height: number, middle: { x: number; y: number }): Repeat {
  const clear = asked.measured === 'gap';
  // a gap of nothing is edge to edge; a line that goes nowhere else goes to the right
  const along = (step: number, size: number, goes: boolean): number => (clear && goes ? step + (step < 0 ? -size : size) : step);
  const isGrid = asked.kind === 'grid';
  if (asked.kind === 'round')
    return {
      kind: 'round',
      copies: asked.copies,
      centre: { x: asked.cx, y: asked.cy },
      stepDeg: asked.step,
      turning: asked.turning,
      middle,
    };
  const [dxMm, dyMm] = [
    along(asked.dx, width, isGrid || asked.dx !== 0 || asked.dy === 0),
    along(asked.dy, height, isGrid || asked.dy !== 0),
  ];
  return asked.kind === 'line'
    ? { kind: 'line', copies: asked.copies, dxMm, dyMm }
    : { kind: 'grid', columns: asked.copies, rows: asked.rows, dxMm, dyMm };
}

/** How many further copies there are room for in a length along the line, the first one included. */
export function copiesWithin(lengthMm: number, asked: Asked, width: number, height: number, middle: { x: number; y: number }): number {
  const repeat = toRepeat(asked, width, height, middle);
  if (repeat.kind !== 'line') return asked.copies;
  const across = Math.abs(repeat.dxMm) >= Math.abs(repeat.dyMm);
  const [pitch, size] = across ? [Math.abs(repeat.dxMm), width] : [Math.abs(repeat.dyMm), height];
  return pitch > 0 ? Math.max(1, Math.min(5000, Math.floor((lengthMm - size + 1e-6) / pitch))) : asked.copies;
}
