/** Painting a shape with its gradient, on the page's canvas and in the worker's. */
import { boxWithin, unrolled, type Gradient } from '@lorvek/core/colour';
import type { Box } from '@lorvek/core/geometry';

type Context = CanvasRenderingContext2D | OffscreenCanvasRenderingContext2D;

function inkOf(context: Context, { kind, stops, inner }: Gradient): CanvasGradient {
  const ink =
    kind === 'linear'
      ? context.createLinearGradient(0, 0, 1, 0)
      : context.createRadialGradient(inner?.x ?? 0, inner?.y ?? 0, inner?.r ?? 0, 0, 0, 1);
  for (const { offset, hex } of stops) ink.addColorStop(offset, hex);
  return ink;
}

/** Fills a path; path, gradient and box are in the space that the context is in. */
export function fillGradient(context: Context, path: Path2D, gradient: Gradient, box: Box): void {
  const course = unrolled(gradient, box);
  const { minX, minY, maxX, maxY } = boxWithin(course, box);
  context.save();
  context.clip(path, 'nonzero');
  context.transform(...(course.matrix as [number, number, number, number, number, number]));
  context.fillStyle = inkOf(context, course);
  context.fillRect(minX, minY, maxX - minX, maxY - minY);
  context.restore();
}
