/**
 * Drawings: the change log, snapshots and the living copies in memory.
 * A change is taken only on the newest revision; the log row and the job's revision are one transaction,
 * so what has been answered is on disk, and a killed server comes back to it by snapshot and log.
 */
import { Injectable } from '@nestjs/common';
import { InputError, StaleError } from '@lorvek/core';
import {
  applyPatch,
  postChangeSchema,
  validateChange,
  validateDrawing,
  type Drawing,
  type LoggedChange,
  type PostChange,
} from '@lorvek/model';
import { MoreThan, type EntityManager } from 'typeorm';
import type { z } from 'zod';
import { ChangeRow, JobRow, SnapshotRow } from '../db/entities.ts';
import { Tx } from '../db/tx.ts';
import { EventsService } from '../events/events.service.ts';

const SNAPSHOT_EVERY = 50;
const LIVING = 32;
const RECENT = 200;
/** With a refusal at most this many missed changes are sent along; beyond that the page opens the job afresh. */
const MISSED = 500;

interface Living {
  revision: number;
  drawing: Drawing;
}

const toLogged = (row: ChangeRow): LoggedChange => ({
  revision: row.revision,
  changeId: row.changeId,
  kind: row.kind,
  origin: row.origin,
  group: row.group,
  patch: row.patch,
});

@Injectable()
export class DocumentsService {
  private readonly living = new Map<string, Living>();

  constructor(
    private readonly tx: Tx,
    private readonly events: EventsService,
  ) {}

  /** Writes the first snapshot of a new job, in the transaction that makes the job. */
  async begin(manager: EntityManager, jobId: string, drawing: Drawing): Promise<void> {
    await manager.insert(SnapshotRow, { jobId, revision: 0, records: validateDrawing(drawing) });
  }

  /** The drawing as it stands. @throws InputError `input.missing` */
  async open(jobId: string): Promise<{ revision: number; drawing: Drawing; recent: LoggedChange[] }> {
    return this.tx.read(async (manager) => {
      const { revision, drawing } = await this.load(manager, jobId);
      const rows = await manager.find(ChangeRow, { where: { jobId }, order: { revision: 'DESC' }, take: RECENT });
      return { revision, drawing, recent: rows.reverse().map(toLogged) };
    });
  }

  /**
   * Takes a change made on `baseRevision`.
   * @returns the new revision; for a change sent twice, the one it got
   * @throws StaleError with `revision` and `missed` changes when the drawing has moved on; InputError when it would break
   */
  async change(jobId: string, input: PostChange): Promise<{ revision: number }> {
    const change = postChangeSchema.parse(input);
    const { revision, fresh } = await this.tx.run((manager) => this.take(manager, jobId, change));
    if (fresh) {
      this.keep(jobId, fresh);
      this.events.emit({ type: 'job', jobId, revision, changeId: change.changeId });
    }
    return { revision };
  }

  private async take(
    manager: EntityManager,
    jobId: string,
    change: z.output<typeof postChangeSchema>,
  ): Promise<{ revision: number; fresh?: Living }> {
    const now = await this.load(manager, jobId);
    const known = await manager.findOneBy(ChangeRow, { jobId, changeId: change.changeId });
    if (known) return { revision: known.revision };
    if (change.baseRevision !== now.revision) throw await this.stale(manager, jobId, change.baseRevision, now.revision);
    const drawing = applyPatch(now.drawing, change.patch);
    validateChange(drawing, change.patch);
    const revision = now.revision + 1;
    const madeAt = new Date().toISOString();
    const { changeId, kind, origin, group, patch } = change;
    await manager.insert(ChangeRow, { jobId, revision, changeId, kind, origin, group, patch, madeAt });
    await manager.update(JobRow, { id: jobId }, { revision, updatedAt: madeAt });
    if (revision % SNAPSHOT_EVERY === 0) await manager.insert(SnapshotRow, { jobId, revision, records: { ...drawing } });
    return { revision, fresh: { revision, drawing } };
  }

  private async stale(manager: EntityManager, jobId: string, base: number, revision: number): Promise<StaleError> {
    const mayCatchUp = base < revision && revision - base <= MISSED;
    const rows = mayCatchUp ? await this.since(manager, jobId, base) : [];
    return new StaleError(`The change was made on revision ${base}; the drawing is at revision ${revision}.`, {
      revision,
      missed: rows.map(toLogged),
    });
  }

  /** Changes made after a revision. @throws InputError `input.missing` */
  async changesSince(jobId: string, revision: number): Promise<LoggedChange[]> {
    return this.tx.read(async (manager) => {
      await this.load(manager, jobId);
      return (await this.since(manager, jobId, revision)).map(toLogged);
    });
  }

  private since(manager: EntityManager, jobId: string, revision: number): Promise<ChangeRow[]> {
    return manager.find(ChangeRow, { where: { jobId, revision: MoreThan(revision) }, order: { revision: 'ASC' }, take: 5000 });
  }

  private keep(jobId: string, living: Living): void {
    this.living.delete(jobId);
    this.living.set(jobId, living);
    const oldest = this.living.keys().next().value;
    if (this.living.size > LIVING && oldest !== undefined) this.living.delete(oldest);
  }

  private async load(manager: EntityManager, jobId: string): Promise<Living> {
    const job = await manager.findOneBy(JobRow, { id: jobId });
    if (!job) throw new InputError('missing', 'This job does not exist.');
    const known = this.living.get(jobId);
    if (known && known.revision === job.revision) return known;
    const [snapshot] = await manager.find(SnapshotRow, { where: { jobId }, order: { revision: 'DESC' }, take: 1 });
    if (!snapshot) throw new Error(`Job ${jobId} has no snapshot.`);
    const changes = await this.since(manager, jobId, snapshot.revision);
    const drawing = changes.reduce<Drawing>((sum, row) => applyPatch(sum, row.patch), validateDrawing(snapshot.records));
    const living = { revision: job.revision, drawing };
    this.keep(jobId, living);
    return living;
  }
}
