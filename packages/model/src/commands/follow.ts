/** What names items goes on to what takes their place when they give way to others, and names them no more when they are gone. */
import type { Draft } from 'immer';
import { itemOf, leavesOf } from '../queries/queries.ts';
import { PAGE_ID, type DocRecord, type Drawing, type Page } from '../records/document.ts';
import type { DimensionItem, Item } from '../records/items.ts';
import type { LayUp } from '../records/lay-up.ts';
import type { Film, PrintLayer } from '../records/layers.ts';

/** The records of a drawing while they are changed. */
export type Records = Draft<Record<string, DocRecord>>;

export const draftPage = (records: Records): Draft<Page> => records[PAGE_ID] as Draft<Page>;

interface Followed {
  /** What took the place of an item that is gone. */
  readonly instead?: (id: string) => readonly string[];
  /** Takes an item out. */
  readonly remove: (id: string) => void;
}

/**
 * After some items have gone or given way: cut lines go round what took the place of them, or what is left, and one that has
 * nothing left is taken out with it; what is cut, what no seam goes through, what is printed in a pass and what is let into the
 * films below is what took their place; dimension lines stay fastened where one item took the place of another; how often a
 * part is nested goes on where it is told of all that gave way.
 */
export function follow(records: Records, drawing: Drawing, { instead = () => [], remove }: Followed): void {
  const left = (ids: readonly string[]): string[] =>
    [...new Set(ids.flatMap((id) => (records[id] ? [id] : instead(id))))].filter((id) => records[id]);
  const isWhole = (ids: readonly string[]): boolean => ids.every((id) => records[id] !== undefined);
  for (const record of Object.values(records)) {
    if (record.type === 'lay-up' && record.fill.kind === 'panels' && !isWhole(record.fill.whole))
      record.fill.whole = left(record.fill.whole);
    else if (record.type === 'film') letInFollow(record, records, drawing, left);
    else if (record.type === 'print') passesFollow(record, isWhole, left);
    else if (record.type === 'item') itemFollows(record, { isWhole, left, remove });
  }
  const { scope } = draftPage(records);
  if (scope.kind === 'selection' && !isWhole(scope.items)) scope.items = left(scope.items);
  const gone = Object.keys(drawing).filter((id) => drawing[id]?.type === 'item' && !records[id]);
  settingsFollow(records, drawing, gone, left(gone));
}

type Left = (ids: readonly string[]) => string[];
type IsWhole = (ids: readonly string[]) => boolean;

/** Dimension lines and cut lines. */
function itemFollows(item: Draft<Item>, { isWhole, left, remove }: Pick<Followed, 'remove'> & { isWhole: IsWhole; left: Left }): void {
  if (item.kind === 'dimension') refasten(item, left);
  if (item.kind !== 'edge-cut' || isWhole(item.of)) return;
  const of = left(item.of);
  if (of.length > 0) item.of = of;
  else remove(item.id);
}

/** Ends of a dimension line that were fastened to an item that one other took the place of. */
function refasten(line: Draft<DimensionItem>, left: Left): void {
  for (const end of [line.from, line.to]) {
    if (end.item === undefined) continue;
    const [only, ...others] = left([end.item]);
    if (only !== undefined && others.length === 0) end.item = only;
  }
}

/** What is let into the films below: of what took the place of items where all of them on this film were. */
function letInFollow(film: Draft<Film>, records: Records, drawing: Drawing, left: Left): void {
  const { inlaid } = film;
  if (!inlaid || inlaid.every((id) => records[id])) return;
  const gone = leavesOf(drawing).filter(({ id, layer }) => layer === film.id && !records[id]);
  const isAll = gone.every(({ id }) => inlaid.includes(id));
  const kept = inlaid.filter((id) => records[id]);
  const now = records as unknown as Drawing;
  const fresh = isAll ? leavesOf(now, left(inlaid)).filter(({ layer }) => layer === film.id) : [];
  film.inlaid = [...new Set([...kept, ...fresh.map(({ id }) => id)])];
}

/** A pass that has nothing left of what it was of still names it: what was printed in it is missing, and that is said. */
function passesFollow(layer: Draft<PrintLayer>, isWhole: IsWhole, left: Left): void {
  for (const pass of layer.passes ?? []) {
    if (!pass.items || isWhole(pass.items)) continue;
    const items = left(pass.items);
    if (items.length > 0) pass.items = items;
  }
}

type Settings = NonNullable<Extract<LayUp['fill'], { kind: 'nest' }>['parts']>;

const isSame = (a: Settings[string] | undefined, b: Settings[string] | undefined): boolean =>
  a?.copies === b?.copies && a?.apart === b?.apart;

/**
 * How parts are nested, of items that are one part or others now: kept where it was the same of all of them.
 * @param before items with what they held: what moved as one were the outermost of them, or those that hold none
 */
export function settingsFollow(records: Records, drawing: Drawing, before: readonly string[], after: readonly string[]): void {
  const childrenOf = (id: string): readonly string[] => {
    const item = itemOf(drawing, id);
    return item?.kind === 'group' ? item.children : [];
  };
  const held = new Set(before.flatMap(childrenOf));
  const units = [before.filter((id) => !held.has(id)), before.filter((id) => childrenOf(id).length === 0)];
  for (const record of Object.values(records)) {
    if (record.type !== 'lay-up' || record.fill.kind !== 'nest' || !record.fill.parts) continue;
    const { parts } = record.fill;
    const told = units.map(([first, ...others]) => {
      const own = first === undefined ? undefined : parts[first];
      return others.every((id) => isSame(parts[id], own)) ? own : undefined;
    });
    const one = told.find((own) => own !== undefined);
    if (one) for (const id of after) parts[id] ??= { ...one };
  }
}
