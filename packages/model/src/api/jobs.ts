/** Jobs and their changes, as they cross HTTP. */
import { z } from 'zod';
import { recordSchema } from '../document.ts';

export const JOB_STATES = ['todo', 'working', 'ready', 'done'] as const;
export const jobStateSchema = z.enum(JOB_STATES);
export type JobState = z.infer<typeof jobStateSchema>;

const text = (most: number) => z.string().trim().max(most);
const date = z.string().regex(/^\d{4}-\d{2}-\d{2}$/, 'a date such as 2026-05-31');

export const newJobSchema = z.object({
  name: text(120).min(1, 'a name'),
  customer: text(120).default(''),
  dueOn: date.nullable().default(null),
});
export type NewJob = z.input<typeof newJobSchema>;

export const jobChangeSchema = z
  .object({ name: text(120).min(1, 'a name'), customer: text(120), dueOn: date.nullable(), state: jobStateSchema, archived: z.boolean() })
  .partial()
  .refine((fields) => Object.keys(fields).length > 0, 'at least one field');
export type JobChange = z.infer<typeof jobChangeSchema>;

export const jobSchema = z.object({
  id: z.string(),
  name: z.string(),
  customer: z.string(),
  dueOn: z.string().nullable(),
  state: jobStateSchema,
  archived: z.boolean(),
  revision: z.number(),
  createdAt: z.string(),
  updatedAt: z.string(),
});
export type Job = z.infer<typeof jobSchema>;

export const patchSchema = z
  .record(z.string().max(60), z.object({ before: recordSchema.nullable(), after: recordSchema.nullable() }))
  .refine((patch) => Object.keys(patch).length > 0, 'a change of at least one record')
  .refine((patch) => Object.keys(patch).length <= 60_000, 'fewer than 60 000 records at once');

/** Was it done afresh, or is it a step back or forward through the history? */
export const changeKindSchema = z.enum(['do', 'undo', 'redo']);
export type ChangeKind = z.infer<typeof changeKindSchema>;

export const postChangeSchema = z.object({
  /** Made by the page; a change that is sent twice is taken once. */
  changeId: z.string().regex(/^[A-Za-z0-9_-]{8,60}$/, 'an id of 8 to 60 letters'),
  baseRevision: z.number().int().min(0),
  kind: changeKindSchema.default('do'),
  /** Dotted name of what was done, e.g. `item.move`. */
  origin: z.string().regex(/^[a-z][a-z.-]{0,60}$/, 'a dotted name such as item.move'),
  /** Changes with the same group are one step of the history. */
  group: z.string().max(60).default(''),
  patch: patchSchema,
});
export type PostChange = z.input<typeof postChangeSchema>;

export const loggedChangeSchema = z.object({
  revision: z.number(),
  changeId: z.string(),
  kind: changeKindSchema,
  origin: z.string(),
  group: z.string(),
  patch: patchSchema,
});
export type LoggedChange = z.infer<typeof loggedChangeSchema>;

export const openJobSchema = z.object({
  job: jobSchema,
  revision: z.number(),
  records: z.record(z.string(), recordSchema),
  /** The newest changes, oldest first, from which the history is rebuilt. */
  recent: z.array(loggedChangeSchema),
});
export type OpenJob = z.infer<typeof openJobSchema>;
