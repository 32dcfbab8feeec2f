/** Items as they are when they are made. */
import {
  layersOf,
  pageOf,
  type ArcItem,
  type BoxItem,
  type Drawing,
  type LetteringItem,
  type OvalItem,
  type PictureItem,
  type PolygonItem,
  type ShapeItem,
} from '@lorvek/model';
import type { Asset } from '@lorvek/model';
import { bounds, formatPath, mapOutline, translation, type Outline, type Point } from '@lorvek/core/geometry';
import { newId } from '../../document/store.ts';
import { useView } from '../../drawing/view.ts';

/** The film for new items: the one chosen in the strip, else the topmost. */
export function filmForNew(drawing: Drawing): string | null {
  const { film } = useView.getState();
  const films = layersOf(drawing).filter((f) => f.visible && !f.locked);
  return films.find((f) => f.id === film)?.id ?? films.at(-1)?.id ?? null;
}

const tidy = (n: number): number => Math.round(n * 100) / 100;

/** Font and alignment of the last lettering that was worked on are kept for the next. */
const FONT_KEY = 'lorvek.lastFont';
export const rememberFont = (id: string): void => localStorage.setItem(FONT_KEY, id);

export function newLettering(drawing: Drawing, at: Point): LetteringItem {
  const { surface } = pageOf(drawing);
  const cap = Math.max(10, Math.round(Math.min(surface.heightMm / 5, surface.widthMm / 8) / 5) * 5);
  return {
    type: 'item',
    kind: 'lettering',
    id: newId('item'),
    name: 'Lettering',
    layer: filmForNew(drawing),
    matrix: [1, 0, 0, 1, tidy(at.x), tidy(at.y)],
    text: '',
    fontId: localStorage.getItem(FONT_KEY) ?? 'archivo-black',
    substitutes: [],
    capHeightMm: cap,
    widthPct: 100,
    slantDeg: 0,
    letterSpaceMm: 0,
    lineSpace: 1.6,
    align: 'left',
  };
}

export function newShape(
  drawing: Drawing,
  kind: 'box' | 'oval',
  rect: { x: number; y: number; width: number; height: number },
): BoxItem | OvalItem {
  const base = {
    type: 'item' as const,
    id: newId('item'),
    name: kind === 'box' ? 'Box' : 'Oval',
    layer: filmForNew(drawing),
    matrix: [1, 0, 0, 1, tidy(rect.x), tidy(rect.y)] as [number, number, number, number, number, number],
    widthMm: Math.max(0.1, tidy(rect.width)),
    heightMm: Math.max(0.1, tidy(rect.height)),
  };
  return kind === 'box' ? { ...base, kind, cornerMm: 0 } : { ...base, kind };
}

const base = (drawing: Drawing, name: string, at: Point) => ({
  type: 'item' as const,
  id: newId('item'),
  name,
  layer: filmForNew(drawing),
  matrix: [1, 0, 0, 1, tidy(at.x), tidy(at.y)] as ShapeItem['matrix'],
});

export const newPolygon = (drawing: Drawing, centre: Point, radiusMm: number, sides: number, innerPct: number | null): PolygonItem => ({
  ...base(drawing, innerPct === null ? 'Polygon' : 'Star', centre),
  kind: 'polygon',
  sides,
  radiusMm: Math.max(0.1, tidy(radiusMm)),
  innerPct,
});

/** The arc over a chord that rises a quarter of it: centre, radius and angles, and places on it to show. */
export function arcBetween(from: Point, to: Point): { centre: Point; radius: number; fromDeg: number; sweepDeg: number; samples: Point[] } {
  const [dx, dy] = [to.x - from.x, to.y - from.y];
  const chord = Math.hypot(dx, dy) || 1;
  const rise = chord / 4;
  const radius = (chord * chord) / (8 * rise) + rise / 2;
  const [nx, ny] = [-dy / chord, dx / chord];
  const centre = { x: (from.x + to.x) / 2 - nx * (radius - rise), y: (from.y + to.y) / 2 - ny * (radius - rise) };
  const start = Math.atan2(from.y - centre.y, from.x - centre.x);
  const sweep = -2 * Math.asin(chord / 2 / radius);
  const samples = Array.from({ length: 25 }, (_, i) => ({
    x: centre.x + radius * Math.cos(start + (sweep * i) / 24),
    y: centre.y + radius * Math.sin(start + (sweep * i) / 24),
  }));
  const degrees = (rad: number): number => tidy((rad * 180) / Math.PI);
  return { centre, radius, fromDeg: degrees(start), sweepDeg: degrees(sweep), samples };
}

export function newArc(drawing: Drawing, from: Point, to: Point): ArcItem {
  const { centre, radius, fromDeg, sweepDeg } = arcBetween(from, to);
  return { ...base(drawing, 'Arc', centre), kind: 'arc', radiusMm: Math.max(0.1, tidy(radius)), fromDeg, sweepDeg, ends: 'open' };
}

/** A shape of an outline on the drawing, its space at its lower left corner. */
export function shapeOf(drawing: Drawing, name: string, outline: Outline): ShapeItem {
  const { minX, minY } = bounds(outline);
  const at = { x: tidy(minX), y: tidy(minY) };
  return { ...base(drawing, name, at), kind: 'shape', path: formatPath(mapOutline(translation(-at.x, -at.y), outline), 5) };
}

/** A picture at the size its file states, else as wide as the surface. */
export function newPicture(drawing: Drawing, name: string, asset: Asset): PictureItem {
  const { surface } = pageOf(drawing);
  return {
    ...base(drawing, name.slice(0, 120) || 'Picture', { x: 0, y: 0 }),
    kind: 'picture',
    layer: null,
    matrix: [1, 0, 0, asset.pixelAspect ?? 1, 0, 0],
    asset: asset.asset,
    widthPx: asset.widthPx,
    heightPx: asset.heightPx,
    mmPerPx: asset.dpi ? 25.4 / asset.dpi : surface.widthMm / asset.widthPx,
    strengthPct: 100,
    locked: false,
  };
}
