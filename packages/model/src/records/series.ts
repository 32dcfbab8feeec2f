/** Series: one design, and for each row of a list or each number a piece of its own. */
import { z } from 'zod';
import { id, name } from './fields.ts';

const cell = z.string().max(20_000);

export const counterSchema = z.object({
  start: z.number().int().min(-1e9).max(1e9),
  step: z.number().int().min(-1e6).max(1e6),
  padding: z.number().int().min(0).max(20),
  prefix: z.string().max(40),
  suffix: z.string().max(40),
  letters: z.boolean(),
  reverse: z.boolean(),
  skip: z.array(z.string().max(40)).max(1000),
});

export const fieldSchema = z.object({
  /** Lettering or picture that differs from row to row. */
  item: id,
  /** Text with `{column}` and `{n}` in it. */
  pattern: z.string().max(2000),
  /** What becomes of text that is longer than its place. */
  long: z.enum(['as-is', 'smaller', 'narrower', 'two-lines']),
  leastPct: z.number().min(10).max(100),
  /** Room for it; null: as wide as the lettering is on the drawing. */
  widthMm: z.number().min(1).max(1e5).nullable(),
});

export const seriesSchema = z.object({
  type: z.literal('series'),
  id,
  name,
  fields: z.array(fieldSchema).max(200),
  counter: counterSchema.nullable(),
  /** The list as it was read, an asset; null: a counter alone. */
  list: z.object({ asset: z.string().regex(/^[0-9a-f]{64}$/), fileName: z.string().max(200), columns: z.array(cell).max(1000) }).nullable(),
  /** By row: what was corrected by hand, what is left out, how many copies. */
  corrections: z.record(z.string().regex(/^\d{1,6}$/), z.record(z.string().max(200), cell)),
  off: z.array(z.number().int().min(0)).max(100_000),
  copies: z.record(z.string().regex(/^\d{1,6}$/), z.number().int().min(0).max(2000)),
});
export type Series = z.infer<typeof seriesSchema>;
