/** The demo's jobs, drawn with the application's own records. */
import { defaultLayUp, type Drawing, type Film, type Item, type LetteringItem, type OvalItem, type ShapeItem } from '@lorvek/model';
import { boxShape, formatPath, knockOut, mapOutline, ovalShape, parsePath, strokeToShape, weld, type Outline } from '@lorvek/core/geometry';
import { BADGE_PICTURE } from './badge-picture.ts';
import { HULL_PICTURE } from './hull-picture.ts';
import type { StockFilmRow } from '../apps/server/src/db/entities.ts';

import { berthPlates } from './berth-job.ts';
import { kayakStickers, type DemoPictures } from './kayak-job.ts';
import { shelterGlass } from './shelter-job.ts';
import { at, bend, draw, filmOfStock, lettering, ring, shade, type Matrix } from './sketch.ts';

export interface DemoJob {
  name: string;
  customer: string;
  dueInDays: number;
  drawing: Drawing;
}

/** A transom name on an arch in two films, and the same mirrored for the inside of a window. */
function transom(stock: readonly StockFilmRow[]): Drawing {
  const navy = filmOfStock(stock, 'stock-tidewater-harbour-navy');
  const yellow = filmOfStock(stock, 'stock-breakwater-marigold-yellow');
  const name = (id: string, matrix: Matrix): LetteringItem =>
    lettering(id, 'Marigold', yellow, {
      fontId: 'lobster',
      capHeightMm: 95,
      matrix,
      treatments: [
        bend(`treatment-arch-${id}`, { line: 'arch', riseMm: 60 }),
        ring(`treatment-ring-${id}`, navy, { distanceMm: 6 }),
        shade(`treatment-shade-${id}`, navy, { shade: 'block', angleDeg: -50, depthMm: 14, meeting: 'full' }),
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
      { ...defaultLayUp(navy.id), rollId: 'roll-tidewater-harbour-navy-610', turnDeg: 90 },
      { ...defaultLayUp(yellow.id), rollId: 'roll-breakwater-marigold-yellow-610', turnDeg: 90 },
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
        layer: white.id,
        matrix: at(90, 225),
        widthMm: 240,
        heightMm: 6,
        cornerMm: 3,
      },
    ],
    sheets: [
      {
        ...defaultLayUp(white.id),
        rollId: 'roll-deckhand-sail-white-500',
        fill: { kind: 'as-drawn', copies: 2, gapMm: 10, alongMm: 0, acrossMm: 0 },
      },
    ],
  });
}

const shape = (id: string, name: string, film: Film | null, outline: Outline, matrix: Matrix = at(0, 0)): ShapeItem => ({
  type: 'item',
  kind: 'shape',
  id,
  name,
  layer: film?.id ?? null,
  matrix,
  path: formatPath(outline, 4),
});

/** An anchor from strokes and flukes, welded; its middle at the origin, 240 mm high. */
function anchor(): Outline {
  const round = { cap: 'round', join: 'round' } as const;
  const stroke = (path: string, width: number): Outline => strokeToShape(parsePath(path), { width, ...round });
  const fluke = parsePath('M -112 -34 L -70 -48 L -98 -88 Z');
  return weld([
    stroke('M 0 66 L 0 -92', 20),
    stroke('M -46 40 L 46 40', 18),
    stroke('M -92 -50 C -78 -92 -40 -108 0 -108 C 40 -108 78 -92 92 -50', 20),
    strokeToShape(mapOutline([1, 0, 0, 1, -22, 62], ovalShape(44, 44)), { width: 14, ...round }),
    fluke,
    mapOutline([-1, 0, 0, 1, 0, 0], fluke),
  ]);
}

/** Lettering over and under a circle round an anchor, with a flush shade. */
function roundSign(stock: readonly StockFilmRow[]): Drawing {
  const white = filmOfStock(stock, 'stock-breakwater-chalk-white');
  const navy = filmOfStock(stock, 'stock-tidewater-harbour-navy');
  const brass = filmOfStock(stock, 'stock-breakwater-brass');
  const disc = (id: string, name: string, radius: number, film: Film): OvalItem => ({
    type: 'item',
    kind: 'oval',
    id,
    name,
    layer: film.id,
    matrix: at(300 - radius, 300 - radius),
    widthMm: 2 * radius,
    heightMm: 2 * radius,
  });
  return draw({
    surface: { name: 'Office wall, lime wash', hex: '#e7e2d4', widthMm: 600, heightMm: 600 },
    films: [navy, white, brass],
    items: [
      disc('item-disc', 'Disc', 270, navy),
      shape(
        'item-rule',
        'Inner ring',
        brass,
        knockOut(ovalShape(350, 350), [mapOutline([1, 0, 0, 1, 4, 4], ovalShape(342, 342))]),
        at(125, 125),
      ),
      lettering('item-words', 'HARBOUR OFFICE\nSALTMARSH', white, {
        fontId: 'rokkitt',
        capHeightMm: 48,
        letterSpaceMm: 4,
        matrix: at(300, 300),
        treatments: [bend('treatment-round', { line: 'circle', radiusMm: 198, sides: 'both', stand: 'above', sameSide: true })],
      }),
      {
        ...shape('item-anchor', 'Anchor', white, anchor(), at(300, 308)),
        treatments: [shade('treatment-anchor-shade', brass, { shade: 'block', angleDeg: -45, depthMm: 12, meeting: 'flush' })],
      },
    ],
    sheets: [{ ...defaultLayUp(navy.id), rollId: 'roll-tidewater-harbour-navy-610' }],
  });
}

/** A picture of the boat's side at true size, and the name on it. */
function pilotBoat(stock: readonly StockFilmRow[], picture: string): Drawing {
  const white = filmOfStock(stock, 'stock-breakwater-chalk-white');
  const { widthPx, heightPx, fenderPx, fenderDistanceMm } = HULL_PICTURE;
  const mmPerPx = fenderDistanceMm / (fenderPx[1] - fenderPx[0]);
  const fenders = fenderPx.map((px) => ({
    x: Math.round(px * mmPerPx * 1e4) / 1e4,
    y: Math.round((heightPx - 540) * mmPerPx * 1e4) / 1e4,
  }));
  return draw({
    surface: {
      name: 'Hull side, pilot boat',
      hex: '#d9d2c2',
      widthMm: Math.round(widthPx * mmPerPx),
      heightMm: Math.round(heightPx * mmPerPx),
    },
    films: [white],
    items: [
      {
        type: 'item',
        kind: 'picture',
        id: 'item-photo',
        name: 'Hull with fenders',
        layer: null,
        matrix: at(0, 0),
        asset: picture,
        widthPx,
        heightPx,
        mmPerPx,
        strengthPct: 100,
        locked: true,
      },
      lettering('item-pilot', 'PILOT', white, { fontId: 'archivo-black', capHeightMm: 360, letterSpaceMm: 40, matrix: at(2620, 1240) }),
      {
        type: 'item',
        kind: 'dimension',
        id: 'item-fenders',
        name: 'Between the fenders',
        layer: null,
        matrix: at(0, 0),
        from: fenders[0] as { x: number; y: number },
        to: fenders[1] as { x: number; y: number },
        measure: 'level',
        standOffMm: -160,
      },
    ],
    sheets: [{ ...defaultLayUp(white.id), rollId: 'roll-breakwater-chalk-white-1220' }],
  });
}

/** Small labels at an exact pitch, welded into a strip mask; the figures stay on the drawing. */
function pegLabels(stock: readonly StockFilmRow[]): Drawing {
  const mask = filmOfStock(stock, 'stock-breakwater-signal-blue');
  const [count, pitch, width, height] = [10, 46, 38, 18];
  const boxes = Array.from({ length: count }, (_, i) => mapOutline([1, 0, 0, 1, i * pitch, 0], boxShape(width, height, 2)));
  const rail = mapOutline([1, 0, 0, 1, 0, 7], boxShape((count - 1) * pitch + width, 4));
  const strip = weld([...boxes, rail]);
  const ends = (u0: number, u1: number, v: number) => ({
    from: { x: 0, y: 0, item: 'item-strip', u: u0, v },
    to: { x: 0, y: 0, item: 'item-strip', u: u1, v },
  });
  const overall = (count - 1) * pitch + width;
  const dimension = (id: string, name: string, u0: number, u1: number, v: number, standOffMm: number): Item => ({
    type: 'item',
    kind: 'dimension',
    id,
    name,
    layer: null,
    matrix: at(0, 0),
    ...ends(u0, u1, v),
    measure: 'level',
    standOffMm,
  });
  return draw({
    surface: { name: 'Peg board, birch', hex: '#d8bd92', widthMm: 560, heightMm: 160 },
    films: [mask],
    items: [
      shape('item-strip', 'Strip mask', mask, strip, at(56, 60)),
      dimension('item-overall', 'Overall', 0, 1, 1, 30),
      dimension('item-pitch', 'Pitch', 0, pitch / overall, 1, 12),
      dimension('item-clearance', 'Clearance', width / overall, pitch / overall, 0, -14),
    ],
  });
}

/** A small, noisy scan of a badge, to be traced into films. */
function teaRoom(picture: string): Drawing {
  const mmPerPx = 260 / BADGE_PICTURE.widthPx;
  return draw({
    surface: { name: 'Tea-room door, cream', hex: '#efe6d2', widthMm: 300, heightMm: 300 },
    films: [],
    items: [
      {
        type: 'item',
        kind: 'picture',
        id: 'item-badge',
        name: 'Old badge, scanned',
        layer: null,
        matrix: at(20, 20),
        asset: picture,
        ...{ widthPx: BADGE_PICTURE.widthPx, heightPx: BADGE_PICTURE.heightPx },
        mmPerPx,
        strengthPct: 100,
        locked: false,
      },
    ],
  });
}

export const demoJobs = (stock: readonly StockFilmRow[], pictures: DemoPictures): DemoJob[] => [
  { name: 'Old tea-room badge', customer: 'Gull & Kettle', dueInDays: 20, drawing: teaRoom(pictures.badge) },
  { name: 'Chandlery peg labels', customer: 'Wherry Chandlery', dueInDays: 16, drawing: pegLabels(stock) },
  { name: 'Pilot boat side', customer: 'Saltmarsh Pilots', dueInDays: 12, drawing: pilotBoat(stock, pictures.hull) },
  { name: 'Ferry shelter glass', customer: 'Saltmarsh Ferry', dueInDays: 18, drawing: shelterGlass(stock) },
  { name: 'Berth plates', customer: 'Saltmarsh Harbour', dueInDays: 10, drawing: berthPlates(stock) },
  { name: 'Kayak hire stickers', customer: 'Saltmarsh Kayaks', dueInDays: 8, drawing: kayakStickers(stock, pictures) },
  { name: 'Harbour office round sign', customer: 'Saltmarsh Harbour', dueInDays: 6, drawing: roundSign(stock) },
  { name: 'Crew shirts', customer: 'Saltmarsh Ferry', dueInDays: 9, drawing: shirts(stock) },
  { name: 'Transom name “Marigold”', customer: 'Ines Tollaway', dueInDays: 4, drawing: transom(stock) },
];
