/**
 * A page that is printed: what every writer of print files and every maker of plates takes. True size, mm, y up, the
 * lower left corner of the page at the origin.
 * Art is kept as forms that are placed many times, so that two hundred copies hold their picture once. Cut lines and
 * marks are apart from the art: lines never carry process ink, marks are black.
 */
import type { Box, Matrix, Outline } from '../types/index.ts';
import type { Gradient } from '../colour/gradient.ts';
import type { CutKind } from '../cut/plan-cut.ts';

/** A colour to print: what is seen, and the ink that is named for it. */
export interface PrintColour {
  /** As it is seen, sRGB. */
  readonly hex: string;
  /** An ink of its own name, on a plate of its own. */
  readonly spot?: string | undefined;
  /** Process values as they came, 0 to 1: cyan, magenta, yellow, black. */
  readonly cmyk?: readonly [number, number, number, number] | undefined;
}

/** Where something that is printed comes from. */
interface Named {
  /** The item of the drawing. */
  readonly of?: string | undefined;
}

/** Something that is printed. */
export type PrintItem = (
  | {
      readonly kind: 'shape';
      readonly outline: Outline;
      readonly fill: PrintColour | null;
      readonly gradient?: Gradient | undefined;
      readonly stroke?: (PrintColour & { readonly widthMm: number }) | undefined;
    }
  | {
      readonly kind: 'picture';
      readonly picture: string;
      /** From the unit square, y up, to the form. */
      readonly matrix: Matrix;
      /** All of it is this one colour, as much of it as its alpha says: a plate that came with a picture. A spot lies besides other inks. */
      readonly ink?: PrintColour | undefined;
      /** Shown only within, in the form's space. */
      readonly clip?: Outline | undefined;
    }
) &
  Named;

/** Items that are painted together, by the name that pages use. */
export interface PrintForm {
  readonly id: string;
  /** In painting order. */
  readonly items: readonly PrintItem[];
  /** Nothing is painted beyond, as of a panel of something larger. */
  readonly clip?: Box | undefined;
}

/** Pixels that are fetched when they are needed, some rows at a time. */
export interface PrintPicture {
  readonly widthPx: number;
  readonly heightPx: number;
  /** Does any pixel let the medium through? */
  readonly hasAlpha: boolean;
  /** RGBA with straight alpha, top row first. */
  rows(from: number, count: number): Promise<Uint8Array>;
}

/** Kinds of lines that a print file carries for the cutter. */
export type PrintLineKind = Exclude<CutKind, 'film' | 'weed'>;

/** How much white lies where. */
export interface WhiteCoverage {
  readonly coverage: 'whole-sheet' | 'where-printed' | 'named-spot' | 'more-under-dark' | 'more-under-light';
  /** Inks of the art that stand for white. */
  readonly spots: readonly string[];
  /** Of the curve by lightness; 1 straight. */
  readonly bend: number;
  readonly strengthPct: number;
  /** Spread, negative: choke. */
  readonly spreadMm: number;
  /** What is left of the page when it is trimmed; looked at for the whole sheet alone. */
  readonly trim: Outline;
  /** Forms of the page with all of their art, where what stands for white is not painted by itself; absent: the page's own. */
  readonly under?: readonly PrintForm[] | undefined;
}

/** A page to print, true to size, mm. */
export interface PrintPage {
  readonly title: string;
  readonly widthMm: number;
  readonly heightMm: number;
  readonly forms: readonly PrintForm[];
  readonly placements: readonly { readonly form: string; readonly map: Matrix }[];
  readonly lines: readonly { readonly kind: PrintLineKind; readonly outline: Outline }[];
  /** Registration marks, job code, figures: printed in black. */
  readonly marks: Outline;
  /** Absent: no white is printed. */
  readonly white?: WhiteCoverage | undefined;
  /** The page is printed in passes, one over the other in this order, each with its own art; absent: at once. */
  readonly passes?: readonly PrintPass[] | undefined;
}

/** What a printer lays down at one time: colour, or white alone. */
export interface PrintPass {
  readonly kind: 'colour' | 'white';
  readonly name: string;
  readonly forms: readonly PrintForm[];
  readonly placements: PrintPage['placements'];
}

const NOTHING: Outline = { contours: [] };

/**
 * A page for each pass: marks on the first, cut lines on the last. A page without passes is its own only one.
 * @returns with `paintsArt` false where the art only says where white lies
 */
export function pagesOfPasses(page: PrintPage): { readonly page: PrintPage; readonly paintsArt: boolean; readonly name: string }[] {
  const { passes, ...rest } = page;
  // each pass has its own art
  const white = page.white && { ...page.white, under: undefined };
  if (!passes || passes.length === 0) return [{ page: rest, paintsArt: true, name: '' }];
  return passes.map(({ kind, name, forms, placements }, i) => ({
    name,
    paintsArt: kind === 'colour',
    page: {
      ...rest,
      forms,
      placements,
      white: kind === 'white' ? white : undefined,
      marks: i === 0 ? page.marks : NOTHING,
      lines: i === passes.length - 1 ? page.lines : [],
    },
  }));
}

/** A picture by its name. */
export type PictureSource = (picture: string) => PrintPicture;
