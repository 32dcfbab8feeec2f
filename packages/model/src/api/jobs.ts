/** Jobs and their changes, as they cross HTTP. */
import { z } from 'zod';
import { recordSchema } from '../records/document.ts';
import { JOB_STATES } from './job-states.ts';
import { packedSchema } from '../records/packed.ts';

/** See `JOB_STATES`. */
export const jobStateSchema = z.enum(JOB_STATES);
export type JobState = z.infer<typeof jobStateSchema>;

const text = (most: number) => z.string().trim().max(most);
/** A day that there is in the calendar, of a century that jobs are done in. */
const date = z.iso
  .date('a date such as 2026-05-31')
  .refine((day) => day >= '2000-01-01' && day < '2100-01-01', 'a date between 2000 and 2099');

/** What a job begins with. */
export const newJobSchema = z.object({
  name: text(120).min(1, 'a name'),
  customer: text(120).default(''),
  dueOn: date.nullable().default(null),
});
/** As it is sent: what has a usual value may be left out. */
export type NewJob = z.input<typeof newJobSchema>;

/** What of a job can be changed beside its drawing; at least one of them. */
export const jobChangeSchema = z
  .object({ name: text(120).min(1, 'a name'), customer: text(120), dueOn: date.nullable(), state: jobStateSchema, archived: z.boolean() })
  .partial()
  .refine((fields) => Object.keys(fields).length > 0, 'at least one field');
export type JobChange = z.infer<typeof jobChangeSchema>;

/** A job on the board, without its drawing. */
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

const MOST_RECORDS = 120_000;
const countOf = (patch: z.infer<typeof packedSchema>): number =>
  Object.keys(patch.records).length + (patch.moved ?? []).reduce((sum, [, , ids]) => sum + ids.length, 0);

/** A change as it crosses the line. */
export const patchSchema = packedSchema
  .refine((patch) => countOf(patch) > 0, 'a change of at least one record')
  .refine((patch) => countOf(patch) <= MOST_RECORDS, 'fewer than 120 000 records at once');

/** Was it done afresh, or is it a step back or forward through the history? */
export const changeKindSchema = z.enum(['do', 'undo', 'redo']);
export type ChangeKind = z.infer<typeof changeKindSchema>;

/** A change of the drawing that the page sends, with the revision it was made on. */
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
/** As it is sent. */
export type PostChange = z.input<typeof postChangeSchema>;

/** A change as the log keeps it, with the revision that it made. */
export const loggedChangeSchema = z.object({
  revision: z.number(),
  changeId: z.string(),
  kind: changeKindSchema,
  origin: z.string(),
  group: z.string(),
  patch: patchSchema,
});
export type LoggedChange = z.infer<typeof loggedChangeSchema>;

/** A job with its drawing at a revision. */
export const openJobSchema = z.object({
  job: jobSchema,
  revision: z.number(),
  records: z.record(z.string(), recordSchema),
  /** What had to be put right when the job was opened, a sentence. */
  note: z.string().nullable().default(null),
  /** Why the job can be looked at only, a sentence; null: it can be changed. */
  readOnly: z.string().nullable().default(null),
});
export type OpenJob = z.infer<typeof openJobSchema>;

/** The newest changes up to a revision, oldest first, from which the history is rebuilt; every text that they name. */
export const jobHistorySchema = z.object({
  changes: z.array(loggedChangeSchema),
  texts: z.record(z.string(), z.string()),
  /** There were steps before, which cannot be gone back over: another version of the program made them. */
  closed: z.boolean().default(false),
});
export type JobHistory = z.infer<typeof jobHistorySchema>;

/** A state of a job that somebody gave a name. */
export const jobVersionSchema = z.object({ id: z.string(), name: z.string(), revision: z.number(), madeAt: z.string() });
export type JobVersion = z.infer<typeof jobVersionSchema>;
/** What a named version is called. */
export const newVersionSchema = z.object({
  name: text(120).min(1, 'a name'),
  /** The state that was looked at; one that has changed meanwhile is not kept under its name. */
  revision: z.number().int().min(0),
});
export type NewVersion = z.infer<typeof newVersionSchema>;

/** What the server answers when it is asked how it is. */
export const healthSchema = z.object({
  status: z.enum(['ok', 'trouble']),
  /** Why writing does not work, and since when nothing is saved. */
  fault: z.string().optional(),
  since: z.string().optional(),
  text: z.string().optional(),
});
export type Health = z.infer<typeof healthSchema>;

/** The passphrase of the shop. */
export const signInSchema = z.object({ passphrase: z.string().min(1, 'the passphrase').max(500) });
/** Does the shop ask for a passphrase, and was it given? */
export const accessStateSchema = z.object({ asked: z.boolean(), signedIn: z.boolean() });
export type AccessState = z.infer<typeof accessStateSchema>;

/** A copy of all that the shop holds. */
export const backupSchema = z.object({ name: z.string(), madeAt: z.string(), why: z.string(), bytes: z.number() });
export type Backup = z.infer<typeof backupSchema>;
