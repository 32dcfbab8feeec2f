/** The weld family on selected items: what would become of them, worked out beside the drawing. */
import { AppError } from '@lorvek/core';
import { mapGradient } from '@lorvek/core/colour';
import { mapOutline, weld } from '@lorvek/core/geometry';
import { isShaped, leavesOf, topOf, type Drawing, type LeafItem } from '@lorvek/model';
import { askAside } from '../worker/compute.ts';
import { outlineOf, piecesOf } from '../worker/derived.ts';
import type { Made, Operand, WeldKind } from '../worker/weld-ops.ts';

export type { Made, WeldKind } from '../worker/weld-ops.ts';

/** The gradient that an item came with, on the drawing. */
const printOf = (leaf: LeafItem): Pick<Operand, 'gradient' | 'printed'> =>
  leaf.kind === 'shape' && leaf.gradient ? { gradient: mapGradient(leaf.matrix, leaf.gradient), printed: leaf.printed } : {};

function operandOf(leaf: LeafItem): Operand {
  const own = outlineOf(leaf);
  if (!own) throw new AppError('input.outline', `“${leaf.name}” has no outline yet.`);
  return { name: leaf.name, film: leaf.layer, outline: mapOutline(leaf.matrix, own), ...printOf(leaf) };
}

/** Selected leaves in painting order: films from below, then the tree. */
function leavesInOrder(drawing: Drawing, ids: readonly string[]): LeafItem[] {
  const chosen = new Set(leavesOf(drawing, ids).map((leaf) => leaf.id));
  return leavesOf(drawing).filter((leaf) => chosen.has(leaf.id) && isShaped(leaf));
}

/** One operand a selected item; a group counts as what its leaves cover together. */
function operandsOf(drawing: Drawing, ids: readonly string[]): Operand[] {
  const groups = new Map<string, Operand[]>();
  for (const leaf of leavesInOrder(drawing, ids)) {
    const key = ids.includes(leaf.id) ? leaf.id : topOf(drawing, leaf.id);
    groups.set(key, [...(groups.get(key) ?? []), operandOf(leaf)]);
  }
  return [...groups.values()].map((members) => {
    const [first] = members as [Operand, ...Operand[]];
    return members.length === 1 ? first : { ...first, outline: weld(members.map((member) => member.outline)) };
  });
}

/** Every piece of every item in the order in which they are seen, lowest film first. */
function piecesInOrder(drawing: Drawing, ids: readonly string[], films: readonly string[]): Operand[] {
  const rank = new Map(films.map((film, i) => [film, i]));
  const pieces = leavesInOrder(drawing, ids).flatMap((leaf) =>
    piecesOf(leaf).map((piece): Operand => ({
      name: leaf.name,
      film: piece.layer,
      outline: mapOutline(leaf.matrix, piece.outline),
      ...(piece.treatment === undefined ? printOf(leaf) : {}),
    })),
  );
  return pieces
    .map((piece, i) => ({ piece, i, rank: piece.film === null ? films.length : (rank.get(piece.film) ?? 0) }))
    .sort((a, b) => a.rank - b.rank || a.i - b.i)
    .map(({ piece }) => piece);
}

/**
 * What the operation makes of the items.
 * @throws AppError when an outline is not known, too few items are given, or nothing would be left
 */
export async function weldFamily(kind: WeldKind, drawing: Drawing, ids: readonly string[], films: readonly string[]): Promise<Made[]> {
  const operands =
    kind === 'flatten'
      ? piecesInOrder(drawing, ids, films)
      : kind === 'parts' || kind === 'compound'
        ? leavesInOrder(drawing, ids).map(operandOf)
        : operandsOf(drawing, ids);
  return askAside('weld', { kind, operands });
}
