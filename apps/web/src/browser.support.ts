/**
 * What of a browser the page's modules need to be loaded by tests in Node. Test files follow one another in one process and
 * share what is global: this stands for all of them alike and stays; what a test needs besides goes when its file ends.
 */
import { afterAll, beforeAll } from '@jest/globals';

/** Keeps nothing. */
const localStorage = { getItem: () => null, setItem: () => undefined, removeItem: () => undefined };

/** Answers nothing: what is still asked when a file has ended waits for ever. */
class SilentWorker {
  postMessage(): void {}
  terminate(): void {}
}

const ALWAYS: Readonly<Record<string, unknown>> = {
  Worker: SilentWorker,
  // a channel to other tabs would keep the tests running
  BroadcastChannel: undefined,
  // the place where changes wait gives no answer
  indexedDB: { open: () => ({}) },
  window: { addEventListener: () => undefined, localStorage },
  localStorage,
};

/** Before the tests of this file: stand in for a browser. @param besides names and values of what only this file needs. */
export function standInForBrowser(besides: Readonly<Record<string, unknown>> = {}): void {
  const names = Object.keys(besides);
  const before = new Map(names.map((name) => [name, Object.getOwnPropertyDescriptor(globalThis, name)]));
  beforeAll(() => {
    Object.assign(globalThis, ALWAYS, besides);
  });
  afterAll(() => {
    for (const [name, was] of before)
      if (name in ALWAYS) Object.assign(globalThis, { [name]: ALWAYS[name] });
      else if (was) Object.defineProperty(globalThis, name, was);
      else Reflect.deleteProperty(globalThis, name);
  });
}
