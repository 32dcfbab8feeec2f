/** A small picture of a sheet as it will go out: the art as it is printed, marks and cut lines over it. */
import { useEffect, useRef } from 'react';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { paintSheet } from './paint-sheet.ts';
import { useDerivedVersion } from '../worker/derived.ts';

const HEIGHT_PX = 112;

export function SheetPicture({ sheet }: { sheet: SheetPlan }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const version = useDerivedVersion((state) => state.version);
  useEffect(() => {
    const element = canvas.current;
    const context = element?.getContext('2d');
    if (!element || !context) return;
    const width = element.clientWidth || 240;
    const ratio = window.devicePixelRatio || 1;
    [element.width, element.height] = [Math.round(width * ratio), Math.round(HEIGHT_PX * ratio)];
    const length = Math.max(50, sheet.usedLengthMm);
    const scale = Math.min(width / length, HEIGHT_PX / sheet.material.widthMm) * ratio;
    context.setTransform(scale, 0, 0, -scale, (element.width - length * scale) / 2, (element.height + sheet.material.widthMm * scale) / 2);
    context.fillStyle = sheet.layer.hex;
    context.fillRect(0, 0, length, sheet.material.widthMm);
    paintSheet(context, sheet, scale);
  }, [sheet, version]);
  return (
    <canvas ref={canvas} className="h-28 w-full border border-line-strong bg-desk" role="img" aria-label={`Sheet of ${sheet.layer.name}`} />
  );
}
