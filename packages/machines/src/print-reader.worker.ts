/** A thread that reads prints, one after the other. */
import { parentPort } from 'node:worker_threads';
import { readPrint } from './print-reader.ts';

parentPort?.on('message', (bytes: Uint8Array) => {
  readPrint(bytes).then(
    (page) => parentPort?.postMessage({ page }),
    (error: unknown) => parentPort?.postMessage({ why: error instanceof Error ? error.message : String(error) }),
  );
});
