/** Reading a print in a thread of its own: a large file keeps no machine from answering. */
import { Worker } from 'node:worker_threads';
import type { ReadPage } from './print-reader.ts';

/** Where the built thread lies when the machines themselves run from source, as in tests. */
const BUILT = '../dist/print-reader.worker.js';

type Answer = { readonly page: ReadPage } | { readonly why: string };

/**
 * @param bytes the file; handed over, and empty afterwards
 * @throws Error for what is no print, or when it was given up
 */
export function readApart(bytes: Uint8Array<ArrayBuffer>, signal: AbortSignal): Promise<ReadPage> {
  const worker = new Worker(new URL(import.meta.url.endsWith('.ts') ? BUILT : './print-reader.worker.js', import.meta.url));
  return new Promise<ReadPage>((resolve, reject) => {
    signal.addEventListener('abort', () => reject(new Error('given up')));
    worker.once('message', (answer: Answer) => ('page' in answer ? resolve(answer.page) : reject(new Error(answer.why))));
    worker.once('error', reject);
    worker.once('exit', () => reject(new Error('the reader broke off')));
    worker.postMessage(bytes, [bytes.buffer]);
  }).finally(() => worker.terminate());
}
