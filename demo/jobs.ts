/** The demo's jobs, drawn with the application's own records. */
import {
  PAGE_ID,
  defaultSheet,
  emptyDrawing,
  newTreatment,
  validateDrawing,
  type BendTreatment,
  type DocRecord,
  type Drawing,
  type Film,
  type Item,
  type LetteringItem,
  type Page,
  type RingRecord,
  type ShadeRecord,
  type Sheet,
  type TreatmentRecord,
} from '@lorvek/model';
import type { StockFilmRow } from '../apps/server/src/db/entities.ts';

export interface DemoJob {
  name: string;
  customer: string;
  dueInDays: number;
  drawing: Drawing;
}

const filmOfStock = (films: readonly StockFilmRow[], stockId: string): Film => {
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

type Matrix = [number, number, number, number, number, number];

const at = (x: number, y: number): Matrix => [1, 0, 0, 1, x, y];

const lettering = (id: string, text: string, film: Film, fields: Partial<LetteringItem>): LetteringItem => ({
  type: 'item',
  kind: 'lettering',
  id,
  name: text,
  film: film.id,
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

const bend = (id: string, fields: Partial<BendTreatment>): TreatmentRecord =>
  ({ ...newTreatment('bend', id, 60, null), ...fields }) as TreatmentRecord;
const ring = (id: string, film: Film, fields: Partial<RingRecord>): TreatmentRecord =>
  ({ ...newTreatment('ring', id, 60, film.id), ...fields }) as TreatmentRecord;
const shade = (id: string, film: Film, fields: Partial<ShadeRecord>): TreatmentRecord =>
  ({ ...newTreatment('shade', id, 60, film.id), ...fields }) as TreatmentRecord;

interface Sketch {
  surface: Page['surface'];
  films: readonly Film[];
  items: readonly Item[];
  roots?: readonly string[];
  sheets?: readonly Sheet[];
}

function draw({ surface, films, items, roots, sheets = [] }: Sketch): Drawing {
  const blank = emptyDrawing(surface);
  const records: Record<string, DocRecord> = { ...blank };
  for (const record of [...films, ...items, ...sheets]) records[record.id] = record;
  records[PAGE_ID] = {
    ...(blank[PAGE_ID] as Page),
    films: films.map((film) => film.id),
    root: roots ? [...roots] : items.map((item) => item.id),
  };
  return validateDrawing(records);
}

/** A transom name on an arch in two films, and the same mirrored for the inside of a window. */
function transom(stock: readonly StockFilmRow[]): Drawing {
  const navy = filmOfStock(stock, 'stock-tidewater-harbour-navy');
  const yellow = filmOfStock(stock, 'stock-breakwater-marigold-yellow');
  const name = (id: string, matrix: Matrix): LetteringItem =>
    lettering(id, 'Marigold', yellow, {
      fontId: 'lobster',
      capHeightMm: 110,
      matrix,
      treatments: [
        bend(`treatment-arch-${id}`, { line: 'arch', riseMm: 70 }),
        ring(`treatment-ring-${id}`, navy, { distanceMm: 7 }),
        shade(`treatment-shade-${id}`, navy, { shade: 'block', angleDeg: -50, depthMm: 16, meeting: 'full' }),
      ],
    });
  const port = (id: string, matrix: Matrix): LetteringItem =>
    lettering(id, 'SALTMARSH HARBOUR', navy, { fontId: 'barlow-condensed', capHeightMm: 34, letterSpaceMm: 6, matrix });
  return draw({
    surface: { name: 'Transom, varnished', hex: '#a8703f', widthMm: 1400, heightMm: 900 },
    films: [navy, yellow],
    items: [
      name('item-name', at(700, 590)),
      port('item-port', at(700, 510)),
      name('item-inside', [-1, 0, 0, 1, 700, 170]),
      port('item-port-inside', [-1, 0, 0, 1, 700, 90]),
    ],
    sheets: [
      { ...defaultSheet(navy.id), rollId: 'roll-tidewater-harbour-navy-610' },
      { ...defaultSheet(yellow.id), rollId: 'roll-breakwater-marigold-yellow-610' },
    ],
  });
}

/** Lettering on transfer film for shirts, cut reversed. */
function shirts(stock: readonly StockFilmRow[]): Drawing {
  const white = filmOfStock(stock, 'stock-deckhand-sail-white');
  return draw({
    surface: { name: 'Navy shirt back', hex: '#22304d', widthMm: 420, heightMm: 520 },
    films: [white],
    items: [
      lettering('item-crew', 'CREW', white, { fontId: 'anton', capHeightMm: 80, letterSpaceMm: 4, matrix: at(210, 330) }),
      lettering('item-ferry', 'Saltmarsh Ferry', white, { fontId: 'pacifico', capHeightMm: 32, matrix: at(210, 255) }),
      {
        type: 'item',
        kind: 'box',
        id: 'item-rule',
        name: 'Rule',
        film: white.id,
        matrix: at(90, 225),
        widthMm: 240,
        heightMm: 6,
        cornerMm: 3,
      },
    ],
    sheets: [{ ...defaultSheet(white.id), rollId: 'roll-deckhand-sail-white-500', copies: 2, gapMm: 10 }],
  });
}

export const demoJobs = (stock: readonly StockFilmRow[]): DemoJob[] => [
  { name: 'Crew shirts', customer: 'Saltmarsh Ferry', dueInDays: 9, drawing: shirts(stock) },
  { name: 'Transom name “Marigold”', customer: 'Ines Tollaway', dueInDays: 4, drawing: transom(stock) },
];
