/** Cleaning of items on the drawing: plain shapes by their paths; others become plain shapes first. */
import { formatPath, parsePath } from '@lorvek/core/geometry';
import type { CleanLimits, CleanStep } from '@lorvek/core/clean';
import {
  gradientAt,
  filmOf,
  isShaped,
  itemOf,
  leavesOf,
  pageOf,
  replaceItems,
  setPaths,
  type Drawing,
  type LeafItem,
  type ShapeItem,
} from '@lorvek/model';
import { AppError } from '@lorvek/core';
import { askAside } from '../worker/compute.ts';
import type { Compared } from '../drawing/compared.tsx';
import { outlineOf } from '../worker/derived.ts';
import type { CleanAnswer, ShapeToClean } from '@lorvek/computations';
import { asOne, dispatch, newId, useDocument } from './store.ts';
import { weldFamily } from './weld.ts';

export const CLEAN_LIMITS: CleanLimits = { gapMm: 0.5, doubledMm: 0.05, speckMm: 1, thinMm: 0.05 };

/** A plain shape in place of an item, its outline as it stands. */
export function plainOf(item: LeafItem): ShapeItem | undefined {
  const outline = outlineOf(item);
  if (!outline) return undefined;
  return {
    type: 'item',
    kind: 'shape',
    id: item.id,
    name: item.name,
    layer: item.layer,
    matrix: item.matrix,
    path: formatPath(outline, 5),
    ...(item.paint ? { paint: item.paint } : {}),
    ...(item.helper ? { helper: item.helper } : {}),
    ...(item.treatments ? { treatments: item.treatments.filter((t) => t.kind !== 'bend') } : {}),
  };
}

/** Leaves that can be cleaned; only plain shapes unless others are asked for too. */
const cleanable = (drawing: Drawing, ids: readonly string[], others: boolean): LeafItem[] =>
  leavesOf(drawing, ids).filter((leaf) => isShaped(leaf) && (leaf.kind === 'shape' || others));

export interface Cleaning {
  readonly answer: CleanAnswer;
  readonly shapes: number;
  /** The plain shapes as they were. */
  readonly before: readonly ShapeToClean[];
}

/**
 * Takes steps of cleaning on items, as one step of the history for each.
 * @throws AppError when the drawing changed meanwhile
 */
export async function clean(
  ids: readonly string[],
  limits: CleanLimits,
  only: readonly CleanStep[] | undefined,
  options: { readonly others: boolean; readonly group: string },
): Promise<Cleaning> {
  const { drawing } = useDocument.getState();
  const leaves = cleanable(drawing, ids, options.others);
  const shapes = leaves.flatMap((leaf): ShapeToClean[] => {
    const plain = leaf.kind === 'shape' ? leaf : plainOf(leaf);
    return plain ? [{ id: plain.id, path: plain.path, matrix: plain.matrix, film: plain.layer }] : [];
  });
  const answer = await askAside('clean', { shapes, limits, ...(only ? { only } : {}) });
  if (useDocument.getState().drawing !== drawing) throw new AppError('stale', 'The drawing has changed meanwhile. Do it again.');
  asOne({ origin: 'item.clean', group: options.group }, () => apply(drawing, answer, options.group));
  return { answer, shapes: shapes.length, before: shapes };
}

function apply(drawing: Drawing, { paths, joined }: CleanAnswer, group: string): void {
  const manner = { origin: 'item.clean', group };
  const plain: Record<string, string> = {};
  for (const [id, path] of Object.entries(paths)) {
    const item = itemOf(drawing, id);
    if (item?.kind === 'shape') plain[id] = path;
    else if (item && item.kind !== 'group' && path !== '') {
      const shape = plainOf(item);
      if (shape) dispatch(replaceItems, { ids: [id], items: [{ ...shape, id: newId('item'), path }] }, manner);
    }
  }
  if (Object.keys(plain).length > 0) dispatch(setPaths, { paths: plain }, manner);
  for (const { ids, path } of joined) {
    const first = itemOf(drawing, ids[0] ?? '');
    if (first?.kind !== 'shape') continue;
    const whole: ShapeItem = {
      ...first,
      id: newId('item'),
      matrix: [1, 0, 0, 1, 0, 0],
      path,
      ...(first.gradient ? { gradient: gradientAt(first.matrix, first.gradient) } : {}),
    };
    dispatch(replaceItems, { ids, items: [whole] }, manner);
  }
}

/** Old and new outlines of shapes that are still on the drawing and have changed. */
export const comparedOf = (before: readonly ShapeToClean[], drawing: Drawing): Compared[] =>
  before.flatMap(({ id, path, matrix }) => {
    const now = itemOf(drawing, id);
    if (now?.kind !== 'shape' || now.path === path) return [];
    return [{ matrix, before: parsePath(path), after: parsePath(now.path) }];
  });

/** Welds items of one film that cross one another, group by group. @returns how many groups */
export async function weldGroups(groups: readonly (readonly string[])[], group: string): Promise<number> {
  let welded = 0;
  for (const ids of groups) {
    const { drawing } = useDocument.getState();
    const present = ids.filter((id) => itemOf(drawing, id));
    if (present.length < 2) continue;
    const items = (await weldFamily('weld', drawing, present, pageOf(drawing).layers)).map((shape): ShapeItem => ({
      ...shape,
      id: newId('item'),
    }));
    if (dispatch(replaceItems, { ids: present, items }, { origin: 'item.weld', group })) welded++;
  }
  return welded;
}

/** The smallest part of the films that items are cut from, for dropping specks. */
export function speckLimit(drawing: Drawing, ids: readonly string[], limitOf: (stockId: string) => number | undefined): number {
  const limits = leavesOf(drawing, ids).flatMap((leaf) => {
    const film = filmOf(drawing, leaf.layer);
    const limit = film?.stockId ? limitOf(film.stockId) : undefined;
    return limit === undefined ? [] : [limit];
  });
  return limits.length > 0 ? Math.min(...limits) : CLEAN_LIMITS.speckMm;
}
