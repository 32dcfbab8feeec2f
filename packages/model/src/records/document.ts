/**
 * A job's drawing: a map of plain records, each checked by its schema. All lengths mm, angles degrees
 * counter-clockwise, y up from the drawing's lower left corner. Items keep their cause (words and font,
 * width and height), results are derived (`derive.ts`).
 *
 * Records: one `page`, the `film`s and `print`s (strip order in the page, bottom first), the `item`s (a tree: the page's
 * root and groups hold children in painting order), one `lay-up` a layer for how it goes onto its material, `series`.
 * What is seen: layers in strip order, within a layer the items in tree order.
 */
import { z } from 'zod';
import { id, itemId, layerId, MOST_CHILDREN, mm, name, hex, sizeMm } from './fields.ts';
import { itemSchema } from './items.ts';
import { filmSchema, printSchema } from './layers.ts';
import { layUpSchema } from './lay-up.ts';
import { seriesSchema } from './series.ts';

/** The version of this document's shape; older ones are upgraded when they are opened (`upgrades.ts`). */
export const DOCUMENT_VERSION = 2;

/** The one record that is always there. */
export const PAGE_ID = 'page';
/** Units that lengths are shown in; they are kept in mm. */
export const unitSchema = z.enum(['mm', 'cm', 'in', 'in-fraction']);

/** What the work is fitted on. */
export const surfaceSchema = z.object({
  name,
  hex,
  widthMm: sizeMm,
  heightMm: sizeMm,
});

/** How films are put together by hand; what the user never touched is as `USUAL_BUILD` says. */
export const buildSchema = z.object({
  /** Every film lies on its roll as it does in the whole, or each is moved to the start of its roll. */
  place: z.enum(['keep', 'pack']),
  /** On glass that is seen from both sides a trap would show. */
  seenFromBothSides: z.boolean(),
  marks: z.object({
    shape: z.enum(['cross', 'dot', 'square', 'arrow']),
    at: z.enum(['corners', 'sides']),
    sizeMm: z.number().min(1, 'marks of 1 mm or more').max(200),
    distanceMm: z.number().min(0).max(1000),
  }),
  /** Times and prices stand on the proof too. */
  costOnProof: z.boolean(),
});

/** The page: order of layers and items, unit, surface, guides. */
export const pageSchema = z.object({
  type: z.literal('page'),
  id: z.literal(PAGE_ID),
  version: z.literal(DOCUMENT_VERSION),
  unit: unitSchema,
  surface: surfaceSchema,
  /** Items at the top of the tree, in painting order. */
  root: z.array(itemId).max(MOST_CHILDREN),
  /** Films and prints in stacking order, the one nearest the surface first. */
  layers: z.array(layerId).max(500),
  guides: z
    .array(z.object({ id, axis: z.enum(['x', 'y']), mm }))
    .max(200)
    .optional(),
  /** Parts of treatments thinner than this are taken off; 0.3 when absent. */
  sliverMm: z.number().min(0).max(50).optional(),
  build: buildSchema.optional(),
  /** What Lay up and Send take: all layers, one, or some items. */
  scope: z.discriminatedUnion('kind', [
    z.object({ kind: z.literal('everything') }),
    z.object({ kind: z.literal('layer'), layer: layerId }),
    z.object({ kind: z.literal('selection'), items: z.array(itemId).max(MOST_CHILDREN) }),
  ]),
});

/** Any record of a drawing. */
export const recordSchema = z.union([pageSchema, filmSchema, printSchema, itemSchema, layUpSchema, seriesSchema]);

export type Page = z.infer<typeof pageSchema>;
export type Build = z.infer<typeof buildSchema>;
export type Surface = z.infer<typeof surfaceSchema>;
/** A line of help, never cut. */
export type Guide = NonNullable<Page['guides']>[number];
export type DocRecord = z.infer<typeof recordSchema>;
/** What of the drawing is cut. */
export type Scope = Page['scope'];

/** The whole drawing. Never changed in place. */
export type Drawing = Readonly<Record<string, DocRecord>>;

/** How films are built until somebody says otherwise. */
export const USUAL_BUILD: Build = {
  place: 'pack',
  seenFromBothSides: false,
  marks: { shape: 'cross', at: 'corners', sizeMm: 8, distanceMm: 5 },
  costOnProof: false,
};

/** A new, empty drawing. */
export function emptyDrawing(surface: Surface = { name: 'White wall', hex: '#f4f1ea', widthMm: 1200, heightMm: 600 }): Drawing {
  const page: Page = {
    type: 'page',
    id: PAGE_ID,
    version: DOCUMENT_VERSION,
    unit: 'mm',
    surface,
    root: [],
    layers: [],
    scope: { kind: 'everything' },
  };
  return { [PAGE_ID]: page };
}
