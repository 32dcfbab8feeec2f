/**
 * What a computation needs of the place where it runs: fonts, the clock, pictures, files. Computations are pure but for
 * these, so that the page and the server work the same out of the same; each hosts them in a few lines.
 */
import type { Matrix, Outline } from '@lorvek/core/geometry';
import type { Gradient } from '@lorvek/core/colour';
import type { Pixels } from '@lorvek/core/trace';
import type { FontEntry, PictureItem } from '@lorvek/model';
import type { FontsAtHand } from './fonts-at-hand.ts';

/** Where fonts come from. */
export interface FontSource {
  /** The fonts of the shop. @throws AppError `offline` when that cannot be told now */
  list(): Promise<readonly FontEntry[]>;
  /** The files of a font in their order; undefined: the shop has no such font. @throws AppError `offline` */
  files(id: string): Promise<readonly Uint8Array[] | undefined>;
}

/** Told from time to time how much is done, 0 to 1, and the best answer so far by what betters its answers. */
export type Tell<Output = unknown> = (share: number, soFar?: Output) => void;

/** What every place has. */
export interface Host {
  readonly fonts: FontsAtHand;
  /** ms, for computations that are given so much time. */
  readonly now: () => number;
  /** Lets what waits come in between. */
  readonly pause: () => Promise<void>;
  readonly toBase64: (bytes: Uint8Array) => string;
}

/** A picture that is being looked at. */
export interface OpenPicture {
  readonly width: number;
  readonly height: number;
  /** Made as large as that. @throws AppError `limit.picture` when that is too large here */
  pixels(width: number, height: number): Pixels;
  close(): void;
}

/** A picture that is painted whole: what lies on it in order, in pixels, y down. */
export interface Painting {
  readonly widthPx: number;
  readonly heightPx: number;
  /** Nothing: what is not painted is clear. */
  readonly ground: string | undefined;
  /** From the unit square, y up. */
  readonly pictures: readonly {
    readonly item: PictureItem;
    readonly matrix: Matrix;
    readonly strength: number;
    /** Under the shape of this number. */
    readonly before: number;
  }[];
  readonly shapes: readonly {
    readonly outline: Outline;
    readonly fill?: string | undefined;
    readonly gradient?: Gradient | undefined;
    readonly line?: { readonly hex: string; readonly widthPx: number } | undefined;
  }[];
}

/** A place that can read and paint pictures. */
export interface PictureHost extends Host {
  readonly pictures: {
    open(asset: string): Promise<OpenPicture>;
    /** As it is shown, within its clipping outline, as PNG or JPEG. */
    file(item: PictureItem): Promise<{ readonly bytes: Uint8Array; readonly type: string }>;
    /** A small PNG. @param item within its clipping outline; an asset: the whole of it @param strength 0 to 1 */
    small(item: PictureItem | string, strength: number): Promise<Uint8Array>;
    /** PNG. @throws AppError `limit.picture` for one that is too large here */
    painted(painting: Painting): Promise<Uint8Array>;
  };
}

/** A place that can read and write files, by paths that no stranger chose. */
export interface FileHost extends Host {
  readonly files: {
    read(path: string): Promise<Uint8Array>;
    readPart(path: string, from: number, length: number): Promise<Uint8Array>;
    write(path: string, bytes: Uint8Array): Promise<void>;
    /** Writes piece by piece; the file is whole when `work` is done, and closed whatever becomes of it. */
    writeInPieces(path: string, work: (put: (piece: Uint8Array) => Promise<void>) => Promise<void>): Promise<void>;
  };
  /** The font within a WOFF2 file. @throws whatever for one that is damaged */
  readonly unpackWoff2: (bytes: Uint8Array) => Promise<Uint8Array>;
  /** PNG rows packed quickly rather than small. */
  readonly packRows: (rows: Uint8Array) => Uint8Array;
}
