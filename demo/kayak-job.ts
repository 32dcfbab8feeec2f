/** Stickers of the kayak hire: printed, then cut to a line that follows them. */
import { defaultLayUp, type Drawing, type EdgeCutItem, type PictureItem } from '@lorvek/model';
import type { StockFilmRow } from '../apps/server/src/db/entities.ts';
import { KAYAK_PICTURE, SUNSET_PICTURE } from './kayak-pictures.ts';
import { at, draw, printOfStock, lettering, type Matrix } from './sketch.ts';

/** The names under which the pictures are kept, and the outline of the kayak on its clear ground, its own pixels. */
export interface DemoPictures {
  readonly hull: string;
  readonly badge: string;
  readonly kayak: string;
  readonly kayakSilhouette: string;
  readonly sunset: string;
}

/** Stickers with a line that follows them, printed on white vinyl: a picture without a ground and one with. */
export function kayakStickers(stock: readonly StockFilmRow[], { kayak, kayakSilhouette, sunset }: DemoPictures): Drawing {
  const print = printOfStock(stock, 'print-gloss-white', 'stock-chartroom-gloss-white');
  const picture = (
    id: string,
    name: string,
    asset: string,
    size: typeof KAYAK_PICTURE,
    matrix: Matrix,
    fields: Partial<PictureItem> = {},
  ): PictureItem => ({
    type: 'item',
    kind: 'picture',
    id,
    name,
    layer: print.id,
    matrix,
    asset,
    ...size,
    mmPerPx: 0.15,
    strengthPct: 100,
    locked: false,
    ...fields,
  });
  const cut = (id: string, name: string, of: string[], fields: Partial<EdgeCutItem> = {}): EdgeCutItem => ({
    type: 'item',
    kind: 'edge-cut',
    id,
    name,
    layer: null,
    matrix: at(0, 0),
    of,
    shape: 'follow',
    distanceMm: 2.5,
    smoothMm: 0,
    cornerMm: 5,
    holes: false,
    joinWithinMm: 0,
    line: { kind: 'kiss' },
    ...fields,
  });
  return draw({
    surface: { name: 'Sticker sheet', hex: '#f4f1ea', widthMm: 320, heightMm: 180 },
    films: [print],
    items: [
      picture('item-kayak', 'Kayak on a wave', kayak, KAYAK_PICTURE, at(30, 80), { silhouette: kayakSilhouette }),
      picture('item-sunset', 'Sunset over the ferry', sunset, SUNSET_PICTURE, at(180, 80)),
      {
        ...lettering('item-hire', 'KAYAK HIRE', print, { fontId: 'archivo-black', capHeightMm: 16, matrix: at(85, 30) }),
        paint: { fill: { hex: '#0f5e66' }, stroke: { hex: '#f2a900', widthMm: 0.8 } },
      },
      cut('item-cut-kayak', 'Edge cut of the kayak', ['item-kayak']),
      cut('item-cut-sunset', 'Edge cut of the sunset', ['item-sunset'], { shape: 'rounded', distanceMm: -1.5, cornerMm: 8 }),
      cut('item-cut-hire', 'Edge cut of the words', ['item-hire'], { distanceMm: 3, joinWithinMm: 16, smoothMm: 1 }),
    ],
    sheets: [
      {
        ...defaultLayUp(print.id),
        rollId: 'roll-chartroom-gloss-white-1370',
        fill: { kind: 'as-drawn', copies: 8, gapMm: 10, alongMm: 0, acrossMm: 0 },
      },
    ],
  });
}
