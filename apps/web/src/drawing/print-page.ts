/** Painting a print page as it is printed: its art in its own colours at each place. The context is in mm, y up. */
import { bounds } from '@lorvek/core/geometry';
import type { PrintItem, PrintPage } from '@lorvek/core/print';
import { fillGradient } from './gradients.ts';
import { inItem, pathOf } from './paint.ts';
import { imageOf } from './pictures.ts';

export function paintItem(context: CanvasRenderingContext2D, item: PrintItem): void {
  if (item.kind === 'picture') {
    context.save();
    if (item.clip) context.clip(pathOf(item.clip), 'evenodd');
    inItem(context, item.matrix, () => {
      const image = imageOf(item.picture);
      context.transform(1, 0, 0, -1, 0, 1);
      if (image) context.drawImage(image, 0, 0, 1, 1);
      else {
        context.fillStyle = '#d8d1c0';
        context.fillRect(0, 0, 1, 1);
      }
    });
    context.restore();
    return;
  }
  const path = pathOf(item.outline);
  if (item.gradient) fillGradient(context, path, item.gradient, bounds(item.outline));
  else if (item.fill) {
    context.fillStyle = item.fill.hex;
    context.fill(path, 'nonzero');
  }
  if (!item.stroke) return;
  context.lineWidth = item.stroke.widthMm;
  context.strokeStyle = item.stroke.hex;
  context.stroke(path);
}

export function paintPage(context: CanvasRenderingContext2D, page: PrintPage): void {
  const forms = new Map(page.forms.map((form) => [form.id, form]));
  for (const { form, map } of page.placements)
    inItem(context, map, () => {
      const { items = [], clip } = forms.get(form) ?? {};
      if (clip) {
        context.beginPath();
        context.rect(clip.minX, clip.minY, clip.maxX - clip.minX, clip.maxY - clip.minY);
        context.clip();
      }
      for (const item of items) paintItem(context, item);
    });
  context.fillStyle = '#000';
  context.fill(pathOf(page.marks));
}
