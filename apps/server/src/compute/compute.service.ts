/** The compute pool: heavy work off the event loop, with a time limit. */
import { Injectable, type OnModuleDestroy } from '@nestjs/common';
import { availableParallelism } from 'node:os';
import { Piscina } from 'piscina';
import { AppError, LimitError } from '@lorvek/core';
import { FontsService } from '../fonts/fonts.service.ts';
import type { ComputeRequest, OpAnswers, PoolTask, WorkerAnswer } from './compute-ops.ts';

/** Where the built worker lies when the server itself runs from source, as in tests. */
const BUILT_WORKER = '../../dist/compute.worker.js';
const TIME_LIMIT_MS = 120_000;

@Injectable()
export class ComputeService implements OnModuleDestroy {
  private pool: Piscina | undefined;

  constructor(private readonly fonts: FontsService) {}

  private open(): Piscina {
    this.pool ??= new Piscina({
      filename: new URL(import.meta.url.endsWith('.ts') ? BUILT_WORKER : './compute.worker.js', import.meta.url).href,
      minThreads: 0,
      maxThreads: Math.max(1, Math.min(4, availableParallelism() - 1)),
      maxQueue: 256,
      idleTimeout: 30_000,
    });
    return this.pool;
  }

  /** @throws AppError with the code the computation failed with, LimitError `limit.time` */
  async run<R extends ComputeRequest>(request: R): Promise<OpAnswers[R['op']]> {
    let answer: WorkerAnswer<R['op']>;
    try {
      const fonts = request.op === 'font' ? {} : this.fonts.pathsFor(request.drawing);
      const task: PoolTask = { ...request, fonts };
      answer = (await this.open().run(task, { signal: AbortSignal.timeout(TIME_LIMIT_MS) })) as WorkerAnswer<R['op']>;
    } catch (error) {
      if (error instanceof Error && error.name === 'AbortError')
        throw new LimitError('time', 'The computation took longer than two minutes and was stopped. Send less at once.');
      throw error;
    }
    if (!answer.ok) throw AppError.fromWire(answer.error);
    return answer.output;
  }

  async onModuleDestroy(): Promise<void> {
    await this.pool?.destroy();
  }
}
