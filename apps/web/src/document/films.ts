/** Films of the job as they come from Stock. */
import { addFilm, filmsOf, type Film, type StockFilm } from '@lorvek/model';
import { useShop } from '../api/shop.ts';
import { groupColours, nearestFilm } from './match-films.ts';
import { dispatch, newId, useDocument } from './store.ts';

/** Colours that are told apart no more than this are one when films are chosen for them. */
const LIKE = 3;
/** Work of more colours than this does not bring its own films. */
const MOST_OWN_FILMS = 12;

export const newFilm = (stock: StockFilm): Film => ({
  type: 'film',
  id: newId('film'),
  stockId: stock.id,
  name: stock.name,
  series: stock.series,
  hex: stock.hex,
  transfer: stock.transfer,
  visible: true,
  locked: false,
});

/** A film for each colour: of the job where one is like it; a job without films takes the nearest of Stock. */
export function filmsFor(hexes: readonly string[], group: string): Map<string, string | null> {
  const counts = new Map<string, number>();
  for (const hex of hexes) counts.set(hex, (counts.get(hex) ?? 0) + 1);
  const present = filmsOf(useDocument.getState().drawing).map(({ id, hex }) => ({ id, hex }));
  const groups = groupColours(counts, LIKE);
  const out = new Map<string, string | null>();
  const stock =
    present.length === 0 && groups.length <= MOST_OWN_FILMS ? (useShop.getState().stock ?? []).filter((film) => !film.transfer) : [];
  const taken = new Map<string, string>();
  for (const { hex, hexes: own } of groups) {
    let film = nearestFilm(hex, present).film;
    if (film === null && stock.length > 0) {
      const near = stock.find(({ id }) => id === nearestFilm(hex, stock).film);
      film = near ? (taken.get(near.id) ?? takeFilm(near, group)) : null;
      if (near && film) taken.set(near.id, film);
    }
    for (const one of own) out.set(one, film);
  }
  return out;
}

/** Takes a film of Stock into the job. @returns its id there, null when it was refused */
export function takeFilm(stock: StockFilm, group: string): string | null {
  const known = filmsOf(useDocument.getState().drawing).find((film) => film.stockId === stock.id);
  if (known) return known.id;
  const film = newFilm(stock);
  return dispatch(addFilm, { film }, { origin: 'film.add', group }) ? film.id : null;
}
