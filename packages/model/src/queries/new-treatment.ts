/** A treatment as it begins on an item: its film or its print, and its colour there. */
import type { Drawing } from '../records/document.ts';
import type { Colour } from '../records/colour.ts';
import { newTreatment, type TreatmentKind, type TreatmentRecord } from '../records/treatments.ts';
import { isLight } from './ink.ts';
import type { LeafItem } from './plain-outline.ts';
import { filmsOf, isPrint, layerOf } from './queries.ts';

/** The film that it begins with: for rings and shades the one below the item's, for two-tone any other. */
function filmFor(drawing: Drawing, { layer, treatments = [] }: LeafItem, kind: TreatmentKind): string | null {
  const films = filmsOf(drawing).map(({ id }) => id as string);
  const used = new Set(treatments.map((t) => (t.kind === 'bend' ? null : t.layer)));
  const below = films.slice(0, Math.max(0, films.indexOf(layer ?? ''))).reverse();
  const others = films.filter((id) => id !== layer);
  if (kind === 'two-tone') return others.at(-1) ?? null;
  return below.find((id) => !used.has(id)) ?? below[0] ?? null;
}

/** Grey for shades, an accent for the second tone; a ring stands out from the letters, or from the ring within it. */
function inkFor(kind: TreatmentKind, { paint, treatments = [] }: LeafItem): Colour {
  if (kind === 'shade') return { hex: '#8c939b' };
  if (kind === 'two-tone') return { hex: '#c2271f' };
  const within = treatments.findLast((t) => t.kind === 'ring');
  const hex = (within?.kind === 'ring' ? within.ink : paint?.fill)?.hex;
  return { hex: hex !== undefined && isLight(hex) ? '#17181a' : '#ffffff' };
}

/**
 * @param id its own
 * @param sizeMm of the item, height of capitals or of its box
 */
export function treatmentFor(drawing: Drawing, item: LeafItem, kind: TreatmentKind, id: string, sizeMm: number): TreatmentRecord {
  const own = layerOf(drawing, item.layer);
  if (!isPrint(own)) return newTreatment(kind, id, sizeMm, filmFor(drawing, item, kind));
  const made = newTreatment(kind, id, sizeMm, own.id);
  return made.kind === 'bend' ? made : { ...made, ink: inkFor(kind, item) };
}
