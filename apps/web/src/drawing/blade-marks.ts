/** Blade view: nodes, where each contour starts, which way it runs, and in which order contours are cut. */
import { mapOutline, startX, startY, endTangent, type Contour } from '@lorvek/core/geometry';
import type { Drawing } from '@lorvek/model';
import { ask } from '../worker/compute.ts';
import { paintedOf, windowBox } from './paint.ts';
import { RULER_PX } from './rulers.ts';
import { toScreen, type Size, type View } from './view.ts';

export interface BladeContour {
  readonly contour: Contour;
  /** Which film it is cut from, counted from the lowest. */
  readonly film: number;
  /** Number in the cutting order of its film, from 1; its start node. */
  order: number;
  start: number;
}

const MOST_NODES_SHOWN = 6000;
const MOST_ORDERED = 3000;

/** Every visible contour with its place in the order; the order is asked from the worker. */
export async function bladeContours(drawing: Drawing): Promise<BladeContour[]> {
  const films = paintedOf(drawing, { moved: new Set(), preview: undefined });
  const all: BladeContour[] = [];
  for (const [film, { painted }] of films.entries()) {
    // helper lines are not cut
    const contours = painted.flatMap(({ outline, matrix, helper }) => (helper ? [] : mapOutline(matrix, outline).contours));
    if (contours.length === 0) continue;
    const plan = contours.length <= MOST_ORDERED ? await ask('order', { contours }) : undefined;
    contours.forEach((contour, i) => {
      const position = plan ? plan.order.indexOf(i) : -1;
      all.push({ contour, film, order: position + 1, start: position >= 0 ? (plan?.startIndex[position] ?? 0) : 0 });
    });
  }
  return all;
}

/** What is not shown of a drawing with very much in it, in words; none when all is. */
export function leftOutOf(nodesInView: number, contours: readonly BladeContour[]): string[] {
  const films = new Set(contours.filter(({ order }) => order === 0).map(({ film }) => film));
  return [
    ...(nodesInView > MOST_NODES_SHOWN ? [`${MOST_NODES_SHOWN} of ${nodesInView} nodes are shown here: come nearer for the others.`] : []),
    ...(films.size > 0 ? [`Films of more than ${MOST_ORDERED} outlines are shown without their order.`] : []),
  ];
}

/** Marks of all contours in view, and below them what is not shown. */
export function paintBladeMarks(context: CanvasRenderingContext2D, contours: readonly BladeContour[], view: View, size: Size): void {
  const seen = windowBox(view, size);
  const inside = (x: number, y: number): boolean => x >= seen.minX && x <= seen.maxX && y >= seen.minY && y <= seen.maxY;
  let nodes = 0;
  context.save();
  context.strokeStyle = '#16202e';
  context.fillStyle = '#fdfbf6';
  context.lineWidth = 1;
  for (const { contour } of contours) {
    for (const span of contour.spans) {
      if (!inside(startX(span), startY(span)) || ++nodes > MOST_NODES_SHOWN) continue;
      const p = toScreen(view, { x: startX(span), y: startY(span) });
      context.fillRect(p.x - 2, p.y - 2, 4, 4);
      context.strokeRect(p.x - 2, p.y - 2, 4, 4);
    }
  }
  context.font = '500 11px "Spline Sans Mono", monospace';
  for (const { contour, order, start } of contours) {
    const span = contour.spans[Math.min(start, contour.spans.length - 1)];
    if (!span || !inside(startX(span), startY(span))) continue;
    paintStart(context, toScreen(view, { x: startX(span), y: startY(span) }), endTangent(span, 0), order);
  }
  paintNotes(context, leftOutOf(nodes, contours));
  context.restore();
}

/** Words at the upper left, where nothing lies over the drawing. */
function paintNotes(context: CanvasRenderingContext2D, notes: readonly string[]): void {
  context.font = '600 12px Archivo, sans-serif';
  notes.forEach((note, i) => {
    const y = RULER_PX + 24 + 24 * i;
    context.fillStyle = '#f8e7c6';
    context.fillRect(RULER_PX + 8, y - 15, context.measureText(note).width + 16, 21);
    context.fillStyle = '#8a5200';
    context.fillText(note, RULER_PX + 16, y);
  });
}

/** A round start mark with an arrow the way the blade goes, and the number in the order. */
function paintStart(context: CanvasRenderingContext2D, p: { x: number; y: number }, [tx, ty]: [number, number], order: number): void {
  const [dx, dy] = [tx, -ty];
  context.strokeStyle = context.fillStyle = '#0d5c5f';
  context.beginPath();
  context.arc(p.x, p.y, 3.5, 0, 2 * Math.PI);
  context.fill();
  context.beginPath();
  context.moveTo(p.x, p.y);
  context.lineTo(p.x + 16 * dx, p.y + 16 * dy);
  context.lineWidth = 1.5;
  context.stroke();
  context.beginPath();
  context.moveTo(p.x + 20 * dx, p.y + 20 * dy);
  context.lineTo(p.x + 13 * dx - 4 * dy, p.y + 13 * dy + 4 * dx);
  context.lineTo(p.x + 13 * dx + 4 * dy, p.y + 13 * dy - 4 * dx);
  context.fill();
  if (order > 0) context.fillText(String(order), p.x + 6, p.y - 6);
  context.fillStyle = '#fdfbf6';
}
