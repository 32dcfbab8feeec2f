/** Films of work that comes in, stacked so that it looks as it came, and the strip's order that does it. */
import {
  addFilm,
  filmsOf,
  itemOf,
  layerOf,
  layersOfItem,
  leavesOf,
  pageOf,
  restackFilms,
  setFilmOfItems,
  setPaths,
  type Drawing,
  type Layer,
  type LetteringItem,
  type ShapeItem,
} from '@lorvek/model';
import type { Matrix } from '@lorvek/core/geometry';
import { askAside } from '../worker/compute.ts';
import type { FilmChoice } from './films.ts';
import { asOne, dispatch, newId, useDocument } from './store.ts';

/** Something that comes in, its film chosen. */
export interface StackedItem {
  readonly item: ShapeItem | LetteringItem;
  /** Its own colour. */
  readonly hex: string;
  /** What is seen of lettering. */
  readonly outline?: { readonly path: string; readonly matrix: Matrix };
}

export interface Stacked {
  /** Those that are seen, cut out of one another where no order of films shows them as they came. */
  readonly items: readonly StackedItem[];
  /** Layers of the strip, bottom first, the fresh ones among them. */
  readonly strip: readonly string[];
  /** Films, or colours without one, that lay both over and under one another. */
  readonly knots: readonly (readonly string[])[];
  /** Parts of which nothing is seen. */
  readonly hidden: number;
  /** The share of the ground that looks otherwise than it came, 0 to 1. */
  readonly differs: number;
  /** Whole outlines of all parts that are seen, in the order they are seen, for when they are to lie in layers instead. */
  readonly whole: readonly WholePart[];
}

export interface WholePart {
  readonly id: string;
  readonly path: string;
  /** Was something cut out of it? */
  readonly isCut: boolean;
}

/** Layers that something is on, but for items that go, each with the next above it. */
function keptOrder(drawing: Drawing, without: readonly string[]): [string, string][] {
  const going = new Set(leavesOf(drawing, without).map(({ id }) => id));
  const used = new Set(leavesOf(drawing).flatMap((leaf) => (going.has(leaf.id) ? [] : layersOfItem(leaf))));
  const kept = pageOf(drawing).layers.filter((id) => used.has(id));
  return kept.slice(1).map((id, i): [string, string] => [kept[i] as string, id]);
}

/** The strip in the order found; layers that had no say stay after the one they were after. */
function stripOf(drawing: Drawing, fresh: readonly string[], order: readonly string[]): string[] {
  const all = [...pageOf(drawing).layers, ...fresh];
  const strip = order.filter((key) => all.includes(key));
  all.forEach((id, i) => {
    if (!strip.includes(id)) strip.splice(i === 0 ? 0 : strip.indexOf(all[i - 1] as string) + 1, 0, id);
  });
  return strip;
}

/** The part of an item that is seen, as a plain shape where that is not all of it. */
function seenItem({ item, hex, outline }: StackedItem, path: string | undefined): StackedItem {
  if (path === undefined) return { item, hex, ...(outline ? { outline } : {}) };
  if (item.kind === 'shape') return { item: { ...item, path }, hex };
  const { type, id, name, layer, matrix, paint } = item;
  return {
    item: {
      type,
      kind: 'shape',
      id,
      name,
      layer,
      matrix: [...(outline?.matrix ?? matrix)] as ShapeItem['matrix'],
      path,
      ...(paint ? { paint } : {}),
    },
    hex,
  };
}

/**
 * @param items in the order they are seen, bottom first
 * @param without items that go when these come
 * @param onShare told how much is done where parts have to be cut out of one another, 0 to 1
 * @throws AppError when it is stopped
 */
export async function stackedOf(
  items: readonly StackedItem[],
  films: FilmChoice,
  without: readonly string[] = [],
  onShare?: (share: number) => void,
): Promise<Stacked> {
  const { drawing } = useDocument.getState();
  const parts = items.map(({ item, hex, outline }) => ({
    path: item.kind === 'shape' ? item.path : (outline?.path ?? ''),
    matrix: outline?.matrix ?? item.matrix,
    key: item.layer ?? hex,
    hasFilm: item.layer !== null,
    hex,
  }));
  const { order, knots, paths, differs } = await askAside('stack', { parts, fixed: keptOrder(drawing, without) }, onShare);
  const seen = items.flatMap((one, i) => (paths[i] === '' ? [] : [seenItem(one, paths[i])]));
  const fresh = films.fresh.map(({ id }) => id);
  const whole = items.flatMap(({ item }, i): WholePart[] =>
    paths[i] === '' ? [] : [{ id: item.id, path: parts[i]?.path ?? '', isCut: paths[i] !== undefined }],
  );
  return { whole, items: seen, strip: stripOf(drawing, fresh, order), knots, hidden: items.length - seen.length, differs };
}

/** Takes the films of a choice that the job lacks and puts the strip in order. Within `asOne`, with the work that needs them. */
export function takeStacked({ fresh }: FilmChoice, strip: readonly string[]): void {
  for (const film of fresh) dispatch(addFilm, { film }, { origin: 'film.add' });
  const { layers } = pageOf(useDocument.getState().drawing);
  const isSameStrip = strip.length === layers.length && strip.every((id) => layers.includes(id));
  // films taken or given back meanwhile: the order stays as it is
  if (isSameStrip && strip.some((id, i) => id !== layers[i])) dispatch(restackFilms, { films: strip }, { origin: 'film.restack' });
}

/** More layers of films than this are no help to whoever lays them. */
const MOST_MORE = 3;

/**
 * Parts that were cut out of one another lie whole again, a film that is both over and under another in a layer of its own
 * for each place.
 * @returns a sentence about what came of it @throws AppError when it is stopped
 */
export async function layInLayers(parts: readonly WholePart[]): Promise<string> {
  const { drawing } = useDocument.getState();
  const present = parts.flatMap((part) => {
    const item = itemOf(drawing, part.id);
    return item?.kind === 'shape' && item.layer !== null ? [{ ...part, item, key: item.layer }] : [];
  });
  const { layers, of } = await askAside('split', { parts: present.map(({ path, item, key }) => ({ path, matrix: item.matrix, key })) });
  const more = layers.length - new Set(layers).size;
  if (more === 0 || more > MOST_MORE)
    return more === 0
      ? 'No film lies both over and under another any more.'
      : `That would take ${more} more layers of film, one on another. They stay cut out of one another.`;
  const fresh: Layer[] = [];
  const ids = layers.map((key, at): string => {
    const times = layers.slice(0, at).filter((other) => other === key).length;
    const film = layerOf(drawing, key);
    if (times === 0 || !film) return key;
    const next = { ...film, id: newId(film.type), name: `${film.name} ${times + 1}`.slice(0, 120) };
    fresh.push(next);
    return next.id;
  });
  const cut = present.filter(({ isCut }) => isCut);
  asOne({ origin: 'file.layers' }, () => {
    for (const film of fresh) dispatch(addFilm, { film, again: true }, { origin: 'file.layers' });
    dispatch(setPaths, { paths: Object.fromEntries(cut.map(({ id, path }) => [id, path])) }, { origin: 'file.layers' });
    for (const film of fresh) {
      const own = present.flatMap(({ id }, i) => (ids[of[i] ?? -1] === film.id ? [id] : []));
      dispatch(setFilmOfItems, { ids: own, film: film.id }, { origin: 'file.layers' });
    }
    dispatch(
      restackFilms,
      {
        films: stripOf(
          drawing,
          fresh.map(({ id }) => id),
          ids,
        ),
      },
      { origin: 'file.layers' },
    );
  });
  const names = fresh.map(({ name }) => name).join(' and ');
  return `Whole again, in layers: ${names} ${fresh.length === 1 ? 'is a layer' : 'are layers'} of their own. Undo cuts them out of one another again.`;
}

/** What a film or a colour is called. */
export function keyName(key: string): string {
  return filmsOf(useDocument.getState().drawing).find(({ id }) => id === key)?.name ?? key;
}
