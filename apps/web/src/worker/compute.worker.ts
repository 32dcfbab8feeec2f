/**
 * The page's worker: takes questions at once, answers them when its engine has loaded. The engine waits for
 * WebAssembly while it is imported; a static import would let the first messages arrive before anyone listens.
 */
import { errorToWire } from '@lorvek/core';
import type { Answered, Asked, Broken, Underway } from './wire.ts';

const engine = import('./engine.ts');
// a file of it that could not be fetched stays missing for the life of this worker
engine.catch(() => self.postMessage({ broken: true } satisfies Broken));

/** Shares of the work are told no oftener than this, ms. */
const TELL_MS = 100;

self.onmessage = (event: MessageEvent<Asked>): void => {
  const { id } = event.data;
  let told = performance.now();
  const onShare = (share: number, soFar?: unknown): void => {
    if (soFar === undefined && performance.now() - told < TELL_MS) return;
    told = performance.now();
    self.postMessage({ id, share, soFar } satisfies Underway);
  };
  void engine.then(
    ({ answer }) =>
      answer(event.data, onShare)
        .then((output) => self.postMessage({ id, ok: true, output } satisfies Answered))
        .catch((error: unknown) => self.postMessage({ id, ok: false, error: errorToWire(error) } satisfies Answered)),
    // said above; the question is asked again of the next worker
    () => undefined,
  );
};
