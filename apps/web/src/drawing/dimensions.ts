/** Dimension lines: where they stand, what they say, painting and hitting them. */
import type { Point } from '@lorvek/core/geometry';
import { segmentDistance } from '@lorvek/core/geometry';
import { describeLength, type LengthUnit } from '@lorvek/core/units';
import { leavesOf, pageOf, type DimensionEnd, type DimensionItem, type Drawing } from '@lorvek/model';
import { fastenedPlace } from './snap.ts';
import { toScreen, type View } from './view.ts';

export interface DimensionLine {
  /** What is measured. */
  readonly from: Point;
  readonly to: Point;
  /** The line itself, stood off. */
  readonly a: Point;
  readonly b: Point;
  readonly mm: number;
}

export const endPlace = (drawing: Drawing, end: DimensionEnd): Point =>
  (end.item !== undefined ? fastenedPlace(drawing, end.item, end.u ?? 0, end.v ?? 0) : undefined) ?? { x: end.x, y: end.y };

export function dimensionLine(drawing: Drawing, item: Pick<DimensionItem, 'from' | 'to' | 'measure' | 'standOffMm'>): DimensionLine {
  const from = endPlace(drawing, item.from);
  const to = endPlace(drawing, item.to);
  const [dx, dy] = [to.x - from.x, to.y - from.y];
  const length = Math.hypot(dx, dy) || 1;
  if (item.measure === 'level') {
    const y = Math.max(from.y, to.y) + item.standOffMm;
    return { from, to, a: { x: from.x, y }, b: { x: to.x, y }, mm: Math.abs(dx) };
  }
  if (item.measure === 'upright') {
    const x = Math.min(from.x, to.x) - item.standOffMm;
    return { from, to, a: { x, y: from.y }, b: { x, y: to.y }, mm: Math.abs(dy) };
  }
  const [nx, ny] = [(-dy / length) * item.standOffMm, (dx / length) * item.standOffMm];
  return { from, to, a: { x: from.x + nx, y: from.y + ny }, b: { x: to.x + nx, y: to.y + ny }, mm: Math.hypot(dx, dy) };
}

export const dimensionsOf = (drawing: Drawing): DimensionItem[] =>
  leavesOf(drawing).filter((leaf): leaf is DimensionItem => leaf.kind === 'dimension');

const ARROW_PX = 8;

/** Paints one dimension line in screen space. */
export function paintDimension(
  context: CanvasRenderingContext2D,
  line: DimensionLine,
  view: View,
  unit: LengthUnit,
  strong: boolean,
): void {
  const [from, to, a, b] = [line.from, line.to, line.a, line.b].map((p) => toScreen(view, p)) as [Point, Point, Point, Point];
  const colour = strong ? '#0d5c5f' : '#33415a';
  context.save();
  context.strokeStyle = context.fillStyle = colour;
  context.lineWidth = strong ? 1.6 : 1;
  const segment = (p: Point, q: Point): void => {
    context.beginPath();
    context.moveTo(p.x, p.y);
    context.lineTo(q.x, q.y);
    context.save();
    context.strokeStyle = '#fdfbf6';
    context.lineWidth += 2.5;
    context.stroke();
    context.restore();
    context.stroke();
  };
  segment(from, a);
  segment(to, b);
  segment(a, b);
  const length = Math.hypot(b.x - a.x, b.y - a.y) || 1;
  const [dx, dy] = [(b.x - a.x) / length, (b.y - a.y) / length];
  for (const [p, sign] of [
    [a, 1],
    [b, -1],
  ] as const) {
    context.beginPath();
    context.moveTo(p.x, p.y);
    context.lineTo(p.x + sign * ARROW_PX * dx - 3 * dy, p.y + sign * ARROW_PX * dy + 3 * dx);
    context.lineTo(p.x + sign * ARROW_PX * dx + 3 * dy, p.y + sign * ARROW_PX * dy - 3 * dx);
    context.fill();
  }
  paintText(
    context,
    describeLength(Math.round(line.mm * 100) / 100, unit),
    { x: (a.x + b.x) / 2, y: (a.y + b.y) / 2 },
    Math.atan2(dy, dx),
    colour,
  );
  context.restore();
}

function paintText(context: CanvasRenderingContext2D, text: string, at: Point, angle: number, colour: string): void {
  const upright = Math.abs(angle) > Math.PI / 2 + 1e-6 ? angle + Math.PI : angle;
  context.translate(at.x, at.y);
  context.rotate(upright);
  context.font = '500 11px "Spline Sans Mono", monospace';
  const width = context.measureText(text).width + 8;
  context.fillStyle = '#fdfbf6';
  context.fillRect(-width / 2, -8, width, 16);
  context.fillStyle = colour;
  context.textAlign = 'center';
  context.textBaseline = 'middle';
  context.fillText(text, 0, 0.5);
}

export function paintDimensions(context: CanvasRenderingContext2D, drawing: Drawing, view: View, selected: readonly string[]): void {
  const { unit } = pageOf(drawing);
  for (const item of dimensionsOf(drawing)) paintDimension(context, dimensionLine(drawing, item), view, unit, selected.includes(item.id));
}

/** The dimension line under the pointer. */
export function dimensionAt(drawing: Drawing, at: Point, nearMm: number): string | undefined {
  return dimensionsOf(drawing).findLast((item) => {
    const { a, b } = dimensionLine(drawing, item);
    return segmentDistance(at.x, at.y, a.x, a.y, b.x, b.y) <= nearMm;
  })?.id;
}
