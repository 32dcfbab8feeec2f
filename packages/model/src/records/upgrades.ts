/**
 * Drawings of older versions, step by step: upgrade n makes of a drawing of version n one of version n + 1. Pure, and
 * never changed once landed, for a fixture of the version before stands beside each. Records are loose here: they are
 * of shapes that the schemas no longer know.
 */
import { InputError } from '@lorvek/core';
import { DOCUMENT_VERSION, type Drawing } from './document.ts';
import { validateDrawing } from './validate.ts';

type Loose = Readonly<Record<string, unknown>>;
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

/**
 * A drawing of any version that was ever landed, as one of this program's.
 * @throws InputError `input.newer` for a version that this program does not know yet, `input.document` for a damaged one
 */
export function upgradeDrawing(drawing: LooseDrawing, version: number): Drawing {
  if (version > DOCUMENT_VERSION || !(version >= 1))
    throw new InputError('newer', `This job was saved by a newer version of Lorvek (its drawing is of version ${version}).`);
  return validateDrawing(UPGRADES.slice(version - 1).reduce<LooseDrawing>((now, upgrade) => upgrade(now), drawing));
}
