/** What the parts of the SVG reader share: the state of the walk, and small measures. */
import type { Matrix, Outline, Point } from '../../types/index.ts';
import type { Style } from './style.ts';
import { length, viewBox, type LengthContext } from './values.ts';
import type { XmlElement } from './xml.ts';

export const SHAPES = new Set(['path', 'rect', 'circle', 'ellipse', 'line', 'polyline', 'polygon']);

export interface State {
  readonly matrix: Matrix;
  readonly style: Style;
  readonly clip: Outline | undefined;
  readonly context: LengthContext;
  readonly layer: string | undefined;
  readonly uses: readonly string[];
  /** Paints that stand for context-fill and context-stroke, none elsewhere. */
  readonly inMarker: boolean;
}

/**
 * Direction half-way between the way in and the way out, degrees.
 * @param before,after unit vectors; undefined at the ends of a line
 */
export function angleOf(before: readonly [number, number] | undefined, after: readonly [number, number] | undefined): number {
  const [a, b] = [before ?? after ?? [1, 0], after ?? before ?? [1, 0]];
  const [x, y] = [a[0] + b[0], a[1] + b[1]];
  return (Math.atan2(y === 0 && x === 0 ? a[0] : y, x === 0 && y === 0 ? -a[1] : x) * 180) / Math.PI;
}

const BASE64 = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/';

/** Size of a PNG from the first bytes of its base64 text; undefined for other pictures. */
export function pictureSize(base64: string): { width: number; height: number } | undefined {
  const bytes: number[] = [];
  for (let i = 0; i + 3 < Math.min(base64.length, 48); i += 4) {
    const [a, b, c, d] = [0, 1, 2, 3].map((k) => BASE64.indexOf(base64[i + k] ?? 'A')) as [number, number, number, number];
    bytes.push((a << 2) | (b >> 4), ((b & 15) << 4) | (Math.max(0, c) >> 2), ((Math.max(0, c) & 3) << 6) | Math.max(0, d));
  }
  if (bytes[1] !== 0x50 || bytes[2] !== 0x4e || bytes[3] !== 0x47) return undefined;
  const word = (i: number): number =>
    ((bytes[i] ?? 0) * 256 + (bytes[i + 1] ?? 0)) * 65536 + (bytes[i + 2] ?? 0) * 256 + (bytes[i + 3] ?? 0);
  const [width, height] = [word(16), word(20)];
  return width > 0 && height > 0 ? { width, height } : undefined;
}

/**
 * Size of the page in px: as stated, by the viewBox, or as browsers take it.
 * @returns px, and whether the file states it in units of length
 */
export function pageSize(root: XmlElement): { width: number; height: number; stated: boolean } {
  const { width, height } = root.attributes;
  const box = viewBox(root.attributes.viewBox);
  const context = { width: box?.width ?? 300, height: box?.height ?? 150, fontSize: 16 };
  const fixed = (text: string | undefined, of: 'x' | 'y'): number | undefined =>
    text?.includes('%') ? undefined : length(text, context, of);
  const [w, h] = [fixed(width, 'x'), fixed(height, 'y')];
  if (w !== undefined && h !== undefined && w > 0 && h > 0) return { width: w, height: h, stated: true };
  if (box && w !== undefined && w > 0) return { width: w, height: (w * box.height) / box.width, stated: true };
  if (box && h !== undefined && h > 0) return { width: (h * box.width) / box.height, height: h, stated: true };
  return { width: context.width, height: context.height, stated: false };
}

/** Where a marker stands, which way the line runs there, and whether it is the line's first. */
export interface MarkerPlace extends Point {
  readonly angleDeg: number;
  readonly isStart: boolean;
}

/**
 * By how much a marker is turned: as its line runs, or as it says. Degrees.
 * @param orient `auto`, `auto-start-reverse` or a number of degrees
 */
export function markerTurn(orient: string, { angleDeg, isStart }: MarkerPlace): number {
  if (orient === 'auto') return angleDeg;
  if (orient === 'auto-start-reverse') return angleDeg + (isStart ? 180 : 0);
  return Number.parseFloat(orient) || 0;
}
