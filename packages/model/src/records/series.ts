/**
 * Series: one design, and for each row of a list or each number a piece of its own. One a job.
 *
 * The rows are kept as they were read; what was corrected by hand lies beside them, by row and column, so that a newer
 * list can be compared with the one before. Rows are counted from 0 here and from 1 wherever they are shown.
 */
import { z } from 'zod';
import { id, itemId, name } from './fields.ts';

/** The one series of a job. */
export const SERIES_ID = 'series-rows';
/** A list with more is refused with these figures. */
export const MOST_ROWS = 20_000;
/** Pieces that one job lays up. */
export const MOST_PIECES_OF_SERIES = 2000;

const cell = z.string().max(20_000);
const rowKey = z.string().regex(/^\d{1,6}$/);

/** A number or letters that count up from row to row. */
export const counterSchema = z.object({
  /** The first number; of letters 1 is A. */
  start: z.number().int().min(-1e9).max(1e9),
  step: z.number().int().min(-1e6).max(1e6),
  padding: z.number().int().min(0).max(20),
  prefix: z.string().max(40),
  suffix: z.string().max(40),
  letters: z.boolean(),
  reverse: z.boolean(),
  skip: z.array(z.string().max(40)).max(1000),
});

/** A lettering or picture that rows fill. */
export const fieldSchema = z.object({
  /** Lettering or picture that differs from row to row. */
  item: itemId,
  /** Text with `{column}` and `{n}` in it; of a picture the name of its file. */
  pattern: z.string().max(2000),
  /** What becomes of text that is longer than its place. */
  long: z.enum(['as-is', 'smaller', 'narrower', 'two-lines']),
  leastPct: z.number().min(10).max(100),
  /** Room for it; null: as wide as the lettering is on the drawing. */
  widthMm: z.number().min(1).max(1e5).nullable(),
});

/** Pictures that fields name by their file. */
const namedPictureSchema = z.object({
  fileName: z.string().max(300),
  asset: z.string().regex(/^[0-9a-f]{64}$/),
  widthPx: z.number().int().min(1).max(60_000),
  heightPx: z.number().int().min(1).max(60_000),
  silhouette: z.string().max(4_000_000).optional(),
});

/** A customer's list as it was read. */
export const listSchema = z.object({
  fileName: z.string().max(300),
  columns: z.array(cell).max(1000),
  rows: z.array(z.array(cell).max(1000)).max(MOST_ROWS),
});

/** One drawing made many times, row by row. */
export const seriesSchema = z.object({
  type: z.literal('series'),
  id,
  name,
  /** Off: the design is laid up once, as it is drawn. */
  laid: z.boolean(),
  fields: z.array(fieldSchema).max(200),
  counter: counterSchema.nullable(),
  /** How many, when there is no list. */
  count: z.number().int().min(1).max(MOST_PIECES_OF_SERIES),
  list: listSchema.nullable(),
  /** By row and column: what was corrected by hand. */
  corrections: z.record(rowKey, z.record(z.string().regex(/^\d{1,3}$/), cell)),
  off: z.array(z.number().int().min(0)).max(100_000),
  copies: z.record(rowKey, z.number().int().min(0).max(2000)),
  /** Only these rows are laid up now, to make single pieces again; absent: all that are on. */
  only: z.array(z.number().int().min(0)).max(2000).optional(),
  pictures: z.array(namedPictureSchema).max(500).optional(),
});
export type Counter = z.infer<typeof counterSchema>;
export type Field = z.infer<typeof fieldSchema>;
export type ReadRows = z.infer<typeof listSchema>;
export type NamedPicture = z.infer<typeof namedPictureSchema>;
export type Series = z.infer<typeof seriesSchema>;

/** Counts 1, 2, 3. */
export const USUAL_COUNTER: Counter = {
  start: 1,
  step: 1,
  padding: 0,
  prefix: '',
  suffix: '',
  letters: false,
  reverse: false,
  skip: [],
};

/** A series that nothing was said about yet. */
export const newSeries = (): Series => ({
  type: 'series',
  id: SERIES_ID,
  name: 'Series',
  laid: true,
  fields: [],
  counter: null,
  count: 10,
  list: null,
  corrections: {},
  off: [],
  copies: {},
});

/** A field as it begins. */
export const newField = (item: string, pattern: string): Field => ({ item, pattern, long: 'smaller', leastPct: 60, widthMm: null });
