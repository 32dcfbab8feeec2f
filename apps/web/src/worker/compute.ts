/** Asking the page's worker. */
import { AppError, CancelledError } from '@lorvek/core';
import type { Answered, Op, Requests, Underway } from './wire.ts';

interface Asking {
  resolve: (output: never) => void;
  reject: (error: AppError) => void;
  onShare: ((share: number) => void) | undefined;
}

let nextId = 1;

interface Lane {
  /** @param onShare told from time to time how much of it is done, 0 to 1 */
  ask<K extends Op>(op: K, input: Requests[K]['input'], onShare?: (share: number) => void): Promise<Requests[K]['output']>;
  /** Ends what is being computed; the next question starts afresh. */
  stop(): void;
}

/** One worker and the questions it has not answered yet. Started when first asked. */
function lane(): Lane {
  let worker: Worker | undefined;
  const waiting = new Map<number, Asking>();
  const open = (): Worker => {
    const w = new Worker(new URL('./compute.worker.ts', import.meta.url), { type: 'module' });
    w.onmessage = (event: MessageEvent<Answered | Underway>): void => {
      const answer = event.data;
      const asked = waiting.get(answer.id);
      if ('share' in answer) return asked?.onShare?.(answer.share);
      waiting.delete(answer.id);
      if (answer.ok) asked?.resolve(answer.output as never);
      else asked?.reject(AppError.fromWire(answer.error));
    };
    w.onerror = (): void => {
      for (const { reject } of waiting.values())
        reject(new AppError('worker', 'The computation broke off. Undo the last step or reload the page; nothing is lost.'));
      waiting.clear();
      worker = undefined;
    };
    return w;
  };
  return {
    ask: (op, input, onShare) => {
      worker ??= open();
      const id = nextId++;
      const answer = new Promise<never>((resolve, reject) => waiting.set(id, { resolve, reject, onShare }));
      worker.postMessage({ id, op, input });
      return answer;
    },
    stop: () => {
      worker?.terminate();
      worker = undefined;
      for (const { reject } of waiting.values()) reject(new CancelledError());
      waiting.clear();
    },
  };
}

/** What the screen waits for: outlines, sheets, checks. @throws AppError with the code the computation failed with */
export const { ask } = lane();

/** Tracing, which a newer question makes pointless. */
export const { ask: askTrace, stop: stopTrace } = lane();

/** What may take its time without holding up the drawing: previews of the weld family, files that come in. */
export const { ask: askAside, stop: stopAside } = lane();
