/**
 * Whether two solids collide: they do when circles of theirs meet, when sides of theirs cross, or when a piece of one lies in the
 * other. In double precision, for parts that lie exactly along one another; how much parts collide is counted in `nest-overlapping.ts`.
 * Units mm.
 */
import { SIDES, type TurnedSolid } from './nest-solid.ts';

/** Less is touching, mm. */
const SAME_MM = 1e-7;
/** Sides are looked at as if the other solid lay so far from its place, mm: those that lie in one line would not cross. */
const HAIR_X_MM = 1.3e-4;
const HAIR_Y_MM = 0.7e-4;

const num = (list: ArrayLike<number>, i: number): number => list[i] as number;

/** Does a point lie within (even-odd)? */
function holds({ sides, minX, minY, maxX, maxY }: TurnedSolid, x: number, y: number): boolean {
  if (x <= minX || x >= maxX || y <= minY || y >= maxY) return false;
  let isIn = false;
  for (let s = 0; s < sides.length; s += 4) {
    const y0 = sides[s + 1] as number;
    const y1 = sides[s + 3] as number;
    if (y0 > y === y1 > y) continue;
    const x0 = sides[s] as number;
    if (x < x0 + ((y - y0) / (y1 - y0)) * ((sides[s + 2] as number) - x0)) isIn = !isIn;
  }
  return isIn;
}

/** Do sides of one box of six and of another cross? The second lies at dx, dy. */
function boxesCross(
  { sides: a }: TurnedSolid,
  boxA: number,
  { sides: b, boxes: boxesB }: TurnedSolid,
  boxB: number,
  dx: number,
  dy: number,
): boolean {
  const toA = Math.min(a.length, 4 * SIDES * (boxA + 1));
  const toB = Math.min(b.length, 4 * SIDES * (boxB + 1));
  const minX = (boxesB[4 * boxB] as number) + dx;
  const minY = (boxesB[4 * boxB + 1] as number) + dy;
  const maxX = (boxesB[4 * boxB + 2] as number) + dx;
  const maxY = (boxesB[4 * boxB + 3] as number) + dy;
  for (let s = 4 * SIDES * boxA; s < toA; s += 4) {
    const ax = a[s] as number;
    const ay = a[s + 1] as number;
    const bx = a[s + 2] as number;
    const by = a[s + 3] as number;
    if (ax < minX ? bx < minX : ax > maxX && bx > maxX) continue;
    if (ay < minY ? by < minY : ay > maxY && by > maxY) continue;
    const ux = bx - ax;
    const uy = by - ay;
    const ox = dx - ax;
    const oy = dy - ay;
    for (let t = 4 * SIDES * boxB; t < toB; t += 4) {
      const px = (b[t] as number) + ox;
      const py = (b[t + 1] as number) + oy;
      const qx = (b[t + 2] as number) + ox;
      const qy = (b[t + 3] as number) + oy;
      const p = ux * py - uy * px;
      const q = ux * qy - uy * qx;
      // one end within, to the left of the side, one on it or without: where a corner lies on a side that is not passed over
      if (p > 0 === q > 0) continue;
      const vx = qx - px;
      const vy = qy - py;
      if (vy * px - vx * py > 0 !== vx * (uy - py) - vy * (ux - px) > 0) return true;
    }
  }
  return false;
}

/** Do circles of two solids meet? The second lies at dx, dy. */
function circlesMeet(a: TurnedSolid, b: TurnedSolid, dx: number, dy: number): boolean {
  const ca = a.circles;
  const cb = b.circles;
  for (let i = 0; i < ca.length; i += 3) {
    const ax = (ca[i] as number) - dx;
    const ay = (ca[i + 1] as number) - dy;
    const ar = (ca[i + 2] as number) - SAME_MM;
    if (ax + ar < b.minX || ax - ar > b.maxX || ay + ar < b.minY || ay - ar > b.maxY) continue;
    for (let j = 0; j < cb.length; j += 3) {
      const x = (cb[j] as number) - ax;
      const y = (cb[j + 1] as number) - ay;
      const r = ar + (cb[j + 2] as number);
      if (x * x + y * y < r * r) return true;
    }
  }
  return false;
}

/** Which boxes of the second lie where both are, into `near`: looked through for each box of the first. @returns how many */
function boxesWithin(a: TurnedSolid, b: TurnedSolid, dx: number, dy: number, near: Int32Array): number {
  const { boxes } = b;
  const minX = a.minX - dx;
  const maxX = a.maxX - dx;
  const minY = a.minY - dy;
  const maxY = a.maxY - dy;
  let count = 0;
  for (let h = 0; h < boxes.length; h += 4) {
    if ((boxes[h + 2] as number) < minX || (boxes[h] as number) > maxX) continue;
    if ((boxes[h + 3] as number) < minY || (boxes[h + 1] as number) > maxY) continue;
    near[count++] = h;
  }
  return count;
}

/** Do sides of two solids cross? The second lies at dx, dy. */
function sidesCross(a: TurnedSolid, b: TurnedSolid, dx: number, dy: number): boolean {
  const boxesA = a.boxes;
  const boxesB = b.boxes;
  const near = b.scratch;
  const count = boxesWithin(a, b, dx, dy, near);
  for (let g = 0; count > 0 && g < boxesA.length; g += 4) {
    const x0 = (boxesA[g] as number) - dx;
    const y0 = (boxesA[g + 1] as number) - dy;
    const x1 = (boxesA[g + 2] as number) - dx;
    const y1 = (boxesA[g + 3] as number) - dy;
    if (x1 < b.minX || x0 > b.maxX || y1 < b.minY || y0 > b.maxY) continue;
    for (let k = 0; k < count; k++) {
      const h = near[k] as number;
      if ((boxesB[h + 2] as number) < x0 || (boxesB[h] as number) > x1) continue;
      if ((boxesB[h + 3] as number) < y0 || (boxesB[h + 1] as number) > y1) continue;
      if (boxesCross(a, g / 4, b, h / 4, dx, dy)) return true;
    }
  }
  return false;
}

/** Does a ring of the second lie wholly in the first, when no sides cross? */
function holdsRing(a: TurnedSolid, { rings }: TurnedSolid, dx: number, dy: number): boolean {
  for (let r = 0; r < rings.length; r += 6) {
    if (num(rings, r + 2) + dx < a.minX || num(rings, r + 4) + dx > a.maxX) continue;
    if (num(rings, r + 3) + dy < a.minY || num(rings, r + 5) + dy > a.maxY) continue;
    if (holds(a, num(rings, r) + dx, num(rings, r + 1) + dy)) return true;
  }
  return false;
}

/**
 * Do two solids share any ground? The second lies at dx, dy of the first.
 * @returns either where they only touch, to some ten-thousandths of a mm
 * @complexity boxes of sides that meet; circles tell most collisions at once
 */
export function doCollide(a: TurnedSolid, b: TurnedSolid, dx: number, dy: number): boolean {
  if (a.minX >= b.maxX + dx || b.minX + dx >= a.maxX || a.minY >= b.maxY + dy || b.minY + dy >= a.maxY) return false;
  if (circlesMeet(a, b, dx, dy)) return true;
  const [x, y] = [dx + HAIR_X_MM, dy + HAIR_Y_MM];
  return sidesCross(a, b, x, y) || holdsRing(a, b, x, y) || holdsRing(b, a, -x, -y);
}
