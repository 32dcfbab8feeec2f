/**
 * Everything that is worked out apart from who asks, by name: an operation is a function of its question and of the place
 * where it runs (`host.ts`). The tables say what a place must have: none of the first needs more than fonts and a clock,
 * `with-pictures.ts` needs pictures, `with-files.ts` files; `reading.ts` opens files that come from outside, which is the
 * page's business. The page's worker and the server's threads are two hosts that carry questions to `answerTo` and answers
 * back; what an operation takes and gives is read off the tables.
 */
import { errorToWire, InputError, type WireError } from '@lorvek/core';
import { orderCuts, type PlannedSection } from '@lorvek/core/cut';
import { thinOut, type Contour, type Outline, type ThinnedOut } from '@lorvek/core/geometry';
import type { Drawing, EdgeCutItem, LeafItem } from '@lorvek/model';
import { orderLines, type Cutting } from '@lorvek/model/cut-file';
import type { Derived } from '@lorvek/model/derive';
import type { SheetLine } from '@lorvek/model/plan-sheet';
import { drawThumbnail } from '@lorvek/model/thumbnail';
import { buildView, type BuildAnswer, type BuildAsked } from './build-view.ts';
import { cleanShapes } from './clean-shapes.ts';
import type { Host, Tell } from './host.ts';
import { boxesLength, nestParts, type BoxesLength, type NestAsked } from './nest-parts.ts';
import { correctCut, planJob, sheetsOfJob } from './plan-job.ts';
import { splitParts, stackParts, type StackAsked } from './stack-parts.ts';
import { weldOperands, type Made, type Operand, type WeldKind } from './weld-operands.ts';

/** Operations by name, each a function of its question and of a place that has what `H` has; told `tell`, it says how far it is. */
export type Table<H> = Readonly<Record<string, (input: never, host: H, tell: never) => unknown>>;

export type OpOf<T> = keyof T & string;
type OperationOf<T, K extends OpOf<T>> = T[K] extends (input: infer I, host: never, tell: never) => infer O
  ? { input: I; output: Awaited<O> }
  : never;
export type InputOf<T, K extends OpOf<T>> = OperationOf<T, K>['input'];
export type OutputOf<T, K extends OpOf<T>> = OperationOf<T, K>['output'];
export type QuestionOf<T> = { [K in OpOf<T>]: { readonly op: K; readonly input: InputOf<T, K> } }[OpOf<T>];

/** An answer on its way: it went well, or an error that survives the way. */
export type Answer<Output> = { readonly ok: true; readonly output: Output } | { readonly ok: false; readonly error: WireError };

interface CutAsked {
  readonly lines: readonly SheetLine[];
  readonly cutting: Cutting;
  /** With the ways of the tool, in the order they are cut. */
  readonly withWays?: boolean;
}
interface CutAnswer {
  readonly seconds: number;
  readonly cutMm: number;
  readonly travelMm: number;
  readonly sections: readonly PlannedSection[];
}

function cutOf({ lines, cutting, withWays = false }: CutAsked): CutAnswer {
  const { estimate, plan } = orderLines(lines, cutting);
  return { ...estimate, sections: withWays ? plan.sections : [] };
}

/** What needs no more than fonts and a clock. */
export const COMPUTATIONS = {
  /** The outlines of an item. */
  derive: ({ item, sliverMm }: { readonly item: LeafItem; readonly sliverMm: number }, { fonts }: Host): Promise<Derived> =>
    fonts.derive(item, sliverMm),
  /** All sheets and findings, for the screen: in one question, for a large drawing is dear to hand over. */
  sheets: sheetsOfJob,
  /** The sheets of some layers, as they go to machines. */
  plan: planJob,
  correct: correctCut,
  /** How the films are built on one another, and what that costs. */
  build: async (input: BuildAsked, { fonts, pause }: Host, tell: Tell): Promise<BuildAnswer> =>
    buildView(input, await fonts.knowing(input.drawing, pause, (share) => tell(0.5 * share))),
  /** Small copies of printed pictures come as data URLs. */
  thumbnail: async (
    { drawing, pictures }: { readonly drawing: Drawing; readonly pictures: Readonly<Record<string, string>> },
    { fonts, pause }: Host,
  ): Promise<string> => drawThumbnail(drawing, await fonts.knowing(drawing, pause), new Map(Object.entries(pictures))),
  clean: cleanShapes,
  thin: ({ outline, tolMm }: { readonly outline: Outline; readonly tolMm: number }): ThinnedOut => thinOut(outline, tolMm),
  /** How long a cut takes. */
  cut: cutOf,
  /** The line of an edge cut round outlines on the drawing. */
  'edge-cut': ({ item, outlines }: { readonly item: EdgeCutItem; readonly outlines: readonly Outline[] }, { fonts }: Host): Outline =>
    fonts.edgeCut(item, outlines),
  order: ({ contours }: { readonly contours: readonly Contour[] }): { order: number[]; startIndex: number[] } =>
    orderCuts(contours.map((contour) => ({ contours: [contour] }))),
  weld: ({ kind, operands }: { readonly kind: WeldKind; readonly operands: readonly Operand[] }, _host: Host, tell: Tell): Made[] =>
    weldOperands(kind, operands, tell),
  /** In how many layers whole parts show what is seen. */
  split: ({ parts }: { readonly parts: Parameters<typeof splitParts>[0] }) => splitParts(parts),
  /** The order of films in which work looks as it came. */
  stack: (input: StackAsked, _host: Host, tell: Tell) => stackParts(input, tell),
  nest: (input: NestAsked, { now }: Host, tell: Tell<Awaited<ReturnType<typeof nestParts>>>) => nestParts(input, now, tell),
  'boxes-length': (input: NestAsked): Promise<BoxesLength> => boxesLength(input),
  /** Fonts that have every character of a text. */
  covering: ({ text }: { readonly text: string }, { fonts }: Host): Promise<string[]> => fonts.covering(text),
} as const satisfies Table<Host>;

/** Answers a question by a table; whatever goes wrong becomes an error that can be sent. */
export async function answerTo<H, T extends Table<H>>(
  table: T,
  { op, input }: QuestionOf<T>,
  host: H,
  tell: Tell,
): Promise<Answer<unknown>> {
  try {
    if (!Object.hasOwn(table, op)) throw new InputError('operation', `Nothing here works out “${op}”.`);
    const operation = table[op] as unknown as (input: unknown, host: H, tell: Tell) => unknown;
    return { ok: true, output: await operation(input, host, tell) };
  } catch (error) {
    return { ok: false, error: errorToWire(error) };
  }
}
