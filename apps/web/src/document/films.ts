/** Films of the job as they come from Stock. */
import { addFilm, filmsOf, type Film, type Layer, type StockFilm } from '@lorvek/model';
import { useShop } from '../api/shop.ts';
import { filmLike, groupColours } from './match-films.ts';
import { dispatch, newId, useDocument } from './store.ts';

/** Colours that are told apart no more than this are one when films are chosen for them. */
const LIKE = 3;
/** Work brings so many films of Stock along at most, those of its most used colours. */
const MOST_OWN_FILMS = 12;

const layerBase = (stock: StockFilm) => ({
  stockId: stock.id,
  name: stock.name,
  series: stock.series,
  hex: stock.hex,
  visible: true,
  locked: false,
});

export const newFilm = (stock: StockFilm): Film => ({ ...layerBase(stock), type: 'film', id: newId('film'), transfer: stock.transfer });

/** What comes of an entry of Stock in the strip: a print on it when it is a medium, else a film. */
export const newLayer = (stock: StockFilm): Layer =>
  stock.medium === null ? newFilm(stock) : { ...layerBase(stock), type: 'print', id: newId('print'), medium: stock.medium };

export interface FilmChoice {
  /** The film of each colour; null: none is near enough. */
  readonly of: ReadonlyMap<string, string | null>;
  /** Films of Stock among them that the job does not have yet, to be taken with the work. */
  readonly fresh: readonly Film[];
}

/**
 * A film for each colour where one is like it: of the job, else of Stock. A colour that no film is like has none: what
 * is nearest is for the user to take. Nothing is changed.
 */
export function filmsFor(hexes: readonly string[]): FilmChoice {
  const counts = new Map<string, number>();
  for (const hex of hexes) counts.set(hex, (counts.get(hex) ?? 0) + 1);
  const present = filmsOf(useDocument.getState().drawing).map(({ id, hex }) => ({ id, hex }));
  const groups = groupColours(counts, LIKE);
  const of = new Map<string, string | null>();
  const stock = cuttableStock();
  const taken = new Map<string, Film>();
  for (const { hex, hexes: own } of groups) {
    let film = filmLike(hex, present);
    const near = film === null ? stock.find(({ id }) => id === filmLike(hex, stock)) : undefined;
    if (near && (taken.has(near.id) || taken.size < MOST_OWN_FILMS)) {
      const fresh = taken.get(near.id) ?? newFilm(near);
      taken.set(near.id, fresh);
      film = fresh.id;
    }
    for (const one of own) of.set(one, film);
  }
  return { of, fresh: [...taken.values()] };
}

/** What of Stock is cut and stays on the surface. */
export const cuttableStock = (): StockFilm[] => (useShop.getState().stock ?? []).filter((film) => !film.transfer && film.medium === null);

/** Takes a film of Stock into the job. @returns its id there, null when it was refused */
export function takeFilm(stock: StockFilm, group: string): string | null {
  const known = filmsOf(useDocument.getState().drawing).find((film) => film.stockId === stock.id);
  if (known) return known.id;
  const film = newFilm(stock);
  return dispatch(addFilm, { film }, { origin: 'film.add', group }) ? film.id : null;
}
