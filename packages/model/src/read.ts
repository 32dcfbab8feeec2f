/** Questions to a drawing: its page, films, items, the tree. No changes here. */
import { filmsOfItem, isAid, type LeafItem } from './outline.ts';
import { PAGE_ID, defaultSheet, sheetIdOf, type Drawing, type Film, type GroupItem, type Item, type Page, type Sheet } from './document.ts';

export function pageOf(drawing: Drawing): Page {
  const page = drawing[PAGE_ID];
  if (page?.type !== 'page') throw new Error('The drawing has no page.');
  return page;
}

const USUAL_SLIVER_MM = 0.3;

/** Parts of treatments thinner than this are taken off, mm. */
export const sliverOf = (drawing: Drawing): number => pageOf(drawing).sliverMm ?? USUAL_SLIVER_MM;

export function itemOf(drawing: Drawing, id: string): Item | undefined {
  const record = drawing[id];
  return record?.type === 'item' ? record : undefined;
}

export function filmOf(drawing: Drawing, id: string | null): Film | undefined {
  const record = id === null ? undefined : drawing[id];
  return record?.type === 'film' ? record : undefined;
}

/** Films in strip order, bottom first. */
export const filmsOf = (drawing: Drawing): Film[] => pageOf(drawing).films.flatMap((id) => filmOf(drawing, id) ?? []);

export function sheetOf(drawing: Drawing, filmId: string): Sheet {
  const record = drawing[sheetIdOf(filmId)];
  return record?.type === 'sheet' ? record : defaultSheet(filmId);
}

/** The item and everything in it, in painting order, groups before their children. */
export function withDescendants(drawing: Drawing, id: string): Item[] {
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

/** All items that are no groups, in tree order; of everything when no ids are given. */
export function leavesOf(drawing: Drawing, ids?: readonly string[]): readonly LeafItem[] {
  const kept = ids === undefined ? known.get(drawing) : undefined;
  if (kept) return kept;
  const leaves: LeafItem[] = [];
  gatherLeaves(drawing, ids ?? pageOf(drawing).root, leaves);
  if (ids === undefined) known.set(drawing, leaves);
  return leaves;
}

/** The group that holds an item; undefined at the top. */
export function parentOf(drawing: Drawing, id: string): GroupItem | undefined {
  for (const record of Object.values(drawing)) {
    if (record.type === 'item' && record.kind === 'group' && record.children.includes(id)) return record;
  }
  return undefined;
}

/** The item at the top of the tree that holds this one, or the item itself. */
export function topOf(drawing: Drawing, id: string): string {
  const parent = parentOf(drawing, id);
  return parent ? topOf(drawing, parent.id) : id;
}

/** Is the item out of reach because it is a locked picture, or its film is locked or hidden? A group is when all its leaves are. */
export function isOutOfReach(drawing: Drawing, id: string): boolean {
  const leaves = leavesOf(drawing, [id]);
  return (
    leaves.length > 0 &&
    leaves.every((leaf) => {
      if (leaf.kind === 'picture') return leaf.locked;
      const film = filmOf(drawing, leaf.film);
      return film !== undefined && (film.locked || !film.visible);
    })
  );
}

/** Leaves that the drawing's scope takes, by every film that a piece of them is cut from. */
export function leavesInScope(drawing: Drawing): Map<string, Exclude<Item, GroupItem>[]> {
  const { scope } = pageOf(drawing);
  const chosen = scope.kind === 'selection' ? new Set(leavesOf(drawing, scope.items).map((leaf) => leaf.id)) : undefined;
  const out = new Map<string, Exclude<Item, GroupItem>[]>();
  for (const leaf of leavesOf(drawing)) {
    if (isAid(leaf) || (chosen && !chosen.has(leaf.id))) continue;
    for (const film of filmsOfItem(leaf)) {
      if (!filmOf(drawing, film) || (scope.kind === 'film' && film !== scope.film)) continue;
      const list = out.get(film);
      if (list) list.push(leaf);
      else out.set(film, [leaf]);
    }
  }
  return out;
}

/** Is the film cut mirrored on this sheet, and was that the user's choice or the film's nature? */
export function mirrorOf(sheet: Sheet, film: Film): { mirror: boolean; suggested: boolean } {
  return { mirror: sheet.mirror ?? film.transfer, suggested: sheet.mirror === null };
}
