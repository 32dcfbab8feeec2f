/** Asking the page's worker. */
import { AppError } from '@lorvek/core';
import type { Answered, Op, Requests } from './wire.ts';

let worker: Worker | undefined;
let nextId = 1;
const waiting = new Map<number, { resolve: (output: never) => void; reject: (error: AppError) => void }>();

function open(): Worker {
  const w = new Worker(new URL('./compute.worker.ts', import.meta.url), { type: 'module' });
  w.onmessage = (event: MessageEvent<Answered>): void => {
    const answer = event.data;
    const asked = waiting.get(answer.id);
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
}

/** @throws AppError with the code the computation failed with */
export function ask<K extends Op>(op: K, input: Requests[K]['input']): Promise<Requests[K]['output']> {
  worker ??= open();
  const id = nextId++;
  const answer = new Promise<Requests[K]['output']>((resolve, reject) => waiting.set(id, { resolve, reject }));
  worker.postMessage({ id, op, input });
  return answer;
}
