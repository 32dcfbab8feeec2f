/** What the tests of drawings have in common: a film, and drawings and edits drawn by lot from a seed. */
import { formatPath, type Outline } from '@lorvek/core/geometry';
import {
  addFilm,
  addItems,
  applyPatch,
  defaultLayUp,
  emptyDrawing,
  filmsOf,
  groupItems,
  leavesOf,
  newTreatment,
  PAGE_ID,
  pageOf,
  removeFilm,
  removeItems,
  reorderItems,
  restackFilms,
  setFilmOfItems,
  setItemFields,
  setLayUp,
  setTreatments,
  transformItems,
  ungroupItems,
  type Command,
  type Drawing,
  type Film,
  type Item,
  type LetteringItem,
  type Page,
  type PrintLayer,
  type ShapeItem,
  type StockFilm,
  type TraceSettings,
} from './index.ts';

/** A film that is called after its id. */
export const film = (id: string): Film => ({
  type: 'film',
  id,
  stockId: id,
  name: id,
  series: 's',
  hex: '#112233',
  transfer: false,
  visible: true,
  locked: false,
});

/** A print on a white medium that is called after its id. */
export const printLayer = (id: string, fields: Partial<PrintLayer> = {}): PrintLayer => ({
  type: 'print',
  id,
  stockId: id,
  name: id,
  series: 's',
  hex: '#ffffff',
  medium: 'white',
  visible: true,
  locked: false,
  ...fields,
});

/** An entry of Stock with one roll; of an id that begins with `print`, a medium. */
export const stockOf = (id: string, roll: { widthMm?: number; lengthLeftMm?: number } = {}): StockFilm => ({
  id,
  series: 's',
  name: id,
  hex: '#204060',
  transfer: false,
  medium: id.startsWith('print') ? 'white' : null,
  pricePerMetre: 10,
  press: null,
  smallestPartMm: 0.5,
  thinnestMm: 0.1,
  rolls: [{ id: `roll-${id}`, filmId: id, widthMm: 620, lengthLeftMm: 90_000, isOffcut: false, ...roll }],
});

/** How a picture is traced that nothing was said of. */
export const traceSettings: TraceSettings = {
  clean: 'auto',
  colours: null,
  leaveOut: [],
  stacking: 'overlaid',
  smoothness: 0.5,
  cornerDeg: 30,
  smallestPx: null,
  result: null,
};

/** A plain outline on a layer, in a colour. */
export const shapeOf = (id: string, layer: string, outline: Outline, hex = '#0f5e66'): ShapeItem => ({
  type: 'item',
  kind: 'shape',
  id,
  name: id,
  layer,
  matrix: [1, 0, 0, 1, 0, 0],
  path: formatPath(outline, 4),
  paint: { fill: { hex } },
});

/** The drawing after a command. @throws Error with its reason when it does not apply */
export function run<Args>(drawing: Drawing, command: Command<Args>, args: Args): Drawing {
  const plan = command({ drawing, selection: [] }, args);
  if (!plan.enabled) throw new Error(plan.why);
  return applyPatch(drawing, plan.run().patch);
}

export type Lot = () => number;

/** mulberry32 (T. Ettinger, public domain): numbers from 0 to 1 by lot, the same for the same seed. */
export function lotOf(seed: number): Lot {
  let state = seed | 0;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

const oneOf = <T>(lot: Lot, list: readonly T[]): T | undefined => list[Math.floor(lot() * list.length)];
const mm = (lot: Lot, most: number): number => Math.round(lot() * most * 1e4) / 1e4;

const LONG_PATH = (n: number): string => `M 0 0 ${`L ${n % 97} 4 L 9 ${n % 89} `.repeat(160)}Z`;

/** An item by lot: a box, an oval, an outline short or long, words. */
export function randomItem(lot: Lot, id: string, filmId: string | null): Item {
  const base = {
    type: 'item' as const,
    id,
    name: id,
    layer: filmId,
    matrix: [1, 0, 0, 1, mm(lot, 900), mm(lot, 500)] as [number, number, number, number, number, number],
  };
  switch (Math.floor(lot() * 5)) {
    case 0:
      return { ...base, kind: 'box', widthMm: 1 + mm(lot, 80), heightMm: 1 + mm(lot, 80), cornerMm: 0 };
    case 1:
      return { ...base, kind: 'oval', widthMm: 1 + mm(lot, 80), heightMm: 1 + mm(lot, 80) };
    case 2:
      return { ...base, kind: 'shape', path: `M 0 0 L ${5 + Math.floor(lot() * 40)} 0 L 0 ${5 + Math.floor(lot() * 40)} Z` };
    case 3:
      return { ...base, kind: 'shape', path: LONG_PATH(1 + Math.floor(lot() * 500)) };
    default:
      return words(id, filmId, base.matrix, 10 + mm(lot, 60));
  }
}

export const words = (
  id: string,
  filmId: string | null,
  matrix: LetteringItem['matrix'] = [1, 0, 0, 1, 0, 0],
  capHeightMm = 50,
  fontId = 'anton',
): LetteringItem => ({
  type: 'item',
  kind: 'lettering',
  id,
  name: id,
  layer: filmId,
  matrix,
  text: 'Tern',
  fontId,
  substitutes: [],
  capHeightMm,
  widthPct: 100,
  slantDeg: 0,
  letterSpaceMm: 0.5,
  lineSpace: 1.6,
  align: 'left',
});

function done<A>(drawing: Drawing, command: Command<A>, args: A): Drawing {
  const plan = command({ drawing, selection: [] }, args);
  return plan.enabled ? applyPatch(drawing, plan.run().patch) : drawing;
}

/** A drawing with up to three films and so many items, some of them in groups and with treatments. */
export function randomDrawing(seed: number, count = 6): Drawing {
  const lot = lotOf(seed);
  let drawing = emptyDrawing();
  for (const id of ['film-a', 'film-b', 'film-c'].slice(0, 1 + Math.floor(lot() * 3))) drawing = done(drawing, addFilm, { film: film(id) });
  const films = filmsOf(drawing).map(({ id }) => id);
  const items = Array.from({ length: count }, (_, i) => randomItem(lot, `item-${i}`, oneOf(lot, films) ?? null));
  drawing = done(drawing, addItems, { items, roots: items.map(({ id }) => id) });
  for (let k = 0; k < 3 && count < 50; k++) drawing = randomEdit(drawing, Math.floor(lot() * 1e9));
  return drawing;
}

type Edit = (drawing: Drawing, lot: Lot, fresh: string) => Drawing;
const top = (drawing: Drawing, lot: Lot): string => oneOf(lot, pageOf(drawing).root) ?? 'item-none';
const leaf = (drawing: Drawing, lot: Lot): string => oneOf(lot, leavesOf(drawing))?.id ?? 'item-none';
const aFilm = (drawing: Drawing, lot: Lot): string => oneOf(lot, filmsOf(drawing))?.id ?? 'film-none';

const withPage = (drawing: Drawing, change: (page: Page) => Page): Drawing => ({ ...drawing, [PAGE_ID]: change(pageOf(drawing)) });

const EDITS: readonly Edit[] = [
  (d, lot, fresh) => done(d, addItems, { items: [randomItem(lot, fresh, oneOf(lot, filmsOf(d))?.id ?? null)], roots: [fresh] }),
  (d, lot) => done(d, removeItems, { ids: [top(d, lot)] }),
  (d, lot) => done(d, transformItems, { ids: [top(d, lot)], map: [1, 0, 0, 1, mm(lot, 50), -mm(lot, 50)] }),
  (d, lot) => done(d, transformItems, { ids: pageOf(d).root, map: [1, 0, 0, 1, mm(lot, 50), mm(lot, 9)] }),
  (d, lot) => done(d, transformItems, { ids: [leaf(d, lot)], map: [0.8, 0.6, -0.6, 0.8, mm(lot, 5), 1] }),
  (d, lot, fresh) => done(d, groupItems, { ids: pageOf(d).root.slice(0, 2 + Math.floor(lot() * 2)), groupId: `${fresh}-g` }),
  (d, lot) => done(d, ungroupItems, { ids: [top(d, lot)] }),
  (d, lot) => done(d, reorderItems, { ids: [top(d, lot)], to: lot() < 0.5 ? 'front' : 'back' }),
  (d) => done(d, restackFilms, { films: [...pageOf(d).layers].reverse() }),
  (d, lot) => done(d, setFilmOfItems, { ids: [leaf(d, lot)], film: aFilm(d, lot) }),
  (d, _, fresh) => done(d, addFilm, { film: film(`film-${fresh.replace(/^item-/, '')}`) }),
  (d, lot) => (filmsOf(d).length > 1 ? done(d, removeFilm, { id: aFilm(d, lot) }) : d),
  (d, lot) => done(d, setItemFields, { id: leaf(d, lot), fields: { name: `called ${Math.floor(lot() * 99)}` } }),
  (d, lot, fresh) => {
    const id = leaf(d, lot);
    const record = d[id];
    const own = record?.type === 'item' ? (record.treatments ?? []) : [];
    const added = newTreatment('ring', `treatment-${fresh.replace(/^item-/, '')}`, 20, oneOf(lot, filmsOf(d))?.id ?? null);
    return done(d, setTreatments, { id, treatments: lot() < 0.3 ? [...own].reverse() : own.length > 2 ? own.slice(1) : [...own, added] });
  },
  (d, lot) => done(d, setLayUp, { film: aFilm(d, lot), fields: { marginMm: 1 + Math.floor(lot() * 5) } }),
  (d, lot, fresh) =>
    withPage(d, (page) => ({
      ...page,
      guides: [...(page.guides ?? []).slice(-3), { id: `guide-${fresh.replace(/^item-/, '')}`, axis: 'x', mm: mm(lot, 100) }],
    })),
];

/** One edit by lot, of any kind; when it does not apply, nothing. */
export function randomEdit(drawing: Drawing, n: number): Drawing {
  const lot = lotOf(n);
  lot();
  const edit = EDITS[Math.floor(lot() * EDITS.length)] as Edit;
  let count = Object.keys(drawing).length;
  while (drawing[`item-n${n}x${count}`] || drawing[`item-n${n}x${count}-g`] || drawing[`film-n${n}x${count}`]) count++;
  return edit(drawing, lot, `item-n${n}x${count}`);
}

/** The sheet of a film as it begins, with a roll named. */
export const sheetOn = (filmId: string, rollId: string) => ({ ...defaultLayUp(filmId), rollId });
