/**
 * True colours of thin parts in pictures squeezed by JPEG. Hue is kept at half the size there: over a thin line it is
 * mixed with that of what lies beside it, while brightness is nearly as it was drawn. Where every pixel's colour is
 * known by its label, what hue would have to be so that the squeezed one is as it is seen follows by least squares:
 * the hue of each label, spread by the filter that halving and doubling make (binomial, 1 4 6 4 1), sums up to what is
 * seen. Units levels and pixels.
 */
import { hexOf, labOf } from '../colour/index.ts';
import { leastSquares } from './least-squares.ts';
import type { FlatColour } from './palette.ts';
import { lightAt, type Plane } from './pixels.ts';
import { regionsOf } from './regions.ts';

/** What halving and doubling make of a single value, from its middle on. */
const SPREAD = [6 / 16, 4 / 16, 1 / 16];
const REACH = 2;
/** A label with so many pixels that nothing else lies beside keeps its colour. */
const ENOUGH = 60;
/** Pixels with less of a label than this tell nothing of it. */
const TELLING = 0.05;
/** Parts whose brightness differs by so many levels from their colour's are of another one. */
const OTHER = 11;
/** Brightness of parts of one colour differs by no more. */
const ALIKE = 14;
/** Pixels within parts of another colour, of all. */
const LEAST_SHARE = 0.0008;
const LEAST_PIXELS = 12;

type Rgb = readonly [number, number, number];

const brightness = ([r, g, b]: Rgb): number => lightAt(r, g, b);
const hueOf = (rgb: Rgb): [number, number] => [rgb[2] - brightness(rgb), rgb[0] - brightness(rgb)];

/** The colour of a brightness and a hue: how far blue and red are from it. */
function colourFrom(y: number, [blue, red]: readonly [number, number]): FlatColour {
  const [r, b] = [y + red, y + blue];
  const rgb = [r, (y - 0.299 * r - 0.114 * b) / 0.587, b].map((v) => Math.min(255, Math.max(0, v))) as [number, number, number];
  return { rgb, lab: labOf(rgb), hex: hexOf(rgb), share: 0 };
}

const rgbAt = ({ rgb }: Plane, i: number): Rgb => [rgb[3 * i] as number, rgb[3 * i + 1] as number, rgb[3 * i + 2] as number];

/** A label map's part of each label, spread as hue is. */
function spreadOf(labels: Uint8Array, width: number, height: number, count: number): Float32Array[] {
  const out = Array.from({ length: count }, () => new Float32Array(labels.length));
  const weight = (d: number): number => SPREAD[Math.abs(d)] as number;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      for (let v = -REACH; v <= REACH; v++)
        for (let u = -REACH; u <= REACH; u++) {
          const [px, py] = [Math.min(width - 1, Math.max(0, x + u)), Math.min(height - 1, Math.max(0, y + v))];
          const of = out[labels[py * width + px] as number];
          if (of) of[y * width + x] = (of[y * width + x] as number) + weight(u) * weight(v);
        }
  return out;
}

/** How far every pixel is from one of another label, up to so many; rows, columns and diagonals count alike. */
function depths(labels: Uint8Array, width: number, height: number, most: number): Uint8Array {
  const out = new Uint8Array(labels.length);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const own = labels[y * width + x];
      let depth = 0;
      while (depth < most) {
        const r = depth + 1;
        let same = true;
        for (let v = Math.max(0, y - r); same && v <= Math.min(height - 1, y + r); v++)
          for (let u = Math.max(0, x - r); u <= Math.min(width - 1, x + r); u++) if (labels[v * width + u] !== own) same = false;
        if (!same) break;
        depth = r;
      }
      out[y * width + x] = depth;
    }
  return out;
}

/**
 * The colours with the hue that thin ones must have had.
 * @param raw as it came
 * @param labels of each pixel
 */
export function withTrueHues(raw: Plane, palette: readonly FlatColour[], labels: Uint8Array): FlatColour[] {
  const { width, height } = raw;
  const depth = depths(labels, width, height, REACH);
  const inside = palette.map(() => 0);
  labels.forEach((k, i) => (depth[i] === REACH && k < inside.length ? (inside[k] = (inside[k] as number) + 1) : 0));
  const asked = palette.flatMap((_, k) => ((inside[k] as number) < ENOUGH ? [k] : []));
  if (asked.length === 0) return [...palette];
  const spread = spreadOf(labels, width, height, palette.length);
  const known = palette.flatMap(({ rgb }, k) => (asked.includes(k) ? [] : [{ part: spread[k] as Float32Array, hue: hueOf(rgb) }]));
  const rows: number[][] = [];
  const values: [number[], number[]] = [[], []];
  for (let i = 0; i < labels.length; i++) {
    const row = asked.map((k) => (spread[k] as Float32Array)[i] as number);
    if (row.every((v) => v < TELLING)) continue;
    rows.push(row);
    // what the known ones make of it is taken off
    hueOf(rgbAt(raw, i)).forEach((seen, c) =>
      values[c as 0 | 1].push(known.reduce((rest, { part, hue }) => rest - (part[i] as number) * hue[c as 0 | 1], seen)),
    );
  }
  if (rows.length < 4 * asked.length) return [...palette];
  const [blue, red] = values.map((list) => leastSquares(rows, list)) as [number[], number[]];
  return palette.map((colour, k) => {
    const n = asked.indexOf(k);
    return n < 0 ? colour : { ...colourFrom(brightness(colour.rgb), [blue[n] as number, red[n] as number]), share: colour.share };
  });
}

/**
 * Colours of parts that are not as bright as the colour they were taken for. Within them, away from edges, brightness
 * is as it was drawn; their hue is what is seen there, smeared as it is.
 * @param labels of each pixel, by numbers of the palette
 * @returns none when brightness agrees with the colours everywhere
 */
export function missingShades(plane: Plane, palette: readonly FlatColour[], labels: Uint8Array): FlatColour[] {
  const groups: Part[][] = [];
  for (const part of oddParts(plane, palette, labels)) {
    const like = groups.find(([first]) => first?.label === part.label && Math.abs(first.y - part.y) <= ALIKE);
    if (like) like.push(part);
    else groups.push([part]);
  }
  return groups
    .map((parts) => ({ y: parts[0]?.y ?? 0, pixels: parts.flatMap(({ pixels }) => pixels) }))
    .filter(({ pixels }) => pixels.length >= LEAST_SHARE * labels.length)
    .map(({ y, pixels }) => {
      const hues = pixels.map((i) => hueOf(rgbAt(plane, i)));
      const mean = (c: 0 | 1): number => hues.reduce((sum, hue) => sum + hue[c], 0) / hues.length;
      return { ...colourFrom(y, [mean(0), mean(1)]), share: pixels.length / labels.length };
    });
}

interface Part {
  /** Brightness of most of it. */
  readonly y: number;
  readonly label: number;
  /** Those that nothing else lies beside. */
  readonly pixels: number[];
}

/** Parts whose brightness is not that of their colour, largest first. */
function oddParts(plane: Plane, palette: readonly FlatColour[], labels: Uint8Array): Part[] {
  const { width, height } = plane;
  const regions = regionsOf(labels, width, height);
  const depth = depths(labels, width, height, 1);
  const within = new Map<number, number[]>();
  for (let run = 0; run < regions.runs; run++) {
    const region = regions.regionOf(run);
    const own = within.get(region) ?? [];
    within.set(region, own);
    for (let i = regions.starts[run] as number; i < (regions.starts[run + 1] as number); i++) if ((depth[i] as number) > 0) own.push(i);
  }
  return [...within.values()]
    .filter((pixels) => pixels.length >= LEAST_PIXELS)
    .map((pixels) => {
      const ys = pixels.map((i) => brightness(rgbAt(plane, i))).sort((a, b) => a - b);
      return { y: ys[Math.floor(ys.length / 2)] as number, label: labels[pixels[0] as number] as number, pixels };
    })
    .filter(({ y, label }) => Math.abs(y - brightness(palette[label]?.rgb ?? [y, y, y])) > OTHER)
    .sort((a, b) => b.pixels.length - a.pixels.length);
}

/** How far brightness of a smear may lie from one colour's towards the other's, and beyond it: shares of what they differ by. */
const TOWARDS = 0.25;
const BEYOND = 0.3;
/** How much of the other's hue a smear has at least, and how far its hue may be from that of their mixtures, levels. */
const LEAST_HUE = 0.15;
const SMEARED = 14;
/** How far around a part what lies beside it is looked for, and how much of that each of its sides must be. */
const BESIDE = 2;
const LEAST_SIDE = 0.15;

/** Is a colour as bright as one, but with hue that smeared over from another? */
function isSmear({ rgb }: FlatColour, { rgb: own }: FlatColour, { rgb: other }: FlatColour): boolean {
  const bright = brightness(other) - brightness(own);
  const towards = (brightness(rgb) - brightness(own)) * Math.sign(bright);
  // sides as bright as one another make no waves
  if (bright === 0 || towards > TOWARDS * Math.abs(bright) || towards < -BEYOND * Math.abs(bright)) return false;
  const [[b, r], [b0, r0], [b1, r1]] = [hueOf(rgb), hueOf(own), hueOf(other)];
  const [db, dr] = [b1 - b0, r1 - r0];
  const size = db * db + dr * dr;
  const part = size === 0 ? 0 : Math.min(1, ((b - b0) * db + (r - r0) * dr) / size);
  return part >= LEAST_HUE && Math.hypot(b - b0 - part * db, r - r0 - part * dr) <= SMEARED;
}

/**
 * The colours without those that are seen only as fringes where the hue of what lies on one side of an edge smears over
 * the brightness, waves and all, of what lies on the other.
 * @param labels of each pixel, by numbers of the palette
 */
export function withoutSmears({ width, height }: Plane, palette: readonly FlatColour[], labels: Uint8Array): FlatColour[] {
  const depth = depths(labels, width, height, REACH);
  const inside = palette.map(() => 0);
  const beside = palette.map(() => palette.map(() => 0));
  for (let i = 0; i < labels.length; i++) {
    const own = labels[i] as number;
    if (own >= palette.length) continue;
    if (depth[i] === REACH) inside[own] = (inside[own] as number) + 1;
    else {
      const counts = beside[own] as number[];
      const [x, y] = [i % width, Math.floor(i / width)];
      for (const [u, v] of [
        [BESIDE, 0],
        [-BESIDE, 0],
        [0, BESIDE],
        [0, -BESIDE],
      ] as const) {
        if (x + u < 0 || x + u >= width || y + v < 0 || y + v >= height) continue;
        const k = labels[(y + v) * width + x + u] as number;
        if (k !== own && k < palette.length) counts[k] = (counts[k] as number) + 1;
      }
    }
  }
  return palette.filter((colour, k) => {
    if ((inside[k] as number) >= ENOUGH) return true;
    const counts = beside[k] as number[];
    const all = counts.reduce((sum, count) => sum + count, 0);
    // what lies on both sides; a line on one ground has no other hue to smear over it
    const sides = palette.flatMap((side, i) => ((counts[i] as number) > LEAST_SIDE * all ? [{ side, count: counts[i] as number }] : []));
    const [one, other] = sides.sort((p, q) => q.count - p.count).map(({ side }) => side);
    return !one || !other || !(isSmear(colour, one, other) || isSmear(colour, other, one));
  });
}
