/**
 * The page's worker: takes questions at once, answers them when its engine has loaded. The engine waits for
 * WebAssembly while it is imported; a static import would let the first messages arrive before anyone listens.
 */
import type { Drawing } from '@lorvek/model';
import { drawingOf } from './mirror.ts';
import type { Answered, Broken, Posted, Question, Underway } from './wire.ts';

const engine = import('./engine.ts');
// a file of it that could not be fetched stays missing for the life of this worker
engine.catch(() => self.postMessage({ broken: true } satisfies Broken));

/** Shares of the work are told no oftener than this, ms. */
const TELL_MS = 100;

/** The newest drawing that was asked about; what came is taken in at once, in the order it was sent. */
const mirror: { drawing: Drawing | undefined } = { drawing: undefined };

function questionOf({ question, news }: Posted): Question {
  if (!news) return question;
  mirror.drawing = drawingOf(mirror.drawing, news);
  return { ...question, input: { ...question.input, drawing: mirror.drawing } } as Question;
}

self.onmessage = (event: MessageEvent<Posted>): void => {
  const question = questionOf(event.data);
  const { id } = question;
  let told = performance.now();
  const onShare = (share: number, soFar?: unknown): void => {
    if (soFar === undefined && performance.now() - told < TELL_MS) return;
    told = performance.now();
    self.postMessage({ id, share, soFar } satisfies Underway);
  };
  void engine.then(
    async ({ answer }) => {
      const { answered, transfer } = await answer(question, onShare);
      self.postMessage({ ...answered, id } satisfies Answered, { transfer });
    },
    // said above; the question is asked again of the next worker
    () => undefined,
  );
};
