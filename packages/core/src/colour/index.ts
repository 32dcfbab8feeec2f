/**
 * Colours as they are seen. sRGB by IEC 61966-2-1; CIE L*a*b* for D65 by CIE 15; differences by CIEDE2000
 * (G. Sharma, W. Wu, E. N. Dalal, The CIEDE2000 Color-Difference Formula: Implementation Notes, 2005).
 * Channels 0 to 255, L* 0 to 100. About 2 is just seen side by side.
 */

export type Lab = readonly [number, number, number];
export type Rgb = readonly [number, number, number];

/**
 * Linear light of a channel of 0 to 255.
 * @source IEC 61966-2-1
 */
export const toLinear = (v: number): number => {
  const c = v / 255;
  return c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4;
};

/**
 * Channel of 0 to 255 of linear light.
 * @param c 0 to 1
 * @source IEC 61966-2-1
 */
export const fromLinear = (c: number): number => 255 * (c <= 0.0031308 ? 12.92 * c : 1.055 * Math.max(0, c) ** (1 / 2.4) - 0.055);

/** @throws never; what is no colour is black */
export function rgbOf(hex: string): Rgb {
  const n = Number.parseInt(hex.replace('#', '').slice(0, 6), 16) || 0;
  return [(n >> 16) & 255, (n >> 8) & 255, n & 255];
}

/** `#rrggbb` of channels of 0 to 255; beyond, the nearest end. */
export const hexOf = (rgb: readonly number[]): string =>
  `#${[0, 1, 2]
    .map((i) =>
      Math.round(Math.min(255, Math.max(0, rgb[i] ?? 0)))
        .toString(16)
        .padStart(2, '0'),
    )
    .join('')}`;

const f = (t: number): number => (t > 216 / 24389 ? Math.cbrt(t) : (t * 24389) / 27 / 116 + 16 / 116);

/** CIELAB (D65) of channels of 0 to 255. */
export function labOf(rgb: readonly number[]): Lab {
  const [r, g, b] = [toLinear(rgb[0] ?? 0), toLinear(rgb[1] ?? 0), toLinear(rgb[2] ?? 0)];
  const x = f((0.4124564 * r + 0.3575761 * g + 0.1804375 * b) / 0.95047);
  const y = f(0.2126729 * r + 0.7151522 * g + 0.072175 * b);
  const z = f((0.0193339 * r + 0.119192 * g + 0.9503041 * b) / 1.08883);
  return [116 * y - 16, 500 * (x - y), 200 * (y - z)];
}

const DEGREE = Math.PI / 180;
const hue = (a: number, b: number): number => (a === 0 && b === 0 ? 0 : (Math.atan2(b, a) / DEGREE + 360) % 360);

/**
 * CIEDE2000 with all weights 1.
 * @source G. Sharma, W. Wu, E. Dalal, The CIEDE2000 Color-Difference Formula, 2005
 */
export function labDifference(one: Lab, two: Lab): number {
  const [l1, a1, b1] = one;
  const [l2, a2, b2] = two;
  const meanC = (Math.hypot(a1, b1) + Math.hypot(a2, b2)) / 2;
  const g = 0.5 * (1 - Math.sqrt(meanC ** 7 / (meanC ** 7 + 25 ** 7)));
  const [p1, p2] = [(1 + g) * a1, (1 + g) * a2];
  const [c1, c2] = [Math.hypot(p1, b1), Math.hypot(p2, b2)];
  const [h1, h2] = [hue(p1, b1), hue(p2, b2)];
  const isGrey = c1 * c2 === 0;
  let dh = h2 - h1;
  if (isGrey) dh = 0;
  else if (dh > 180) dh -= 360;
  else if (dh < -180) dh += 360;
  const [dL, dC, dH] = [l2 - l1, c2 - c1, 2 * Math.sqrt(c1 * c2) * Math.sin((dh / 2) * DEGREE)];
  const [l, c] = [(l1 + l2) / 2, (c1 + c2) / 2];
  let h = h1 + h2;
  if (!isGrey) h = Math.abs(h1 - h2) <= 180 ? h / 2 : h < 360 ? (h + 360) / 2 : (h - 360) / 2;
  const t =
    1 -
    0.17 * Math.cos((h - 30) * DEGREE) +
    0.24 * Math.cos(2 * h * DEGREE) +
    0.32 * Math.cos((3 * h + 6) * DEGREE) -
    0.2 * Math.cos((4 * h - 63) * DEGREE);
  const turn = 30 * Math.exp(-(((h - 275) / 25) ** 2));
  const rc = 2 * Math.sqrt(c ** 7 / (c ** 7 + 25 ** 7));
  const sl = 1 + (0.015 * (l - 50) ** 2) / Math.sqrt(20 + (l - 50) ** 2);
  const [sc, sh] = [1 + 0.045 * c, 1 + 0.015 * c * t];
  const rt = -Math.sin(2 * turn * DEGREE) * rc;
  return Math.sqrt((dL / sl) ** 2 + (dC / sc) ** 2 + (dH / sh) ** 2 + rt * (dC / sc) * (dH / sh));
}

/**
 * CIEDE2000 between two `#rrggbb`.
 * @returns 0 for the same colour; about 1 is just seen
 */
export const colourDifference = (a: string, b: string): number => labDifference(labOf(rgbOf(a)), labOf(rgbOf(b)));
export { boxWithin, mapGradient, meanColour, unrolled, type Gradient, type GradientStop } from './gradient.ts';
