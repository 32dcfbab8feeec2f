/** Glass of the ferry shelter: a very wide graphic in panels with an overlap, on clear film. */
import { defaultLayUp, USUAL_PANELS, type Drawing, type PrintLayer, type ShapeItem } from '@lorvek/model';
import type { StockFilmRow } from '../apps/server/src/db/entities.ts';
import { at, draw, printOfStock, lettering } from './sketch.ts';

const [WIDTH, HEIGHT] = [5600, 1150];

/** A band of waves as long as the glass: crests every so many mm, its lower edge straight. */
function waves(topMm: number, crestMm: number, everyMm: number, shiftMm: number, bottomMm: number): string {
  const crests = Math.ceil(WIDTH / everyMm) + 1;
  let path = `M 0 ${bottomMm} L 0 ${topMm}`;
  for (let i = 0; i < crests; i++) {
    const x = i * everyMm - shiftMm;
    const [from, to] = [Math.max(0, x), Math.min(WIDTH, x + everyMm)];
    if (to <= from) continue;
    const quarter = (to - from) / 4;
    path += ` C ${(from + quarter).toFixed(1)} ${topMm + crestMm} ${(to - quarter).toFixed(1)} ${topMm - crestMm} ${to.toFixed(1)} ${topMm}`;
  }
  return `${path} L ${WIDTH} ${bottomMm} Z`;
}

/** A gull seen from afar: two wings. */
const GULL = 'M 0 0 C 40 60 90 70 140 20 C 150 10 160 10 170 20 C 220 70 270 60 310 0 C 260 36 210 34 155 -24 C 100 34 50 36 0 0 Z';

export function shelterGlass(stock: readonly StockFilmRow[]): Drawing {
  const print: PrintLayer = {
    ...printOfStock(stock, 'print-clear', 'stock-chartroom-window-clear'),
    white: { where: 'between', coverage: 'where-printed', spots: [], bend: 1, strengthPct: 100, spreadMm: -0.3 },
  };
  const shape = (id: string, name: string, path: string, hex: string, x = 0, y = 0): ShapeItem => ({
    type: 'item',
    kind: 'shape',
    id,
    name,
    layer: print.id,
    matrix: at(x, y),
    path,
    paint: { fill: { hex } },
  });
  const gulls = [
    [420, 860],
    [940, 940],
    [3650, 900],
    [4700, 960],
  ].map(([x = 0, y = 0], i) => shape(`item-gull-${i + 1}`, `Gull ${i + 1}`, GULL, '#2b3a4a', x, y));
  return draw({
    surface: { name: 'Shelter glass', hex: '#dfe9ea', widthMm: WIDTH, heightMm: HEIGHT },
    films: [print],
    items: [
      shape('item-far', 'Far waves', waves(560, 60, 700, 0, 0), '#8fc1c4'),
      shape('item-middle', 'Middle waves', waves(400, 70, 560, 260, 0), '#3f8f95'),
      shape('item-near', 'Near waves', waves(230, 60, 430, 120, 0), '#0f5e66'),
      ...gulls,
      {
        ...lettering('item-name', 'SALTMARSH FERRY', print, {
          fontId: 'archivo-black',
          capHeightMm: 190,
          letterSpaceMm: 12,
          matrix: at(2800, 640),
        }),
        paint: { fill: { hex: '#1c3a5b' } },
      },
    ],
    sheets: [
      {
        ...defaultLayUp(print.id),
        rollId: 'roll-chartroom-window-clear-1370',
        fill: { ...USUAL_PANELS, way: 'count', columns: 5, rows: 1, overlapMm: 15, whole: ['item-name'] },
      },
    ],
  });
}
