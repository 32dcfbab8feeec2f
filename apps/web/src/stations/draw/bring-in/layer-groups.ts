/** The layers of a file as groups. */
import type { GroupItem } from '@lorvek/model';

/** A file of so many layers comes in as so many groups. */
const MOST_LAYERS = 12;

export const groupOf = (id: string, name: string, children: readonly string[]): GroupItem => ({
  type: 'item',
  kind: 'group',
  id,
  name: name.slice(0, 120),
  layer: null,
  matrix: [1, 0, 0, 1, 0, 0],
  children: [...children],
});

/** Groups for the file's layers, where each of them lies whole between those below and above it; none for a file of one. */
export function layerGroups(ids: readonly string[], layerOf: (id: string) => string | undefined, newId: () => string): GroupItem[] {
  const runs: { layer: string | undefined; ids: string[] }[] = [];
  for (const id of ids) {
    const layer = layerOf(id);
    const last = runs.at(-1);
    if (last && last.layer === layer) last.ids.push(id);
    else runs.push({ layer, ids: [id] });
  }
  const named = runs.flatMap(({ layer }) => layer ?? []);
  if (new Set(named).size < 2 || named.length > MOST_LAYERS || new Set(named).size < named.length) return [];
  return runs.flatMap(({ layer, ids: own }) => (layer === undefined ? [] : [groupOf(newId(), layer, own)]));
}
