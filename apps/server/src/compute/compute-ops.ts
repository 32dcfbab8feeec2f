/** What the pool is asked for and what it answers: one table, so that another engine can stand behind it. */
import type { MessagePort } from 'node:worker_threads';
import type { WireError } from '@lorvek/core';
import type { Correction } from '@lorvek/core/align';
import type { PaperSize, Rendering } from '@lorvek/core/print';
import type { FontDescription } from '@lorvek/core/lettering';
import type { Finding } from '@lorvek/core/check';
import type { Cutting } from '@lorvek/model/cut-file';
import type { SheetCut } from '@lorvek/model/sheet-cut';
import type { Drawing, Layer, MarkKind, SheetPlates, SoftLook, StockFilm } from '@lorvek/model';

/** The check of a job and the cut of its sheets. */
export interface PlanRequest {
  readonly op: 'plan';
  readonly jobId: string;
  readonly jobName: string;
  readonly drawing: Drawing;
  readonly layers: readonly string[];
  readonly stock: readonly StockFilm[];
  /** null: nothing is cut. */
  readonly cutting: Cutting | null;
}

/** The print file of one sheet, written to a path. */
export interface PrintRequest {
  readonly op: 'print';
  readonly jobId: string;
  readonly jobName: string;
  readonly drawing: Drawing;
  readonly layer: string;
  /** Which of the layer's sheets, from 0. */
  readonly number: number;
  readonly stock: readonly StockFilm[];
  /** Pixels of the pictures, unpacked, by asset. */
  readonly pictures: Readonly<Record<string, RawPicture>>;
  /** File of the profile, and how colours go through it. */
  readonly profile: string;
  readonly rendering: Rendering;
  readonly to: string;
  /** For a desk printer: the art and its marks alone, on papers of this size. */
  readonly paper?: PaperSize;
}

/** The plates of one sheet, to be looked at. */
export interface PlatesRequest extends Omit<PrintRequest, 'op' | 'to' | 'paper'> {
  readonly op: 'plates';
  /** At most so many pixels a plate. */
  readonly mostPixels: number;
}

/** How one sheet will look when it is printed. */
export interface SoftRequest extends Omit<PlatesRequest, 'op'> {
  readonly op: 'soft';
}

/** What a colour profile calls itself. */
export interface ProfileRequest {
  readonly op: 'profile';
  readonly bytes: Uint8Array;
}

/** RGBA, row after row, in a file. */
export interface RawPicture {
  readonly path: string;
  /** Where the pixels begin, bytes. */
  readonly offset: number;
  readonly widthPx: number;
  readonly heightPx: number;
  readonly hasAlpha: boolean;
}

/** A cut once more: where marks say that the sheet lies, or for another machine. */
export interface CorrectRequest {
  readonly op: 'correct';
  readonly plan: SheetCut;
  readonly correction: Correction | null;
}

export interface ThumbnailRequest {
  readonly op: 'thumbnail';
  readonly drawing: Drawing;
  /** Small copies of printed pictures, as data URLs. */
  readonly pictures: Readonly<Record<string, string>>;
}

export interface FontRequest {
  readonly op: 'font';
  readonly bytes: Uint8Array;
}

export interface FontAnswer {
  readonly description: FontDescription;
  /** The font as TTF or OTF, unpacked when it came as WOFF2. */
  readonly sfnt: Uint8Array;
}

export interface PlannedSheet {
  readonly id: string;
  /** Its place among the sheets of its layer, from 0, and how many there are. */
  readonly number: number;
  readonly of: number;
  readonly layer: Layer;
  readonly rollId: string | null;
  readonly copies: number;
  readonly code: string | null;
  /** null: nothing of it is cut, or no cutter was asked for. */
  readonly cut: { readonly hpgl: Uint8Array; readonly plan: SheetCut; readonly cutMm: number; readonly seconds: number } | null;
  readonly isPrinted: boolean;
  /** Of its registration marks; null: it has none. */
  readonly markKind: MarkKind | null;
  readonly svg: Uint8Array;
  /** The sheet to look at, SVG text. */
  readonly picture: string;
  readonly lengthMm: number;
  readonly widthMm: number;
}

export interface PlanAnswer {
  /** In strip order. */
  readonly sheets: readonly PlannedSheet[];
  /** Everything that was found, and of it what forbids sending. */
  readonly findings: readonly Finding[];
  readonly stops: readonly Finding[];
}

export interface OpAnswers {
  plan: PlanAnswer;
  print: { readonly bytes: number };
  plates: SheetPlates;
  soft: SoftLook;
  profile: { readonly name: string };
  correct: { readonly hpgl: Uint8Array; readonly cutMm: number };
  thumbnail: string;
  font: FontAnswer;
}

export type ComputeRequest =
  PlanRequest | PrintRequest | PlatesRequest | SoftRequest | ProfileRequest | CorrectRequest | ThumbnailRequest | FontRequest;

/** With it go the files of the fonts that the drawing uses. */
export type PoolTask = ComputeRequest & {
  readonly fonts: Readonly<Record<string, readonly string[]>>;
  /** Told how much is done, 0 to 1, where somebody wants to know. */
  readonly port?: MessagePort;
};
export type WorkerAnswer<Op extends keyof OpAnswers> = { ok: true; output: OpAnswers[Op] } | { ok: false; error: WireError };
