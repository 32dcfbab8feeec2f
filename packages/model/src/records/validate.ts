/** Is a changed drawing still whole? Schemas for the records that changed, and the references between records. */
import { InputError } from '@lorvek/core';
import { PAGE_ID, recordSchema, type DocRecord, type Drawing } from './document.ts';
import { plainIssue } from './plain-issue.ts';
import type { Item } from './items.ts';
import { pageOf } from '../queries/queries.ts';
import type { Patch } from './patch.ts';

const MOST_RECORDS = 200_000;
const DEEPEST = 64;

function fail(message: string, details: Record<string, unknown> = {}): never {
  throw new InputError('document', message, details);
}

/** @throws InputError `input.document` with the field in `details.field` */
export function validateRecord(id: string, record: unknown): DocRecord {
  const parsed = recordSchema.safeParse(record);
  if (!parsed.success) {
    const union = parsed.error.issues[0];
    const issue = deepestIssue(union);
    fail(`The record ${id} is not valid: ${issue.path.join('.') || 'record'}: ${issue.message}.`, {
      record: id,
      field: issue.path.join('.'),
    });
  }
  if (parsed.data.id !== id) fail(`The record ${id} calls itself ${parsed.data.id}.`, { record: id, field: 'id' });
  return parsed.data;
}

interface Issue {
  path: PropertyKey[];
  message: string;
  errors?: Issue[][];
}

/** Of a failed union, the complaint of the member that came farthest. */
function deepestIssue(issue: unknown): { path: string[]; message: string } {
  const { path, errors } = issue as Issue;
  const inner = (errors ?? []).flatMap((list) => list.slice(0, 1)).sort((a, b) => b.path.length - a.path.length)[0];
  if (inner) return deepestIssue(inner);
  return { path: path.map(String), message: plainIssue(issue as Issue) };
}

function checkTree(drawing: Drawing): void {
  const seen = new Set<string>();
  const visit = (id: string, depth: number): void => {
    const item = drawing[id];
    if (item?.type !== 'item') fail(`The tree names ${id}, which is no item.`, { record: id });
    if (seen.has(id)) fail(`The item ${id} stands in the tree twice.`, { record: id });
    if (depth > DEEPEST) fail('Groups are nested too deeply.', { record: id });
    seen.add(id);
    if (item.kind === 'group') for (const child of item.children) visit(child, depth + 1);
  };
  for (const id of pageOf(drawing).root) visit(id, 0);
  for (const record of Object.values(drawing)) {
    if (record.type === 'item' && !seen.has(record.id)) fail(`The item ${record.id} stands nowhere in the tree.`, { record: record.id });
  }
}

/** What an item refers to: its layer, the things that a cut line goes round. */
function checkReferences(drawing: Drawing, item: Item, layers: ReadonlySet<string>): void {
  if (item.layer !== null && !layers.has(item.layer))
    fail(`The item ${item.id} is on ${item.layer}, which the job does not have.`, { record: item.id });
  if (item.kind === 'picture' && item.layer !== null && drawing[item.layer]?.type !== 'print')
    fail(`The picture ${item.id} is on ${item.layer}, which is no print.`, { record: item.id });
  if (item.kind === 'edge-cut')
    for (const one of item.of)
      if (drawing[one]?.type !== 'item') fail(`The cut line ${item.id} goes round ${one}, which is no item.`, { record: item.id });
}

/** What a record says of layers must be so. */
function checkLayersOf(drawing: Drawing, record: DocRecord, layers: ReadonlySet<string>): void {
  const { id } = record;
  if (record.type === 'item') {
    checkReferences(drawing, record, layers);
    for (const t of record.treatments ?? [])
      if (t.kind !== 'bend' && t.layer !== null && !layers.has(t.layer))
        fail(`A treatment of ${id} is cut from ${t.layer}, which the job does not have.`, { record: id });
  } else if (record.type === 'film' || record.type === 'print') {
    if (!layers.has(id)) fail(`The layer ${id} is not in the strip.`, { record: id });
  } else if (record.type === 'lay-up' && !layers.has(record.layer))
    fail(`The lay-up ${id} is for a layer that the job does not have.`, { record: id });
}

function checkLayers(drawing: Drawing): void {
  const strip = pageOf(drawing).layers;
  const layers = new Set(strip);
  if (layers.size !== strip.length) fail('A layer stands in the strip twice.');
  for (const record of Object.values(drawing)) checkLayersOf(drawing, record, layers);
  for (const id of layers)
    if (drawing[id]?.type !== 'film' && drawing[id]?.type !== 'print') fail(`The strip names ${id}, which is no layer.`, { record: id });
}

/**
 * Checks what a patch made of a drawing.
 * @throws InputError `input.document`
 */
export function validateChange(after: Drawing, patch: Patch): void {
  if (Object.keys(after).length > MOST_RECORDS) fail(`A drawing holds at most ${MOST_RECORDS} records.`);
  for (const [id, change] of Object.entries(patch)) if (change.after) validateRecord(id, change.after);
  if (!after[PAGE_ID]) fail('A drawing cannot be without its page.');
  checkTree(after);
  checkLayers(after);
}

/**
 * Checks a whole drawing that comes from outside. @throws InputError
 * @returns the drawing, its records checked one by one and against one another
 */
export function validateDrawing(drawing: Readonly<Record<string, unknown>>): Drawing {
  const records = Object.fromEntries(Object.entries(drawing).map(([id, record]) => [id, validateRecord(id, record)]));
  validateChange(records, {});
  return records;
}

/** Is it a record as drawings have them? */
export const isRecord = (record: unknown): record is DocRecord => recordSchema.safeParse(record).success;
