/** Runs of the queue and their states: a run prints or cuts one sheet on one machine. */
import { z } from 'zod';
import { cuttingChoiceSchema, paperChoiceSchema } from './shop.ts';

/** Where a run stands; the last ones are its ends. */
export const RUN_STATES = ['held', 'waiting', 'working', 'paused', 'needs-you', 'done', 'failed', 'cancelled'] as const;
/** See `RUN_STATES`. */
export const runStateSchema = z.enum(RUN_STATES);
export type RunState = z.infer<typeof runStateSchema>;

/** Every move a run may make, of both kinds. A finished run is repeated as a new one. */
export const RUN_MOVES: Readonly<Record<RunState, readonly RunState[]>> = {
  held: ['waiting', 'needs-you', 'cancelled'],
  waiting: ['held', 'working', 'cancelled'],
  working: ['paused', 'needs-you', 'done', 'failed', 'cancelled'],
  paused: ['working', 'needs-you', 'done', 'cancelled'],
  'needs-you': ['waiting', 'cancelled'],
  done: [],
  failed: ['waiting', 'cancelled'],
  cancelled: [],
};

/** May a cut that stopped go on where it did? It has to be known where that was. */
export const mayGoOn = (run: Run): boolean =>
  run.kind === 'cut' && run.state === 'needs-you' && run.step === null && run.progress > 0 && run.progress < 1;

/**
 * May a run go from one state to another?
 * @returns false also from a state to itself
 */
export const canMove = (from: RunState, to: RunState): boolean => RUN_MOVES[from].includes(to);

/** States of runs that are not over. */
export const OPEN_STATES = ['held', 'waiting', 'working', 'paused', 'needs-you'] as const satisfies readonly RunState[];

/** What marks that were found say of where the sheet lies. */
export const correctionSchema = z.object({
  model: z.string(),
  /** Of each mark, first one first; null: not found. */
  residualsMm: z.array(z.number().nullable()),
  measured: z.array(z.object({ x: z.number(), y: z.number() }).nullable()),
  /** What is left is more than the camera's own error: look before cutting. */
  doubtful: z.boolean(),
});
export type RunCorrection = z.infer<typeof correctionSchema>;

const runBase = z.object({
  id: z.string(),
  jobId: z.string(),
  jobName: z.string(),
  /** What is cut or printed, e.g. the film's name. */
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
  estimatedS: z.number(),
  hasPicture: z.boolean(),
  /** What is left of its sheet went back into Stock as this roll; null: it did not. */
  offcutId: z.string().nullable(),
  createdAt: z.string(),
  endedAt: z.string().nullable(),
  /** Short name of the sheet, as it is printed on it. */
  code: z.string().nullable(),
  /** Lay-up and number of the sheet. */
  sheet: z.string(),
  /** Order in the queue: of two that wait for a machine the smaller one comes first. */
  place: z.number(),
});

/** A sheet that is cut. */
export const cutRunSchema = runBase.extend({
  kind: z.literal('cut'),
  cutMm: z.number(),
  /** Where the tool is on the sheet, mm; null when it is not known. */
  carriage: z.object({ x: z.number(), y: z.number(), down: z.boolean() }).nullable(),
  /** The print that it waits for. */
  after: z.string().nullable(),
  /** Where the sheet's lower left corner lies on the machine, mm; null: at its own origin. */
  origin: z.object({ x: z.number(), y: z.number() }).nullable(),
  /** Who holds a run that is held. */
  heldFor: z.enum(['you', 'print']).nullable(),
  /** Where a cut of a printed sheet stands: the sheet is to be loaded, its marks were found. null: it needs no marks. */
  step: z.enum(['load', 'ready']).nullable(),
  correction: correctionSchema.nullable(),
  /** Nominal places of the marks, the first one first, mm. */
  marks: z.array(z.object({ x: z.number(), y: z.number() })),
  /** Greatest distance between where the cut is and where it should be on the art, as the machine saw it, mm. */
  offMm: z.number().nullable(),
});
/** A sheet that is printed. */
export const printRunSchema = runBase.extend({
  kind: z.literal('print'),
  /** Ink that was used, ml, by plate; null while it is not known. */
  inkMl: z.record(z.string(), z.number()).nullable(),
});
/** A run: one sheet on one machine. */
export const runSchema = z.discriminatedUnion('kind', [cutRunSchema, printRunSchema]);
export type Run = z.infer<typeof runSchema>;
export type CutRun = z.infer<typeof cutRunSchema>;
export type PrintRun = z.infer<typeof printRunSchema>;

/** What can be done with a run. */
export const runActionSchema = z.enum(['hold', 'release', 'pause', 'resume', 'cancel', 'retry', 'go-on', 'repeat', 'first']);
export type RunAction = z.infer<typeof runActionSchema>;
/** An action on a run, with what it needs. */
export const actSchema = z.object({
  action: runActionSchema,
  /** Of `repeat`: how many more. */
  count: z.number().int().min(1, 'once or more').max(50, 'fifty times at most').default(1),
});

/** Another place in the queue: before a run of the same machine, or behind all of them. */
export const placeSchema = z.object({ before: z.string().max(60).nullable() });
/** Where a cut begins: where the tool stands now, or at the machine's own origin. */
export const originSchema = z.object({ at: z.enum(['tool', 'machine']) });
/** The machine that a run is given to instead. */
export const otherMachineSchema = z.object({ machineId: z.string().min(1).max(60) });

/** Something that happened to a run. */
export interface RunEvent {
  /** ISO 8601. */
  readonly at: string;
  readonly text: string;
}

/** What is left of a sheet that was cut, as a path from its lower left corner; null: nothing worth keeping. */
export interface Leftover {
  readonly left: { readonly widthMm: number; readonly lengthMm: number; readonly path: string } | null;
}

/** What was done between two instants. */
export const totalsAskedSchema = z
  .object({ from: z.iso.datetime({ offset: true }), to: z.iso.datetime({ offset: true }) })
  .refine(({ from, to }) => from < to, 'an end after the beginning');
/** What runs came to, by month or over a log. */
export interface RunTotals {
  readonly cuts: number;
  readonly prints: number;
  /** Of rolls, mm. */
  readonly filmMm: number;
  readonly cutMm: number;
  readonly inkMl: Readonly<Record<string, number>>;
  readonly failed: number;
}

/** Runs that wait for their turn, and may change it. */
export const MOVABLE_STATES = ['held', 'waiting'] as const satisfies readonly RunState[];
/** May it still be given to another machine, or another place in the queue? */
export const isMovable = ({ state }: Pick<Run, 'state'>): boolean => (MOVABLE_STATES as readonly RunState[]).includes(state);

/** What Send orders: which layers' sheets go to which machines with which tool setups, as the drawing stands at a revision. */
export const sendSchema = z
  .object({
    /** Made by the page; an order that is sent twice is taken once. */
    orderId: z.string().regex(/^[A-Za-z0-9_-]{8,60}$/, 'an id of 8 to 60 letters'),
    revision: z.number().int().min(0),
    layers: z.array(z.string()).min(1, 'at least one film or print').max(100),
    /** null: nothing is cut. */
    cutter: z.object({ machineId: z.string(), setupId: z.string(), cutting: cuttingChoiceSchema.optional() }).nullable(),
    /** null: nothing is printed. */
    printer: z.object({ machineId: z.string(), paper: paperChoiceSchema.optional() }).nullable().default(null),
    hold: z.boolean().default(false),
  })
  .refine(({ cutter, printer }) => cutter !== null || printer !== null, 'a machine');
/** Which sheets go where, as it is sent. */
export type SendOrder = z.input<typeof sendSchema>;

/** What the camera of a cutter is asked to do for a run. */
export const cameraSchema = z.discriminatedUnion('do', [
  z.object({ do: z.literal('read-code') }),
  z.object({ do: z.literal('jog'), dx: z.number().min(-2000).max(2000), dy: z.number().min(-2000).max(2000) }),
  z.object({ do: z.literal('find-marks') }),
  z.object({ do: z.literal('frame') }),
]);
export type CameraOrder = z.infer<typeof cameraSchema>;

/** What came of it, in words and figures. */
export const cameraAnswerSchema = z.object({
  text: z.string(),
  ok: z.boolean(),
  place: z.object({ x: z.number(), y: z.number() }).nullable(),
  run: runSchema,
});
export type CameraAnswer = z.infer<typeof cameraAnswerSchema>;

/** What an ink covers. */
export interface SheetPlate {
  readonly name: string;
  /** Share of the page, 0 to 1. */
  readonly cover: number;
  /** A PNG as data URL: black none, white full. */
  readonly picture: string;
}

/** What each ink of a sheet's print covers, pass by pass in the order of printing; most prints have one. */
export interface SheetPlates {
  readonly widthMm: number;
  readonly heightMm: number;
  readonly passes: readonly { readonly name: string; readonly kind: 'colour' | 'white'; readonly plates: readonly SheetPlate[] }[];
}

/** How a sheet will look when it is printed, PNGs as data URLs; what is out of reach is opaque in the second. */
export interface SoftLook {
  readonly widthMm: number;
  readonly heightMm: number;
  readonly profile: string;
  readonly picture: string;
  readonly beyond: string;
  /** Share of what is printed, 0 to 1. */
  readonly beyondShare: number;
}
