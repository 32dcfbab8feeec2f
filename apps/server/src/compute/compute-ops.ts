/** What the pool is asked for and what it answers: one table, so that another engine can stand behind it. */
import type { WireError } from '@lorvek/core';
import type { FontDescription } from '@lorvek/core/lettering';
import type { Finding } from '@lorvek/core/check';
import type { Drawing, StockFilm, ToolSetup } from '@lorvek/model';

/** The check of a job and the cut of its sheets. */
export interface PlanRequest {
  readonly op: 'plan';
  readonly drawing: Drawing;
  readonly films: readonly string[];
  readonly stock: readonly StockFilm[];
  readonly setup: ToolSetup;
}

export interface ThumbnailRequest {
  readonly op: 'thumbnail';
  readonly drawing: Drawing;
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
  readonly film: string;
  readonly rollId: string | null;
  readonly hpgl: Uint8Array;
  readonly svg: Uint8Array;
  /** The sheet to look at, SVG text. */
  readonly picture: string;
  readonly lengthMm: number;
  readonly widthMm: number;
  readonly cutMm: number;
  readonly seconds: number;
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
  thumbnail: string;
  font: FontAnswer;
}

export type ComputeRequest = PlanRequest | ThumbnailRequest | FontRequest;

/** With it go the files of the fonts that the drawing uses. */
export type PoolTask = ComputeRequest & { readonly fonts: Readonly<Record<string, readonly string[]>> };
export type WorkerAnswer<Op extends keyof OpAnswers> = { ok: true; output: OpAnswers[Op] } | { ok: false; error: WireError };
