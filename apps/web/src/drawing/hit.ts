/** Which item lies under the pointer, and which handle of the selection. */
import { boxesMeet, invert, mapPoint, type Box, type Point } from '@lorvek/core/geometry';
import { bendOf, isOutOfReach, type Drawing } from '@lorvek/model';
import { outlineOf, placedBoxOf } from '../worker/derived.ts';
import { dimensionAt } from './dimensions.ts';
import { picturesOf } from './pictures.ts';
import { boxPoint, type Frame } from './selection.ts';
import { paintedOf, pathOf, type Painted } from './paint.ts';
import { toScreen, type Anchor, type View } from './view.ts';

/** How near counts as on, px. */
const NEAR_PX = 5;

let probe: CanvasRenderingContext2D | null = null;

function isOn(context: CanvasRenderingContext2D, { outline, matrix, item, line, helper }: Painted, at: Point, nearMm: number): boolean {
  const box = placedBoxOf(outline, matrix);
  if (at.x < box.minX - nearMm || at.x > box.maxX + nearMm || at.y < box.minY - nearMm || at.y > box.maxY + nearMm) return false;
  if (item.kind === 'lettering' && (bendOf(item)?.line ?? 'arch') === 'arch') return true;
  const back = invert(matrix);
  if (!back) return false;
  const p = mapPoint(back, at);
  const path = pathOf(outline);
  context.lineWidth = (2 * nearMm) / Math.sqrt(Math.abs(matrix[0] * matrix[3] - matrix[1] * matrix[2]));
  // a cut line is taken by its line: what it goes round lies within it
  if (line || helper) return context.isPointInStroke(path, p.x, p.y);
  return context.isPointInPath(path, p.x, p.y, 'nonzero') || context.isPointInStroke(path, p.x, p.y);
}

/** The topmost item within reach; straight lettering is hit anywhere in its box. */
export function itemAt(drawing: Drawing, at: Point, view: View): string | undefined {
  probe ??= document.createElement('canvas').getContext('2d');
  if (!probe) return undefined;
  const nearMm = NEAR_PX / view.scale;
  const dimension = dimensionAt(drawing, at, nearMm);
  if (dimension !== undefined) return dimension;
  const layers = paintedOf(drawing, { moved: new Set(), preview: undefined });
  for (const { painted } of layers.reverse()) {
    for (const one of [...painted].reverse()) {
      if (isOn(probe, one, at, nearMm) && !isOutOfReach(drawing, one.item.id)) return one.item.id;
    }
  }
  return pictureAt(probe, drawing, at);
}

/** The topmost picture that is shown under the pointer and not locked. */
function pictureAt(context: CanvasRenderingContext2D, drawing: Drawing, at: Point): string | undefined {
  return picturesOf(drawing).findLast((item) => {
    if (item.layer !== null) return false;
    const back = invert(item.matrix);
    const p = back && mapPoint(back, at);
    const outline = outlineOf(item);
    return p && outline && !item.locked && context.isPointInPath(pathOf(outline), p.x, p.y, 'evenodd');
  })?.id;
}

/** Items that lie wholly within a box. */
export function itemsWithin(drawing: Drawing, box: Box): string[] {
  const found = paintedOf(drawing, { moved: new Set(), preview: undefined })
    .flatMap(({ painted }) => painted)
    .filter(({ outline, matrix, item }) => {
      const own = placedBoxOf(outline, matrix);
      return (
        boxesMeet(own, box) &&
        own.minX >= box.minX &&
        own.maxX <= box.maxX &&
        own.minY >= box.minY &&
        own.maxY <= box.maxY &&
        !isOutOfReach(drawing, item.id)
      );
    })
    .map(({ item }) => item.id);
  return [...new Set(found)];
}

export type Handle = { kind: 'size'; anchor: Anchor } | { kind: 'turn' };

export const SIZE_HANDLES: readonly Anchor[] = [
  { x: 0, y: 0 },
  { x: 0.5, y: 0 },
  { x: 1, y: 0 },
  { x: 1, y: 0.5 },
  { x: 1, y: 1 },
  { x: 0.5, y: 1 },
  { x: 0, y: 1 },
  { x: 0, y: 0.5 },
];

const HANDLE_PX = 8;
/** The turn handle stands this far above the frame, px. */
const TURN_PX = 26;

export const handlePlace = (frame: Frame, view: View, anchor: Anchor): Point =>
  toScreen(view, mapPoint(frame.matrix, boxPoint(frame.box, anchor)));

export function turnHandlePlace(frame: Frame, view: View): Point {
  const top = handlePlace(frame, view, { x: 0.5, y: 1 });
  const foot = handlePlace(frame, view, { x: 0.5, y: 0 });
  const length = Math.hypot(top.x - foot.x, top.y - foot.y);
  const [dx, dy] = length > 0.5 ? [(top.x - foot.x) / length, (top.y - foot.y) / length] : [0, -1];
  return { x: top.x + dx * TURN_PX, y: top.y + dy * TURN_PX };
}

export function handleAt(frame: Frame, view: View, screen: Point): Handle | undefined {
  const near = (p: Point): boolean => Math.hypot(p.x - screen.x, p.y - screen.y) <= HANDLE_PX;
  if (near(turnHandlePlace(frame, view))) return { kind: 'turn' };
  const corner = [...SIZE_HANDLES]
    .sort((a, b) => Number(a.x === 0.5 || a.y === 0.5) - Number(b.x === 0.5 || b.y === 0.5))
    .find((anchor) => near(handlePlace(frame, view, anchor)));
  return corner ? { kind: 'size', anchor: corner } : undefined;
}
