/** The page's worker in the tests' own process: what it is asked is worked out, or noted until the test answers. */
import { afterAll, beforeAll } from '@jest/globals';
import { errorToWire, type AppError } from '@lorvek/core';
import { answerTo, COMPUTATIONS } from '@lorvek/computations';
import { READING } from '@lorvek/computations/reading';
import { WITH_PICTURES } from '@lorvek/computations/with-pictures';
import type { Drawing } from '@lorvek/model';
import { pictureHost, plainPixels } from '../../../../packages/computations/src/host.support.ts';
import { standInForBrowser } from '../browser.support.ts';
import { drawingOf } from './mirror.ts';
import type { Answered, Broken, Posted, Question, Underway } from './wire.ts';

/** What a page sees of a worker. */
abstract class StandIn {
  onmessage: ((event: { data: Answered | Underway | Broken }) => void) | null = null;
  onerror: (() => void) | null = null;
  isEnded = false;

  abstract postMessage(posted: Posted): void;

  terminate(): void {
    this.isEnded = true;
  }

  protected say(data: Answered | Underway | Broken): void {
    if (!this.isEnded) this.onmessage?.({ data });
  }
}

/** Works out what it is asked, with the fonts that ship and one picture of two colours. */
export class WorkingWorker extends StandIn {
  private mirror: Drawing | undefined;
  private readonly host = pictureHost({ ['a'.repeat(64)]: twoColours() });

  postMessage({ question, news }: Posted): void {
    if (news) this.mirror = drawingOf(this.mirror, news);
    const asked = news ? ({ ...question, input: { ...question.input, drawing: this.mirror } } as Question) : question;
    const { id } = question;
    const table = { ...COMPUTATIONS, ...READING, ...WITH_PICTURES };
    void answerTo(table, asked as never, this.host, (share) => this.say({ id, share })).then((answer) => this.say({ ...answer, id }));
  }
}

/** A red square on white. */
function twoColours(): ReturnType<typeof plainPixels> {
  const pixels = plainPixels(120, 80, [255, 255, 255, 255]);
  for (let y = 20; y < 60; y++) for (let x = 30; x < 90; x++) pixels.data.set([200, 20, 30, 255], 4 * (y * 120 + x));
  return pixels;
}

/**
 * Before the tests of this file: stand in for a browser whose workers work in this process. Files follow one another in it: workers
 * that another file has opened go before, and those of this one when it ends.
 */
export function workHere(): void {
  standInForBrowser({ navigator: {}, Worker: WorkingWorker });
  beforeAll(stopWorkers);
  afterAll(stopWorkers);
}

async function stopWorkers(): Promise<void> {
  const { stopAside, stopAsking, stopBuild, stopNests, stopTrace } = await import('./compute.ts');
  for (const stop of [stopAside, stopAsking, stopBuild, stopNests, stopTrace]) stop();
}

/** Does nothing but what the test says; all that were opened are noted. */
export class ToldWorker extends StandIn {
  static readonly opened: ToldWorker[] = [];
  readonly posted: Posted[] = [];

  constructor() {
    super();
    ToldWorker.opened.push(this);
  }

  postMessage(posted: Posted): void {
    this.posted.push(posted);
  }

  answer(at: number, output: unknown): void {
    this.say({ id: (this.posted[at] as Posted).question.id, ok: true, output });
  }

  refuse(at: number, error: AppError): void {
    this.say({ id: (this.posted[at] as Posted).question.id, ok: false, error: errorToWire(error) });
  }

  tell(at: number, share: number, soFar?: unknown): void {
    this.say({ id: (this.posted[at] as Posted).question.id, share, soFar });
  }

  breakDown(): void {
    this.say({ broken: true });
  }
}
