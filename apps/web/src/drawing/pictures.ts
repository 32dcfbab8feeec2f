/** Pictures on the drawing: fetched once, painted under the films at their strength. */
import type { Matrix } from '@lorvek/core/geometry';
import { compose } from '@lorvek/core/geometry';
import { leavesOf, type Drawing, type PictureItem } from '@lorvek/model';
import { useDerivedVersion } from '../worker/derived.ts';

const images = new Map<string, HTMLImageElement>();

/** The picture's pixels; undefined until they are there. */
export function imageOf(asset: string): HTMLImageElement | undefined {
  let image = images.get(asset);
  if (!image) {
    image = new Image();
    image.decoding = 'async';
    image.onload = (): void => useDerivedVersion.setState(({ version }) => ({ version: version + 1 }));
    image.src = `/api/assets/${asset}`;
    images.set(asset, image);
  }
  return image.complete && image.naturalWidth > 0 ? image : undefined;
}

export const picturesOf = (drawing: Drawing): PictureItem[] =>
  leavesOf(drawing).filter((leaf): leaf is PictureItem => leaf.kind === 'picture');

/** Paints a picture; the context is in its own mm. */
export function paintPicture(context: CanvasRenderingContext2D, item: PictureItem): void {
  const image = imageOf(item.asset);
  const [width, height] = [item.widthPx * item.mmPerPx, item.heightPx * item.mmPerPx];
  context.save();
  if (item.clip) {
    const within = new Path2D();
    within.addPath(new Path2D(item.clip), new DOMMatrix([item.mmPerPx, 0, 0, item.mmPerPx, 0, 0]));
    context.clip(within, 'evenodd');
  }
  if (image) {
    context.globalAlpha = item.strengthPct / 100;
    context.transform(1, 0, 0, -1, 0, height);
    context.drawImage(image, 0, 0, width, height);
  } else {
    context.fillStyle = '#d8d1c0';
    context.fillRect(0, 0, width, height);
  }
  context.restore();
}

/** Paints the pictures that are only looked at, under everything; the context is in drawing mm. */
export function paintPictures(
  context: CanvasRenderingContext2D,
  drawing: Drawing,
  moved: ReadonlySet<string>,
  preview: Matrix | undefined,
): void {
  for (const item of picturesOf(drawing)) {
    if (item.hidden || item.layer !== null) continue;
    const matrix = preview && moved.has(item.id) ? compose(preview, item.matrix) : item.matrix;
    context.save();
    context.transform(...(matrix as [number, number, number, number, number, number]));
    paintPicture(context, item);
    context.restore();
  }
}
