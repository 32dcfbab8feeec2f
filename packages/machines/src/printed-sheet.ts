/** A sheet that came out of a printer: its picture, what its inks were, the cut lines its file spoke of, what a camera sees of it. */
import { coverOf } from '@lorvek/core/print';
import {
  boxShape,
  compose,
  flatten,
  invert,
  keepOverlap,
  mapOutline,
  mapPoint,
  strokeToShape,
  formatPath,
  type Matrix,
  type Outline,
} from '@lorvek/core/geometry';
import { writePng } from '@lorvek/core/format';
import type { Inks, Painted, ReadPage, ReadPicture, SoftMask } from './print-reader.ts';

/** Inks that are cut lines and are not laid down. */
const LINE_INK = /^Lorvek /;
/** Ink at full cover, ml a square metre. */
const ML_PER_M2 = 10;
const PLATE_PX_PER_MM = 1;
const MOST_PLATE_PX = 8e6;
/** Pictures within the sheet's picture are made no wider. */
const SHOWN_PX = 700;
const PLATES = ['Cyan', 'Magenta', 'Yellow', 'Black'] as const;

const n = (v: number): string => String(Math.round(v * 1000) / 1000);
const rgbOf = ([c, m, y, k]: Inks): number[] => [c, m, y].map((v) => Math.round(255 * (1 - v) * (1 - k)));
const hexOf = (inks: Inks): string =>
  `#${rgbOf(inks)
    .map((v) => v.toString(16).padStart(2, '0'))
    .join('')}`;

export class PrintedSheet {
  readonly id: string;
  readonly name: string;
  readonly lengthMm: number;
  readonly widthMm: number;
  private readonly painted: readonly Painted[];
  private readonly passes: readonly (readonly Painted[])[];
  private inner: string | undefined;

  constructor(id: string, page: ReadPage) {
    this.id = id;
    this.name = page.title;
    this.lengthMm = page.lengthMm;
    this.widthMm = page.widthMm;
    this.painted = page.painted;
    this.passes = page.passes;
  }

  /** Where its file says that it is to be cut, mm on the sheet. */
  get lines(): Outline {
    return {
      contours: this.painted.flatMap((one) => (one.kind === 'stroke' && one.spot && LINE_INK.test(one.spot) ? one.outline.contours : [])),
    };
  }

  /** What is black and nothing else: marks and codes. */
  get blacks(): Outline[] {
    return this.painted.flatMap((one) =>
      one.kind === 'fill' && one.spot === undefined && one.inks[3] > 0.9 && one.inks[0] + one.inks[1] + one.inks[2] < 0.1
        ? [one.outline]
        : [],
    );
  }

  /** What is laid down, as SVG in mm, y up; to be set into a picture by a transform. */
  art(): string {
    return (this.inner ??= this.painted.map((one, i) => artOf(one, `${this.id}-${i}`)).join(''));
  }

  /** The sheet as it lies in the tray. */
  svg(): string {
    return `<svg xmlns="http://www.w3.org/2000/svg" width="${n(this.lengthMm)}mm" height="${n(this.widthMm)}mm" viewBox="0 0 ${n(this.lengthMm)} ${n(this.widthMm)}"><rect width="100%" height="100%" fill="#fff"/><g transform="matrix(1 0 0 -1 0 ${n(this.widthMm)})">${this.art()}</g></svg>`;
  }

  /** Ink of each plate, ml, of all passes: in a pass what lies on top takes the place of what lies under it. */
  inkMl(): Record<string, number> {
    const scale = Math.min(PLATE_PX_PER_MM, Math.sqrt(MOST_PLATE_PX / (this.lengthMm * this.widthMm)));
    const [width, height] = [Math.ceil(this.lengthMm * scale), Math.ceil(this.widthMm * scale)];
    const areaM2 = 1e-6 / (scale * scale);
    const sums: Record<string, number> = {};
    for (const painted of this.passes) {
      const plates = new Map<string, Float32Array>(PLATES.map((name) => [name, new Float32Array(width * height)]));
      for (const one of painted) lay(one, plates, [scale, 0, 0, scale, 0, 0], width, height);
      for (const [name, plate] of plates) sums[name] = (sums[name] ?? 0) + plate.reduce((a, b) => a + b, 0) * areaM2 * ML_PER_M2;
    }
    return sums;
  }
}

function pngOf({ width, height, inks, alpha }: ReadPicture): string {
  const step = Math.max(1, Math.ceil(width / SHOWN_PX));
  const [w, h] = [Math.ceil(width / step), Math.ceil(height / step)];
  const data = new Uint8Array(4 * w * h);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * step * width + x * step;
      const [r, g, b] = rgbOf([0, 1, 2, 3].map((c) => (inks[4 * i + c] ?? 0) / 255) as unknown as Inks);
      data.set([r ?? 0, g ?? 0, b ?? 0, alpha?.[i] ?? 255], 4 * (y * w + x));
    }
  return `data:image/png;base64,${Buffer.from(writePng({ width: w, height: h, data })).toString('base64')}`;
}

function artOf(one: Painted, id: string): string {
  switch (one.kind) {
    case 'fill':
      // what comes through a mask is white, and white on white is not seen
      if (one.mask) return '';
      return `<path d="${formatPath(one.outline, 3)}" fill="${one.spot === undefined ? hexOf(one.inks) : '#b08d3c'}"/>`;
    case 'stroke':
      return one.spot && LINE_INK.test(one.spot)
        ? ''
        : `<path d="${formatPath(one.outline, 3)}" fill="none" stroke="${hexOf(one.inks)}" stroke-width="${n(one.widthMm)}"/>`;
    case 'course': {
      const [a = 0, b = 0, c = 0, d = 0, e = 0, f = 0] = one.coords;
      const stops = one.stops.map(({ at, inks }) => `<stop offset="${n(at)}" stop-color="${hexOf(inks)}"/>`).join('');
      const place = `gradientUnits="userSpaceOnUse" gradientTransform="matrix(${one.matrix.map(n).join(' ')})"`;
      const course =
        one.coords.length === 4
          ? `<linearGradient id="${id}" ${place} x1="${a}" y1="${b}" x2="${c}" y2="${d}">${stops}</linearGradient>`
          : `<radialGradient id="${id}" ${place} fx="${a}" fy="${b}" fr="${c}" cx="${d}" cy="${e}" r="${f}">${stops}</radialGradient>`;
      return `${course}<path d="${formatPath(one.outline, 3)}" fill="url(#${id})"/>`;
    }
    case 'picture': {
      const [a, b, c, d, e, f] = one.matrix;
      const clip = one.clip ? `<clipPath id="${id}"><path d="${formatPath(one.clip, 3)}"/></clipPath>` : '';
      const image = `<image href="${pngOf(one.picture)}" width="1" height="1" preserveAspectRatio="none" transform="matrix(${[a, b, -c, -d, e + c, f + d].map((v) => v.toFixed(5)).join(' ')})"/>`;
      return one.clip ? `${clip}<g clip-path="url(#${id})">${image}</g>` : image;
    }
  }
}

function shapeOf(one: Painted): Outline {
  if (one.kind === 'stroke') return strokeToShape(one.outline, { width: one.widthMm, cap: 'butt', join: 'mitre' });
  if (one.kind !== 'picture') return one.outline;
  const frame = mapOutline(one.matrix, boxShape(1, 1));
  return one.clip ? keepOverlap([one.clip, frame]) : frame;
}

/** The inks of a thing at a pixel, and how much of them is laid down, 0 to 1; of a course of colours the middle one. */
function inksOf(one: Painted, toPixels: Matrix): (x: number, y: number) => { readonly inks: Inks; readonly alpha: number } {
  if (one.kind === 'picture') {
    const back = invert(compose(toPixels, one.matrix));
    return (x, y) => sample(one.picture, back, x, y);
  }
  const inks = one.kind === 'course' ? (one.stops[one.stops.length >> 1]?.inks ?? [0, 0, 0, 0]) : one.inks;
  return () => ({ inks, alpha: 1 });
}

/** Lays one thing down on the plates. */
function lay(one: Painted, plates: Map<string, Float32Array>, toPixels: Matrix, width: number, height: number): void {
  const spot = one.kind === 'fill' || one.kind === 'stroke' ? one.spot : undefined;
  if (spot !== undefined && LINE_INK.test(spot)) return;
  const cover = coverOf(shapeOf(one), toPixels, width, height);
  if (!cover) return;
  if (spot !== undefined && !plates.has(spot)) plates.set(spot, new Float32Array(width * height));
  const inkAt = inksOf(one, toPixels);
  const mask = one.kind === 'fill' ? one.mask : undefined;
  const through = mask && invert(compose(toPixels, mask.matrix));
  const shareOf = (name: string, inks: Inks): number => {
    if (spot !== undefined) return name === spot ? 1 : 0;
    return inks[PLATES.indexOf(name as (typeof PLATES)[number])] ?? 0;
  };
  for (let i = 0; i < cover.share.length; i++) {
    const [x, y] = [cover.x + (i % cover.width), cover.y + Math.floor(i / cover.width)];
    const { inks, alpha } = inkAt(x, y);
    const amount = (cover.share[i] as number) * alpha * (mask && through ? maskAt(mask, through, x, y) : 1);
    if (amount === 0) continue;
    for (const [name, plate] of plates) {
      const at = y * width + x;
      plate[at] = (plate[at] as number) * (1 - amount) + shareOf(name, inks) * amount;
    }
  }
}

/** How much comes through a mask at a pixel, 0 to 1. */
function maskAt({ width, height, data }: SoftMask, back: Matrix, x: number, y: number): number {
  const p = mapPoint(back, { x: x + 0.5, y: y + 0.5 });
  const u = Math.min(width - 1, Math.max(0, Math.floor(p.x * width)));
  const v = Math.min(height - 1, Math.max(0, Math.floor((1 - p.y) * height)));
  return (data[v * width + u] ?? 0) / 255;
}

function sample(
  { width, height, inks, alpha }: ReadPicture,
  back: Matrix | undefined,
  x: number,
  y: number,
): { inks: Inks; alpha: number } {
  const p = back ? mapPoint(back, { x: x + 0.5, y: y + 0.5 }) : { x: 0, y: 0 };
  const u = Math.min(width - 1, Math.max(0, Math.floor(p.x * width)));
  const v = Math.min(height - 1, Math.max(0, Math.floor((1 - p.y) * height)));
  const i = v * width + u;
  return { inks: [0, 1, 2, 3].map((c) => (inks[4 * i + c] ?? 0) / 255) as unknown as Inks, alpha: (alpha?.[i] ?? 255) / 255 };
}

/** The lines of a sheet as short straight pieces, for measuring. */
export const segmentsOf = (lines: Outline): number[][] =>
  flatten(lines, 0.005).flatMap(({ xy, closed }) => {
    const count = xy.length / 2;
    return Array.from({ length: closed ? count : count - 1 }, (_, i) => {
      const j = (i + 1) % count;
      return [xy[2 * i], xy[2 * i + 1], xy[2 * j], xy[2 * j + 1]] as number[];
    });
  });
