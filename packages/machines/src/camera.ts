/**
 * The camera of a cutter: sees what is black on the loaded sheet about a place, finds marks and reads codes from the
 * pixels alone. Marks: the best place of the mark's shape by how dark its arms are and how light what lies beside them,
 * then the middle lines of the arms by least squares. Codes by zxing.
 */
import { BinaryBitmap, DataMatrixReader, HybridBinarizer, QRCodeReader, RGBLuminanceSource } from '@zxing/library';
import { coverOf } from '@lorvek/core/print';
import { compose, type Matrix, type Outline } from '@lorvek/core/geometry';

const PX_PER_MM = 12;
/** How far from the place it looks a mark's centre may be, mm. */
export const REACH_MM = 8;
/** Half the side of what is looked at for a code, and how far beside the place it is looked for, mm. */
const CODE_HALF_MM = 8;
const CODE_BESIDE_MM = [0, -4, 4, -8, 8];
const DARK_ENOUGH = 0.45;

interface View {
  /** Darkness 0 to 1, row 0 at the bottom. */
  readonly dark: Float32Array;
  readonly size: number;
  /** Lower left corner, mm of the machine. */
  readonly x: number;
  readonly y: number;
}

function viewAt(blacks: readonly Outline[], lies: Matrix, x: number, y: number, reach: number): View {
  const size = Math.round(2 * reach * PX_PER_MM);
  const [left, low] = [x - reach, y - reach];
  const dark = new Float32Array(size * size);
  const map = compose([PX_PER_MM, 0, 0, PX_PER_MM, -left * PX_PER_MM, -low * PX_PER_MM], lies);
  for (const outline of blacks) {
    const cover = coverOf(outline, map, size, size);
    if (!cover) continue;
    for (let i = 0; i < cover.share.length; i++) {
      const at = (cover.y + Math.floor(i / cover.width)) * size + cover.x + (i % cover.width);
      dark[at] = Math.min(1, (dark[at] as number) + (cover.share[i] as number));
    }
  }
  return { dark, size, x: left, y: low };
}

const darkAt = ({ dark, size, x, y }: View, px: number, py: number): number => {
  const [u, v] = [Math.floor((px - x) * PX_PER_MM), Math.floor((py - y) * PX_PER_MM)];
  return u >= 0 && v >= 0 && u < size && v < size ? (dark[v * size + u] as number) : 0;
};

export interface MarkShape {
  readonly kind: number;
  readonly armMm: number;
  readonly thicknessMm: number;
  readonly tx: number;
  readonly ty: number;
}

/** How much the mark's shape about a place is dark, and what lies beside it light: 1 at best. */
function score(view: View, { kind, armMm, thicknessMm, tx, ty }: MarkShape, x: number, y: number): number {
  if (kind === 1) {
    const ring = (r: number): number =>
      Array.from({ length: 16 }, (_, k) => darkAt(view, x + r * Math.cos(k * 0.3927), y + r * Math.sin(k * 0.3927))).reduce(
        (a, b) => a + b,
        0,
      ) / 16;
    return (ring(armMm * 0.2) + ring(armMm * 0.4)) / 2 - ring(armMm * 0.65);
  }
  const signs = kind === 2 ? [-1, 1] : [0];
  let [on, beside, count] = [0, 0, 0];
  for (let d = thicknessMm; d < armMm - 0.3; d += 0.4)
    for (const sign of signs) {
      const [sx, sy] = sign === 0 ? [tx, ty] : [sign, sign];
      on += darkAt(view, x + sx * d, y) + darkAt(view, x, y + sy * d);
      beside +=
        darkAt(view, x + sx * d, y + 1.4 * thicknessMm) +
        darkAt(view, x + sx * d, y - 1.4 * thicknessMm) +
        darkAt(view, x + 1.4 * thicknessMm, y + sy * d) +
        darkAt(view, x - 1.4 * thicknessMm, y + sy * d);
      count += 2;
    }
  return (on - beside / 2) / Math.max(1, count);
}

/** Middle line of an arm: where it is darkest across, by the way along it; y = a + b·x by least squares. */
function armLine(view: View, shape: MarkShape, x: number, y: number, isUpright: boolean): { a: number; b: number } {
  const { armMm, thicknessMm, kind } = shape;
  const towards = isUpright ? shape.ty : shape.tx;
  let [s, sd, sc, sdd, sdc] = [0, 0, 0, 0, 0];
  for (let d = kind === 2 ? -armMm + 0.5 : 1.5 * thicknessMm; d < armMm - 0.5; d += 1 / PX_PER_MM) {
    if (kind === 2 && Math.abs(d) < 1.5 * thicknessMm) continue;
    const along = kind === 2 ? d : towards * d;
    let [weight, sum] = [0, 0];
    for (let c = -1.5 * thicknessMm; c <= 1.5 * thicknessMm; c += 1 / PX_PER_MM) {
      const dark = isUpright ? darkAt(view, x + c, y + along) : darkAt(view, x + along, y + c);
      weight += dark;
      sum += dark * c;
    }
    if (weight < 1) continue;
    const across = sum / weight;
    s++;
    sd += along;
    sc += across;
    sdd += along * along;
    sdc += along * across;
  }
  const denominator = s * sdd - sd * sd;
  if (s < 4 || denominator === 0) return { a: 0, b: 0 };
  const b = (s * sdc - sd * sc) / denominator;
  return { a: (sc - b * sd) / s, b };
}

function refine(view: View, shape: MarkShape, x: number, y: number): { x: number; y: number } {
  if (shape.kind === 1) {
    let [weight, sx, sy] = [0, 0, 0];
    for (let v = -shape.armMm; v <= shape.armMm; v += 1 / PX_PER_MM)
      for (let u = -shape.armMm; u <= shape.armMm; u += 1 / PX_PER_MM) {
        const dark = Math.hypot(u, v) < 0.7 * shape.armMm ? darkAt(view, x + u, y + v) : 0;
        weight += dark;
        sx += dark * u;
        sy += dark * v;
      }
    return { x: x + sx / weight, y: y + sy / weight };
  }
  const [level, upright] = [armLine(view, shape, x, y, false), armLine(view, shape, x, y, true)];
  // y = a1 + b1·x and x = a2 + b2·y
  const dx = (upright.a + upright.b * level.a) / (1 - upright.b * level.b);
  return { x: x + dx, y: y + level.a + level.b * dx };
}

/** @returns the mark's centre, mm of the machine; undefined when none is within reach */
export function seekMark(
  blacks: readonly Outline[],
  lies: Matrix,
  x: number,
  y: number,
  shape: MarkShape,
): { x: number; y: number } | undefined {
  const view = viewAt(blacks, lies, x, y, REACH_MM + shape.armMm + 1);
  let best = { score: DARK_ENOUGH, x: Number.NaN, y: Number.NaN };
  const step = Math.max(0.2, shape.thicknessMm / 4);
  for (let v = -REACH_MM; v <= REACH_MM; v += step)
    for (let u = -REACH_MM; u <= REACH_MM; u += step) {
      if (shape.kind !== 1 && darkAt(view, x + u, y + v) < 0.5) continue;
      const own = score(view, shape, x + u, y + v);
      if (own > best.score) best = { score: own, x: x + u, y: y + v };
    }
  if (Number.isNaN(best.x)) return undefined;
  const first = refine(view, shape, best.x, best.y);
  return refine(view, shape, first.x, first.y);
}

/** Reads a code in the middle of a small square; undefined when there is none. */
function readCode({ dark, size }: View): string | undefined {
  const light = new Uint8ClampedArray(size * size);
  for (let row = 0; row < size; row++)
    for (let column = 0; column < size; column++)
      light[row * size + column] = 255 - 255 * (dark[(size - 1 - row) * size + column] as number);
  for (const reader of [new DataMatrixReader(), new QRCodeReader()]) {
    try {
      return reader.decode(new BinaryBitmap(new HybridBinarizer(new RGBLuminanceSource(light, size, size)))).getText();
    } catch {
      // none of this kind
    }
  }
  return undefined;
}

/** The text of a code about a place, looked for in squares about it; undefined when none is read. */
export function seekCode(blacks: readonly Outline[], lies: Matrix, x: number, y: number): string | undefined {
  for (const dy of CODE_BESIDE_MM)
    for (const dx of CODE_BESIDE_MM) {
      const text = readCode(viewAt(blacks, lies, x + dx, y + dy, CODE_HALF_MM));
      if (text !== undefined) return text;
    }
  return undefined;
}

/** What is seen about a place, as SVG: the sheet's art with crosshairs. */
export function cameraView(art: string, lies: Matrix, x: number, y: number): string {
  const half = 14;
  const n = (v: number): string => v.toFixed(4);
  const under = art === '' ? '' : `<g transform="matrix(${lies.map(n).join(' ')})">${art}</g>`;
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${2 * half} ${2 * half}"><rect width="100%" height="100%" fill="${art === '' ? '#8d8a80' : '#fff'}"/><g transform="matrix(1 0 0 -1 ${n(half - x)} ${n(half + y)})">${under}</g><g stroke="#d2372b" stroke-width="0.12" fill="none"><path d="M${half} 0V${half - 2}M${half} ${half + 2}V${2 * half}M0 ${half}H${half - 2}M${half + 2} ${half}H${2 * half}"/><circle cx="${half}" cy="${half}" r="2"/></g></svg>`;
}
