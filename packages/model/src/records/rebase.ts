/**
 * A patch made on an older drawing, brought onto the one that stands now (three-way merge of records).
 * Values are taken whole: of a field that both sides changed, what stands now stays and the loss is told. Only lists of
 * ids merge, by place, and lists of parts that have ids (treatments, guides), part by part. What comes out is a whole
 * drawing again: each item once in the tree, no film that is gone (`mend.ts`).
 *
 * Law: every value of the result is one that stood in `drawing` or in the patch. Law: a field of the patch that is
 * not in the result is of a record named in `lost`. Law: on the drawing that the patch was made on, it is the patch itself.
 */
import type { DocRecord, Drawing } from './document.ts';
import { mendDrawing } from './mend.ts';
import { diff, isSame, type Patch, type RecordChange } from './patch.ts';

type Fields = Readonly<Record<string, unknown>>;

interface Merged<T> {
  readonly value: T;
  /** Part of the change could not be kept. */
  readonly lost: boolean;
}

/** A patch for another drawing, and the records whose part of it is lost. */
export interface Rebased {
  readonly patch: Patch;
  /** Records whose change could not be kept in full: someone else changed the same thing. */
  readonly lost: readonly string[];
}

const isOrderKept = (a: readonly string[], b: readonly string[]): boolean => {
  const inB = new Set(b);
  const inA = new Set(a);
  const [left, right] = [a.filter((id) => inB.has(id)), b.filter((id) => inA.has(id))];
  return left.every((id, i) => id === right[i]);
};

/**
 * Puts entries of `source` that `list` lacks behind the entry they follow there, and behind what others put at the
 * same place.
 */
function insertAll(list: readonly string[], wanted: ReadonlySet<string>, source: readonly string[], others: ReadonlySet<string>): string[] {
  const there = new Set(list);
  const behind = new Map<string, string[]>();
  let anchor = '';
  for (const id of source) {
    if (there.has(id)) anchor = id;
    else if (wanted.has(id)) behind.set(anchor, [...(behind.get(anchor) ?? []), id]);
  }
  const out: string[] = [];
  let due = behind.get('') ?? [];
  for (const id of list) {
    if (!others.has(id)) {
      out.push(...due);
      due = [];
    }
    out.push(id);
    due = [...due, ...(behind.get(id) ?? [])];
  }
  return [...out, ...due];
}

const without = (list: readonly string[], ids: ReadonlySet<string>): string[] => list.filter((id) => !ids.has(id));
const added = (from: readonly string[], to: readonly string[]): Set<string> => {
  const known = new Set(from);
  return new Set(to.filter((id) => !known.has(id)));
};

/**
 * Additions and removals of both sides; of two new orders the one that stands.
 * @param before,after what one side made of the list
 * @param now what the other side made of it meanwhile
 */
export function mergeIds(before: readonly string[], after: readonly string[], now: readonly string[]): Merged<string[]> {
  const [myNew, myGone] = [added(before, after), added(after, before)];
  const [theirNew, theirGone] = [added(before, now), added(now, before)];
  const onTheirs = (): string[] => insertAll(without(now, myGone), myNew, after, theirNew);
  if (isOrderKept(before, after)) return { value: onTheirs(), lost: false };
  if (isOrderKept(before, now)) return { value: insertAll(without(after, theirGone), theirNew, now, myNew), lost: false };
  return { value: onTheirs(), lost: !isOrderKept(after, now) };
}

interface Part {
  readonly id: string;
}

const isIdList = (list: readonly unknown[]): list is string[] => list.every((entry) => typeof entry === 'string' && /^[a-z]+-/.test(entry));
const isPartList = (list: readonly unknown[]): list is Part[] =>
  list.every((entry) => typeof entry === 'object' && entry !== null && typeof (entry as Partial<Part>).id === 'string');

function mergeParts(before: readonly Part[], after: readonly Part[], now: readonly Part[]): Merged<Part[]> {
  const ids = (list: readonly Part[]): string[] => list.map(({ id }) => id);
  const order = mergeIds(ids(before), ids(after), ids(now));
  let { lost } = order;
  const value = order.value.flatMap((id): Part[] => {
    const [was, mine, theirs] = [before, after, now].map((list) => list.find((part) => part.id === id));
    if (!theirs) return mine ? [mine] : [];
    if (!mine || !was) return [theirs];
    const merged = mergeFields(was as unknown as Fields, mine as unknown as Fields, theirs as unknown as Fields);
    lost ||= merged.lost;
    return [merged.value as unknown as Part];
  });
  // a part that I changed and they took away
  lost ||= before.some((was) => {
    const mine = after.find(({ id }) => id === was.id);
    return mine !== undefined && !isSame(mine, was) && !now.some(({ id }) => id === was.id);
  });
  return { value, lost };
}

function mergeValue(before: unknown, after: unknown, now: unknown): Merged<unknown> {
  if (isSame(now, before)) return { value: after, lost: false };
  if (isSame(now, after)) return { value: now, lost: false };
  if (Array.isArray(after) && Array.isArray(now) && (before === undefined || Array.isArray(before))) {
    const was: unknown[] = before ?? [];
    const all = [was, after, now];
    if (all.every((list) => isIdList(list))) return mergeIds(was as string[], after as string[], now as string[]);
    if (all.every((list) => isPartList(list))) return mergeParts(was as Part[], after as Part[], now as Part[]);
  }
  return { value: now, lost: true };
}

function mergeFields(before: Fields, after: Fields, now: Fields): Merged<Fields> {
  const merged: Record<string, unknown> = { ...now };
  let lost = false;
  for (const key of new Set([...Object.keys(before), ...Object.keys(after)])) {
    if (isSame(before[key], after[key])) continue;
    const field = mergeValue(before[key], after[key], now[key]);
    lost ||= field.lost;
    if (field.value === undefined) delete merged[key];
    else merged[key] = field.value;
  }
  return { value: merged, lost };
}

function rebaseRecord(now: DocRecord | null, { before, after }: RecordChange): Merged<DocRecord | null> {
  if (isSame(now, before) || isSame(now, after)) return { value: after, lost: false };
  if (!now || !before || !after) return { value: now, lost: true };
  if (now.type !== after.type || (now.type === 'item' && after.type === 'item' && now.kind !== after.kind))
    return { value: now, lost: true };
  const { value, lost } = mergeFields(before as unknown as Fields, after as unknown as Fields, now as unknown as Fields);
  return { value: value as unknown as DocRecord, lost };
}

/** @complexity the whole drawing once */
export function rebasePatch(drawing: Drawing, patch: Patch): Rebased {
  const out: Record<string, DocRecord> = { ...drawing };
  const lost: string[] = [];
  let merged = false;
  for (const [id, change] of Object.entries(patch)) {
    const now = drawing[id] ?? null;
    const record = rebaseRecord(now, change);
    if (record.lost) lost.push(id);
    merged ||= !isSame(now, change.before);
    if (record.value) out[id] = record.value;
    else delete out[id];
  }
  // also where no record was changed on both sides: what mine names may be gone
  const mended = mendDrawing(out, drawing);
  if (!merged && mended.drawing === out) return { patch, lost };
  lost.push(...mended.lost);
  return { patch: diff(drawing, mended.drawing), lost: [...new Set(lost)] };
}
