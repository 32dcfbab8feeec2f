/**
 * Layers of the film strip: a film is cut from vinyl, a print is printed on a medium. Both are what Stock said when they
 * were taken, so that the drawing does not change with Stock.
 */
import { z } from 'zod';
import { hex, itemId, layerId, name } from './fields.ts';

const layerBase = { id: layerId, stockId: z.string().max(60), name, series: name, hex, visible: z.boolean(), locked: z.boolean() };

/** A film that is cut. */
export const filmSchema = z.object({
  ...layerBase,
  type: z.literal('film'),
  transfer: z.boolean(),
  /** How it meets the films below: on top of them, or let into them; on top when absent. */
  build: z.enum(['overlay', 'inlay']).optional(),
  /** How far the lower film reaches under an inlaid one. */
  trapMm: z.number().min(0).max(100).optional(),
  placeMarks: z.boolean().optional(),
  /** Not cut: the surface has this colour. */
  leftOut: z.boolean().optional(),
  /** Items that are let into the films below whatever the film does. */
  inlaid: z.array(itemId).max(20_000).optional(),
});

/** Where white ink lies, and how much of it; see `design/output.md` of the project, section 4. */
export const whiteRuleSchema = z.object({
  where: z.enum(['behind', 'in-front', 'between']),
  coverage: z.enum(['whole-sheet', 'where-printed', 'named-spot', 'more-under-dark', 'more-under-light']),
  spots: z.array(z.string().max(80)).max(32),
  bend: z.number().min(0.1).max(10),
  strengthPct: z.number().min(0).max(100),
  /** Spread, negative: choke. */
  spreadMm: z.number().min(-50).max(50),
});

/** What is laid down at one time, in the order of printing. */
export const printPassSchema = z.object({
  kind: z.enum(['colour', 'white']),
  /** Items and groups whose art it is; null: all of the layer. */
  items: z.array(itemId).min(1).max(500).nullable(),
  /** Turned over left to right, to be read from the other side. */
  mirror: z.boolean(),
});

const share = z.number().min(0).max(1);
/** How an ink of its own name is laid down. */
export const spotRuleSchema = z.object({
  as: z.enum(['plate', 'process']),
  /** Cyan, magenta, yellow, black that stand for it; null: by its look. */
  cmyk: z.tuple([share, share, share, share]).nullable(),
});

/** A print: `hex` is the medium's own colour. */
export const printSchema = z.object({
  ...layerBase,
  type: z.literal('print'),
  medium: z.enum(['white', 'clear', 'paper', 'transfer']),
  white: whiteRuleSchema.optional(),
  /** Inks of their own names: a plate of their own, or laid down in process inks. What is not named is a plate. */
  spots: z.record(z.string().max(80), spotRuleSchema).optional(),
  /** Absent: at once, white as a plate of the same page; between two colours always in three. */
  passes: z.array(printPassSchema).min(1, 'one pass').max(8, 'eight passes at most').optional(),
});

export type SpotRule = z.infer<typeof spotRuleSchema>;
export type PassRule = z.infer<typeof printPassSchema>;
export type Film = z.infer<typeof filmSchema>;
export type PrintLayer = z.infer<typeof printSchema>;
/** A film that is cut, or a print. */
export type Layer = Film | PrintLayer;
/** What is printed on. */
export type Medium = PrintLayer['medium'];
