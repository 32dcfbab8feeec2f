/**
 * The one way to write. SQLite has one query runner a data source here, so two transactions at once would mix:
 * one that fails could undo the other's work or keep its own. Every write therefore queues for its turn.
 */
import { Injectable } from '@nestjs/common';
import { InjectDataSource } from '@nestjs/typeorm';
import pLimit from 'p-limit';
import { DataSource, type EntityManager } from 'typeorm';

@Injectable()
export class Tx {
  private readonly turn = pLimit(1);

  constructor(@InjectDataSource() private readonly source: DataSource) {}

  /** Runs `work` in a transaction of its own, after all that were asked for before. */
  run<T>(work: (manager: EntityManager) => Promise<T>): Promise<T> {
    return this.turn(() => this.source.transaction(work));
  }

  /** Reads outside of any transaction; takes its turn too, so that it never sees half a write. */
  read<T>(work: (manager: EntityManager) => Promise<T>): Promise<T> {
    return this.turn(() => work(this.source.manager));
  }
}
