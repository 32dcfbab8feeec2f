/** Questions to a drawing: its page, films, items, the tree. No changes here. */
import type { ItemId, LayerId } from '../records/fields.ts';
import { isAid, isCutLine, layersOfItem, type LeafItem } from './plain-outline.ts';
import { PAGE_ID, USUAL_BUILD, type Build, type Drawing, type Page } from '../records/document.ts';
import type { GroupItem, Item } from '../records/items.ts';
import type { Film, Layer, PrintLayer } from '../records/layers.ts';
import { defaultLayUp, layUpIdOf, type LayUp } from '../records/lay-up.ts';

/** The page record, which every drawing has. */
export function pageOf(drawing: Drawing): Page {
  const page = drawing[PAGE_ID];
  if (page?.type !== 'page') throw new Error('The drawing has no page.');
  return page;
}

const USUAL_SLIVER_MM = 0.3;

/** Parts of treatments thinner than this are taken off, mm. */
export const sliverOf = (drawing: Drawing): number => pageOf(drawing).sliverMm ?? USUAL_SLIVER_MM;

/** How the films of a job are put together. */
export const buildOf = (drawing: Drawing): Build => pageOf(drawing).build ?? USUAL_BUILD;

/** A film that is not cut, for the surface has its colour. */
export const isLeftOut = (layer: Layer | undefined): boolean => layer?.type === 'film' && layer.leftOut === true;

/**
 * An item by its id.
 * @returns undefined for an id of something else as well
 */
export function itemOf(drawing: Drawing, id: ItemId): Item | undefined {
  const record = drawing[id];
  return record?.type === 'item' ? record : undefined;
}

/** A film by its id; undefined for a print. */
export function filmOf(drawing: Drawing, id: LayerId | null): Film | undefined {
  const record = id === null ? undefined : drawing[id];
  return record?.type === 'film' ? record : undefined;
}

/** A film or a print of the job. */
export function layerOf(drawing: Drawing, id: LayerId | null): Layer | undefined {
  const record = id === null ? undefined : drawing[id];
  return record?.type === 'film' || record?.type === 'print' ? record : undefined;
}

/** Films and prints in strip order, bottom first. */
export const layersOf = (drawing: Drawing): Layer[] => pageOf(drawing).layers.flatMap((id) => layerOf(drawing, id) ?? []);

/** Films alone, in strip order. */
export const filmsOf = (drawing: Drawing): Film[] => pageOf(drawing).layers.flatMap((id) => filmOf(drawing, id) ?? []);

/** Is a layer printed instead of cut? */
export const isPrint = (layer: Layer | undefined): layer is PrintLayer => layer?.type === 'print';

/** Is the item printed: does it belong to a print layer of the job? */
export const isPrinted = (drawing: Drawing, item: Item): boolean => isPrint(layerOf(drawing, item.layer));

/** How a layer lies on its material; as usual until somebody says otherwise. */
export function layUpOf(drawing: Drawing, layerId: LayerId): LayUp {
  const record = drawing[layUpIdOf(layerId)];
  return record?.type === 'lay-up' ? record : defaultLayUp(layerId);
}

/**
 * The item and everything in it, in painting order, groups before their children.
 * @returns none for an id that is not there
 */
export function withDescendants(drawing: Drawing, id: ItemId): Item[] {
  const item = itemOf(drawing, id);
  if (!item) return [];
  return item.kind === 'group' ? [item, ...item.children.flatMap((child) => withDescendants(drawing, child))] : [item];
}

function gatherLeaves(drawing: Drawing, ids: readonly string[], into: LeafItem[]): void {
  for (const id of ids) {
    const item = itemOf(drawing, id);
    if (item?.kind === 'group') gatherLeaves(drawing, item.children, into);
    else if (item) into.push(item);
  }
}

/** Leaves of whole drawings: drawings never change, and large ones are asked for often. */
const known = new WeakMap<Drawing, readonly LeafItem[]>();

/**
 * All items that are no groups, in tree order; of everything when no ids are given.
 * @param ids of items and groups; what is named twice comes twice
 * @returns in painting order, lowest first; those of the whole drawing are kept with it
 */
export function leavesOf(drawing: Drawing, ids?: readonly ItemId[]): readonly LeafItem[] {
  const kept = ids === undefined ? known.get(drawing) : undefined;
  if (kept) return kept;
  const leaves: LeafItem[] = [];
  gatherLeaves(drawing, ids ?? pageOf(drawing).root, leaves);
  if (ids === undefined) known.set(drawing, leaves);
  return leaves;
}

/**
 * The group that holds an item; undefined at the top.
 * @complexity records of the drawing
 */
export function parentOf(drawing: Drawing, id: ItemId): GroupItem | undefined {
  for (const record of Object.values(drawing)) {
    if (record.type === 'item' && record.kind === 'group' && record.children.includes(id)) return record;
  }
  return undefined;
}

/** The item at the top of the tree that holds this one, or the item itself. */
export function topOf(drawing: Drawing, id: ItemId): string {
  const parent = parentOf(drawing, id);
  return parent ? topOf(drawing, parent.id) : id;
}

/** Is it a locked picture, or on a layer that is locked or hidden? */
export function isLeafOutOfReach(drawing: Drawing, leaf: LeafItem): boolean {
  if (leaf.kind === 'picture' && leaf.locked) return true;
  const layer = layerOf(drawing, leaf.layer);
  return layer !== undefined && (layer.locked || !layer.visible);
}

/** Is an item out of reach? A group is when all its leaves are. */
export function isOutOfReach(drawing: Drawing, id: ItemId): boolean {
  const leaves = leavesOf(drawing, [id]);
  return leaves.length > 0 && leaves.every((leaf) => isLeafOutOfReach(drawing, leaf));
}

/**
 * The layer that a cut line goes with: the print of the first thing it goes round that has one; of a line that was set
 * free, its own.
 */
export function layerOfCutLine(drawing: Drawing, item: LeafItem): string | null {
  if (item.kind !== 'edge-cut') return item.layer;
  return leavesOf(drawing, item.of).find((leaf) => isPrint(layerOf(drawing, leaf.layer)))?.layer ?? null;
}

/** Leaves that the drawing's scope takes, by every layer that a piece of them belongs to; cut lines by theirs. */
export function leavesInScope(drawing: Drawing): Map<string, Exclude<Item, GroupItem>[]> {
  const { scope } = pageOf(drawing);
  const chosen = scope.kind === 'selection' ? new Set(leavesOf(drawing, scope.items).map((leaf) => leaf.id)) : undefined;
  const out = new Map<string, Exclude<Item, GroupItem>[]>();
  for (const leaf of leavesOf(drawing)) {
    if (isAid(leaf) || (chosen && !chosen.has(leaf.id))) continue;
    const cutWith = isCutLine(leaf) ? layerOfCutLine(drawing, leaf) : null;
    for (const layer of isCutLine(leaf) ? (cutWith === null ? [] : [cutWith]) : layersOfItem(leaf)) {
      if (!layerOf(drawing, layer) || (scope.kind === 'layer' && layer !== scope.layer)) continue;
      const list = out.get(layer);
      if (list) list.push(leaf);
      else out.set(layer, [leaf]);
    }
  }
  return out;
}

/** Is the film cut mirrored on this sheet, and was that the user's choice or the film's nature? */
export function mirrorOf(sheet: LayUp, layer: Layer): { mirror: boolean; suggested: boolean } {
  return { mirror: sheet.mirror ?? (layer.type === 'film' && layer.transfer), suggested: sheet.mirror === null };
}
