/** The settings of a picture's trace, and changes of what is done to it by hand. */
import type { PictureItem, RetouchSettings } from '@lorvek/model';
import { setTrace, USUAL } from './trace-store.ts';

export const USUAL_LIFT: NonNullable<RetouchSettings['lift']> = { border: false, spots: [], reach: 12, softPx: 0, strokes: [] };

export const retouchOf = (picture: PictureItem): RetouchSettings => picture.trace?.retouch ?? {};

/** Changes steps; undefined takes a step away. */
export function setRetouch(picture: PictureItem, fields: Partial<RetouchSettings>): void {
  const next = { ...retouchOf(picture), ...fields };
  setTrace(picture, { retouch: Object.fromEntries(Object.entries(next).filter(([, value]) => value !== undefined)) as RetouchSettings });
}

export const settingsOf = (picture: PictureItem): NonNullable<PictureItem['trace']> => picture.trace ?? USUAL;
