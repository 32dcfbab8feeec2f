/** Commands on items: add, remove, place, order, group, change fields. */
import type { ItemId, LayerId } from '../records/fields.ts';
import { produce, type Draft } from 'immer';
import { compose, determinant, formatPath, mapOutline, mapPoint, parsePath, scaling, type Matrix, type Point } from '@lorvek/core/geometry';
import type { DocRecord, Drawing } from '../records/document.ts';
import { itemSchema, type DimensionItem, type GroupItem, type Item, type LetteringItem } from '../records/items.ts';
import type { Layer } from '../records/layers.ts';
import { isLeafOutOfReach, isOutOfReach, itemOf, layerOf, leavesOf, pageOf, parentOf, topOf, withDescendants } from '../queries/queries.ts';
import { isShaped, type LeafItem } from '../queries/plain-outline.ts';
import { isItemMatrix } from '../records/fields.ts';
import { scaleTreatment, type TreatmentRecord } from '../records/treatments.ts';
import { describeIssue } from '../records/plain-issue.ts';
import { draftPage, follow, settingsFollow, type Records } from './follow.ts';
import { planOf, planOfItems, refuse, type Command } from './plan.ts';

/**
 * The drawing with its records changed; untouched ones stay the same objects.
 * @param change may set, replace and delete records; a record is never changed in place
 * @complexity a copy of the map of records, not of the records
 */
export const edit = (drawing: Drawing, change: (records: Records) => void): Drawing =>
  produce(drawing as Record<string, DocRecord>, change);

/** The list that holds an item: its group's children or the page's root. */
function siblings(records: Records, id: string): string[] {
  for (const record of Object.values(records)) {
    if (record.type === 'item' && record.kind === 'group' && record.children.includes(id)) return record.children;
  }
  return draftPage(records).root;
}

const round = (n: number): number => Math.round(n * 1e4) / 1e4;

/**
 * Places are kept to 0.1 µm, the linear part to twelve digits.
 * @returns what was tidied once is the same when it is tidied again
 */
export const tidyMatrix = (m: Matrix): [number, number, number, number, number, number] => [
  Math.round(m[0] * 1e12) / 1e12,
  Math.round(m[1] * 1e12) / 1e12,
  Math.round(m[2] * 1e12) / 1e12,
  Math.round(m[3] * 1e12) / 1e12,
  round(m[4]),
  round(m[5]),
];

const scalePath = (k: number) => (path: string) => (path === '' ? '' : formatPath(mapOutline(scaling(k, k), parsePath(path)), 4));

const scaledTreatments = (item: Item, k: number): Pick<Item, 'treatments'> =>
  item.treatments ? { treatments: item.treatments.map((t) => scaleTreatment(t, k, scalePath(k))) } : {};

const scaledTweaks = (tweaks: NonNullable<LetteringItem['tweaks']>, kx: number, ky: number): NonNullable<LetteringItem['tweaks']> =>
  Object.fromEntries(
    Object.entries(tweaks).map(([index, tweak]) => [
      index,
      {
        ...tweak,
        ...(tweak.kernMm === undefined ? {} : { kernMm: round(tweak.kernMm * kx) }),
        ...(tweak.shiftXMm === undefined ? {} : { shiftXMm: round(tweak.shiftXMm * kx) }),
        ...(tweak.shiftYMm === undefined ? {} : { shiftYMm: round(tweak.shiftYMm * ky) }),
      },
    ]),
  );

/**
 * Scale that a map holds beyond a turn goes into the item's own sizes where it has some, so that
 * "capitals 60 mm" stays true: x and y scale of a map that keeps the axes at right angles.
 */
export function absorbScale<T extends Item>(item: T): T {
  const [a, b, c, d, e, f] = item.matrix;
  const scaleX = Math.hypot(a, b);
  const scaleY = Math.abs(determinant(item.matrix)) / scaleX;
  const isSkewed = Math.abs(a * c + b * d) > 1e-9 * scaleX * scaleX;
  if (isSkewed || (Math.abs(scaleX - 1) < 1e-12 && Math.abs(scaleY - 1) < 1e-12)) return item;
  const matrix = tidyMatrix([a / scaleX, b / scaleX, c / scaleY, d / scaleY, e, f]);
  switch (item.kind) {
    case 'box':
      return {
        ...item,
        ...scaledTreatments(item, Math.sqrt(scaleX * scaleY)),
        matrix,
        widthMm: round(item.widthMm * scaleX),
        heightMm: round(item.heightMm * scaleY),
        cornerMm: round(item.cornerMm * Math.min(scaleX, scaleY)),
      };
    case 'oval':
      return {
        ...item,
        ...scaledTreatments(item, Math.sqrt(scaleX * scaleY)),
        matrix,
        widthMm: round(item.widthMm * scaleX),
        heightMm: round(item.heightMm * scaleY),
      };
    case 'polygon':
    case 'arc':
      return Math.abs(scaleX - scaleY) < 1e-9 * scaleX
        ? { ...item, matrix, radiusMm: round(item.radiusMm * scaleX), ...scaledTreatments(item, scaleX) }
        : item;
    case 'picture':
      return Math.abs(scaleX - scaleY) < 1e-9 * scaleX ? { ...item, matrix, mmPerPx: item.mmPerPx * scaleX } : item;
    case 'lettering':
      return {
        ...item,
        ...scaledTreatments(item, Math.sqrt(scaleX * scaleY)),
        ...(item.tweaks ? { tweaks: scaledTweaks(item.tweaks, scaleX, scaleY) } : {}),
        matrix,
        capHeightMm: round(item.capHeightMm * scaleY),
        widthPct: Math.round(((item.widthPct * scaleX) / scaleY) * 1e6) / 1e6,
        letterSpaceMm: round(item.letterSpaceMm * scaleX),
      };
    default:
      return item;
  }
}

/**
 * An item under a further map; a dimension line takes its free ends along.
 * @param map done after the item's own
 */
export function mapItem<T extends Item>(item: T, map: Matrix): T {
  // a live cut line follows what it goes round, and has no place of its own
  if (item.kind === 'edge-cut') return item;
  if (item.kind !== 'dimension') return absorbScale({ ...item, matrix: tidyMatrix(compose(map, item.matrix)) });
  const moved = <E extends { x: number; y: number; item?: string | undefined }>(end: E): E => {
    const p = mapPoint(map, end);
    return end.item === undefined ? { ...end, x: round(p.x), y: round(p.y) } : end;
  };
  return { ...item, from: moved(item.from), to: moved(item.to) };
}

/** Puts new items (a group with its children, or single ones) at the top of the drawing. */
export const addItems: Command<{ items: readonly Item[]; roots: readonly ItemId[] }> = (state, { items, roots }) => {
  const bad = items.find((item) => !itemSchema.safeParse(item).success);
  if (bad) {
    const issue = itemSchema.safeParse(bad).error?.issues[0];
    return refuse(`“${bad.name}” cannot be added: ${describeIssue(issue)}.`);
  }
  return planOf(
    state,
    () =>
      edit(state.drawing, (records) => {
        for (const item of items) records[item.id] = item as Draft<Item>;
        draftPage(records).root.push(...roots);
      }),
    roots,
  );
};

/** Where both ends of a dimension line stand. mm */
interface EndPlaces {
  readonly from: Point;
  readonly to: Point;
}

/**
 * Takes items away, with what they hold; a group left empty goes as well.
 * @param places by dimension lines: an end that was fastened to what goes stays there; without it, where it was fastened first
 */
export const removeItems: Command<{ ids: readonly ItemId[]; places?: ReadonlyMap<ItemId, EndPlaces> }> = (state, { ids, places }) => {
  const present = ids.filter((id) => itemOf(state.drawing, id) && !isOutOfReach(state.drawing, id));
  if (present.length === 0) return refuse('Nothing that can be deleted is selected.');
  return planOf(
    state,
    () =>
      edit(state.drawing, (records) => {
        for (const id of present) removeOne(records, state.drawing, id);
        follow(records, state.drawing, { remove: (id) => removeOne(records, state.drawing, id) });
        for (const [id, ends] of places ?? []) unfasten(records, id, ends);
      }),
    [],
  );
};

/** Ends of a dimension line that were fastened to what is gone stay where they stood. */
function unfasten(records: Records, id: ItemId, places: EndPlaces): void {
  const line = records[id];
  if (line?.type !== 'item' || line.kind !== 'dimension') return;
  for (const side of ['from', 'to'] as const) {
    const { item } = line[side];
    if (item !== undefined && !records[item]) line[side] = { x: places[side].x, y: places[side].y };
  }
}

function removeOne(records: Records, drawing: Drawing, id: string): void {
  const list = siblings(records, id);
  const index = list.indexOf(id);
  if (index >= 0) list.splice(index, 1);
  for (const item of withDescendants(drawing, id)) delete records[item.id];
  for (const record of Object.values(records)) {
    if (record.type === 'item' && record.kind === 'group' && record.children.length === 0) removeOne(records, drawing, record.id);
  }
}

/** Moves, turns or sizes items: every leaf is mapped, sizes stay true where the shape allows it. */
export const transformItems: Command<{ ids: readonly ItemId[]; map: Matrix }> = (state, { ids, map }) => {
  if (!(Math.abs(determinant(map)) > 1e-12) || !map.every(Number.isFinite)) return refuse('That would leave no size.');
  const leaves = leavesOf(state.drawing, ids).filter((leaf) => !isLeafOutOfReach(state.drawing, leaf));
  if (leaves.length === 0) return refuse('Nothing that can be moved is selected.');
  if (leaves.every(({ kind }) => kind === 'edge-cut'))
    return refuse('An edge cut follows what it goes round: move that, or change its distance.');
  const mapped = leaves.map((leaf) => mapItem(leaf, map));
  // a move changes places alone: only they are looked at, which thousands of items notice
  const isMove = map[0] === 1 && map[1] === 0 && map[2] === 0 && map[3] === 1;
  const isWhole = (item: Item): boolean =>
    isMove && item.kind !== 'dimension' ? isItemMatrix(item.matrix) : itemSchema.safeParse(item).success;
  const bad = mapped.find((item) => !isWhole(item));
  if (bad) return refuse(`“${bad.name}” cannot take that size: ${describeIssue(itemSchema.safeParse(bad).error?.issues[0])}.`);
  return planOfItems(state, mapped);
};

/** Each item by its own way, e.g. when aligning. Ways below 0.1 µm are left out. */
export const moveEach: Command<{ moves: readonly { readonly id: ItemId; readonly dx: number; readonly dy: number }[] }> = (
  state,
  { moves },
) => {
  const mapped = moves.flatMap(({ id, dx, dy }) => {
    if (isOutOfReach(state.drawing, id) || Math.hypot(dx, dy) < 1e-4) return [];
    return leavesOf(state.drawing, [id]).map((leaf) => mapItem(leaf, [1, 0, 0, 1, dx, dy]));
  });
  if (mapped.length === 0) return refuse('They stand like that already.');
  if (!mapped.every((item) => itemSchema.safeParse(item).success)) return refuse('That would move something out of reach.');
  return planOfItems(state, mapped);
};

/** Fields of one item, e.g. its text or its width. */
export const setItemFields: Command<{ id: ItemId; fields: Readonly<Record<string, unknown>> }> = (state, { id, fields }) => {
  const item = itemOf(state.drawing, id);
  if (!item) return refuse('This item is no longer there.');
  if (item.kind !== 'picture' && isOutOfReach(state.drawing, id)) return refuse(`“${item.name}” is on a locked or hidden film.`);
  const parsed = itemSchema.safeParse({ ...item, ...fields });
  if (!parsed.success) return refuse(`That cannot be: ${describeIssue(parsed.error.issues[0])}.`);
  const next = 'treatments' in fields ? parsed.data : withTonesOf(item, parsed.data);
  return planOf(state, () => ({ ...state.drawing, [id]: next }));
};

/** The edge through two-tone letters goes up and down with their height: it is seen at the same place in them. */
function withTonesOf(before: Item, after: Item): Item {
  if (before.kind !== 'lettering' || after.kind !== 'lettering' || before.capHeightMm === after.capHeightMm) return after;
  const k = after.capHeightMm / before.capHeightMm;
  const treatments = after.treatments?.map((t) => (t.kind === 'two-tone' ? scaleTreatment(t, k, scalePath(k)) : t));
  return treatments ? { ...after, treatments } : after;
}

/** New outlines of plain shapes, all at once; an empty one takes the shape away. */
export const setPaths: Command<{ paths: Readonly<Record<string, string>> }> = (state, { paths }) => {
  const shapes = Object.keys(paths).flatMap((id) => {
    const item = itemOf(state.drawing, id);
    return item?.kind === 'shape' && !isOutOfReach(state.drawing, id) ? [item] : [];
  });
  if (shapes.length === 0) return refuse('None of these shapes can be changed.');
  return planOf(state, () =>
    edit(state.drawing, (records) => {
      for (const shape of shapes) {
        const path = paths[shape.id] as string;
        if (path === '') removeOne(records, state.drawing, shape.id);
        else records[shape.id] = { ...shape, path };
      }
    }),
  );
};

/** The layer that items belong to: the film they are cut from, or the print. Pictures go onto prints only. */
export const setFilmOfItems: Command<{ ids: readonly ItemId[]; film: LayerId | null }> = (state, { ids, film }) => {
  const target = layerOf(state.drawing, film);
  const mayGo = (leaf: LeafItem): boolean => isShaped(leaf) || (leaf.kind === 'picture' && target?.type !== 'film');
  const leaves = leavesOf(state.drawing, ids).filter(mayGo);
  if (leaves.length === 0)
    return refuse(
      target?.type === 'film' && leavesOf(state.drawing, ids).some(({ kind }) => kind === 'picture')
        ? 'A picture is not cut from a film. Put it on a print, or trace it.'
        : 'Select what is to go onto this layer first.',
    );
  return planOfItems(
    state,
    leaves.map((leaf) => onLayer(state.drawing, leaf, target)),
  );
};

/** An item on another layer: what comes from a film onto a print takes the film's colour along, unless it has its own. */
function onLayer(drawing: Drawing, leaf: LeafItem, target: Layer | undefined): Item {
  const from = layerOf(drawing, leaf.layer);
  const own = leaf.paint ?? (from?.type === 'film' && isShaped(leaf) ? { fill: { hex: from.hex } } : undefined);
  return { ...leaf, layer: target?.id ?? null, ...(target?.type === 'print' && own ? { paint: own } : {}) } as Item;
}

/** Painting order: to the front or the back of the list that holds the items. */
export const reorderItems: Command<{ ids: readonly ItemId[]; to: 'front' | 'back' }> = (state, { ids, to }) => {
  if (ids.length === 0) return refuse('Nothing is selected.');
  return planOf(state, () =>
    edit(state.drawing, (records) => {
      const chosen = to === 'front' ? ids : [...ids].reverse();
      for (const id of chosen) {
        const list = siblings(records, id);
        const index = list.indexOf(id);
        if (index < 0) continue;
        list.splice(index, 1);
        if (to === 'front') list.push(id);
        else list.unshift(id);
      }
    }),
  );
};

/** Items as one; the group stands where the front one stood. */
export const groupItems: Command<{ ids: readonly ItemId[]; groupId: ItemId }> = (state, { ids, groupId }) => {
  const tops = pageOf(state.drawing).root.filter((id) => ids.includes(id));
  if (tops.length < 2) return refuse('Select two or more items to group them.');
  return planOf(
    state,
    () =>
      edit(state.drawing, (records) => {
        const page = draftPage(records);
        const last = page.root.indexOf(tops.at(-1) as string);
        const group: GroupItem = {
          type: 'item',
          kind: 'group',
          id: groupId,
          name: `Group of ${tops.length}`,
          layer: null,
          matrix: [1, 0, 0, 1, 0, 0],
          children: tops,
        };
        page.root.splice(last, 1, groupId);
        page.root = page.root.filter((id) => !tops.includes(id));
        records[groupId] = group;
        settingsFollow(records, state.drawing, tops, [groupId]);
      }),
    [groupId],
  );
};

/** Groups fall into what they hold, in its place. */
export const ungroupItems: Command<{ ids: readonly ItemId[] }> = (state, { ids }) => {
  const groups = ids.flatMap((id) => {
    const item = itemOf(state.drawing, id);
    return item?.kind === 'group' ? [item] : [];
  });
  if (groups.length === 0) return refuse('No group is selected.');
  return planOf(
    state,
    () =>
      edit(state.drawing, (records) => {
        for (const group of groups) {
          const list = siblings(records, group.id);
          list.splice(list.indexOf(group.id), 1, ...group.children);
          delete records[group.id];
        }
        const members = new Map(groups.map((group) => [group.id, group.children]));
        follow(records, state.drawing, { instead: (id) => members.get(id) ?? [], remove: (id) => removeOne(records, state.drawing, id) });
      }),
    groups.flatMap((group) => group.children),
  );
};

/** Items by other items in their place, e.g. several by their weld; the new ones stand where the front one stood. */
export const replaceItems: Command<{ ids: readonly ItemId[]; items: readonly Item[]; roots?: readonly ItemId[] }> = (
  state,
  { ids, items, roots = items.map((item) => item.id) },
) => {
  const tops = ids.filter((id) => itemOf(state.drawing, id));
  if (tops.length === 0) return refuse('Nothing is selected.');
  const bad = items.find((item) => !itemSchema.safeParse(item).success);
  if (bad) return refuse(`“${bad.name}” has no valid outline.`);
  return planOf(
    state,
    () =>
      edit(state.drawing, (records) => {
        const anchor = tops.at(-1) as string;
        const list = siblings(records, anchor);
        list.splice(list.indexOf(anchor) + 1, 0, ...roots);
        for (const item of items) records[item.id] = item as Draft<Item>;
        for (const id of tops) if (records[id]) removeOne(records, state.drawing, id);
        // what was gone before has nothing in its place
        follow(records, state.drawing, {
          instead: (id) => (state.drawing[id] ? roots : []),
          remove: (id) => removeOne(records, state.drawing, id),
        });
      }),
    roots,
  );
};

/**
 * Copies with new ids: items with all they hold, their films kept. What refers to an item that is copied with it refers to the
 * copy: cut lines, dimension lines, letters that follow a drawn line. Letters that are copied without their line keep the way
 * that they run, and follow it no more: they would lie where the first ones do. `newId` gives ids.
 */
export function copyItems(drawing: Drawing, ids: readonly string[], newId: () => string): { items: Item[]; roots: string[] } {
  const copies = new Map<string, string>();
  const originals = ids.flatMap((id) => withDescendants(drawing, id));
  for (const item of originals) copies.set(item.id, newId());
  return { items: originals.map((item) => copied(item, copies)), roots: ids.flatMap((id) => copies.get(id) ?? []) };
}

function copied(item: Item, copies: ReadonlyMap<string, string>): Item {
  const copyOf = (id: string): string => copies.get(id) ?? id;
  const copy = { ...item, id: copyOf(item.id) };
  if (copy.kind === 'edge-cut') return { ...copy, of: copy.of.map(copyOf) };
  if (copy.kind === 'group') return { ...copy, children: copy.children.map(copyOf) };
  if (copy.kind === 'dimension') {
    const end = (of: DimensionItem['from']): DimensionItem['from'] => (of.item === undefined ? of : { ...of, item: copyOf(of.item) });
    return { ...copy, from: end(copy.from), to: end(copy.to) };
  }
  return copy.treatments ? { ...copy, treatments: copy.treatments.map((t) => withLineOf(t, copies)) } : copy;
}

function withLineOf(t: TreatmentRecord, copies: ReadonlyMap<string, string>): TreatmentRecord {
  if ((t.kind !== 'bend' && t.kind !== 'two-tone') || t.lineItem === undefined) return t;
  const { lineItem, ...free } = t;
  const line = copies.get(lineItem);
  return line === undefined ? free : { ...free, lineItem: line };
}

/**
 * Items that a click reaches: the outermost group, or the item within an entered group.
 * @param entered id of the group that is worked in, if any
 */
export const selectableOf = (drawing: Drawing, id: string, entered: string | undefined): string => {
  let current = id;
  for (let parent = parentOf(drawing, current); parent && parent.id !== entered; parent = parentOf(drawing, current)) current = parent.id;
  return entered !== undefined && !parentOf(drawing, current) ? topOf(drawing, id) : current;
};
