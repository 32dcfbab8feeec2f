/** Parts and their places on sheets: what a page needs to show and to move them. Light: no fonts, no machines. */
import {
  bounds,
  compose,
  EMPTY_BOX,
  IDENTITY,
  invert,
  joinBoxes,
  joinOutlines,
  scaling,
  translation,
  type Box,
  type Matrix,
  type Outline,
  mappedBounds,
} from '@lorvek/core/geometry';
import type { Finding } from '@lorvek/core/check';
import type { PrintItem } from '@lorvek/core/print';
import type { CutLine } from '../records/items.ts';
import type { Fill, LayUp, Placed } from '../records/lay-up.ts';
import type { Material } from './material.ts';

/** Something that is laid up, on the drawing. */
export interface SheetSource {
  readonly id: string;
  readonly name: string;
  readonly outline: Outline;
  /** What is done along its outline; undefined: it is art, and printed. */
  readonly line: CutLine | { readonly kind: 'film' } | undefined;
}

/** What moves as one on the material; its outlines lie on the drawing. */
export interface LayPart {
  readonly id: string;
  readonly name: string;
  readonly sources: readonly SheetSource[];
  readonly art: readonly PrintItem[];
  /** Of a panel: what of the art is its own. */
  readonly clip?: Box;
  /** Of a panel: what is written beside it, in lines of one stroke. */
  readonly label?: Outline;
}

/** How a layer's work is divided, on the drawing. */
export interface LaidPanels {
  readonly box: Box;
  /** Middles of the overlaps. */
  readonly seams: { readonly x: readonly number[]; readonly y: readonly number[] };
  /** In the order of putting up. */
  readonly panels: readonly { readonly number: number; readonly box: Box; readonly turned: boolean }[];
}

/** The source that stands for a panel itself. */
export const PANEL_BOX = 'panel-box';

/** The one part of a lay-up that keeps everything as it is drawn. */
export const WHOLE = 'whole';

/** A copy of a part on its sheet. */
export interface Placement {
  readonly part: string;
  readonly copy: number;
  readonly sheet: number;
  /** From the drawing to the sheet. */
  readonly map: Matrix;
  readonly locked: boolean;
  /** It was put there by hand. */
  readonly moved: boolean;
}

/** What a fill is laid onto. */
export interface Ground {
  readonly material: Material;
  readonly record: LayUp;
  readonly mirror: boolean;
  readonly bandMm: number;
  readonly leadMm: number;
  /** Distance of weed boxes from the work; undefined: none. */
  readonly weedBoxMm: number | undefined;
  /** Has every copy a weed box of its own, which others stay out of? */
  readonly weedsCopies: boolean;
  /** A box that all films of a job keep their place in. */
  readonly frame: readonly Outline[];
}

/** The ground of a sheet within its margins. */
export interface Clear {
  readonly widthMm: number;
  readonly lengthMm: number;
  readonly x: number;
  readonly y: number;
}

/** Clear width and length of a sheet, and where its clear ground begins. */
export function clearOf({ material, record, bandMm, leadMm, weedBoxMm = 0 }: Ground): Clear {
  const edge = record.marginMm + bandMm;
  return {
    widthMm: material.widthMm - 2 * (edge + weedBoxMm),
    lengthMm: material.lengthMm - 2 * (edge + weedBoxMm) - leadMm,
    x: edge + leadMm + weedBoxMm,
    y: edge + weedBoxMm,
  };
}

/**
 * Work that is cut from behind lies mirrored.
 * @returns the identity for work that is cut from the front
 */
export const mirrored = (mirror: boolean): Matrix => (mirror ? scaling(-1, 1) : scaling(1, 1));

/**
 * From a part on the drawing to where its box begins at 0, 0, mirrored as it is laid up.
 * @complexity the spans of the outline
 */
export function homeOf(outline: Outline, mirror: boolean): Matrix {
  const { minX, minY, maxX } = bounds(outline);
  return mirror ? compose(translation(maxX, -minY), mirrored(true)) : translation(-minX, -minY);
}

/** The place of a copy as it is kept, from its full map. */
export const placedOf = (part: LayPart, mirror: boolean, placement: Placement): Placed => ({
  id: placement.part,
  copy: placement.copy,
  sheet: placement.sheet,
  map: [...compose(placement.map, invert(homeOf(outlineOfPart(part), mirror)) ?? IDENTITY)],
  ...(placement.locked ? { locked: true } : {}),
});

/** How many of a part are nested. */
export const copiesOfPart = (fill: Extract<Fill, { kind: 'nest' }>, part: string): number => fill.parts?.[part]?.copies ?? 1;

/** All outlines of a part as one. */
export const outlineOfPart = ({ sources }: LayPart): Outline => joinOutlines(sources.map(({ outline }) => outline));

/** Box of a part where a map takes it. */
export const boxOfPlaced = (part: LayPart, map: Matrix): Box =>
  part.sources.reduce((box, { outline }) => joinBoxes(box, mappedBounds(map, outline)), EMPTY_BOX);

/** How far a map turns, in degrees from 0 to 360; mirroring aside. */
export const turnOf = ([a, b, c, d]: Matrix): number => {
  const deg = (Math.atan2(a * d - b * c < 0 ? -b : b, a * d - b * c < 0 ? -a : a) * 180) / Math.PI;
  return (deg + 360) % 360;
};

/** Does the grain of a material allow a turn, degrees from 0 up to 360? */
export const allowsTurn = (grain: NonNullable<LayUp['grain']>, deg: number): boolean =>
  [0, 360, ...(grain === 'half' ? [180] : [])].some((allowed) => Math.abs(deg - allowed) < 0.01);

/** Where what a finding is about lies on a sheet: from the drawing to it. */
export const placeOfFinding = (
  { placements, parts }: { readonly placements: readonly Placement[]; readonly parts: readonly LayPart[] },
  { parts: ids }: Finding,
) => (placements.find(({ part }) => parts.find(({ id }) => id === part)?.sources.some(({ id }) => ids.includes(id))) ?? placements[0])?.map;

/** Sheets of one lay-up, as far as places go. */
export interface PlacedSheet {
  readonly parts: readonly LayPart[];
  readonly placements: readonly Placement[];
  readonly filled: { readonly nest?: { readonly key: string } | undefined };
}

/**
 * The fill with some copies put elsewhere; a nest is kept whole, others keep what differs from the fill.
 * @param back copies that go back to where the fill puts them
 */
export function withPlaces(fill: Fill, sheets: readonly PlacedSheet[], mirror: boolean, changed: readonly Placement[], back = false): Fill {
  const parts = new Map(sheets.flatMap((sheet) => sheet.parts).map((part) => [part.id, part]));
  const keep = (placement: Placement): Placed[] => {
    const part = parts.get(placement.part);
    return part ? [placedOf(part, mirror, placement)] : [];
  };
  const keyOf = ({ part, copy }: Placement): string => `${copy} ${part}`;
  const gone = new Set(changed.map(keyOf));
  if (fill.kind === 'as-drawn' || fill.kind === 'grid') {
    const others = (fill.moved ?? []).filter(({ id, copy }) => !gone.has(`${copy} ${id}`));
    return { ...fill, moved: [...others, ...(back ? [] : changed.flatMap(keep))] };
  }
  if (fill.kind !== 'nest') return fill;
  const all = sheets.flatMap(({ placements }) => placements);
  const others = all.filter((placement) => !gone.has(keyOf(placement)));
  const key = fill.found?.key ?? sheets[0]?.filled.nest?.key ?? '';
  return { ...fill, found: { key, placed: [...others, ...(back ? [] : changed)].flatMap(keep) } };
}

/** How rows of a series lie in a grid: enough to say how long a sheet of so many is. */
export interface SeriesGrid {
  readonly perSheet: number;
  readonly perRow: number;
  /** From row to row along the material, and the gap that the last one has no need of, mm. */
  readonly pitchMm: number;
  readonly gapMm: number;
  /** Margins, marks and code along the material, mm. */
  readonly edgesMm: number;
}

/** How long a sheet has to be for so many pieces of a series, mm. */
export const sheetLengthFor = ({ perRow, pitchMm, gapMm, edgesMm }: SeriesGrid, pieces: number): number =>
  Math.ceil((edgesMm + Math.ceil(pieces / perRow) * pitchMm - gapMm) * 10 + 1e-6) / 10;
