/** Items as they are when they are made. */
import { filmsOf, pageOf, type BoxItem, type Drawing, type LetteringItem, type OvalItem } from '@lorvek/model';
import type { Point } from '@lorvek/core/geometry';
import { newId } from '../../document/store.ts';
import { useView } from '../../drawing/view.ts';

/** The film for new items: the one chosen in the strip, else the topmost. */
export function filmForNew(drawing: Drawing): string | null {
  const { film } = useView.getState();
  const films = filmsOf(drawing).filter((f) => f.visible && !f.locked);
  return films.find((f) => f.id === film)?.id ?? films.at(-1)?.id ?? null;
}

const tidy = (n: number): number => Math.round(n * 100) / 100;

/** Font and alignment of the last lettering that was worked on are kept for the next. */
const FONT_KEY = 'lorvek.lastFont';
export const rememberFont = (id: string): void => localStorage.setItem(FONT_KEY, id);

export function newLettering(drawing: Drawing, at: Point): LetteringItem {
  const { surface } = pageOf(drawing);
  const cap = Math.max(10, Math.round(Math.min(surface.heightMm / 5, surface.widthMm / 8) / 5) * 5);
  return {
    type: 'item',
    kind: 'lettering',
    id: newId('item'),
    name: 'Lettering',
    film: filmForNew(drawing),
    matrix: [1, 0, 0, 1, tidy(at.x), tidy(at.y)],
    text: '',
    fontId: localStorage.getItem(FONT_KEY) ?? 'archivo-black',
    substitutes: [],
    capHeightMm: cap,
    widthPct: 100,
    slantDeg: 0,
    letterSpaceMm: 0,
    lineSpace: 1.6,
    align: 'left',
  };
}

export function newShape(
  drawing: Drawing,
  kind: 'box' | 'oval',
  rect: { x: number; y: number; width: number; height: number },
): BoxItem | OvalItem {
  const base = {
    type: 'item' as const,
    id: newId('item'),
    name: kind === 'box' ? 'Box' : 'Oval',
    film: filmForNew(drawing),
    matrix: [1, 0, 0, 1, tidy(rect.x), tidy(rect.y)] as [number, number, number, number, number, number],
    widthMm: Math.max(0.1, tidy(rect.width)),
    heightMm: Math.max(0.1, tidy(rect.height)),
  };
  return kind === 'box' ? { ...base, kind, cornerMm: 0 } : { ...base, kind };
}
