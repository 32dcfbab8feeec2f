/** Berth plates: one plate, a list of boats and a berth counter, printed and cut in short runs. */
import { defaultLayUp, newField, newSeries, type BoxItem, type Drawing, type EdgeCutItem, type Series } from '@lorvek/model';
import type { StockFilmRow } from '../apps/server/src/db/entities.ts';
import { at, draw, printOfStock, lettering } from './sketch.ts';

const BOATS = [
  ['Marigold', 'Ines Tollaway'],
  ['Old Tern', 'R. Quill'],
  ['Saltmarsh Pilot', 'Saltmarsh Pilots'],
  ['Dunlin', 'Peg Wherry'],
  ['Sandpiper of the Bay', 'The Wherry sisters'],
  ['Knot', 'Jonas Fell'],
  ['Brass Monkey', 'Otto Brace'],
  ['Little Egret', 'Ada Sluice'],
  ['Seventh Wave', 'Mo Tideway'],
  ['Kittiwake', 'Fen Harker'],
  ['Grey Plover', 'Saltmarsh Ferry'],
  ['Queen of Saltmarsh', 'Harbour office'],
  ['Ruff', 'L. Oakum'],
  ['Whimbrel', 'Nan Spindrift'],
] as const;

const plates = (): Series => ({
  ...newSeries(),
  fields: [
    { ...newField('item-berth', 'BERTH {n}'), long: 'as-is' },
    { ...newField('item-boat', '{Boat}'), long: 'narrower', leastPct: 55, widthMm: 170 },
  ],
  counter: { start: 1, step: 1, padding: 2, prefix: 'S', suffix: '', letters: false, reverse: false, skip: ['S13', '13'] },
  list: { fileName: 'berths-south-quay.csv', columns: ['Boat', 'Owner'], rows: BOATS.map((row) => [...row]) },
});

export function berthPlates(stock: readonly StockFilmRow[]): Drawing {
  const print = printOfStock(stock, 'print-gloss-white', 'stock-chartroom-gloss-white');
  const plate = (
    id: string,
    name: string,
    x: number,
    y: number,
    width: number,
    height: number,
    hex: string,
    cornerMm: number,
  ): BoxItem => ({
    type: 'item',
    kind: 'box',
    id,
    name,
    layer: print.id,
    matrix: at(x, y),
    widthMm: width,
    heightMm: height,
    cornerMm,
    paint: { fill: { hex } },
  });
  const cut: EdgeCutItem = {
    type: 'item',
    kind: 'edge-cut',
    id: 'item-cut-plate',
    name: 'Edge of the plate',
    layer: null,
    matrix: at(0, 0),
    of: ['item-plate'],
    shape: 'follow',
    distanceMm: -1,
    smoothMm: 0,
    cornerMm: 0,
    holes: false,
    joinWithinMm: 0,
    line: { kind: 'through' },
  };
  const series = plates();
  const drawing = draw({
    surface: { name: 'Quay post, oak', hex: '#b59a73', widthMm: 260, heightMm: 140 },
    films: [print],
    items: [
      plate('item-plate', 'Plate', 30, 25, 200, 90, '#1c3a5b', 8),
      plate('item-band', 'Band', 30, 52, 200, 3, '#f2a900', 0),
      {
        ...lettering('item-berth', 'BERTH S01', print, { fontId: 'archivo-black', capHeightMm: 10, matrix: at(130, 34) }),
        paint: { fill: { hex: '#f4f1ea' } },
      },
      {
        ...lettering('item-boat', 'Marigold', print, { fontId: 'barlow-condensed', capHeightMm: 26, matrix: at(130, 69) }),
        paint: { fill: { hex: '#f4f1ea' } },
      },
      cut,
    ],
    sheets: [
      {
        ...defaultLayUp(print.id),
        rollId: 'roll-chartroom-gloss-white-1370',
        turnDeg: 90,
        sheetLengthMm: 170,
        fill: { kind: 'grid', copies: null, gapMm: 8, rows: 'straight' },
      },
    ],
  });
  return { ...drawing, [series.id]: series };
}
