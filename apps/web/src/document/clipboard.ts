/** Copy, cut, paste and duplicate, within a job and between jobs of this browser. */
import { translation } from '@lorvek/core/geometry';
import {
  addFilm,
  addItems,
  copyItems,
  isRecord,
  layersOf,
  layersOfItem,
  mapItem,
  withDescendants,
  type Item,
  type Layer,
} from '@lorvek/model';
import { toast } from 'sonner';
import { remove } from '../drawing/remove.ts';
import { pastedFilms } from './pasted-films.ts';
import { asOne, dispatch, newId, useDocument } from './store.ts';

const KEY = 'lorvek.clipboard';
/** Pasted and duplicated items land this far from where they were, mm. */
const STEP_MM = 10;

interface Clip {
  jobId: string;
  items: Item[];
  roots: string[];
  films: Layer[];
}

export function copySelection(): boolean {
  const { drawing, selection, job } = useDocument.getState();
  if (selection.length === 0 || !job) return false;
  const items = selection.flatMap((id) => withDescendants(drawing, id));
  const used = new Set(items.flatMap((item) => (item.kind === 'group' ? [] : layersOfItem(item))));
  const films = layersOf(drawing).filter(({ id }) => used.has(id));
  const clip: Clip = { jobId: job.id, items, roots: [...selection], films };
  try {
    localStorage.setItem(KEY, JSON.stringify(clip));
  } catch {
    toast.error('This is too much for the clipboard. Duplicate the job instead.');
    return false;
  }
  // what was copied elsewhere before must not come back at the next paste
  void navigator.clipboard?.writeText(items.map((item) => ('name' in item ? item.name : '')).join('\n')).catch(() => undefined);
  return true;
}

export function cutSelection(): void {
  if (copySelection()) remove(useDocument.getState().selection, { origin: 'item.cut' });
}

/** Adds copies of items, shifted. */
function place(items: readonly Item[], roots: readonly string[], shiftMm: number, origin: string): void {
  const shift = translation(shiftMm, -shiftMm);
  const shifted = items.map((item) => (item.kind === 'group' ? item : mapItem(item, shift)));
  dispatch(addItems, { items: shifted, roots }, { origin });
}

/** What was copied; nothing when that is not whole, as what another version left may be. */
function readClip(text: string): Clip | undefined {
  try {
    const clip = JSON.parse(text) as Clip;
    const isWhole = typeof clip.jobId === 'string' && [...clip.items, ...clip.films].every(isRecord);
    const there = new Set(clip.items.map(({ id }) => id));
    return isWhole && clip.roots.every((id) => there.has(id)) ? clip : undefined;
  } catch {
    // broken text, or lists that are none
    return undefined;
  }
}

/** Was anything copied? */
export const isCopied = (): boolean => localStorage.getItem(KEY) !== null;

export function paste(): void {
  const { drawing, job } = useDocument.getState();
  const text = localStorage.getItem(KEY);
  if (!text) return;
  const clip = readClip(text);
  if (!clip) {
    localStorage.removeItem(KEY);
    toast.warning('What was copied cannot be read any more. Copy it again.');
    return;
  }
  const { of: filmIds, fresh } = pastedFilms(layersOf(drawing), clip.films, newId);
  const source = Object.fromEntries(clip.items.map((item) => [item.id, item]));
  const copied = copyItems(source, clip.roots, () => newId('item'));
  // a cut line without what it goes round stays behind
  const there = new Set(copied.items.map(({ id }) => id));
  const items = copied.items.filter((item) => item.kind !== 'edge-cut' || item.of.every((id) => there.has(id)));
  const kept = new Set(items.map(({ id }) => id));
  const roots = copied.roots.filter((id) => kept.has(id));
  if (items.length === 0) return;
  const filmHere = (film: string | null): string | null => (film === null ? null : (filmIds.get(film) ?? null));
  const refilmed = items.map((item): Item => {
    if (item.kind === 'group' || item.kind === 'dimension' || item.kind === 'edge-cut') return item;
    const treatments = item.treatments?.map((t) => (t.kind === 'bend' ? t : { ...t, layer: filmHere(t.layer) }));
    return { ...item, layer: filmHere(item.layer), ...(treatments ? { treatments } : {}) };
  });
  asOne({ origin: 'item.paste' }, () => {
    for (const film of fresh) dispatch(addFilm, { film, again: true }, { origin: 'film.add' });
    place(refilmed, roots, clip.jobId === job?.id ? STEP_MM : 0, 'item.paste');
  });
}

export function duplicateSelection(): void {
  const { drawing, selection } = useDocument.getState();
  if (selection.length === 0) return;
  const { items, roots } = copyItems(drawing, selection, () => newId('item'));
  place(items, roots, STEP_MM, 'item.duplicate');
}
