/**
 * The compute pool: heavy work off the event loop, with a time limit, in two lanes, so that a heavy sheet does not hold
 * up thumbnails and small questions. What runs out of time, or is asked to stop, is ended with its thread.
 */
import { Injectable, type OnModuleDestroy } from '@nestjs/common';
import { availableParallelism } from 'node:os';
import { MessageChannel } from 'node:worker_threads';
import { Piscina } from 'piscina';
import { AppError, CancelledError, LimitError } from '@lorvek/core';
import type { Drawing } from '@lorvek/model';
import { FontsService } from '../fonts/fonts.service.ts';
import type { Answer, InputOf, OutputOf } from '@lorvek/computations';
import type { PoolTask, SERVER_COMPUTATIONS, ServerOp } from './compute.worker.ts';

/** Where the built worker lies when the server itself runs from source, as in tests. */
const BUILT_WORKER = '../../dist/compute.worker.js';

const LANES = {
  short: { threads: 1, limitMs: 20_000, text: '20 seconds' },
  // work that tells how far it is may take as long as it likes between two tellings
  long: { threads: Math.max(1, Math.min(3, availableParallelism() - 1)), limitMs: 120_000, text: 'two minutes' },
} as const;
type LaneName = keyof typeof LANES;

/** Drawings of more records than this are long work, whatever is asked of them. */
const LARGE_DRAWING = 3000;
const MOST_HEAP_MB = 2048;

type Input<K extends ServerOp> = InputOf<typeof SERVER_COMPUTATIONS, K>;
type Output<K extends ServerOp> = OutputOf<typeof SERVER_COMPUTATIONS, K>;

/** Small questions; a thumbnail of a small drawing is one too. */
const SHORT: ReadonlySet<ServerOp> = new Set<ServerOp>(['font', 'profile', 'thumbnail']);

function laneOf(op: ServerOp, input: object): LaneName {
  const isLarge = 'drawing' in input && Object.keys(input.drawing as Drawing).length > LARGE_DRAWING;
  return SHORT.has(op) && !isLarge ? 'short' : 'long';
}

/** Who waits for some work: told how much is done, and able to end it. */
export interface Watch {
  readonly signal?: AbortSignal | undefined;
  readonly onShare?: ((share: number) => void) | undefined;
}

@Injectable()
export class ComputeService implements OnModuleDestroy {
  private readonly pools = new Map<LaneName, Piscina>();

  constructor(private readonly fonts: FontsService) {}

  private lane(name: LaneName): Piscina {
    const known = this.pools.get(name);
    if (known) return known;
    const pool = new Piscina({
      filename: new URL(import.meta.url.endsWith('.ts') ? BUILT_WORKER : './compute.worker.js', import.meta.url).href,
      minThreads: 0,
      maxThreads: LANES[name].threads,
      maxQueue: 256,
      idleTimeout: 30_000,
      resourceLimits: { maxOldGenerationSizeMb: MOST_HEAP_MB },
    });
    this.pools.set(name, pool);
    return pool;
  }

  /** @throws AppError with the code the computation failed with, LimitError `limit.time`, CancelledError */
  async run<K extends ServerOp>(op: K, input: Input<K> & object, { signal, onShare }: Watch = {}): Promise<Output<K>> {
    const name = laneOf(op, input);
    const { limitMs, text } = LANES[name];
    const limit = new AbortController();
    const clock = setTimeout(() => limit.abort(), limitMs);
    const { port1, port2 } = new MessageChannel();
    port1.on('message', (share: number) => {
      clock.refresh();
      onShare?.(share);
    });
    let answer: Answer<Output<K>>;
    try {
      const fonts = 'drawing' in input ? this.fonts.pathsFor(input.drawing as Drawing) : {};
      const task: PoolTask = { question: { op, input } as PoolTask['question'], fonts, port: port2 };
      const ends = signal ? AbortSignal.any([limit.signal, signal]) : limit.signal;
      answer = (await this.lane(name).run(task, { signal: ends, transferList: [port2] })) as Answer<Output<K>>;
    } catch (error) {
      if (limit.signal.aborted)
        throw new LimitError('time', `The computation took longer than ${text} and was stopped. Send less at once.`);
      if (signal?.aborted) throw new CancelledError();
      throw error;
    } finally {
      clearTimeout(clock);
      port1.close();
    }
    if (!answer.ok) throw AppError.fromWire(answer.error);
    return answer.output;
  }

  async onModuleDestroy(): Promise<void> {
    await Promise.all([...this.pools.values()].map((pool) => pool.destroy()));
  }
}
