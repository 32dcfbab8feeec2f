/** The weld family on selected items: what would become of them, worked out beside the drawing. */
import { AppError } from '@lorvek/core';
import { mapGradient } from '@lorvek/core/colour';
import { mapOutline } from '@lorvek/core/geometry';
import {
  isPrinted,
  isShaped,
  itemOf,
  layerOf,
  leavesOf,
  topOf,
  treatmentPaint,
  type Drawing,
  type LayerId,
  type LeafItem,
} from '@lorvek/model';
import { askAside } from '../worker/compute.ts';
import { outlineOf, piecesOf } from '../worker/derived.ts';
import { ranksIn } from './painting-order.ts';
import type { Made, Operand, WeldKind } from '@lorvek/computations';

export type { Made, WeldKind } from '@lorvek/computations';

/** An item's own colours, and the gradient that it came with, on the drawing. */
const printOf = (drawing: Drawing, leaf: LeafItem): Pick<Operand, 'gradient' | 'printed' | 'paint' | 'onPrint'> => ({
  ...(leaf.kind === 'shape' && leaf.gradient ? { gradient: mapGradient(leaf.matrix, leaf.gradient), printed: leaf.printed } : {}),
  ...(leaf.paint ? { paint: leaf.paint } : {}),
  ...(isPrinted(drawing, leaf) ? { onPrint: true } : {}),
});

function printOfTreatment(drawing: Drawing, leaf: LeafItem, treatment: string, layer: LayerId | null): Pick<Operand, 'paint' | 'onPrint'> {
  const paint = treatmentPaint(leaf, treatment, layerOf(drawing, layer));
  return paint ? { paint, onPrint: true } : {};
}

function operandOf(drawing: Drawing, leaf: LeafItem): Operand {
  const own = outlineOf(leaf);
  if (!own) throw new AppError('input.outline', `“${leaf.name}” has no outline yet.`);
  return { name: leaf.name, film: leaf.layer, outline: mapOutline(leaf.matrix, own), ...printOf(drawing, leaf) };
}

/** Selected leaves in painting order: films from below, then the tree. */
function leavesInOrder(drawing: Drawing, ids: readonly string[]): LeafItem[] {
  const chosen = new Set(leavesOf(drawing, ids).map((leaf) => leaf.id));
  return leavesOf(drawing).filter((leaf) => chosen.has(leaf.id) && isShaped(leaf));
}

/** A group that is selected alone stands for what it holds. */
export function operandIds(drawing: Drawing, ids: readonly string[]): readonly string[] {
  const [only] = ids;
  const item = ids.length === 1 && only !== undefined ? itemOf(drawing, only) : undefined;
  return item?.kind === 'group' ? operandIds(drawing, item.children) : ids;
}

/** One operand a selected item; a group counts as what its leaves cover together. */
function operandsOf(drawing: Drawing, ids: readonly string[]): Operand[] {
  const groups = new Map<string, Operand[]>();
  for (const leaf of leavesInOrder(drawing, ids)) {
    const key = ids.includes(leaf.id) ? leaf.id : topOf(drawing, leaf.id);
    groups.set(key, [...(groups.get(key) ?? []), operandOf(drawing, leaf)]);
  }
  return [...groups.values()].map((members) => {
    const [first, ...others] = members as [Operand, ...Operand[]];
    return others.length === 0 ? first : { ...first, others: others.map((member) => member.outline) };
  });
}

/** Every piece of every item in the order in which they are seen, lowest film first. */
function piecesInOrder(drawing: Drawing, ids: readonly string[], films: readonly string[]): Operand[] {
  const rank = new Map(films.map((film, i) => [film, i]));
  const loose = ranksIn(drawing);
  const pieces = leavesInOrder(drawing, ids).flatMap((leaf) =>
    piecesOf(leaf).map((piece) => ({
      // what has no film is seen just above the film it lies on
      rank: piece.layer === null ? (loose.get(leaf.id) ?? films.length - 1) + 0.5 : (rank.get(piece.layer) ?? 0),
      operand: {
        name: leaf.name,
        film: piece.layer,
        outline: mapOutline(leaf.matrix, piece.outline),
        ...(piece.treatment === undefined ? printOf(drawing, leaf) : printOfTreatment(drawing, leaf, piece.treatment, piece.layer)),
      } satisfies Operand,
    })),
  );
  return pieces
    .map((piece, i) => ({ ...piece, i }))
    .sort((a, b) => a.rank - b.rank || a.i - b.i)
    .map(({ operand }) => operand);
}

/**
 * What the operation makes of the items.
 * @throws AppError when an outline is not known, too few items are given, or nothing would be left
 */
export async function weldFamily(
  kind: WeldKind,
  drawing: Drawing,
  selected: readonly string[],
  films: readonly string[],
  onShare?: (share: number) => void,
): Promise<Made[]> {
  const ids = kind === 'parts' ? selected : operandIds(drawing, selected);
  const operands =
    kind === 'flatten'
      ? piecesInOrder(drawing, ids, films)
      : kind === 'parts' || kind === 'compound'
        ? leavesInOrder(drawing, ids).map((leaf) => operandOf(drawing, leaf))
        : operandsOf(drawing, ids);
  return askAside('weld', { kind, operands }, onShare);
}
