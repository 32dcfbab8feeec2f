/** What the demo's jobs are drawn with: films of Stock, lettering, treatments, the drawing itself. */
import {
  PAGE_ID,
  emptyDrawing,
  newTreatment,
  validateDrawing,
  type BendTreatment,
  type DocRecord,
  type Drawing,
  type Film,
  type Layer,
  type Item,
  type LetteringItem,
  type Page,
  type PrintLayer,
  type RingRecord,
  type ShadeRecord,
  type LayUp,
  type TreatmentRecord,
} from '@lorvek/model';
import type { StockFilmRow } from '../apps/server/src/db/entities.ts';

export const filmOfStock = (films: readonly StockFilmRow[], stockId: string): Film => {
  const stock = films.find((film) => film.id === stockId);
  if (!stock) throw new Error(`The demo's stock has no ${stockId}.`);
  return {
    type: 'film',
    id: stockId.replace('stock-', 'film-'),
    stockId,
    name: stock.name,
    series: stock.series,
    hex: stock.hex,
    transfer: stock.transfer,
    visible: true,
    locked: false,
  };
};

export type Matrix = [number, number, number, number, number, number];

export const at = (x: number, y: number): Matrix => [1, 0, 0, 1, x, y];

export const lettering = (id: string, text: string, film: Layer, fields: Partial<LetteringItem>): LetteringItem => ({
  type: 'item',
  kind: 'lettering',
  id,
  name: text.replace('\n', ' '),
  layer: film.id,
  matrix: at(0, 0),
  text,
  fontId: 'archivo-black',
  substitutes: [],
  capHeightMm: 60,
  widthPct: 100,
  slantDeg: 0,
  letterSpaceMm: 0,
  lineSpace: 1.6,
  align: 'centre',
  ...fields,
});

export const bend = (id: string, fields: Partial<BendTreatment>): TreatmentRecord =>
  ({ ...newTreatment('bend', id, 60, null), ...fields }) as TreatmentRecord;
export const ring = (id: string, film: Film, fields: Partial<RingRecord>): TreatmentRecord =>
  ({ ...newTreatment('ring', id, 60, film.id), ...fields }) as TreatmentRecord;
export const shade = (id: string, film: Film, fields: Partial<ShadeRecord>): TreatmentRecord =>
  ({ ...newTreatment('shade', id, 60, film.id), ...fields }) as TreatmentRecord;

interface Sketch {
  surface: Page['surface'];
  films: readonly Layer[];
  items: readonly Item[];
  roots?: readonly string[];
  sheets?: readonly LayUp[];
}

export function draw({ surface, films, items, roots, sheets = [] }: Sketch): Drawing {
  const blank = emptyDrawing(surface);
  const records: Record<string, DocRecord> = { ...blank };
  for (const record of [...films, ...items, ...sheets]) records[record.id] = record;
  records[PAGE_ID] = {
    ...(blank[PAGE_ID] as Page),
    layers: films.map((film) => film.id),
    root: roots ? [...roots] : items.map((item) => item.id),
  };
  return validateDrawing(records);
}

/** A print on a medium of Stock. */
export function printOfStock(stock: readonly StockFilmRow[], id: string, stockId: string): PrintLayer {
  const film = stock.find((one) => one.id === stockId);
  if (!film?.medium) throw new Error(`The demo's stock has no medium ${stockId}.`);
  const { name, series, hex, medium } = film;
  return { type: 'print', id, stockId, name, series, hex, medium, visible: true, locked: false };
}
