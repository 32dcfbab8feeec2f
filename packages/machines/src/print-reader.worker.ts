/** A thread that reads one print. */
import { parentPort } from 'node:worker_threads';
import { readPrint } from './print-reader.ts';

parentPort?.once('message', (bytes: Uint8Array) => {
  readPrint(bytes).then(
    (page) => parentPort?.postMessage({ page }),
    (error: unknown) => parentPort?.postMessage({ why: error instanceof Error ? error.message : String(error) }),
  );
});
