/**
 * A job's drawing: a map of plain records, each checked by its schema. All lengths mm, angles degrees
 * counter-clockwise, y up from the drawing's lower left corner. Items keep their cause (words and font,
 * width and height), results are derived (`derive.ts`).
 *
 * Records: one `page`, the `film`s (strip order in the page, bottom first), the `item`s (a tree: the page's
 * root and groups hold children in painting order), one `sheet` a film for how it is laid up.
 * What is seen: films in strip order, within a film the items in tree order.
 */
import { z } from 'zod';
import { treatmentsSchema } from './treatments.ts';

/** The version of this document's shape; older ones are upgraded when read (`upgrade.ts`). */
export const DOCUMENT_VERSION = 1;

export const PAGE_ID = 'page';
const MOST_CHILDREN = 50_000;

const id = z.string().regex(/^[a-z]+-[A-Za-z0-9_-]{1,40}$/, 'an id such as item-x1');
const mm = z.number().min(-1e7).max(1e7);
const sizeMm = z.number().min(0.01, 'a size above zero').max(1e6, 'a size below 1 km');
const name = z.string().max(200);
const pct = z.number().min(1).max(1000);
const hex = z.string().regex(/^#[0-9a-f]{6}$/, 'a colour such as #1b4f72');

/** Item space to drawing, [a,b,c,d,e,f]; the linear part must not flatten the plane. */
export const matrixSchema = z
  .tuple([z.number(), z.number(), z.number(), z.number(), mm, mm])
  .refine(([a, b, c, d]) => Math.abs(a * d - b * c) > 1e-12 && Math.abs(a * d - b * c) < 1e12, 'a map that keeps an area');

export const unitSchema = z.enum(['mm', 'cm', 'in', 'in-fraction']);

export const surfaceSchema = z.object({
  name,
  hex,
  widthMm: sizeMm,
  heightMm: sizeMm,
});

export const pageSchema = z.object({
  type: z.literal('page'),
  id: z.literal(PAGE_ID),
  version: z.literal(DOCUMENT_VERSION),
  unit: unitSchema,
  surface: surfaceSchema,
  /** Items at the top of the tree, in painting order. */
  root: z.array(id).max(MOST_CHILDREN),
  /** Films in stacking order, the one nearest the surface first. */
  films: z.array(id).max(500),
  guides: z
    .array(z.object({ id, axis: z.enum(['x', 'y']), mm }))
    .max(200)
    .optional(),
  /** Parts of treatments thinner than this are taken off; 0.3 when absent. */
  sliverMm: z.number().min(0).max(50).optional(),
  /** What Lay up and Send take: all films, one, or some items. */
  scope: z.discriminatedUnion('kind', [
    z.object({ kind: z.literal('everything') }),
    z.object({ kind: z.literal('film'), film: id }),
    z.object({ kind: z.literal('selection'), items: z.array(id).max(MOST_CHILDREN) }),
  ]),
});

/** A film of the job: what Stock said of it when it was taken, so that the drawing does not change with Stock. */
export const filmSchema = z.object({
  type: z.literal('film'),
  id,
  stockId: z.string().max(60),
  name,
  series: name,
  hex,
  transfer: z.boolean(),
  visible: z.boolean(),
  locked: z.boolean(),
});

const itemBase = {
  type: z.literal('item'),
  id,
  name,
  /** Film it is cut from; null: not chosen yet, cannot be cut. */
  film: id.nullable(),
  matrix: matrixSchema,
  treatments: treatmentsSchema.optional(),
};

/** One letter's own: see the core's lettering. By the index of its first character in the text. */
export const letterTweakSchema = z.object({
  kernMm: z.number().min(-1e4).max(1e4).optional(),
  shiftXMm: z.number().min(-1e5).max(1e5).optional(),
  shiftYMm: z.number().min(-1e5).max(1e5).optional(),
  sizePct: pct.optional(),
  turnDeg: z.number().min(-360).max(360).optional(),
});

export const letteringSchema = z.object({
  ...itemBase,
  kind: z.literal('lettering'),
  text: z.string().max(20_000),
  fontId: z.string().max(80),
  /** Fonts that give the characters the first one lacks. */
  substitutes: z.array(z.string().max(80)).max(8),
  /** Height of a capital as cut, in item space. */
  capHeightMm: z.number().min(0.5, 'capitals of 0.5 mm or more').max(20_000, 'capitals of 20 m or less'),
  widthPct: z.number().min(10).max(1000),
  slantDeg: z.number().min(-60).max(60),
  letterSpaceMm: z.number().min(-10_000).max(10_000),
  lineSpace: z.number().min(0).max(20),
  align: z.enum(['left', 'centre', 'right', 'justify']),
  tweaks: z.record(z.string().regex(/^\d{1,5}$/), letterTweakSchema).optional(),
  /** Of a variable font, by axis tag. */
  axes: z.record(z.string().regex(/^[ -~]{4}$/), z.number().min(-1e5).max(1e5)).optional(),
});

export const boxSchema = z.object({
  ...itemBase,
  kind: z.literal('box'),
  widthMm: sizeMm,
  heightMm: sizeMm,
  cornerMm: z.number().min(0).max(1e6),
  /** How the corners are taken off; rounded when absent. */
  corner: z.enum(['round', 'cut', 'scoop']).optional(),
});
export const ovalSchema = z.object({ ...itemBase, kind: z.literal('oval'), widthMm: sizeMm, heightMm: sizeMm });
/** A regular polygon about the middle of its space, its first corner at the top; a star when `innerPct` is given. */
export const polygonSchema = z.object({
  ...itemBase,
  kind: z.literal('polygon'),
  sides: z.number().int().min(3, 'three corners or more').max(200),
  radiusMm: sizeMm,
  innerPct: z.number().min(1).max(100).nullable(),
});
/** Part of a circle about the middle of its space. */
export const arcSchema = z.object({
  ...itemBase,
  kind: z.literal('arc'),
  radiusMm: sizeMm,
  fromDeg: z.number().min(-720).max(720),
  sweepDeg: z.number().min(-360).max(360),
  ends: z.enum(['open', 'chord', 'sector']),
});
/** A picture to look at and to draw over; its lower left corner is the origin of its space. Never cut. */
/** How a picture was traced last, so that the trace can be opened again. */
const spot = z.object({ x: z.number().min(-1).max(2), y: z.number().min(-1).max(2) });
const share = z.number().min(0).max(1);
/** What is done to a picture by hand before it is traced; places are shares of it, y down. */
export const retouchSchema = z.object({
  corners: z.array(spot).length(4).optional(),
  turnDeg: z.number().min(-180).max(180).optional(),
  crop: z.object({ x0: share, y0: share, x1: share, y1: share }).optional(),
  enlarge: z.union([z.literal(1), z.literal(2), z.literal(4), z.literal(8)]).optional(),
  calm: share.optional(),
  ringing: share.optional(),
  evenLight: z.boolean().optional(),
  levels: z.object({ black: z.number().min(0).max(254), white: z.number().min(1).max(255), gamma: z.number().min(0.1).max(10) }).optional(),
  lift: z
    .object({
      border: z.boolean(),
      spots: z.array(spot).max(100),
      reach: z.number().min(0).max(100),
      softPx: z.number().min(0).max(50),
      strokes: z.array(z.object({ keeps: z.boolean(), radius: share, points: z.array(spot).max(2000) })).max(200),
    })
    .optional(),
  clear: z.object({ hex, reach: z.number().min(0).max(100) }).optional(),
});
export const traceSchema = z.object({
  clean: z.enum(['auto', 'none']),
  /** Most colours; null: as many as are found. */
  colours: z.number().int().min(1).max(64).nullable(),
  leaveOut: z.array(hex).max(64),
  stacking: z.enum(['inlaid', 'overlaid']),
  smoothness: z.number().min(0).max(1),
  cornerDeg: z.number().min(5).max(120),
  /** Smaller parts are dropped, pixels; null: as the picture needs. */
  smallestPx: z.number().min(0).max(10_000).nullable(),
  /** The group that came of it. */
  result: id.nullable(),
  /** By colours when absent. */
  mode: z.enum(['colours', 'single', 'centre']).optional(),
  /** What is dark: found when absent. */
  threshold: z.union([z.literal('auto'), z.literal('local'), z.number().min(0).max(255)]).optional(),
  /** Colours named by hand, in place of those that are found. */
  named: z.array(hex).max(64).optional(),
  merged: z
    .array(z.tuple([hex, hex]))
    .max(64)
    .optional(),
  /** How far colours reach, ΔE. */
  reaches: z
    .array(z.tuple([hex, z.number().min(0).max(100)]))
    .max(64)
    .optional(),
  trapMm: z.number().min(0).max(100).optional(),
  /** Of one colour: false fills the holes. */
  holes: z.boolean().optional(),
  retouch: retouchSchema.optional(),
});

export const pictureSchema = z.object({
  ...itemBase,
  kind: z.literal('picture'),
  film: z.null(),
  asset: z.string().regex(/^[0-9a-f]{64}$/, 'the name of a kept file'),
  widthPx: z.number().int().min(1).max(60_000),
  heightPx: z.number().int().min(1).max(60_000),
  /** Size of a pixel on the drawing. */
  mmPerPx: z.number().min(1e-6).max(1e5),
  strengthPct: z.number().min(5).max(100),
  locked: z.boolean(),
  /** Shown only within this outline, its own pixels, y up. */
  clip: z.string().max(4_000_000).optional(),
  /** Not shown; its trace stands for it. */
  hidden: z.boolean().optional(),
  trace: traceSchema.optional(),
});
const dimensionEnd = z.object({
  x: mm,
  y: mm,
  /** What it is fastened to: a place in the item's box, 0 to 1 each way. */
  item: id.optional(),
  u: z.number().min(-10).max(11).optional(),
  v: z.number().min(-10).max(11).optional(),
});
/** A dimension line between two places; it follows the items it is fastened to. Never cut. */
export const dimensionSchema = z.object({
  ...itemBase,
  kind: z.literal('dimension'),
  film: z.null(),
  from: dimensionEnd,
  to: dimensionEnd,
  measure: z.enum(['straight', 'level', 'upright']),
  /** How far the line stands off from what it measures, to its left. */
  standOffMm: z.number().min(-1e5).max(1e5),
});
/** A course of colour that came with a file, in the item's space; see the core's formats. */
export const gradientSchema = z.object({
  kind: z.enum(['linear', 'radial']),
  matrix: matrixSchema,
  stops: z
    .array(z.object({ offset: z.number().min(0).max(1), hex }))
    .min(1)
    .max(1000),
  spread: z.enum(['pad', 'reflect', 'repeat']),
  inner: z.object({ x: z.number().min(-1).max(1), y: z.number().min(-1).max(1), r: z.number().min(0).max(1) }).optional(),
});
export const shapeSchema = z.object({
  ...itemBase,
  kind: z.literal('shape'),
  path: z.string().max(16_000_000),
  gradient: gradientSchema.optional(),
  /** Shown and written with its gradient; in its film's one colour when absent. */
  printed: z.boolean().optional(),
});
export const groupSchema = z.object({
  ...itemBase,
  kind: z.literal('group'),
  film: z.null(),
  children: z.array(id).min(1).max(MOST_CHILDREN),
});

export const itemSchema = z.discriminatedUnion('kind', [
  letteringSchema,
  boxSchema,
  ovalSchema,
  polygonSchema,
  arcSchema,
  shapeSchema,
  pictureSchema,
  dimensionSchema,
  groupSchema,
]);

/** How one film's work is laid on its roll. */
export const sheetSchema = z.object({
  type: z.literal('sheet'),
  /** `sheet-` and the film's id without its prefix. */
  id,
  film: id,
  rollId: z.string().max(60).nullable(),
  marginMm: z.number().min(0).max(1000),
  turnDeg: z.union([z.literal(0), z.literal(90), z.literal(180), z.literal(270)]),
  /** null: as the film suggests (transfer film is cut reversed). */
  mirror: z.boolean().nullable(),
  copies: z.number().int().min(1).max(2000),
  gapMm: z.number().min(0).max(10_000),
  weedBoxMm: z.number().min(0).max(1000).nullable(),
  offsetXMm: z.number().min(0).max(1e6),
  offsetYMm: z.number().min(0).max(1e6),
});

export const recordSchema = z.union([pageSchema, filmSchema, itemSchema, sheetSchema]);

export type Page = z.infer<typeof pageSchema>;
export type Surface = z.infer<typeof surfaceSchema>;
export type Film = z.infer<typeof filmSchema>;
export type Item = z.infer<typeof itemSchema>;
export type LetteringItem = z.infer<typeof letteringSchema>;
export type BoxItem = z.infer<typeof boxSchema>;
export type OvalItem = z.infer<typeof ovalSchema>;
export type ShapeItem = z.infer<typeof shapeSchema>;
export type PolygonItem = z.infer<typeof polygonSchema>;
export type ArcItem = z.infer<typeof arcSchema>;
export type RetouchSettings = z.infer<typeof retouchSchema>;
export type TraceSettings = z.infer<typeof traceSchema>;
export type PictureItem = z.infer<typeof pictureSchema>;
export type DimensionItem = z.infer<typeof dimensionSchema>;
export type DimensionEnd = DimensionItem['from'];
export type LetterTweakRecord = z.infer<typeof letterTweakSchema>;
export type Guide = NonNullable<Page['guides']>[number];
export type GroupItem = z.infer<typeof groupSchema>;
export type Sheet = z.infer<typeof sheetSchema>;
export type DocRecord = z.infer<typeof recordSchema>;
export type Scope = Page['scope'];

/** The whole drawing. Never changed in place. */
export type Drawing = Readonly<Record<string, DocRecord>>;

/** A new, empty drawing. */
export function emptyDrawing(surface: Surface = { name: 'White wall', hex: '#f4f1ea', widthMm: 1200, heightMm: 600 }): Drawing {
  const page: Page = {
    type: 'page',
    id: PAGE_ID,
    version: DOCUMENT_VERSION,
    unit: 'mm',
    surface,
    root: [],
    films: [],
    scope: { kind: 'everything' },
  };
  return { [PAGE_ID]: page };
}

export const sheetIdOf = (filmId: string): string => `sheet-${filmId.replace(/^film-/, '')}`;

/** How a film is laid up until the user says otherwise. */
export const defaultSheet = (filmId: string): Sheet => ({
  type: 'sheet',
  id: sheetIdOf(filmId),
  film: filmId,
  rollId: null,
  marginMm: 10,
  turnDeg: 0,
  mirror: null,
  copies: 1,
  gapMm: 5,
  weedBoxMm: 5,
  offsetXMm: 0,
  offsetYMm: 0,
});
