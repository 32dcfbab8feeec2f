/**
 * Results by cause, for the screen. Plain shapes at once; lettering comes from the worker, and until it is there the
 * item's last outline stays on screen, so that typing never flickers.
 */
import { bounds, mapBox, type Box, type Matrix, type Outline, mappedBounds } from '@lorvek/core/geometry';
import { AppError } from '@lorvek/core';
import { causeKey, isPlain, plainOutline, type Drawing, type EdgeCutItem, type LeafItem } from '@lorvek/model';
import { outlinesRound, roundedBy } from '@lorvek/model/edge-cuts';
import type { Derived, Piece } from '@lorvek/model/derive';
import { LRUCache } from 'lru-cache';
import { create } from 'zustand';
import { sentenceOf } from '../api/client.ts';
import { ask, askDerive, stopDerive } from './compute.ts';
import { DeriveQueue } from './derive-queue.ts';

/** Grows with every new result: something to redraw for. */
export const useDerivedVersion = create<{ version: number }>(() => ({ version: 0 }));
const bump = (): void => useDerivedVersion.setState(({ version }) => ({ version: version + 1 }));

export type Result = (Derived & { error?: undefined }) | { error: string; missingFont?: undefined };

/** Bounded; an item whose result was let go is asked for again when it is shown. */
const results = new LRUCache<string, Result>({ max: 100_000 });
const lastDerived = new Map<string, Derived>();
let sliverMm = 0.3;

/** The open drawing's limit for parts of treatments. */
export function followSliver(mm: number): void {
  if (mm === sliverMm) return;
  sliverMm = mm;
  bump();
}
/** A failure that was not the item's fault, such as a font that could not be fetched, is tried again after this. */
const RETRY_MS = 1500;

const isPassing = (error: unknown): boolean => error instanceof AppError && (error.code === 'internal' || error.code === 'offline');

function forget(key: string): void {
  results.delete(key);
  bump();
}

const queue = new DeriveQueue({
  derive: (item) => askDerive('derive', { item, sliverMm }),
  stop: stopDerive,
  isWanted: (item, key) => {
    const now = current[item.id];
    // before a drawing is followed everything is wanted
    return now === undefined
      ? Object.keys(current).length === 0
      : now.type === 'item' && now.kind !== 'group' && causeKey(now, sliverMm) === key;
  },
  settled: (key, result) => {
    if (!('error' in result)) results.set(key, result);
    else {
      const { error } = result;
      results.set(key, { error: sentenceOf(error) });
      if (isPassing(error)) setTimeout(() => forget(key), RETRY_MS);
    }
    bump();
  },
  now: () => performance.now(),
});

function request(item: LeafItem, key: string): void {
  if (!queue.has(key)) queue.add(item, key);
}

/** Plain shapes by the record, which never changes, and by their cause, so that a move works nothing out again. */
type PlainItem = Parameters<typeof plainOutline>[0];
const plainOfItem = new WeakMap<PlainItem, Result>();
const plainResults = new LRUCache<string, Result>({ max: 100_000 });

function plainResult(item: PlainItem): Result {
  const known = plainOfItem.get(item);
  if (known) return known;
  const key = causeKey(item, sliverMm);
  let result = plainResults.get(key);
  if (!result) {
    try {
      result = { outline: plainOutline(item), lines: [], missing: [] };
    } catch (error) {
      result = { error: sentenceOf(error) };
    }
    plainResults.set(key, result);
  }
  plainOfItem.set(item, result);
  return result;
}

/** The open drawing, for what depends on other items: edge cuts follow what they go round. */
let current: Drawing = {};
export function followDrawing(drawing: Drawing): void {
  current = drawing;
}

interface CutLine {
  readonly item: EdgeCutItem;
  readonly outlines: readonly Outline[];
  readonly parts: readonly (Outline | Matrix)[];
  result: Result | undefined;
}
/** The newest of each edge cut, and what it was worked out from. */
const cutLines = new LRUCache<string, CutLine>({ max: 5000 });
const isSameList = (a: readonly unknown[], b: readonly unknown[]): boolean => a.length === b.length && a.every((one, i) => one === b[i]);
const isSameCut = (a: EdgeCutItem, b: EdgeCutItem): boolean =>
  a === b || (['shape', 'distanceMm', 'smoothMm', 'cornerMm', 'holes', 'joinWithinMm'] as const).every((field) => a[field] === b[field]);

/** Lets the failure of a line go, unless it has been asked for anew meanwhile. */
function askAgain(failed: CutLine): void {
  if (cutLines.get(failed.item.id) !== failed) return;
  cutLines.delete(failed.item.id);
  bump();
}

/** The line of an edge cut; the last one stays until the new one is there. */
function cutLineResult(item: EdgeCutItem): Result | undefined {
  const leaves = roundedBy(current, item);
  const pieces = leaves.map((leaf) => piecesOf(leaf));
  const parts = leaves.flatMap((leaf, i) => [...(pieces[i] ?? []).map(({ outline }) => outline), leaf.matrix as unknown as Matrix]);
  const known = cutLines.get(item.id);
  if (known && isSameCut(known.item, item) && isSameList(known.parts, parts)) return known.result;
  const outlines = leaves.flatMap((leaf, i) => outlinesRound(leaf, pieces[i] ?? []));
  const asking: CutLine = { item, outlines, parts, result: undefined };
  cutLines.set(item.id, asking);
  const settle = (result: Result): void => {
    asking.result = result;
    bump();
  };
  ask('edge-cut', { item, outlines })
    .then((outline) => settle({ outline, lines: [], missing: [], pieces: [{ layer: null, outline }] }))
    .catch((error: unknown) => {
      settle({ error: sentenceOf(error) });
      if (isPassing(error)) setTimeout(() => askAgain(asking), RETRY_MS);
    });
  return undefined;
}

/** What is known of an item; undefined while it is being worked out. */
export function resultOf(item: LeafItem): Result | undefined {
  if (item.kind === 'edge-cut') return cutLineResult(item);
  if (isPlain(item)) return plainResult(item);
  const key = causeKey(item, sliverMm);
  const known = results.get(key);
  if (!known) request(item, key);
  return known;
}

function newestOf(item: LeafItem): Derived | undefined {
  const result = resultOf(item);
  if (!result) return lastDerived.get(item.id);
  if (result.error !== undefined) return undefined;
  lastDerived.set(item.id, result);
  return result;
}

/** The outline to show for an item, in its own space: the newest that is known. */
export const outlineOf = (item: LeafItem): Outline | undefined => newestOf(item)?.outline;

/** Is the newest result of an item there? Until then what is shown of it may be old, or nothing. */
export function isWorkedOut(item: LeafItem): boolean {
  const result = resultOf(item);
  return result !== undefined && result.error === undefined;
}

const NO_PIECES: readonly Piece[] = [];
const ownPieces = new WeakMap<Outline, Map<string | null, readonly Piece[]>>();

/** What is cut of an item, in its own space: the newest that is known. */
export function piecesOf(item: LeafItem): readonly Piece[] {
  const derived = newestOf(item);
  if (!derived) return NO_PIECES;
  if (derived.pieces) return derived.pieces;
  let byFilm = ownPieces.get(derived.outline);
  if (!byFilm) ownPieces.set(derived.outline, (byFilm = new Map()));
  let pieces = byFilm.get(item.layer);
  if (!pieces) byFilm.set(item.layer, (pieces = [{ layer: item.layer, outline: derived.outline }]));
  return pieces;
}

const localBoxes = new WeakMap<Outline, Box>();

/** Exact box in the item's own space. */
export function localBoxOf(outline: Outline): Box {
  let box = localBoxes.get(outline);
  if (!box) localBoxes.set(outline, (box = bounds(outline)));
  return box;
}

const placedBoxes = new WeakMap<Outline, { matrix: Matrix; box: Box }[]>();

/** Exact box on the drawing. */
export function placedBoxOf(outline: Outline, matrix: Matrix): Box {
  const [a, b, c, d] = matrix;
  // what is not turned has its own box, only moved and sized
  if ((b === 0 && c === 0) || (a === 0 && d === 0)) return mapBox(matrix, localBoxOf(outline));
  const list = placedBoxes.get(outline) ?? [];
  const known = list.find((entry) => entry.matrix.every((n, i) => n === matrix[i]));
  if (known) return known.box;
  const box = mappedBounds(matrix, outline);
  placedBoxes.set(outline, [{ matrix, box }, ...list].slice(0, 8));
  return box;
}
