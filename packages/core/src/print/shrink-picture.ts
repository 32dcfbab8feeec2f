/** Pictures made as small as they are needed, averaged with their alpha, so that a large one never lies in memory. */
import type { Control } from '../types/index.ts';
import { CancelledError } from '../errors/index.ts';
import type { PrintPicture } from './page.ts';

export interface SmallPicture {
  readonly width: number;
  readonly height: number;
  readonly rgb: Uint8Array;
  readonly alpha: Uint8Array;
}

/** @param wantedWidth pixels that it takes on the page; the copy is at most twice as fine */
export async function shrinkPicture(picture: PrintPicture, wantedWidth: number, control: Control): Promise<SmallPicture> {
  const step = Math.max(1, Math.floor(picture.widthPx / Math.max(1, Math.ceil(wantedWidth * 2))));
  const [width, height] = [Math.ceil(picture.widthPx / step), Math.ceil(picture.heightPx / step)];
  const rgb = new Uint8Array(3 * width * height);
  const alpha = new Uint8Array(width * height);
  for (let y = 0; y < height; y++) {
    if (control.signal?.aborted) throw new CancelledError();
    const count = Math.min(step, picture.heightPx - y * step);
    const rows = await picture.rows(y * step, count);
    for (let x = 0; x < width; x++) {
      const sum = [0, 0, 0, 0];
      let pixels = 0;
      for (let v = 0; v < count; v++)
        for (let u = x * step; u < Math.min(picture.widthPx, (x + 1) * step); u++) {
          const i = 4 * (v * picture.widthPx + u);
          const a = rows[i + 3] as number;
          for (let c = 0; c < 3; c++) sum[c] = (sum[c] as number) + a * (rows[i + c] as number);
          sum[3] = (sum[3] as number) + a;
          pixels++;
        }
      const a = sum[3] as number;
      for (let c = 0; c < 3; c++) rgb[3 * (y * width + x) + c] = a > 0 ? Math.round((sum[c] as number) / a) : 255;
      alpha[y * width + x] = Math.round(a / Math.max(1, pixels));
    }
  }
  return { width, height, rgb, alpha };
}
