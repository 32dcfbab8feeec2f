/**
 * Lay-ups: how a layer's work goes onto one material together. One a layer; what the user never touched is as
 * `defaultLayUp` says. What a nest found is kept with the key of what it was found for.
 */
import type { MarkKind } from '@lorvek/core/sheet';
import { z } from 'zod';
import { id, layerId, matrixSchema, mm } from './fields.ts';

const gapMm = z.number().min(0).max(10_000);
const copies = z.number().int().min(1, 'one copy or more').max(2000);

/** Where a copy of a part lies. The map takes the part from where its own box begins, mirrored as the lay-up is, to its sheet. */
const placedSchema = z.object({
  id: z.string().max(80),
  copy: z.number().int().min(0).max(100_000),
  sheet: z.number().int().min(0).max(999).optional(),
  map: matrixSchema,
  locked: z.boolean().optional(),
});
/** Copies that were moved by hand: these places stand instead of those that the fill gives. */
const moved = z.array(placedSchema).max(5000).optional();

/** What moves as one when parts are nested. */
export const TOGETHER = ['outline', 'word', 'item', 'group', 'stack'] as const;

/** How something larger than the material is divided. */
export const PANEL_WAYS = ['shapes', 'width', 'count', 'seams'] as const;
const panelsSchema = z.object({
  kind: z.literal('panels'),
  /** Seams between shapes where there are such, panels of a width, so many columns and rows, or seams by hand. */
  way: z.enum(PANEL_WAYS),
  /** Of a panel with its overlaps; null: as the material allows. */
  widthMm: z.number().min(10).max(1e5).nullable(),
  heightMm: z.number().min(10).max(1e5).nullable(),
  columns: z.number().int().min(1).max(500),
  rows: z.number().int().min(1).max(500),
  /** Middles of the overlaps, on the drawing. */
  seams: z.object({ x: z.array(mm).max(500), y: z.array(mm).max(500) }),
  overlapMm: z.number().min(0).max(1000),
  overlapUpMm: z.number().min(0).max(1000),
  leastMm: z.number().min(0).max(1e5),
  turnEveryOther: z.boolean(),
  bleedMm: z.number().min(0).max(1000),
  order: z.enum(['from-left', 'from-right']),
  /** Items that no seam is to go through. */
  whole: z.array(id).max(2000),
  /** Number, job and an arrow up, outside the trim. */
  label: z.boolean(),
});

/** How the material is filled. */
export const fillSchema = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('as-drawn'),
    copies,
    gapMm,
    alongMm: z.number().min(0).max(1e6),
    acrossMm: z.number().min(0).max(1e6),
    moved,
  }),
  z.object({ kind: z.literal('grid'), copies: copies.nullable(), gapMm, rows: z.enum(['straight', 'half', 'head-to-tail']), moved }),
  z.object({
    kind: z.literal('nest'),
    gapMm,
    turnStepDeg: z.number().min(0).max(180),
    intoHoles: z.boolean(),
    /** Absent: what is grouped. */
    together: z.enum(TOGETHER).optional(),
    /** As many as one sheet takes. */
    fillSheet: z.boolean().optional(),
    /** By part: how many, and whether it is nested at all. */
    parts: z
      .record(z.string().max(80), z.object({ copies: z.number().int().min(0).max(2000).optional(), apart: z.boolean().optional() }))
      .optional(),
    /** Placements that were found, and the key of the parts and the material they were found for. */
    found: z.object({ key: z.string().max(200), placed: z.array(placedSchema).max(20_000) }).optional(),
  }),
  panelsSchema,
]);

/** Marks by their kinds. */
export const MARK_KINDS = ['corners-in', 'corners-out', 'dots', 'crosses'] as const satisfies readonly MarkKind[];

/** Marks that a camera finds, round the work. */
export const marksSchema = z.object({
  kind: z.enum(MARK_KINDS),
  count: z.union([z.literal(2), z.literal(3), z.literal(4)]),
  distanceMm: z.number().min(1, 'a distance of 1 mm or more').max(500),
  armMm: z.number().min(2, 'arms of 2 mm or more').max(100),
  thicknessMm: z.number().min(0.2, 'lines of 0.2 mm or more').max(10),
  /** Job code beside the first mark. */
  code: z.boolean(),
  /** Data Matrix when absent. */
  codeKind: z.enum(['data-matrix', 'qr']).optional(),
  /** Further marks along both sides, at most so far apart. */
  midSpacingMm: z.number().min(50, 'a spacing of 50 mm or more').max(10_000).nullable().optional(),
  /** What they stand round: the work when absent, the sheet's corners, or a rectangle that was drawn. */
  round: z.enum(['work', 'sheet', 'rectangle']).optional(),
  /** On the drawing; its corners are the middles of the marks. */
  rectangle: z.object({ minX: mm, minY: mm, maxX: mm, maxY: mm }).optional(),
});

/** How a layer lies on its material. */
export const layUpSchema = z.object({
  type: z.literal('lay-up'),
  /** `layup-` and the layer's id. */
  id,
  layer: layerId,
  rollId: z.string().max(60).nullable(),
  marginMm: z.number().min(0).max(1000),
  turnDeg: z.number().min(0).lt(360),
  /** null: as the film suggests (transfer film is cut reversed). */
  mirror: z.boolean().nullable(),
  weedBoxMm: z.number().min(0).max(1000).nullable(),
  /** What a weed box goes round; absent: each copy. */
  weedPer: z.enum(['whole', 'copy', 'part']).optional(),
  weedLines: z
    .object({ kind: z.enum(['straight', 'gaps']), spacingMm: z.number().min(5).max(10_000), clearMm: z.number().min(0).max(1000) })
    .nullable()
    .optional(),
  /** Turns that the grain of the material allows: any when absent. */
  grain: z.enum(['half', 'none']).nullable().optional(),
  /** Sheets are cut to this length; absent or null: one strip as long as the roll. */
  sheetLengthMm: z.number().min(10).max(1e6).nullable().optional(),
  /** What a machine said that lies in it, taken instead of a roll of Stock. */
  reported: z
    .object({ machine: z.string().max(80), widthMm: z.number().min(1).max(1e5), lengthMm: z.number().min(1).max(1e6) })
    .nullable()
    .optional(),
  /** Of a print: the laminate of Stock that goes on it, with its name as it was chosen; absent or null: none. */
  laminate: z
    .object({ id: z.string().max(60), name: z.string().max(80) })
    .nullable()
    .optional(),
  fill: fillSchema,
  /** null: none. Absent: as the layer needs them, a print layer with cut lines four corners. */
  marks: marksSchema.nullable().optional(),
});

export type { MarkKind };
export type Placed = z.infer<typeof placedSchema>;
/** What moves as one when it is laid. */
export type Together = (typeof TOGETHER)[number];
export type Fill = z.infer<typeof fillSchema>;
export type PanelsFill = z.infer<typeof panelsSchema>;
export type Marks = z.infer<typeof marksSchema>;
export type LayUp = z.infer<typeof layUpSchema>;

/** The lay-up of a layer, by its id. */
export const layUpIdOf = (layerId: string): string => `layup-${layerId}`;

/** Registration marks as they begin. */
export const USUAL_MARKS: Marks = { kind: 'corners-in', count: 4, distanceMm: 8, armMm: 12, thicknessMm: 1, code: true };

/** Panels until the user says otherwise. */
export const USUAL_PANELS: PanelsFill = {
  kind: 'panels',
  way: 'shapes',
  widthMm: null,
  heightMm: null,
  columns: 2,
  rows: 1,
  seams: { x: [], y: [] },
  overlapMm: 10,
  overlapUpMm: 10,
  leastMm: 100,
  turnEveryOther: true,
  bleedMm: 0,
  order: 'from-left',
  whole: [],
  label: true,
};

/** How a layer is laid up until the user says otherwise. */
export const defaultLayUp = (layerId: string): LayUp => ({
  type: 'lay-up',
  id: layUpIdOf(layerId),
  layer: layerId,
  rollId: null,
  marginMm: 10,
  turnDeg: 0,
  mirror: null,
  weedBoxMm: 5,
  fill: { kind: 'as-drawn', copies: 1, gapMm: 5, alongMm: 0, acrossMm: 0 },
});
