/** What every reader gives and every writer takes: artwork at true size, mm, y up. */
import type { Control, Matrix, Outline } from '../types/index.ts';
import { mapOutline } from '../geometry/transform.ts';
import { mapGradient, type Gradient } from '../colour/gradient.ts';

export interface Artwork {
  readonly widthMm: number;
  readonly heightMm: number;
  readonly items: readonly ArtworkItem[];
}

export interface ArtworkStroke {
  readonly hex: string;
  /** Zero: a line without width, as drawing programs for machines have them. */
  readonly widthMm: number;
  readonly dashMm?: readonly number[];
  readonly dashOffsetMm?: number;
  readonly cap?: 'butt' | 'round' | 'square';
  readonly join?: 'mitre' | 'round' | 'bevel';
  readonly mitreLimit?: number;
}

export interface ArtworkItem {
  readonly outline: Outline;
  readonly closed: boolean;
  /** `#rrggbb` */
  readonly fill?: string;
  readonly stroke?: ArtworkStroke;
  /** What a print shows in place of the flat colour of the fill, or of the stroke where there is no fill. */
  readonly gradient?: Gradient;
  readonly layer?: string;
  readonly name?: string;
  /** Name of a spot colour that the fill or stroke is made of. */
  readonly spot?: string;
  /** Its values in process inks, where the file has them: cyan, magenta, yellow, black, 0 to 1. */
  readonly cmyk?: readonly [number, number, number, number];
  /** The words that the outline stands for, when they are set in another font than the file asks for. */
  readonly text?: ArtworkText;
  /** On a layer that the file shows as switched off. */
  readonly hidden?: boolean;
}

/**
 * An item moved, turned or scaled with its gradient; the width of a stroke stays.
 * @param map done after what the item has
 */
export const mapItem = (map: Matrix, item: ArtworkItem): ArtworkItem => ({
  ...item,
  outline: mapOutline(map, item.outline),
  ...(item.gradient ? { gradient: mapGradient(map, item.gradient) } : {}),
});

export interface ArtworkPicture {
  readonly bytesBase64: string;
  readonly type: string;
  /** From the unit square, y up, to the page, mm. */
  readonly matrix: Matrix;
  /** It lies under the item of this number, from 0; absent: under all. */
  readonly before?: number | undefined;
  /** It is a plate: this ink, as much of it as its alpha says. */
  readonly ink?: { readonly name: string; readonly hex: string };
}

/** Pictures that lie under an item; under all: those that do not say. @param last the number behind the last item takes what is left */
export const picturesUnder = <P extends { readonly before?: number | undefined }>(
  pictures: readonly P[],
  index: number,
  last: boolean,
): P[] => pictures.filter(({ before = 0 }) => before === index || (last && before > index));

/** Something that was changed or left out in reading, and how often. */
export interface Remark {
  readonly code: string;
  readonly text: string;
  readonly count: number;
}

/** What a file holds, at true size; y up, the page's lower left corner is the origin. */
export interface ImportedArtwork {
  readonly widthMm: number;
  readonly heightMm: number;
  readonly items: readonly ArtworkItem[];
  readonly pictures: readonly ArtworkPicture[];
  readonly report: readonly Remark[];
  /** False when the file does not say how large it is and a usual unit was taken. */
  readonly hasSize: boolean;
  /** How many pages the file has, where it has pages. */
  readonly pages?: number;
  /** Boxes of the page that differ in size or place, the one that was taken first. */
  readonly boxes?: readonly PageBox[];
}

/** A box of a PDF's page: what is shown, the paper, the finished size after trimming, the trimmed size with its bleed. */
export type PageBoxName = 'shown' | 'paper' | 'trim' | 'bleed';

/** A box of a page by its name, and its size. */
export interface PageBox {
  readonly name: PageBoxName;
  readonly widthMm: number;
  readonly heightMm: number;
}

/** Words in a font that is not there, set in another one. */
export interface ArtworkText {
  readonly text: string;
  /** Font that the file asks for. */
  readonly wanted: string;
  readonly set: SetInstead;
  /** From the caller's outline, y up, its pen beginning at the origin, to the page, mm. */
  readonly matrix: Matrix;
}

/** How the caller set words in another font: its business, handed back with them. */
export interface SetInstead {
  readonly fontId: string;
  readonly fontName: string;
  /** Height of the capitals in the run's unit. */
  readonly capHeight: number;
  /** Where the ink begins, from the pen's beginning. */
  readonly inkX: number;
}

/** A run of text whose outlines the caller may know. */
export interface TextRun {
  readonly text: string;
  readonly family: string;
  readonly weight: string;
  readonly italic: boolean;
  readonly sizePx: number;
  /** Height of capitals in the same unit, where the file states that instead of the font's size. */
  readonly capHeight?: number;
}

/** Outline of a run, y up, its pen beginning at the origin, and its advance; undefined when no font is there. */
export type TextOutline = (run: TextRun) => { outline: Outline; advancePx: number; instead?: SetInstead | undefined } | undefined;

/** What is said of words in a font that is not there. */
export const replacedText = (wanted: string, { fontName }: SetInstead): string =>
  wanted === ''
    ? `The file does not say which font its words want; they came in as lettering in ${fontName}.`
    : `The font ${wanted} is not there; its words came in as lettering in ${fontName}.`;

/** What a file is read with. */
export interface ReadOptions {
  readonly control?: Control;
  readonly textOutline?: TextOutline;
}

/** Remarks of one reading: each kind once, counted. */
export class Remarks {
  private readonly known = new Map<string, { text: string; count: number }>();

  add(code: string, text: string, count = 1): void {
    const one = this.known.get(code);
    if (one) one.count += count;
    else this.known.set(code, { text, count });
  }

  get list(): Remark[] {
    return [...this.known].map(([code, { text, count }]) => ({ code, text, count }));
  }
}
