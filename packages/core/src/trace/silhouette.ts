/**
 * The silhouette of a picture: what is not clear, or what differs from the ground that lies round it by more than a
 * reach, as one outline with or without its holes. Pixels with y down.
 */
import type { Plane } from './pixels.ts';

/** Black where the picture stands, white where it is clear, grey along its edge as its alpha says. */
export function silhouettePlane({ width, height, alpha }: Plane): Plane | undefined {
  if (!alpha) return undefined;
  const rgb = new Uint8ClampedArray(width * height * 3);
  for (let i = 0; i < width * height; i++) rgb.fill(255 - (alpha[i] as number), 3 * i, 3 * i + 3);
  return { width, height, rgb, alpha: undefined };
}
