/**
 * Drawings of older versions, step by step: upgrade n makes of a drawing of version n one of version n + 1. Pure, and
 * never changed once landed, for a fixture of the version before stands beside each. Records are loose here: they are
 * of shapes that the schemas no longer know.
 */
import { InputError } from '@lorvek/core';
import { DOCUMENT_VERSION, PAGE_ID, recordSchema, type DocRecord, type Drawing } from './document.ts';
import { validateDrawing } from './validate.ts';

type Loose = Readonly<Record<string, unknown>>;
/** Records of another version, not checked yet. */
export type LooseDrawing = Readonly<Record<string, Loose>>;

const renamed = ({ film, ...rest }: Loose): Loose => (film === undefined ? rest : { ...rest, layer: film });

/** Version 1 had films only: items and treatments named a film, and each film had one sheet. */
function fromFilmsToLayers(drawing: LooseDrawing): LooseDrawing {
  const out: Record<string, Loose> = {};
  for (const [id, record] of Object.entries(drawing)) {
    if (record['type'] === 'page') {
      const { films, scope, ...page } = record;
      const { kind, film, ...chosen } = (scope ?? { kind: 'everything' }) as Loose;
      out[id] = { ...page, version: 2, layers: films, scope: kind === 'film' ? { kind: 'layer', layer: film } : { kind, ...chosen } };
    } else if (record['type'] === 'item') {
      const treatments = record['treatments'] as Loose[] | undefined;
      out[id] = { ...renamed(record), ...(treatments ? { treatments: treatments.map(renamed) } : {}) };
    } else if (record['type'] === 'sheet') {
      const { film, copies, gapMm, offsetXMm, offsetYMm, ...sheet } = record;
      const layUpId = `layup-${String(film)}`;
      const fill = { kind: 'as-drawn', copies, gapMm, alongMm: offsetXMm, acrossMm: offsetYMm };
      out[layUpId] = { ...sheet, type: 'lay-up', id: layUpId, layer: film, fill };
    } else out[id] = record;
  }
  return out;
}

/** By the version that they start from, from 1 on. */
const UPGRADES: readonly ((drawing: LooseDrawing) => LooseDrawing)[] = [fromFilmsToLayers];

const tooNew = (version: number): InputError =>
  new InputError('newer', `This job was saved by a newer version of Lorvek (its drawing is of version ${version}).`);

/**
 * A drawing of any version that was ever landed, as one of this program's.
 * @throws InputError `input.newer` for a version that this program does not know yet, `input.document` for a damaged one
 */
export function upgradeDrawing(drawing: LooseDrawing, version: number): Drawing {
  if (version > DOCUMENT_VERSION || !(version >= 1)) throw tooNew(version);
  return validateDrawing(UPGRADES.slice(version - 1).reduce<LooseDrawing>((now, upgrade) => upgrade(now), drawing));
}

/** What this program can show of a drawing that a newer one saved. */
export interface NewerLook {
  readonly drawing: Drawing;
  /** Things of kinds that this program does not know: they are left out. */
  readonly leftOut: number;
}

type KnownOnes = ReadonlyMap<string, DocRecord>;
const isLayer = (known: KnownOnes, id: string): boolean => ['film', 'print'].includes(known.get(id)?.type ?? '');

/** A record that names only what is there; undefined when nothing of it is left. */
function amongKnown(record: DocRecord, known: KnownOnes): DocRecord | undefined {
  const isItem = (id: string): boolean => known.get(id)?.type === 'item';
  const layerOf = (id: string | null): string | null => (id !== null && isLayer(known, id) ? id : null);
  if (record.type === 'page')
    return { ...record, layers: record.layers.filter((id) => isLayer(known, id)), root: record.root.filter(isItem) };
  if (record.type === 'lay-up') return isLayer(known, record.layer) ? record : undefined;
  if (record.type !== 'item') return record;
  const item = { ...record, layer: layerOf(record.layer) } as typeof record;
  if (item.kind === 'group') return { ...item, children: item.children.filter(isItem) };
  if (item.kind === 'edge-cut') {
    const of = item.of.filter(isItem);
    return of.length > 0 ? { ...item, of } : undefined;
  }
  const treatments = item.treatments?.filter((t) => t.kind === 'bend' || t.layer === null || isLayer(known, t.layer));
  return treatments ? ({ ...item, treatments } as typeof item) : item;
}

/** Takes away what names nothing that is there, until all that is left does. */
function whole(records: KnownOnes): Drawing {
  const left = new Map<string, DocRecord>();
  for (const [id, record] of records) {
    const kept = amongKnown(record, records);
    if (kept) left.set(id, kept);
  }
  return left.size < records.size ? whole(left) : Object.fromEntries(left);
}

/**
 * A drawing of a newer version as far as this program can read it: records of kinds and fields that it does not know are
 * left out, and what named them does not name them any more. To be looked at, never to be saved.
 * @throws InputError `input.newer` when not even its page can be read
 */
export function readNewer(drawing: LooseDrawing, version: number): NewerLook {
  const known = new Map<string, DocRecord>();
  for (const [id, record] of Object.entries(drawing)) {
    const parsed = recordSchema.safeParse(id === PAGE_ID ? { ...record, version: DOCUMENT_VERSION } : record);
    if (parsed.success && parsed.data.id === id) known.set(id, parsed.data);
  }
  if (!known.has(PAGE_ID)) throw tooNew(version);
  const seen = whole(known);
  return { drawing: validateDrawing(seen), leftOut: Object.keys(drawing).length - Object.keys(seen).length };
}
