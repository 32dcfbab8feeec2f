/** Asking the page's worker. */
import { AppError, CancelledError } from '@lorvek/core';
import type { Drawing } from '@lorvek/model';
import { newsOf } from './mirror.ts';
import type { Answered, Broken, Input, Op, Output, Posted, Question, Underway } from './wire.ts';

interface Asking {
  readonly question: Question;
  resolve: (output: never) => void;
  reject: (error: AppError) => void;
  onShare: ((share: number, soFar: never) => void) | undefined;
}

let nextId = 1;

/** A worker whose program could not be fetched is replaced after this. */
const RESTART_MS = 1000;

interface Lane {
  /** @param onShare told from time to time how much of it is done, 0 to 1, and of what betters its answers the best so far */
  ask<K extends Op>(op: K, input: Input<K>, onShare?: (share: number, soFar: Output<K> | undefined) => void): Promise<Output<K>>;
  /** Ends what is being computed; the next question starts afresh. */
  stop(): void;
}

/** One worker and the questions it has not answered yet. Started when first asked, and afresh after a failure. */
function lane(): Lane {
  let worker: Worker | undefined;
  /** The drawing that the worker has. */
  let mirrored: Drawing | undefined;
  let restart: ReturnType<typeof setTimeout> | undefined;
  const waiting = new Map<number, Asking>();
  const close = (): void => {
    clearTimeout(restart);
    restart = undefined;
    worker?.terminate();
    worker = undefined;
    mirrored = undefined;
  };
  const post = (to: Worker, question: Question): void => {
    if (!('drawing' in question.input)) return to.postMessage({ question } satisfies Posted);
    const { drawing } = question.input;
    const news = newsOf(mirrored, drawing);
    mirrored = drawing;
    to.postMessage({ question: { ...question, input: { ...question.input, drawing: {} } } as Question, news } satisfies Posted);
  };
  const giveUp = (error: AppError): void => {
    close();
    const asked = [...waiting.values()];
    waiting.clear();
    for (const { reject } of asked) reject(error);
  };
  const open = (): Worker => {
    const w = new Worker(new URL('./compute.worker.ts', import.meta.url), { type: 'module' });
    let started = false;
    /** The server was away while the worker loaded: its questions wait for the next one. */
    const openAgain = (): void => {
      close();
      restart = setTimeout(() => {
        restart = undefined;
        worker = open();
        for (const { question } of waiting.values()) post(worker, question);
      }, RESTART_MS);
    };
    w.onmessage = (event: MessageEvent<Answered | Underway | Broken>): void => {
      const answer = event.data;
      if ('broken' in answer) return openAgain();
      started = true;
      const asked = waiting.get(answer.id);
      if ('share' in answer) return asked?.onShare?.(answer.share, answer.soFar as never);
      waiting.delete(answer.id);
      if (answer.ok) asked?.resolve(answer.output as never);
      else asked?.reject(AppError.fromWire(answer.error));
    };
    w.onerror = (): void => {
      if (!started) return openAgain();
      giveUp(new AppError('worker', 'The computation broke off. Undo the last step or reload the page; nothing is lost.'));
    };
    return w;
  };
  return {
    ask: (op, input, onShare) => {
      const question = { id: nextId++, op, input } as Question;
      const answer = new Promise<never>((resolve, reject) => waiting.set(question.id, { question, resolve, reject, onShare }));
      if (restart === undefined) post((worker ??= open()), question);
      return answer;
    },
    stop: () => giveUp(new CancelledError()),
  };
}

/** What the screen waits for besides outlines: cut lines, orders, sheets, checks. @throws AppError with the code the computation failed with */
export const { ask } = lane();

/** Outlines of items, in the order of the queue that asks for them; stopped when nobody wants them any more. */
export const { ask: askDerive, stop: stopDerive } = lane();

/** Tracing, which a newer question makes pointless. */
export const { ask: askTrace, stop: stopTrace } = lane();

/** First looks at a trace: over soon, so never stopped, and what was worked out for the last one serves the next. */
export const { ask: askLook } = lane();

const nestLanes = [lane(), lane()];
/** Nesting, which goes on until it is stopped: searches from several starts, each in a worker of its own. */
export const askNests = nestLanes.map(({ ask: askNest }) => askNest);
export const stopNests = (): void => nestLanes.forEach(({ stop }) => stop());

/** How films are built, while that is looked at. */
export const { ask: askBuild, stop: stopBuild } = lane();

/** What may take its time without holding up the drawing: previews of the weld family, files that come in. */
export const { ask: askAside, stop: stopAside } = lane();
