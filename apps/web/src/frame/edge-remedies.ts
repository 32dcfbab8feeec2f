/** What can be done about edge cuts: round more, one line instead of two, farther out, larger. */
import { itemOf, setItemFields, type EdgeCutItem } from '@lorvek/model';
import { toast } from 'sonner';
import type { LocatedFinding } from '../document/sheets.ts';
import { dispatch, newId, useDocument } from '../document/store.ts';
import { remove } from '../drawing/remove.ts';

/** Between a line that cuts the sticker and one that cuts the piece, mm. */
const BETWEEN_MM = 3;
/** A piece is made larger than the least by so much, mm. */
const MORE_MM = 0.1;

/** An edge cut as it is now; undefined: it is gone, or it is none. */
function cutOf(id: string): EdgeCutItem | undefined {
  const item = itemOf(useDocument.getState().drawing, id);
  return item?.kind === 'edge-cut' ? item : undefined;
}

const set = (id: string, fields: Partial<EdgeCutItem>, group: string): boolean =>
  dispatch(setItemFields, { id, fields }, { origin: 'edge-cut.set', group });

/** Changes settings of the edge cuts that were found, each once. */
export const setEdges =
  (fieldsOf: (cut: EdgeCutItem) => Partial<EdgeCutItem>) =>
  (found: readonly LocatedFinding[]): void => {
    const group = newId('remedy');
    for (const id of new Set(found.flatMap(({ finding }) => finding.parts))) {
      const cut = cutOf(id);
      if (cut) set(id, fieldsOf(cut), group);
    }
  };

/** Lines that run through art go round it as well. */
export function goRoundToo(found: readonly LocatedFinding[]): void {
  const group = newId('remedy');
  for (const { finding } of found) {
    const [line = '', art] = finding.parts;
    const cut = cutOf(line);
    if (!cut) toast.warning('This line was drawn or set free: move it by hand, or put an edge cut in its place.');
    else if (art !== undefined && itemOf(useDocument.getState().drawing, art) && !cut.of.includes(art))
      set(line, { of: [...cut.of, art] }, group);
  }
}

/** Which of two lines cuts through more. */
const DEPTH: Record<EdgeCutItem['line']['kind'], number> = { score: 0, kiss: 1, perforated: 2, through: 3 };

/** Of lines that meet those of one kind become one, and those of another kind go farther out, the deeper the farther. */
function partLines(cuts: readonly EdgeCutItem[], group: string): void {
  const byKind = new Map<string, EdgeCutItem[]>();
  for (const cut of cuts) byKind.set(cut.line.kind, [...(byKind.get(cut.line.kind) ?? []), cut]);
  const ordered = [...byKind.values()].sort(([a], [b]) => (a ? DEPTH[a.line.kind] : 0) - (b ? DEPTH[b.line.kind] : 0));
  let least = -Infinity;
  for (const [first, ...others] of ordered) {
    if (!first) continue;
    const distanceMm = Math.max(first.distanceMm, least);
    set(first.id, { of: [...new Set([first, ...others].flatMap(({ of }) => of))], distanceMm }, group);
    if (others.length > 0)
      remove(
        others.map(({ id }) => id),
        { origin: 'item.remove', group },
      );
    least = distanceMm + BETWEEN_MM;
  }
}

export function partOrJoin(found: readonly LocatedFinding[]): void {
  const group = newId('remedy');
  for (const { finding } of found) {
    const cuts = finding.parts.flatMap((id) => cutOf(id) ?? []);
    if (cuts.length < 2 || cuts.length < finding.parts.length)
      toast.warning('One of these lines was drawn or set free: move it by hand, or put an edge cut in its place.');
    else partLines(cuts, group);
  }
}

/** Pieces that are too small are cut larger; holes that small are not cut at all. @param leastOf what holds, by its kind, mm */
export const cutLarger =
  (leastOf: (kind: EdgeCutItem['line']['kind']) => number) =>
  (found: readonly LocatedFinding[]): void => {
    const group = newId('remedy');
    for (const { finding } of found) {
      const cut = cutOf(finding.parts[0] ?? '');
      const { box } = finding;
      if (!cut || !box) {
        toast.warning('This line was drawn or set free: make it larger by hand.');
        continue;
      }
      const across = Math.min(box.maxX - box.minX, box.maxY - box.minY);
      const more = Math.max(0, (leastOf(cut.line.kind) - across) / 2) + MORE_MM;
      set(cut.id, cut.holes ? { holes: false } : { distanceMm: cut.distanceMm + more }, group);
    }
  };
