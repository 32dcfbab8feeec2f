/**
 * Items of a drawing: lettering, shapes, pictures, dimension lines, edge cuts, groups. They keep their cause (words and
 * font, width and height); what comes of it is derived (`queries/derive.ts`).
 */
import { z } from 'zod';
import { colourSchema } from './colour.ts';
import { hex, itemId, layerId, MOST_CHILDREN, matrixSchema, mm, name, pct, sizeMm } from './fields.ts';
import { treatmentsSchema } from './treatments.ts';

/** Own colours of an item, for when it is printed. */
export const paintSchema = z.object({
  /** null: not filled. */
  fill: colourSchema.nullable(),
  stroke: colourSchema.extend({ widthMm: z.number().min(0.01, 'a line of 0.01 mm or more').max(1000) }).optional(),
});

/** What the blade does along a cut line. */
export const lineSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('kiss') }),
  z.object({ kind: z.literal('score') }),
  z.object({
    kind: z.literal('perforated'),
    cutMm: z.number().min(0.2).max(1000),
    bridgeMm: z.number().min(0.1).max(100),
    leastBridges: z.number().int().min(0).max(500).optional(),
  }),
  z.object({ kind: z.literal('through') }),
]);
export type CutLine = z.infer<typeof lineSchema>;
export type Paint = z.infer<typeof paintSchema>;

const itemBase = {
  type: z.literal('item'),
  id: itemId,
  name,
  /** Layer it belongs to: the film it is cut from, or the print it is printed with; null: not chosen yet, goes nowhere. */
  layer: layerId.nullable(),
  matrix: matrixSchema,
  treatments: treatmentsSchema.optional(),
  /** A line that others follow: looked at and worked on, never cut nor printed. */
  helper: z.boolean().optional(),
  /** Its own colours, shown and printed on a print layer; on a film they are kept for the way back. */
  paint: paintSchema.optional(),
};

/** One letter's own: see the core's lettering. By the index of its first character in the text. */
export const letterTweakSchema = z.object({
  kernMm: z.number().min(-1e4).max(1e4).optional(),
  shiftXMm: z.number().min(-1e5).max(1e5).optional(),
  shiftYMm: z.number().min(-1e5).max(1e5).optional(),
  sizePct: pct.optional(),
  turnDeg: z.number().min(-360).max(360).optional(),
});

/** Words in a font, their size by the height of capitals. */
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

/** A rectangle, its corners sharp or taken off. */
export const boxSchema = z.object({
  ...itemBase,
  kind: z.literal('box'),
  widthMm: sizeMm,
  heightMm: sizeMm,
  cornerMm: z.number().min(0).max(1e6),
  /** How the corners are taken off; rounded when absent. */
  corner: z.enum(['round', 'cut', 'scoop']).optional(),
});
/** An oval or circle. */
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
/** How a picture is traced, kept with it. */
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
  result: itemId.nullable(),
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

/**
 * A picture; its lower left corner is the origin of its space. Printed when it belongs to a print layer, else only looked
 * at and drawn over. Never cut.
 */
export const pictureSchema = z.object({
  ...itemBase,
  kind: z.literal('picture'),
  asset: z.string().regex(/^[0-9a-f]{64}$/, 'the name of a kept file'),
  widthPx: z.number().int().min(1).max(60_000),
  heightPx: z.number().int().min(1).max(60_000),
  /** Size of a pixel on the drawing. */
  mmPerPx: z.number().min(1e-6).max(1e5),
  strengthPct: z.number().min(5).max(100),
  locked: z.boolean(),
  /** Shown only within this outline, its own pixels, y up. */
  clip: z.string().max(4_000_000).optional(),
  /** Where it is not transparent, its own pixels, y up; worked out once for its file, for edge cuts. */
  silhouette: z.string().max(4_000_000).optional(),
  /** It is a plate that came with a picture: all of it is this one ink, as much as it covers. */
  ink: colourSchema.optional(),
  /** Not shown; its trace stands for it. */
  hidden: z.boolean().optional(),
  trace: traceSchema.optional(),
});
const dimensionEnd = z.object({
  x: mm,
  y: mm,
  /** What it is fastened to: a place in the item's box, 0 to 1 each way. */
  item: itemId.optional(),
  u: z.number().min(-10).max(11).optional(),
  v: z.number().min(-10).max(11).optional(),
});
/** A dimension line between two places; it follows the items it is fastened to. Never cut. */
export const dimensionSchema = z.object({
  ...itemBase,
  kind: z.literal('dimension'),
  layer: z.null(),
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
/** Any outline, SVG path data, mm, y up. */
export const shapeSchema = z.object({
  ...itemBase,
  kind: z.literal('shape'),
  path: z.string().max(16_000_000),
  gradient: gradientSchema.optional(),
  /** Shown and written with its gradient; in its film's one colour when absent. */
  printed: z.boolean().optional(),
  /** What the blade does along it, of a set-free edge cut: then it is neither a film's nor printed. */
  line: lineSchema.optional(),
});
/**
 * A cut line that follows what it goes round, live: derived in the drawing's own space from the outlines of other items.
 * It belongs to the print layer of what it goes round; it is never cut from a film and never printed.
 */
export const edgeCutSchema = z.object({
  ...itemBase,
  kind: z.literal('edge-cut'),
  /** Items that it goes round: leaves or groups. */
  of: z.array(itemId).min(1, 'something to go round').max(2000),
  shape: z.enum(['follow', 'box', 'rounded', 'oval', 'circle']),
  /** Outward; negative: inward, so that no ground is left white at the edge. */
  distanceMm: z.number().min(-1000).max(1000),
  /** Radius of circles that roll along it from both sides. */
  smoothMm: z.number().min(0).max(500),
  /** Radius of the corners, of the rounded box. */
  cornerMm: z.number().min(0).max(1e5),
  /** Holes of what it goes round are cut too. */
  holes: z.boolean(),
  /** Parts nearer than this become one piece. */
  joinWithinMm: z.number().min(0).max(1000),
  /** The art's edge colours are carried so far beyond the line where it runs nearer to the art's end; absent: not at all. */
  bleedMm: z.number().min(0.1).max(100).optional(),
  line: lineSchema,
});
/** Pieces at even distances along an axis, that are spaced again whenever the distance changes. */
export const rowSchema = z.object({
  axis: z.enum(['x', 'y']),
  spacing: z.enum(['gap', 'edge-pitch', 'centre-pitch']),
  distanceMm: z.number().min(-1e5).max(1e5),
});
/** Items that move as one. */
export const groupSchema = z.object({
  ...itemBase,
  kind: z.literal('group'),
  layer: z.null(),
  children: z.array(itemId).min(1).max(MOST_CHILDREN),
  /** Its children are a row until that is set. */
  row: rowSchema.optional(),
});

/** Whatever lies on the drawing. */
export const itemSchema = z.discriminatedUnion('kind', [
  letteringSchema,
  boxSchema,
  ovalSchema,
  polygonSchema,
  arcSchema,
  shapeSchema,
  pictureSchema,
  dimensionSchema,
  edgeCutSchema,
  groupSchema,
]);

export type Item = z.infer<typeof itemSchema>;
export type Row = z.infer<typeof rowSchema>;
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
/** An end of a dimension line: a place, or one that is fastened to an item. */
export type DimensionEnd = DimensionItem['from'];
export type LetterTweakRecord = z.infer<typeof letterTweakSchema>;
export type GroupItem = z.infer<typeof groupSchema>;
export type EdgeCutItem = z.infer<typeof edgeCutSchema>;
