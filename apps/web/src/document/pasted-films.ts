/** The layers that pasted work goes on, in the job it comes to. */
import type { Layer } from '@lorvek/model';

/** A job may have several layers of one film: the first of them is the first here too, and so on. */
const isOfKind = (a: Layer, b: Layer): boolean => a.stockId === b.stockId && a.type === b.type;

export interface PastedFilms {
  /** Here, by the layer that the work was on. */
  readonly of: ReadonlyMap<string, string>;
  /** Layers that the job does not have yet, to be taken with the work. */
  readonly fresh: readonly Layer[];
}

/** @param own layers of this job, bottom first @param came layers of the work, of this job or another, bottom first */
export function pastedFilms(own: readonly Layer[], came: readonly Layer[], newId: (type: Layer['type']) => string): PastedFilms {
  const of = new Map<string, string>();
  const fresh: Layer[] = [];
  for (const film of came) {
    const nth = came.filter((other) => isOfKind(other, film)).indexOf(film);
    const here = own.find(({ id }) => id === film.id) ?? own.filter((other) => isOfKind(other, film))[nth];
    const id = here?.id ?? newId(film.type);
    of.set(film.id, id);
    if (!here) fresh.push({ ...film, id, visible: true, locked: false });
  }
  return { of, fresh };
}
