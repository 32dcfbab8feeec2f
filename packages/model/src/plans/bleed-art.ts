/**
 * Bleed: the art's own edge colours carried outward beyond an edge cut, to be painted under the art.
 *
 * Method: dilation in steps (J. Serra, Image Analysis and Mathematical Morphology, 1982). Each piece of art is grown by its
 * real outline (or its pixels set off round a circle) in so many widths, the widest lowest; where two colours meet, the one
 * that is nearer lies on top, to within a step. Everything is kept to the bleed's width on both sides of the cut line, and of
 * that to the parts that run nearer to the end of the art than the bleed is wide: where it runs farther off, and in the
 * counters of letters, the ground stays. Nothing is scaled.
 */
import {
  boxShape,
  compose,
  flatten,
  formatPath,
  keepOverlap,
  mapOutline,
  nearParts,
  offset,
  strokeToShape,
  translation,
  windingNumber,
  type Outline,
} from '@lorvek/core/geometry';
import type { PrintItem } from '@lorvek/core/print';
import { LRUCache } from 'lru-cache';
import { textName } from '../records/packed.ts';

/** Widths that the art is grown by: one a mm, within these. */
const [FEWEST_STEPS, MOST_STEPS] = [5, 10];
/** Directions that pixels are set off in. */
const DIRECTIONS = 16;
/** More pieces of art are carried as one step each, to stay quick. */
const MANY = 200;
const FLAT_MM = 0.02;

const grown = (outline: Outline, mm: number): Outline => offset(outline, mm, { join: 'round' });

type PrintPictureItem = Extract<PrintItem, { kind: 'picture' }>;

/** A picture set off all round, shown within the zone alone. */
function carriedPicture(item: PrintPictureItem, mm: number, zone: Outline): PrintItem[] {
  const frame = item.clip ?? mapOutline(item.matrix, boxShape(1, 1));
  return Array.from({ length: DIRECTIONS }, (_, i): PrintItem[] => {
    const angle = (2 * Math.PI * i) / DIRECTIONS;
    const by = translation(mm * Math.cos(angle), mm * Math.sin(angle));
    const clip = keepOverlap([mapOutline(by, frame), zone]);
    return clip.contours.length === 0 ? [] : [{ ...item, matrix: compose(by, item.matrix), clip }];
  }).flat();
}

function carried(item: PrintItem, mm: number, zone: Outline): PrintItem[] {
  if (item.kind === 'picture') return carriedPicture(item, mm, zone);
  if (!item.fill && !item.stroke && !item.gradient) return [];
  const half = item.stroke ? item.stroke.widthMm / 2 : 0;
  const outline = keepOverlap([grown(item.outline, mm + half), zone]);
  if (outline.contours.length === 0) return [];
  const { outline: _outline, fill: own, stroke, gradient, ...rest } = item;
  if (!stroke) return [{ ...rest, outline, fill: own, ...(gradient ? { gradient } : {}) }];
  // where it has a line, that is its edge
  const { widthMm: _width, ...fill } = stroke;
  return [{ ...rest, outline, fill }];
}

/** Where bleed lies, and how far the art is from it at most. */
interface Zone {
  readonly outline: Outline;
  readonly carryMm: number;
}

/** Samples along the line a bleed's width. */
const SAMPLES = 6;
/** So many samples tell whether the line runs inside the art. */
const LOOKED_AT = 48;

/** As far to both sides of the line as the bleed is wide, wherever the line is nearer to the end of the art than that. */
function zoneOf(art: Outline, line: Outline, bleedMm: number): Zone | undefined {
  const { parts, reachMm, samples } = nearParts(line, art, bleedMm, bleedMm / SAMPLES);
  if (parts.contours.length === 0) return undefined;
  const every = Math.max(1, Math.floor(samples.length / LOOKED_AT));
  const flat = flatten(art, FLAT_MM);
  const isOutside = samples.some(({ x, y }, i) => i % every === 0 && windingNumber(flat, x, y) === 0);
  return {
    outline: strokeToShape(parts, { width: 2 * bleedMm, cap: 'round', join: 'round' }),
    carryMm: bleedMm + (isOutside ? reachMm : 0),
  };
}

/**
 * @param art what the line goes round, in painting order @param ends outlines of it, to where it is not clear @param line closed outlines of the edge cut
 * @returns what is painted under the art, the lowest first
 */
export function bleedArt(art: readonly PrintItem[], ends: Outline, line: Outline, bleedMm: number): readonly PrintItem[] {
  const key = textName(JSON.stringify([bleedMm, plain(line), plain(ends), art.map((item) => ({ ...item, ...outlinesOf(item) }))]));
  let under = kept.get(key);
  if (!under) kept.set(key, (under = madeBleed(art, ends, line, bleedMm)));
  return under;
}

const plain = (outline: Outline): string => formatPath(outline, 4);
const outlinesOf = (item: PrintItem) =>
  item.kind === 'picture' ? { clip: item.clip && plain(item.clip) } : { outline: plain(item.outline) };

/** A help for the next plan: growing outlines is dear, and most of them have not changed. */
const kept = new LRUCache<string, readonly PrintItem[]>({ max: 2500 });

/** Where a piece of art ends. @param shown of a picture, what of it is not clear */
export const endOf = (item: PrintItem, shown: readonly Outline[]): readonly Outline[] => {
  if (item.kind === 'picture') return shown;
  return [item.stroke ? grown(item.outline, item.stroke.widthMm / 2) : item.outline];
};

function madeBleed(art: readonly PrintItem[], ends: Outline, line: Outline, bleedMm: number): PrintItem[] {
  const zone = zoneOf(ends, line, bleedMm);
  if (!zone) return [];
  const steps = art.length > MANY ? 1 : Math.min(MOST_STEPS, Math.max(FEWEST_STEPS, Math.ceil(zone.carryMm)));
  return Array.from({ length: steps }, (_, i) => (zone.carryMm * (steps - i)) / steps).flatMap((mm) =>
    art.flatMap((item) => carried(item, mm, zone.outline)),
  );
}
