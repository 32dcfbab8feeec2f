/** What printing needs of a picture's pixels: the outline of what is not clear, or of what stands on its ground. */
import { writePng } from '@lorvek/core/format';
import { formatPath } from '@lorvek/core/geometry';
import { retouch, silhouette, type Pixels } from '@lorvek/core/trace';
import type { PictureHost } from './host.ts';
import { fullPixelsOf } from './trace-asset.ts';

/** A picture that the server keeps. */
export interface AssetAsked {
  readonly asset: string;
}

/** Of a ground that nothing is said of, ΔE. */
const USUAL_REACH = 12;
const SOLID = 250;

const hasClear = ({ data }: Pixels): boolean => {
  for (let i = 3; i < data.length; i += 4) if ((data[i] as number) < SOLID) return true;
  return false;
};
const outlineOf = (pixels: Pixels): string => formatPath(silhouette(pixels, { reach: USUAL_REACH, holes: false }), 3);

/** Outline of what is not clear, the picture's own pixels, y up; empty when all of it is solid. */
export async function silhouetteOfClear({ asset }: AssetAsked, host: PictureHost): Promise<string> {
  const pixels = await fullPixelsOf(asset, host);
  return hasClear(pixels) ? outlineOf(pixels) : '';
}

/** Outline of what stands on the ground that runs along the border; empty when that cannot be told. */
export async function silhouetteOfGround({ asset }: AssetAsked, host: PictureHost): Promise<string> {
  return outlineOf(await fullPixelsOf(asset, host));
}

/** The picture with its ground made clear, as PNG, and the outline of what is left. */
export async function liftGround({ asset }: AssetAsked, host: PictureHost): Promise<{ bytes: Uint8Array; path: string }> {
  const pixels = await fullPixelsOf(asset, host);
  const lifted = retouch(pixels, { lift: { border: true, spots: [], reach: USUAL_REACH, softPx: 1, strokes: [] } }).pixels;
  if (!hasClear(lifted)) return { bytes: new Uint8Array(), path: '' };
  return { bytes: writePng({ width: lifted.width, height: lifted.height, data: lifted.data }), path: outlineOf(lifted) };
}
