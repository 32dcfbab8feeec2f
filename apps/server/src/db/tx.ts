/**
 * The one way to the database. SQLite has one connection here, so everything takes its turn. A write begins IMMEDIATE,
 * so that a database locked for a moment is waited for before anything is done, and nothing counts as written until the
 * database itself says that no transaction is open. After any failure the transaction is rolled back by hand; a
 * connection that stays inside one is given up for a new one.
 *
 * Law: what `run` resolved is on disk; what it rejected is not.
 */
import { Injectable } from '@nestjs/common';
import { InjectDataSource } from '@nestjs/typeorm';
import pLimit from 'p-limit';
import { setTimeout as wait } from 'node:timers/promises';
import { DataSource, type EntityManager } from 'typeorm';
import { StorageError, storageFaultOf, type StorageFault } from './storage-fault.ts';

/** What is used of the driver's connection. */
interface Connection {
  readonly inTransaction: boolean;
  exec(sql: string): unknown;
  backup(path: string): Promise<unknown>;
}

export interface Trouble {
  readonly fault: StorageFault;
  /** When writing began to fail, ISO 8601. */
  readonly since: string;
}

/** A database that another program holds is asked again this often and this long. */
const LOCK_STEP_MS = 60;
const LOCK_PATIENCE_MS = 6000;

@Injectable()
export class Tx {
  private readonly turn = pLimit(1);
  private failing: Trouble | undefined;

  constructor(@InjectDataSource() private readonly source: DataSource) {}

  /** Why writing does not work now; undefined while it does. */
  get trouble(): Trouble | undefined {
    return this.failing;
  }

  /**
   * Runs `work` in a transaction of its own, after all that were asked for before.
   * @throws StorageError when the database cannot take it, and whatever `work` throws
   */
  run<T>(work: (manager: EntityManager) => Promise<T>): Promise<T> {
    return this.turn(async () => {
      try {
        const connection = await this.open();
        await this.begin(connection);
        const result = await work(this.source.manager);
        connection.exec('COMMIT');
        if (connection.inTransaction) throw new StorageError('failing');
        this.failing = undefined;
        return result;
      } catch (error) {
        await this.settle();
        throw this.told(error, true);
      }
    });
  }

  /** Reads outside of any transaction; takes its turn too, so that it never sees half a write. */
  read<T>(work: (manager: EntityManager) => Promise<T>): Promise<T> {
    return this.turn(async () => {
      try {
        await this.open();
        return await work(this.source.manager);
      } catch (error) {
        throw this.told(error, false);
      }
    });
  }

  /** A whole copy of the database as it stands, made beside the running work (SQLite's online backup). */
  async copyTo(path: string): Promise<void> {
    const connection = await this.turn(() => this.open());
    await connection.backup(path);
  }

  /** Does something with the database closed and nobody else at it, and opens it again whatever comes of it. */
  whileClosed<T>(work: () => Promise<T>): Promise<T> {
    return this.turn(async () => {
      if (this.source.isInitialized) await this.source.destroy();
      try {
        return await work();
      } finally {
        await this.source.initialize();
        this.failing = undefined;
      }
    });
  }

  private async open(): Promise<Connection> {
    if (!this.source.isInitialized) await this.source.initialize();
    return (this.source.driver as unknown as { databaseConnection: Connection }).databaseConnection;
  }

  private async begin(connection: Connection): Promise<void> {
    for (let waited = 0; ; waited += LOCK_STEP_MS) {
      try {
        connection.exec('BEGIN IMMEDIATE');
        return;
      } catch (error) {
        if (storageFaultOf(error) !== 'locked' || waited >= LOCK_PATIENCE_MS) throw error;
        await wait(LOCK_STEP_MS);
      }
    }
  }

  /** Leaves no transaction open, whatever happened. */
  private async settle(): Promise<void> {
    if (!this.source.isInitialized) return;
    const connection = await this.open();
    try {
      if (connection.inTransaction) connection.exec('ROLLBACK');
    } catch {
      // said by what failed before; the connection is given up below
    }
    if (connection.inTransaction) await this.source.destroy();
  }

  private told(error: unknown, writing: boolean): unknown {
    const fault = storageFaultOf(error);
    if (fault === undefined) return error;
    if (writing) this.failing = { fault, since: this.failing?.since ?? new Date().toISOString() };
    return new StorageError(fault, writing ? this.failing?.since : undefined);
  }
}
