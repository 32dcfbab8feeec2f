/** Painting a sheet: its art as it is printed, its cut lines in the style of their kind, marks and code. mm, y up. */
import { isEmptyBox, type Matrix } from '@lorvek/core/geometry';
import { isLight } from '@lorvek/model';
import { PANEL_BOX } from '@lorvek/model/lay-places';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { closedPathOf, inItem, LINE_LOOKS, pathOf } from './paint.ts';
import { paintPage } from './print-page.ts';
import type { View } from './view.ts';

/** An ink that shows on a colour. */
export const contrast = (hex: string, alpha: number): string => (isLight(hex) ? `rgba(22,32,46,${alpha})` : `rgba(253,251,246,${alpha})`);

const matrixOf = ([a, b, c, d, e, f]: Matrix): DOMMatrix2DInit => ({ a, b, c, d, e, f });

/** The sheet without its findings, for small pictures. @param scale px a mm */
export const paintSheet = (context: CanvasRenderingContext2D, sheet: SheetPlan, scale: number): void =>
  paintWork(context, sheet, { scale }, new Set());

/** @param seen items that are lit */
export function paintWork(context: CanvasRenderingContext2D, sheet: SheetPlan, view: Pick<View, 'scale'>, seen: ReadonlySet<string>): void {
  const px = 1 / view.scale;
  const ink = contrast(sheet.layer.hex, 0.95);
  if (sheet.print) paintPage(context, sheet.print);
  const parts = new Map(sheet.parts.map((part) => [part.id, part]));
  const lit = new Path2D();
  for (const { part, map } of sheet.placements)
    for (const { id, outline, line } of parts.get(part)?.sources ?? [])
      inItem(context, map, () => {
        const path = pathOf(outline);
        if (id === PANEL_BOX) {
          context.lineWidth = px;
          context.strokeStyle = contrast(sheet.layer.hex, 0.4);
          context.setLineDash([2 * px, 4 * px]);
          context.stroke(path);
          context.setLineDash([]);
          return;
        }
        const isCutLine = line !== undefined && line.kind !== 'film';
        // what is printed in several pieces is lit once
        if (!isCutLine && sheet.print && seen.has(id)) lit.addPath(closedPathOf(outline), matrixOf(map));
        if (!isCutLine && !sheet.print) {
          context.fillStyle = contrast(sheet.layer.hex, seen.has(id) ? 0.28 : 0.1);
          context.fill(closedPathOf(outline), 'nonzero');
        }
        if (!line) return;
        context.lineWidth = 1.2 * px;
        context.strokeStyle = isCutLine ? LINE_LOOKS[line.kind].hex : ink;
        context.setLineDash(isCutLine ? LINE_LOOKS[line.kind].dash.map((n) => n * px) : []);
        context.stroke(path);
        context.setLineDash([]);
      });
  context.fillStyle = contrast(sheet.layer.hex, 0.28);
  context.fill(lit, 'nonzero');
  paintMarks(context, sheet, px);
  context.strokeStyle = isLight(sheet.layer.hex) ? '#5c626d' : '#c5c8ce';
  context.lineWidth = px;
  for (const box of sheet.lines.filter(({ kind }) => kind === 'weed')) context.stroke(pathOf(box.outline));
  const { overWidthMm, overLengthMm, box } = sheet.frame;
  if ((overWidthMm > 0 || overLengthMm > 0) && !isEmptyBox(box)) {
    context.fillStyle = '#9c2f1d30';
    context.strokeStyle = '#9c2f1d';
    context.lineWidth = 2 * px;
    context.fillRect(box.minX, box.minY, box.maxX - box.minX, box.maxY - box.minY);
    context.strokeRect(box.minX, box.minY, box.maxX - box.minX, box.maxY - box.minY);
  }
}

/** Marks with their clear zones, the first one ringed; the code. */
function paintMarks(context: CanvasRenderingContext2D, { marks, code, print }: SheetPlan, px: number): void {
  // printed marks are of the page; a sheet that is only cut shows them too
  if (!print) {
    context.fillStyle = '#000';
    for (const { outline } of marks) context.fill(pathOf(outline));
    if (code) context.fill(pathOf(code.outline));
  }
  context.lineWidth = px;
  context.strokeStyle = '#0d5c5f';
  context.setLineDash([3 * px, 3 * px]);
  for (const { clear } of marks) context.strokeRect(clear.minX, clear.minY, clear.maxX - clear.minX, clear.maxY - clear.minY);
  context.setLineDash([]);
  const [first] = marks;
  if (!first) return;
  context.lineWidth = 2 * px;
  context.beginPath();
  context.arc(first.centre.x, first.centre.y, 9 * px, 0, 2 * Math.PI);
  context.stroke();
}
