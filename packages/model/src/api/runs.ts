/** Runs of the queue and their states. */
import { z } from 'zod';

export const RUN_STATES = ['held', 'waiting', 'working', 'paused', 'needs-you', 'done', 'failed', 'cancelled'] as const;
export const runStateSchema = z.enum(RUN_STATES);
export type RunState = z.infer<typeof runStateSchema>;

/** Every move a run may make. A finished run is repeated as a new one. */
export const RUN_MOVES: Readonly<Record<RunState, readonly RunState[]>> = {
  held: ['waiting', 'cancelled'],
  waiting: ['held', 'working', 'cancelled'],
  working: ['paused', 'needs-you', 'done', 'failed', 'cancelled'],
  paused: ['working', 'needs-you', 'done', 'cancelled'],
  'needs-you': ['waiting', 'cancelled'],
  done: [],
  failed: ['waiting', 'cancelled'],
  cancelled: [],
};

export const canMove = (from: RunState, to: RunState): boolean => RUN_MOVES[from].includes(to);

/** States of runs that are not over. */
export const OPEN_STATES = ['held', 'waiting', 'working', 'paused', 'needs-you'] as const satisfies readonly RunState[];

export const runSchema = z.object({
  id: z.string(),
  jobId: z.string(),
  jobName: z.string(),
  /** What is cut, e.g. the film's name. */
  title: z.string(),
  filmHex: z.string(),
  machineId: z.string(),
  machineName: z.string(),
  state: runStateSchema,
  /** 0 to 1, of the file sent or of the way travelled when the machine reports it. */
  progress: z.number(),
  /** Why a run needs you or failed, and the way out. */
  reason: z.string().nullable(),
  lengthMm: z.number(),
  widthMm: z.number(),
  copies: z.number(),
  cutMm: z.number(),
  estimatedS: z.number(),
  /** Where the tool is on the sheet, mm; null when it is not known. */
  carriage: z.object({ x: z.number(), y: z.number(), down: z.boolean() }).nullable(),
  hasPicture: z.boolean(),
  createdAt: z.string(),
  endedAt: z.string().nullable(),
});
export type Run = z.infer<typeof runSchema>;

export const runActionSchema = z.enum(['hold', 'release', 'pause', 'resume', 'cancel', 'retry', 'repeat']);
export type RunAction = z.infer<typeof runActionSchema>;

/** What Send orders: which films' sheets go to which machine with which tool setup, as the drawing stands at a revision. */
export const sendSchema = z.object({
  /** Made by the page; an order that is sent twice is taken once. */
  orderId: z.string().regex(/^[A-Za-z0-9_-]{8,60}$/, 'an id of 8 to 60 letters'),
  revision: z.number().int().min(0),
  films: z.array(z.string()).min(1, 'at least one film').max(100),
  machineId: z.string(),
  setupId: z.string(),
  hold: z.boolean().default(false),
});
export type SendOrder = z.input<typeof sendSchema>;
