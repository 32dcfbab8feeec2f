/** Reading a print in a thread of its own: a large file keeps no machine from answering. */
import { once } from 'node:events';
import { Worker } from 'node:worker_threads';
import type { ReadPage } from './print-reader.ts';

/** Where the built thread lies when the machines themselves run from source, as in tests. */
const BUILT = '../dist/print-reader.worker.js';

type Answer = { readonly page: ReadPage } | { readonly why: string };

/** Threads that have read their print and wait for the next one; they keep no process alive. */
const idle: Worker[] = [];

function begin(): Worker {
  const worker = new Worker(new URL(import.meta.url.endsWith('.ts') ? BUILT : './print-reader.worker.js', import.meta.url));
  worker.on('exit', () => {
    if (idle.includes(worker)) idle.splice(idle.indexOf(worker), 1);
  });
  return worker;
}

/**
 * @param bytes the file; handed over, and empty afterwards
 * @throws Error for what is no print, or when it was given up
 */
export async function readApart(bytes: Uint8Array<ArrayBuffer>, signal: AbortSignal): Promise<ReadPage> {
  const worker = idle.pop() ?? begin();
  worker.ref();
  const over = new AbortController();
  try {
    const ends = AbortSignal.any([signal, over.signal]);
    const answer = once(worker, 'message', { signal: ends }) as Promise<[Answer]>;
    const end = once(worker, 'exit', { signal: ends }).then((): never => {
      throw new Error('the reader broke off');
    });
    worker.postMessage(bytes, [bytes.buffer]);
    const [told] = await Promise.race([answer, end]);
    worker.unref();
    idle.push(worker);
    if ('page' in told) return told.page;
    throw new Error(told.why);
  } catch (error) {
    if (!idle.includes(worker)) await worker.terminate();
    throw signal.aborted ? new Error('given up') : error;
  } finally {
    over.abort();
  }
}
