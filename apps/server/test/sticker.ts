/** A print in a drawing of its own, for tests: a picture with a line round it, and the medium it is printed on. */
import sharp from 'sharp';
import {
  defaultLayUp,
  emptyDrawing,
  PAGE_ID,
  type DocRecord,
  type Drawing,
  type EdgeCutItem,
  type Page,
  type PictureItem,
  type PrintLayer,
} from '@lorvek/model';
import { AssetsService } from '../src/assets/assets.module.ts';
import { RollRow, StockFilmRow } from '../src/db/entities.ts';
import { Tx } from '../src/db/tx.ts';
import type { TestServer } from './support.ts';

export const MEDIUM = 'stock-white';
export const print: PrintLayer = {
  type: 'print',
  id: 'print-w',
  stockId: MEDIUM,
  name: 'Gloss white',
  series: 'Test',
  hex: '#fcfcfa',
  medium: 'white',
  visible: true,
  locked: false,
};

/** A sheet with a picture and a line round it. */
export async function sticker(server: TestServer, fill: string): Promise<Drawing> {
  const png = await sharp(
    Buffer.from(
      `<svg xmlns="http://www.w3.org/2000/svg" width="240" height="160"><ellipse cx="120" cy="80" rx="110" ry="70" fill="${fill}"/></svg>`,
    ),
  )
    .png()
    .toBuffer();
  const { asset, widthPx, heightPx } = await server.app.get(AssetsService).keep(png);
  const picture: PictureItem = {
    type: 'item',
    kind: 'picture',
    id: 'item-p',
    name: 'Oval',
    layer: print.id,
    matrix: [1, 0, 0, 1, 20, 20],
    asset,
    widthPx,
    heightPx,
    mmPerPx: 0.5,
    strengthPct: 100,
    locked: false,
    silhouette: 'M 10 80 C 10 41 59 10 120 10 C 181 10 230 41 230 80 C 230 119 181 150 120 150 C 59 150 10 119 10 80 Z',
  };
  const cut: EdgeCutItem = {
    type: 'item',
    kind: 'edge-cut',
    id: 'item-c',
    name: 'Edge cut',
    layer: null,
    matrix: [1, 0, 0, 1, 0, 0],
    of: ['item-p'],
    shape: 'follow',
    distanceMm: 2,
    smoothMm: 0,
    cornerMm: 0,
    holes: false,
    joinWithinMm: 0,
    line: { kind: 'kiss' },
  };
  const page = emptyDrawing()[PAGE_ID] as Page;
  const records: Record<string, DocRecord> = {
    [PAGE_ID]: { ...page, layers: [print.id], root: ['item-p', 'item-c'] },
    [print.id]: print,
    'item-p': picture,
    'item-c': cut,
  };
  const layUp = {
    ...defaultLayUp(print.id),
    rollId: 'roll-w',
    fill: { kind: 'as-drawn' as const, copies: 4, gapMm: 8, alongMm: 0, acrossMm: 0 },
  };
  records[layUp.id] = layUp;
  return records;
}

export async function addMedium({ app }: TestServer, lengthLeftMm = 5000): Promise<void> {
  await app.get(Tx).run(async (manager) => {
    await manager.insert(StockFilmRow, {
      id: MEDIUM,
      series: 'Test',
      name: 'Gloss white',
      hex: '#fcfcfa',
      transfer: false,
      pricePerMetre: 9,
      press: null,
      position: 1,
      smallestPartMm: 2,
      thinnestMm: 0.8,
      medium: 'white',
      reorderMm: null,
    });
    await manager.insert(RollRow, { id: 'roll-w', filmId: MEDIUM, widthMm: 610, lengthLeftMm, isOffcut: false, outline: null });
  });
}
