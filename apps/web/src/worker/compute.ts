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

const BROKE_OFF = 'The computation broke off. Undo the last step or reload the page; nothing is lost.';

/** One worker and the questions it has not answered yet. Started when first asked, and afresh after a failure. */
class WorkerLane implements Lane {
  #worker: Worker | undefined;
  /** The drawing that the worker has. */
  #mirrored: Drawing | undefined;
  #restart: ReturnType<typeof setTimeout> | undefined;
  readonly #waiting = new Map<number, Asking>();

  readonly ask: Lane['ask'] = (op, input, onShare) => {
    const question = { id: nextId++, op, input } as Question;
    const answer = new Promise<never>((resolve, reject) => this.#waiting.set(question.id, { question, resolve, reject, onShare }));
    if (this.#restart === undefined) this.#post((this.#worker ??= this.#open()), question);
    return answer;
  };

  readonly stop = (): void => this.#giveUp(new CancelledError());

  #close(): void {
    clearTimeout(this.#restart);
    this.#restart = undefined;
    this.#worker?.terminate();
    this.#worker = undefined;
    this.#mirrored = undefined;
  }

  #post(to: Worker, question: Question): void {
    if (!('drawing' in question.input)) return to.postMessage({ question } satisfies Posted);
    const { drawing } = question.input;
    const news = newsOf(this.#mirrored, drawing);
    this.#mirrored = drawing;
    to.postMessage({ question: { ...question, input: { ...question.input, drawing: {} } } as Question, news } satisfies Posted);
  }

  #giveUp(error: AppError): void {
    this.#close();
    const asked = [...this.#waiting.values()];
    this.#waiting.clear();
    for (const { reject } of asked) reject(error);
  }

  #open(): Worker {
    const worker = new Worker(new URL('./compute.worker.ts', import.meta.url), { type: 'module' });
    let started = false;
    worker.onmessage = ({ data }: MessageEvent<Answered | Underway | Broken>): void => {
      if ('broken' in data) return this.#openAgain();
      started = true;
      this.#take(data);
    };
    worker.onerror = (): void => (started ? this.#giveUp(new AppError('worker', BROKE_OFF)) : this.#openAgain());
    return worker;
  }

  /** The server was away while the worker loaded: its questions wait for the next one. */
  #openAgain(): void {
    this.#close();
    this.#restart = setTimeout(() => {
      this.#restart = undefined;
      const worker = (this.#worker = this.#open());
      for (const { question } of this.#waiting.values()) this.#post(worker, question);
    }, RESTART_MS);
  }

  #take(answer: Answered | Underway): void {
    const asked = this.#waiting.get(answer.id);
    if ('share' in answer) return asked?.onShare?.(answer.share, answer.soFar as never);
    this.#waiting.delete(answer.id);
    if (answer.ok) asked?.resolve(answer.output as never);
    else asked?.reject(AppError.fromWire(answer.error));
  }
}

const lane = (): Lane => new WorkerLane();

/** What the screen waits for besides outlines: cut lines, orders, sheets, checks. @throws AppError with the code the computation failed with */
export const { ask, stop: stopAsking } = lane();

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
