/**
 * The page's worker: takes questions at once, answers them when its engine has loaded. The engine waits for
 * WebAssembly while it is imported; a static import would let the first messages arrive before anyone listens.
 */
import { errorToWire } from '@lorvek/core';
import type { Answered, Asked } from './wire.ts';

const engine = import('./engine.ts');

self.onmessage = (event: MessageEvent<Asked>): void => {
  const { id } = event.data;
  engine
    .then(({ answer }) => answer(event.data))
    .then((output) => self.postMessage({ id, ok: true, output } satisfies Answered))
    .catch((error: unknown) => self.postMessage({ id, ok: false, error: errorToWire(error) } satisfies Answered));
};
