/** One row's piece as it will be made: its films in strip order, its print, its cut lines. */
import { EMPTY_BOX, joinBoxes, joinOutlines, bounds, isEmptyBox } from '@lorvek/core/geometry';
import { pageOf } from '@lorvek/model';
import { outlineOfPart, type LayPart } from '@lorvek/model/lay-places';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { useEffect, useRef } from 'react';
import { useSheets } from '../../../document/sheets.ts';
import { useDocument } from '../../../document/store.ts';
import { LINE_LOOKS, pathOf } from '../../../drawing/paint.ts';
import { paintItem } from '../../../drawing/print-page.ts';
import { useDerivedVersion } from '../../../worker/derived.ts';

interface Shown {
  readonly sheet: SheetPlan;
  readonly part: LayPart;
}

/** Parts of a row on all layers, the lowest first. */
function partsOfRow(sheets: readonly SheetPlan[], row: number): Shown[] {
  const seen = new Set<string>();
  return sheets.flatMap((sheet) => {
    if (seen.has(sheet.layer.id)) return [];
    const part = sheet.parts.find(({ id }) => id === `row-${row + 1}`);
    if (!part) return [];
    seen.add(sheet.layer.id);
    return [{ sheet, part }];
  });
}

function paint(context: CanvasRenderingContext2D, shown: readonly Shown[], px: number): void {
  for (const { sheet, part } of shown) {
    for (const item of part.art) paintItem(context, item);
    for (const { outline, line } of part.sources) {
      if (!line) continue;
      const path = pathOf(outline);
      if (line.kind === 'film') {
        context.fillStyle = sheet.layer.hex;
        context.fill(path, 'nonzero');
      } else {
        context.strokeStyle = LINE_LOOKS[line.kind].hex;
        context.lineWidth = 1.5 * px;
        context.setLineDash(LINE_LOOKS[line.kind].dash.map((n) => n * px));
        context.stroke(path);
        context.setLineDash([]);
      }
    }
  }
}

export function RowPicture({ row }: { row: number | undefined }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const sheets = useSheets((state) => state.sheets);
  const surface = useDocument((state) => pageOf(state.drawing).surface.hex);
  const version = useDerivedVersion((state) => state.version);
  useEffect(() => {
    const element = canvas.current;
    const context = element?.getContext('2d');
    if (!element || !context) return;
    const ratio = window.devicePixelRatio || 1;
    const [width, height] = [element.clientWidth, element.clientHeight];
    [element.width, element.height] = [width * ratio, height * ratio];
    context.fillStyle = surface;
    context.fillRect(0, 0, element.width, element.height);
    const shown = row === undefined ? [] : partsOfRow(sheets, row);
    const box = shown
      .map(({ part }) => bounds(joinOutlines([outlineOfPart(part)])))
      .filter((one) => !isEmptyBox(one))
      .reduce(joinBoxes, EMPTY_BOX);
    if (isEmptyBox(box)) return;
    const scale = ratio * Math.min((width - 16) / Math.max(1, box.maxX - box.minX), (height - 16) / Math.max(1, box.maxY - box.minY));
    context.setTransform(
      scale,
      0,
      0,
      -scale,
      element.width / 2 - (scale * (box.minX + box.maxX)) / 2,
      element.height / 2 + (scale * (box.minY + box.maxY)) / 2,
    );
    paint(context, shown, 1 / (scale / ratio));
  }, [sheets, row, surface, version]);
  return (
    <canvas
      ref={canvas}
      role="img"
      aria-label={row === undefined ? 'No row is pointed at' : `Row ${row + 1} as it will be made`}
      className="h-full w-full border border-line-strong"
    />
  );
}
