/**
 * Where the films of a job lie in Build's view of them pulled apart: the surface and the planes above it, sheared and tilted as
 * if seen from the front and above, as large as the view has room for. Screen pixels, y down; the drawing mm, y up.
 */
import type { Box } from '@lorvek/core/geometry';

/** a, b, c, d, e, f of a canvas. */
export type Affine = [number, number, number, number, number, number];

const AIR_PX = 26;
const SHEAR = 0.32;
const TILT = 0.5;
const NEARER = 0.025;
/** The least share of the height for pulling apart. */
const LEAST_LIFT = 0.4;
/** Room for the slider. */
const FOOT_PX = 34;

/** From the drawing to the screen, for the surface (0) and the planes above it. */
export function stackMaps(box: Box, planes: number, size: { readonly width: number; readonly height: number }, apart: number): Affine[] {
  const [w, h] = [Math.max(1, box.maxX - box.minX), Math.max(1, box.maxY - box.minY)];
  const tilt = 1 - TILT * apart;
  const most = 1 + NEARER * apart * planes;
  const room = { width: size.width - 2 * AIR_PX, height: size.height - 2 * AIR_PX - FOOT_PX };
  const least = LEAST_LIFT * apart * room.height;
  const scale = Math.max(1e-4, Math.min(room.width / ((w + SHEAR * apart * h) * most), (room.height - least) / (h * tilt * most)));
  // what is left of the height pulls the films apart
  const lift =
    (apart * Math.max(least, Math.min(0.9 * tilt * h * scale * planes, room.height - h * tilt * scale * most))) / Math.max(1, planes);
  const [mx, my] = [(box.minX + box.maxX) / 2, (box.minY + box.maxY) / 2];
  return Array.from({ length: planes + 1 }, (_, k): Affine => {
    const s = scale * (1 + NEARER * apart * k);
    const [a, c, d] = [s, SHEAR * apart * s, -tilt * s];
    const [cx, cy] = [size.width / 2, (size.height - FOOT_PX) / 2 + (lift * planes) / 2 - lift * k];
    return [a, 0, c, d, cx - a * mx - c * my, cy - d * my];
  });
}

/** Height of a name, px. */
const NAME_PX = 17;

/** Where the films' names begin: below the lower left corners of their planes, the uppermost first, none on another. */
export function namePlaces(maps: readonly Affine[], { minX, minY }: Box): { left: number; top: number }[] {
  let before = -Infinity;
  const fromAbove = maps
    .slice(1)
    .reverse()
    .map(([a, , c, d, e, f]) => {
      before = Math.max(d * minY + f, before + NAME_PX);
      return { left: Math.max(2, a * minX + c * minY + e), top: before };
    });
  return fromAbove.reverse();
}
