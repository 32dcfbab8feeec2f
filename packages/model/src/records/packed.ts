/**
 * Changes as they cross HTTP, lie in the log and wait in the browser: only what differs, told so briefly that moving
 * thousands of items stays small.
 * - A record that stays is told by its changed fields, before and after; a list by what was taken out and put in.
 * - Items that were moved alike are one entry: how far, and which. Places are kept to 1e-4 mm, so the sum is exact,
 *   which is tried for each item; one that does not come out exactly is told by its fields.
 * - Long texts (outlines) are kept once, by content: a value stands for its text by SHA-256 (FIPS 180-4). What was
 *   before is always told by its name alone, for whoever takes the change has it.
 * Going forward needs the drawing before, going back the one after.
 *
 * Law: unpack(d, pack(p)) is p for every patch p that applies to d. Law: unpackBack(apply(d, p), pack(p)) is p.
 */
import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';
import { InputError, StaleError } from '@lorvek/core';
import { z } from 'zod';
import type { DocRecord, Drawing } from './document.ts';
import { isSame, type Patch, type RecordChange } from './patch.ts';

/** Texts longer than this are kept by content, characters. */
export const LONG_TEXT = 2048;
const TEXT = '$text';

/** Name of a text: SHA-256 of its UTF-8. */
export const textName = (text: string): string => bytesToHex(sha256(utf8ToBytes(text)));

const json: z.ZodType<unknown> = z.unknown();
const end = z.object({ is: json.optional() });
const fieldSchema = z.union([
  /** A value before and after; one that is not there has no `is`. */
  z.tuple([end, end]),
  /** A list: from where, what was taken out, what was put in. */
  z.object({ at: z.number().int().min(0), out: z.array(json), in: z.array(json) }),
]);
const recordChangeSchema = z.union([
  z.object({ before: json.nullable(), after: json.nullable() }),
  z.object({ fields: z.record(z.string().max(40), fieldSchema) }),
]);

/** See `pack`. */
export const packedSchema = z.object({
  v: z.literal(2),
  records: z.record(z.string().max(60), recordChangeSchema),
  /** Items moved by the same way: [mm right, mm up, their ids]. */
  moved: z.array(z.tuple([z.number(), z.number(), z.array(z.string().max(60))])).optional(),
});
export type Packed = z.infer<typeof packedSchema>;
type PackedField = z.infer<typeof fieldSchema>;
type Fields = Readonly<Record<string, unknown>>;

/** Finds a kept text by its name. @returns undefined when it is not at hand */
export type TextOf = (name: string) => string | undefined;
const NO_TEXTS: TextOf = () => undefined;

/** Is it packed, and not a patch as it is applied? */
export const isPacked = (value: unknown): value is Packed => (value as { v?: unknown } | null)?.v === 2;

const nameIn = (value: unknown): string | undefined => {
  if (typeof value !== 'object' || value === null) return undefined;
  const name = (value as Fields)[TEXT];
  return typeof name === 'string' ? name : undefined;
};

/** Every value of a tree of JSON, changed from the leaves up; what stays is the same object. */
function mapValues(value: unknown, change: (value: unknown) => unknown): unknown {
  if (typeof value !== 'object' || value === null || nameIn(value) !== undefined) return change(value);
  if (Array.isArray(value)) {
    if (typeof value[0] === 'number') return value;
    const mapped = value.map((entry) => mapValues(entry, change));
    return mapped.some((entry, i) => entry !== value[i]) ? mapped : value;
  }
  let changed = false;
  const out: Record<string, unknown> = {};
  for (const [key, entry] of Object.entries(value)) {
    out[key] = mapValues(entry, change);
    changed ||= out[key] !== entry;
  }
  return changed ? out : value;
}

/** Long texts by their names; `keep` is told each of them. */
export function textsOut<T>(value: T, keep?: (name: string, text: string) => void): T {
  return mapValues(value, (entry) => {
    if (typeof entry !== 'string' || entry.length <= LONG_TEXT) return entry;
    const name = textName(entry);
    keep?.(name, entry);
    return { [TEXT]: name };
  }) as T;
}

/** Names by their texts. @throws InputError `input.text` for a text that is not at hand */
export function textsIn<T>(value: T, textOf: TextOf): T {
  return mapValues(value, (entry) => {
    const name = nameIn(entry);
    if (name === undefined) return entry;
    const text = textOf(name);
    if (text === undefined) throw new InputError('text', 'A part of the change is not there: an outline that it names.', { text: name });
    return text;
  }) as T;
}

/** Names of the texts that a value names. */
export function textsNamed(value: unknown): string[] {
  const names = new Set<string>();
  mapValues(value, (entry) => {
    const name = nameIn(entry);
    if (name !== undefined) names.add(name);
    return entry;
  });
  return [...names];
}

/** A packed change with all its long texts by name, for the log. */
export const packedForLog = (packed: Packed, keep: (name: string, text: string) => void): Packed => textsOut(packed, keep);

function packList(before: readonly unknown[], after: readonly unknown[]): PackedField {
  let at = 0;
  while (at < before.length && at < after.length && isSame(before[at], after[at])) at++;
  let tail = 0;
  while (tail < before.length - at && tail < after.length - at && isSame(before[before.length - 1 - tail], after[after.length - 1 - tail]))
    tail++;
  return { at, out: textsOut(before.slice(at, before.length - tail)), in: after.slice(at, after.length - tail) };
}

const endOf = (record: Fields, key: string): { is?: unknown } => (record[key] === undefined ? {} : { is: record[key] });

function packFields(before: Fields, after: Fields): Record<string, PackedField> {
  const fields: Record<string, PackedField> = {};
  for (const key of new Set([...Object.keys(before), ...Object.keys(after)])) {
    const [was, is] = [before[key], after[key]];
    if (isSame(was, is)) continue;
    const isList = Array.isArray(was) && Array.isArray(is) && typeof (was[0] ?? is[0]) !== 'number';
    fields[key] = isList ? packList(was, is) : [textsOut(endOf(before, key)), endOf(after, key)];
  }
  return fields;
}

const PLACES = 1e4;
const rounded = (n: number): number => Math.round(n * PLACES) / PLACES;

/** How far a place was moved, if adding that to it again gives exactly what it became. */
function shiftOf(before: readonly number[], after: readonly number[]): [number, number] | undefined {
  if (before.slice(0, 4).some((n, i) => n !== after[i])) return undefined;
  const shift: [number, number] = [0, 0];
  for (const i of [0, 1] as const) {
    const [was, is] = [before[4 + i] ?? NaN, after[4 + i] ?? NaN];
    shift[i] = rounded(is - was);
    if (rounded(was + shift[i]) !== is || rounded(is - shift[i]) !== was) return undefined;
  }
  return shift;
}

/** A patch as it is sent. @complexity the changed records, by reference first */
export function pack(patch: Patch): Packed {
  const records: Packed['records'] = {};
  const moves = new Map<string, [number, number, string[]]>();
  for (const [id, { before, after }] of Object.entries(patch)) {
    if (!before || !after || before.type !== after.type || kindOf(before) !== kindOf(after)) {
      records[id] = { before: textsOut(before), after };
      continue;
    }
    const fields = packFields(before, after);
    const only = Object.keys(fields);
    const shift =
      only.length === 1 && only[0] === 'matrix' && before.type === 'item' && after.type === 'item'
        ? shiftOf(before.matrix, after.matrix)
        : undefined;
    if (!shift) {
      records[id] = { fields };
      continue;
    }
    const key = shift.join();
    const move = moves.get(key);
    if (move) move[2].push(id);
    else moves.set(key, [...shift, [id]]);
  }
  return { v: 2, records, ...(moves.size > 0 ? { moved: [...moves.values()] } : {}) };
}

const kindOf = (record: DocRecord): string => (record.type === 'item' ? record.kind : '');

const stale = (id: string): StaleError => new StaleError(`The record ${id} has changed since.`, { id });

/** Is what stands there what the change says was there? A long text is known by its name. */
const wasSo = (told: unknown, stands: unknown): boolean => isSame(told, stands) || isSame(told, textsOut(stands));

function goField(id: string, stands: unknown, field: PackedField, forward: boolean, textOf: TextOf): { is?: unknown } {
  if (Array.isArray(field)) {
    const [from, to] = forward ? field : ([field[1], field[0]] as const);
    if (!wasSo(from.is, stands)) throw stale(id);
    return to.is === undefined ? {} : { is: textsIn(to.is, textOf) };
  }
  const [out, put] = forward ? [field.out, field.in] : [field.in, field.out];
  const list = Array.isArray(stands) ? (stands as unknown[]) : [];
  const there = list.slice(field.at, field.at + out.length);
  if (there.length !== out.length || !wasSo(out, there)) throw stale(id);
  return { is: [...list.slice(0, field.at), ...textsIn(put, textOf), ...list.slice(field.at + out.length)] };
}

function goRecord(id: string, stands: DocRecord, fields: Record<string, PackedField>, forward: boolean, textOf: TextOf): DocRecord {
  const out: Record<string, unknown> = { ...stands };
  for (const [key, field] of Object.entries(fields)) {
    const next = goField(id, out[key], field, forward, textOf);
    if ('is' in next) out[key] = next.is;
    else delete out[key];
  }
  return out as unknown as DocRecord;
}

function go(drawing: Drawing, packed: Packed, forward: boolean, textOf: TextOf): Patch {
  const patch: Record<string, RecordChange> = {};
  const put = (id: string, stands: DocRecord | null, becomes: DocRecord | null): void => {
    patch[id] = forward ? { before: stands, after: becomes } : { before: becomes, after: stands };
  };
  for (const [id, change] of Object.entries(packed.records)) {
    const stands = drawing[id] ?? null;
    if ('fields' in change) {
      if (!stands) throw stale(id);
      put(id, stands, goRecord(id, stands, change.fields, forward, textOf));
      continue;
    }
    const [from, to] = forward ? [change.before, change.after] : [change.after, change.before];
    if (!wasSo(from, stands)) throw stale(id);
    put(id, stands, textsIn(to, textOf) as DocRecord | null);
  }
  for (const [right, up, ids] of packed.moved ?? []) {
    const sign = forward ? 1 : -1;
    for (const id of ids) {
      const stands = drawing[id];
      if (stands?.type !== 'item') throw stale(id);
      const [a, b, c, d, e, f] = stands.matrix;
      put(id, stands, { ...stands, matrix: [a, b, c, d, rounded(e + sign * right), rounded(f + sign * up)] });
    }
  }
  return patch;
}

/**
 * The patch that a packed change is on the drawing before it.
 * @throws StaleError when the drawing is another; InputError `input.text` for a text that is not at hand
 * @complexity the changed records
 */
export const unpack = (before: Drawing, packed: Packed, textOf: TextOf = NO_TEXTS): Patch => go(before, packed, true, textOf);

/** The same patch, from the drawing after it. @throws like `unpack` */
export const unpackBack = (after: Drawing, packed: Packed, textOf: TextOf = NO_TEXTS): Patch => go(after, packed, false, textOf);

/** The told value where it stands; where it does not, as it is told, so that a merge sees the difference. */
const virtual = (told: unknown, stands: unknown): unknown => (wasSo(told, stands) ? stands : told);

function looseField(now: Fields, key: string, field: PackedField): [unknown, unknown] {
  if (Array.isArray(field)) return [virtual(field[0].is, now[key]), field[1].is];
  const list = Array.isArray(now[key]) ? (now[key] as unknown[]) : [];
  const there = list.slice(field.at, field.at + field.out.length);
  if (there.length === field.out.length && wasSo(field.out, there))
    return [list, [...list.slice(0, field.at), ...field.in, ...list.slice(field.at + field.out.length)]];
  return [field.out, field.in];
}

function put(record: Record<string, unknown>, key: string, value: unknown): void {
  if (value === undefined) delete record[key];
  else record[key] = value;
}

/**
 * A packed change as a patch to be rebased, when the drawing that it was made on is not at hand: each record as it
 * stands, with the changed fields as the change tells them. Of lists only the part that was changed is told.
 */
export function unpackLoosely(now: Drawing, packed: Packed): Patch {
  const patch: Record<string, RecordChange> = {};
  for (const [id, change] of Object.entries(packed.records)) {
    const stands = now[id] ?? null;
    if (!('fields' in change)) {
      patch[id] = { before: virtual(change.before, stands) as DocRecord | null, after: change.after as DocRecord | null };
      continue;
    }
    const [before, after]: Record<string, unknown>[] = [{ ...stands }, { ...stands }];
    for (const [key, field] of Object.entries(change.fields)) {
      const [was, is] = looseField((stands ?? {}) as Fields, key, field);
      put(before as Record<string, unknown>, key, was);
      put(after as Record<string, unknown>, key, is);
    }
    patch[id] = { before: before as unknown as DocRecord, after: after as unknown as DocRecord };
  }
  for (const [right, up, ids] of packed.moved ?? []) {
    for (const id of ids) {
      const stands = now[id];
      if (stands?.type !== 'item') continue;
      const [a, b, c, d, e, f] = stands.matrix;
      patch[id] = { before: stands, after: { ...stands, matrix: [a, b, c, d, rounded(e + right), rounded(f + up)] } };
    }
  }
  return patch;
}
