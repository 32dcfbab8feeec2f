/** What the page asks its worker and what it answers. */
import type { WireError } from '@lorvek/core';
import type { List, ListOptions } from '@lorvek/core/series';
import type { Contour, Outline, ThinnedOut } from '@lorvek/core/geometry';
import type { PlannedSection } from '@lorvek/core/cut';
import type { Cutting } from '@lorvek/model/cut-file';
import type { SheetLine } from '@lorvek/model/plan-sheet';
import type { Drawing, EdgeCutItem, LeafItem, StockFilm } from '@lorvek/model';
import type { CheckedJob } from '@lorvek/model/check-job';
import type { Derived } from '@lorvek/model/derive';
import type { BuildAnswer, BuildAsked } from './build-ops.ts';
import type { CleanAnswer, CleanAsked } from './clean-ops.ts';
import type { TraceAnswer, TraceAsked } from './trace-ops.ts';
import type { WriteAsked } from './write-ops.ts';
import type { Bleed } from '@lorvek/model/bleeds';
import type { ImportAsked, Imported, PageLook, ReadPicture } from './import-ops.ts';
import type { NestAnswer, NestAsked } from './nest-ops.ts';
import type { SplitKeys } from '@lorvek/core/build';
import type { StackAnswer, StackAsked, StackedPart } from './stack-ops.ts';
import type { DrawingNews } from './mirror.ts';
import type { Made, Operand, WeldKind } from './weld-ops.ts';

export interface Requests {
  derive: { input: { item: LeafItem; sliverMm: number }; output: Derived };
  /** All sheets and the findings of the drawing itself: in one question, for a large drawing is dear to hand over. */
  sheets: {
    input: { drawing: Drawing; stock: readonly StockFilm[]; jobId: string; jobName: string };
    /** With the ground that films cover more than once, mm², and what edge cuts carry outward on the drawing. */
    output: CheckedJob & { readonly twiceMm2: Readonly<Record<string, number>>; readonly bleeds: readonly Bleed[] };
  };
  /** How the films are built on one another, and what that costs. */
  build: { input: BuildAsked; output: BuildAnswer };
  'write-out': { input: WriteAsked; output: Uint8Array };
  thin: { input: { outline: Outline; tolMm: number }; output: ThinnedOut };
  clean: { input: CleanAsked; output: CleanAnswer };
  /** How long a cut takes; with the ways of the tool, in the order they are cut, when they are wanted. */
  cut: {
    input: { lines: readonly SheetLine[]; cutting: Cutting; withWays?: boolean };
    output: { seconds: number; cutMm: number; travelMm: number; sections: readonly PlannedSection[] };
  };
  /** The line of an edge cut round outlines on the drawing. */
  'edge-cut': { input: { item: EdgeCutItem; outlines: readonly Outline[] }; output: Outline };
  order: { input: { contours: readonly Contour[] }; output: { order: number[]; startIndex: number[] } };
  weld: { input: { kind: WeldKind; operands: readonly Operand[] }; output: Made[] };
  /** In how many layers whole parts show what is seen. */
  split: { input: { parts: readonly Pick<StackedPart, 'path' | 'matrix' | 'key'>[] }; output: SplitKeys };
  /** The order of films in which work looks as it came. */
  stack: { input: StackAsked; output: StackAnswer };
  import: { input: ImportAsked; output: Imported };
  'page-look': { input: { bytes: Uint8Array; page: number }; output: PageLook };
  tiff: { input: { bytes: Uint8Array }; output: ReadPicture };
  trace: { input: TraceAsked; output: TraceAnswer };
  silhouette: { input: Omit<TraceAsked, 'withCleaned' | 'mmPerPx'>; output: string };
  /** Outlines of pictures, their own pixels, y up; empty when there is none. */
  'silhouette-of-clear': { input: { asset: string }; output: string };
  'silhouette-of-ground': { input: { asset: string }; output: string };
  'lift-ground': { input: { asset: string }; output: { bytes: Uint8Array; path: string } };
  nest: { input: NestAsked; output: NestAnswer };
  'boxes-length': { input: NestAsked; output: number };
  /** A customer's list. */
  list: { input: { bytes: Uint8Array; fileName: string; as: ListOptions }; output: List };
  covering: { input: { text: string }; output: string[] };
}

export type Op = keyof Requests;
export type Asked = { [K in Op]: { id: number; op: K; input: Requests[K]['input'] } }[Op];
/** A question on its way: of a drawing goes what the worker's mirror has not. */
export interface Posted {
  readonly question: Asked;
  /** Stands for the drawing in the question's input. */
  readonly news?: DrawingNews;
}
/** How much of it is done, 0 to 1, from time to time before the answer. */
export interface Underway {
  readonly id: number;
  readonly share: number;
  /** The best answer so far, from what betters its answers. */
  readonly soFar?: unknown;
}
/** The worker cannot work: its engine did not come. A new one has to be started. */
export interface Broken {
  readonly broken: true;
}
export type Answered = { id: number; ok: true; output: unknown } | { id: number; ok: false; error: WireError };
