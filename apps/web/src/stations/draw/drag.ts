/** What a drag on the drawing means: moving, sizing, turning, marking out, making a shape. */
import { translation, type Matrix, type Point } from '@lorvek/core/geometry';
import { anchorPlace, scaleInFrame, turnAbout, type Frame } from '../../drawing/selection.ts';
import type { Guide } from '@lorvek/model';
import type { Handle } from '../../drawing/hit.ts';
import { invert, mapPoint } from '@lorvek/core/geometry';

export type Drag =
  | { kind: 'move'; from: Point; started: boolean }
  | { kind: 'size'; from: Point; frame: Frame; handle: Extract<Handle, { kind: 'size' }> }
  | { kind: 'turn'; from: Point; frame: Frame }
  | { kind: 'mark'; from: Point; to: Point; add: boolean }
  | { kind: 'guide'; guide: Guide; mm: number };

interface Keys {
  shiftKey: boolean;
  altKey: boolean;
}

/** Straight along one axis when Shift is held. */
export function moveBy(from: Point, to: Point, keys: Keys): Matrix {
  const dx = to.x - from.x;
  const dy = to.y - from.y;
  if (!keys.shiftKey) return translation(dx, dy);
  return Math.abs(dx) >= Math.abs(dy) ? translation(dx, 0) : translation(0, dy);
}

const SMALLEST = 1e-3;

/** Sizes about the opposite handle, or about the middle with Alt. With the lock closed the ratio is kept, with Shift the other way round. */
export function sizeBy(drag: Extract<Drag, { kind: 'size' }>, to: Point, keys: Keys, ratioLock: boolean): Matrix {
  const { frame, handle } = drag;
  const back = invert(frame.matrix);
  if (!back) return [1, 0, 0, 1, 0, 0];
  const p = mapPoint(back, to);
  const grip = mapPoint(back, drag.from);
  const fixed = keys.altKey ? { x: 0.5, y: 0.5 } : { x: 1 - handle.anchor.x, y: 1 - handle.anchor.y };
  const { box } = frame;
  const at = { x: box.minX + fixed.x * (box.maxX - box.minX), y: box.minY + fixed.y * (box.maxY - box.minY) };
  const along = (now: number, was: number, origin: number): number =>
    Math.abs(was - origin) < 1e-9 ? 1 : Math.max(SMALLEST, (now - origin) / (was - origin));
  const kx = handle.anchor.x === 0.5 ? 1 : along(p.x, grip.x, at.x);
  const ky = handle.anchor.y === 0.5 ? 1 : along(p.y, grip.y, at.y);
  if (ratioLock !== keys.shiftKey) {
    // of a side handle only the one way is dragged
    const k = handle.anchor.x === 0.5 ? ky : handle.anchor.y === 0.5 ? kx : Math.max(kx, ky);
    return scaleInFrame(frame, fixed, k, k);
  }
  return scaleInFrame(frame, fixed, kx, ky);
}

/** Turns about the frame's middle; in steps of 15 degrees with Shift. */
export function turnBy(drag: Extract<Drag, { kind: 'turn' }>, to: Point, keys: Keys): { map: Matrix; angleDeg: number } {
  const centre = anchorPlace(drag.frame, { x: 0.5, y: 0.5 });
  const was = Math.atan2(drag.from.y - centre.y, drag.from.x - centre.x);
  const now = Math.atan2(to.y - centre.y, to.x - centre.x);
  let angleDeg = ((now - was) * 180) / Math.PI;
  if (keys.shiftKey) angleDeg = Math.round((drag.frame.turnDeg + angleDeg) / 15) * 15 - drag.frame.turnDeg;
  angleDeg = ((((angleDeg + 180) % 360) + 360) % 360) - 180;
  return { map: turnAbout(centre, angleDeg), angleDeg };
}

/** The box between two corners, square when asked. */
export function boxBetween(from: Point, to: Point, square: boolean): { x: number; y: number; width: number; height: number } {
  let width = Math.abs(to.x - from.x);
  let height = Math.abs(to.y - from.y);
  if (square) width = height = Math.max(width, height);
  return { x: to.x < from.x ? from.x - width : from.x, y: to.y < from.y ? from.y - height : from.y, width, height };
}
