/** Is a changed drawing still whole? Schemas for the records that changed, and the references between records. */
import { InputError } from '@lorvek/core';
import { PAGE_ID, recordSchema, type DocRecord, type Drawing } from './document.ts';
import { pageOf } from './read.ts';
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
  const { path, message, errors } = issue as Issue;
  const inner = (errors ?? []).flatMap((list) => list.slice(0, 1)).sort((a, b) => b.path.length - a.path.length)[0];
  if (inner) return deepestIssue(inner);
  return { path: path.map(String), message };
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

function checkFilms(drawing: Drawing): void {
  const films = new Set(pageOf(drawing).films);
  if (films.size !== pageOf(drawing).films.length) fail('A film stands in the strip twice.');
  for (const record of Object.values(drawing)) {
    if (record.type === 'film' && !films.has(record.id)) fail(`The film ${record.id} is not in the strip.`, { record: record.id });
    if (record.type === 'item' && record.film !== null && !films.has(record.film))
      fail(`The item ${record.id} is cut from ${record.film}, which the job does not have.`, { record: record.id });
    if (record.type === 'item')
      for (const t of record.treatments ?? [])
        if (t.kind !== 'bend' && t.film !== null && !films.has(t.film))
          fail(`A treatment of ${record.id} is cut from ${t.film}, which the job does not have.`, { record: record.id });
    if (record.type === 'sheet' && !films.has(record.film))
      fail(`The sheet ${record.id} is for a film that the job does not have.`, { record: record.id });
  }
  for (const id of films) if (drawing[id]?.type !== 'film') fail(`The strip names ${id}, which is no film.`, { record: id });
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
  checkFilms(after);
}

/** Checks a whole drawing that comes from outside. @throws InputError */
export function validateDrawing(drawing: Readonly<Record<string, unknown>>): Drawing {
  const records = Object.fromEntries(Object.entries(drawing).map(([id, record]) => [id, validateRecord(id, record)]));
  validateChange(records, {});
  return records;
}
