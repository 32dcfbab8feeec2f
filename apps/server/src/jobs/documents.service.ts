/**
 * Drawings: the change log, snapshots and the living copies in memory.
 * A change is taken only on the newest revision; the log row and the job's revision are one transaction,
 * so what has been answered is on disk, and a killed server comes back to it by snapshot and log.
 */
import { Injectable } from '@nestjs/common';
import { InputError, StaleError } from '@lorvek/core';
import {
  applyPatch,
  DOCUMENT_VERSION,
  isPacked,
  pack,
  packedForLog,
  readNewer,
  textsOut,
  unpack,
  upgradeDrawing,
  validateChange,
  validateDrawing,
  type Drawing,
  type JobHistory,
  type LoggedChange,
  type LooseDrawing,
  type Packed,
  type Patch,
  type PostChange,
} from '@lorvek/model';
import { LRUCache } from 'lru-cache';
import { LessThanOrEqual, MoreThan, Not, type EntityManager, type QueryDeepPartialEntity } from 'typeorm';
import { ChangeRow, JobRow, SnapshotRow } from '../db/entities.ts';
import { Tx } from '../db/tx.ts';
import { EventsService } from '../events/events.service.ts';
import { keepTexts, readTexts, withTexts } from './kept-texts.ts';

const SNAPSHOT_EVERY = 50;
const LIVING = 32;
/** So many changes are sent when somebody goes back in the history. */
const RECENT = 200;
const MOST_HISTORY_CHARS = 32 * 1024 * 1024;
/** With a refusal at most this many missed changes are sent along; beyond that the page opens the job afresh. */
const MISSED = 500;

interface Living {
  revision: number;
  drawing: Drawing;
}

interface Opened extends Living {
  /** What had to be put right, a sentence. */
  note: string | null;
}

interface Looked extends Opened {
  /** Why it can be looked at only, a sentence; null: it can be changed. */
  readOnly: string | null;
}

const readOnlyText = (leftOut: number): string => {
  const text = 'This job was saved by a newer version of Lorvek. It can be looked at, not changed or sent';
  if (leftOut === 0) return `${text}.`;
  return `${text}; ${leftOut === 1 ? 'one thing in it is' : `${leftOut} things in it are`} of a kind that this version does not know and ${leftOut === 1 ? 'is' : 'are'} not shown.`;
};

/** The log tells of another drawing than the one it follows on. */
class DamagedLog extends Error {
  constructor(
    readonly revision: number,
    readonly newestGood: Drawing,
  ) {
    super(`The change of revision ${revision} does not fit.`);
  }
}

async function newestSnapshot(manager: EntityManager, jobId: string): Promise<SnapshotRow | undefined> {
  return (await manager.find(SnapshotRow, { where: { jobId }, order: { revision: 'DESC' }, take: 1 }))[0];
}

/** Rows of the first version hold whole records. */
const packedOf = (patch: Packed | Patch): Packed => (isPacked(patch) ? patch : pack(patch));

const toLogged = (row: ChangeRow): LoggedChange => ({
  revision: row.revision,
  changeId: row.changeId,
  kind: row.kind,
  origin: row.origin,
  group: row.group,
  patch: packedOf(row.patch),
});

@Injectable()
export class DocumentsService {
  private readonly living = new LRUCache<string, Living>({ max: LIVING });

  constructor(
    private readonly tx: Tx,
    private readonly events: EventsService,
  ) {
    events.onRestored(() => this.living.clear());
  }

  /** Writes the first snapshot of a new job, in the transaction that makes the job. */
  async begin(manager: EntityManager, jobId: string, drawing: Drawing): Promise<void> {
    await this.snapshot(manager, jobId, 0, validateDrawing(drawing));
  }

  /**
   * The drawing as it stands; one of an older version is upgraded first, one whose log is damaged is put right.
   * @throws InputError `input.missing`, `input.newer`
   */
  async open(jobId: string): Promise<Opened> {
    const note = await this.makeCurrent(jobId);
    return { ...(await this.tx.read((manager) => this.load(manager, jobId))), note };
  }

  /** Like `open`; a job that a newer version of the program saved is opened as far as it can be read. @throws InputError `input.missing`, `input.newer` when nothing of it can */
  async look(jobId: string): Promise<Looked> {
    const newer = this.living.has(jobId) ? undefined : await this.tx.read((manager) => this.newer(manager, jobId));
    return newer ?? { ...(await this.open(jobId)), readOnly: null };
  }

  /** What can be read of a drawing of a newer version; undefined when it is of none. */
  private async newer(manager: EntityManager, jobId: string): Promise<Looked | undefined> {
    const snapshot = await newestSnapshot(manager, jobId);
    if (!snapshot || snapshot.version <= DOCUMENT_VERSION) return undefined;
    const { revision } = await manager.findOneByOrFail(JobRow, { id: jobId });
    const { drawing, leftOut } = readNewer((await this.asSaved(manager, jobId, snapshot)) as unknown as LooseDrawing, snapshot.version);
    return { revision, drawing, note: null, readOnly: readOnlyText(leftOut) };
  }

  /** The newest state in the shape of its own version. */
  private async asSaved(manager: EntityManager, jobId: string, { records, revision, version }: SnapshotRow): Promise<Drawing> {
    let drawing = (await withTexts(manager, records)) as Drawing;
    for (const { patch } of await this.since(manager, jobId, revision, version)) drawing = applyPatch(drawing, unpack(drawing, patch));
    return drawing;
  }

  /** Sees to it that the newest snapshot is of this version and fits the log. @returns what had to be put right, in words */
  private async makeCurrent(jobId: string): Promise<string | null> {
    if (this.living.has(jobId)) return null;
    const version = await this.tx.read(async (manager) => (await newestSnapshot(manager, jobId))?.version);
    if (version !== undefined && version !== DOCUMENT_VERSION) {
      await this.tx.run((manager) => this.upgrade(manager, jobId));
      return null;
    }
    try {
      await this.tx.read((manager) => this.load(manager, jobId));
      return null;
    } catch (error) {
      if (!(error instanceof DamagedLog)) throw error;
      await this.tx.run((manager) => this.close(manager, jobId, error.newestGood));
      return `The log of this job did not fit its drawing after change ${error.revision}. It was opened in the newest state that is whole; steps before that cannot be taken back.`;
    }
  }

  /** Makes an upgraded snapshot; the history of the older version is closed behind it. */
  private async upgrade(manager: EntityManager, jobId: string): Promise<void> {
    const snapshot = await newestSnapshot(manager, jobId);
    if (!snapshot || snapshot.version === DOCUMENT_VERSION) return; // another request was first
    const drawing = await this.asSaved(manager, jobId, snapshot);
    await this.close(manager, jobId, upgradeDrawing(drawing as unknown as LooseDrawing, snapshot.version));
  }

  /** A snapshot as a new revision, behind which nothing is taken back. */
  private async close(manager: EntityManager, jobId: string, drawing: Drawing): Promise<void> {
    const { revision } = await manager.findOneByOrFail(JobRow, { id: jobId });
    await manager.update(ChangeRow, { jobId }, { version: 0 });
    await manager.update(JobRow, { id: jobId }, { revision: revision + 1 });
    await this.snapshot(manager, jobId, revision + 1, drawing);
  }

  /** The newest changes up to a revision, as many as fit, with the texts they name. @throws InputError `input.missing` */
  history(jobId: string, upTo: number): Promise<JobHistory> {
    return this.tx.read(async (manager) => {
      await this.load(manager, jobId);
      const rows = await manager.find(ChangeRow, {
        where: { jobId, revision: LessThanOrEqual(upTo), version: DOCUMENT_VERSION },
        order: { revision: 'DESC' },
        take: RECENT,
      });
      const changes: LoggedChange[] = [];
      const texts: Record<string, string> = {};
      let chars = 0;
      for (const row of rows) {
        const change = toLogged(row);
        const named = await readTexts(manager, change.patch, texts);
        chars += JSON.stringify(change.patch).length + Object.values(named).reduce((sum, text) => sum + text.length, 0);
        if (chars > MOST_HISTORY_CHARS) break;
        Object.assign(texts, named);
        changes.unshift(change);
      }
      const closed = await manager.existsBy(ChangeRow, { jobId, version: Not(DOCUMENT_VERSION) });
      return { changes, texts, closed };
    });
  }

  /**
   * Takes a change made on `baseRevision`.
   * @returns the new revision; for a change sent twice, the one it got
   * @throws StaleError with `revision` and `missed` changes when the drawing has moved on; InputError when it would break
   */
  async change(jobId: string, change: PostChange): Promise<{ revision: number }> {
    await this.makeCurrent(jobId);
    const { revision, fresh } = await this.tx.run((manager) => this.take(manager, jobId, change));
    if (fresh) {
      this.living.set(jobId, fresh);
      this.events.emit({ type: 'job', jobId, revision, changeId: change.changeId });
    }
    return { revision };
  }

  private async take(manager: EntityManager, jobId: string, change: PostChange): Promise<{ revision: number; fresh?: Living }> {
    const now = await this.load(manager, jobId);
    const known = await manager.findOneBy(ChangeRow, { jobId, changeId: change.changeId });
    if (known) return { revision: known.revision };
    if (change.baseRevision !== now.revision) throw await this.stale(manager, jobId, change.baseRevision, now.revision);
    const patch = unpackOnto(now, change.patch);
    const drawing = applyPatch(now.drawing, patch);
    validateChange(drawing, patch);
    const revision = now.revision + 1;
    const madeAt = new Date().toISOString();
    const { changeId, kind = 'do', origin, group = '' } = change;
    const texts = new Map<string, string>();
    const logged = packedForLog(change.patch, (name, text) => texts.set(name, text));
    await keepTexts(manager, texts);
    const row: ChangeRow = { jobId, revision, changeId, kind, origin, group, patch: logged, madeAt, version: DOCUMENT_VERSION };
    await manager.insert(ChangeRow, row as QueryDeepPartialEntity<ChangeRow>);
    await manager.update(JobRow, { id: jobId }, { revision, updatedAt: madeAt });
    if (revision % SNAPSHOT_EVERY === 0) await this.snapshot(manager, jobId, revision, drawing);
    return { revision, fresh: { revision, drawing } };
  }

  private async snapshot(manager: EntityManager, jobId: string, revision: number, drawing: Drawing): Promise<void> {
    const texts = new Map<string, string>();
    const records = textsOut({ ...drawing }, (name, text) => texts.set(name, text));
    await keepTexts(manager, texts);
    await manager.insert(SnapshotRow, { jobId, revision, records, version: DOCUMENT_VERSION });
  }

  /** Makes sure that the drawing at its newest revision has a snapshot. @throws StaleError when another revision is the newest */
  async fasten(manager: EntityManager, jobId: string, revision: number): Promise<void> {
    const now = await this.load(manager, jobId);
    if (now.revision !== revision)
      throw new StaleError('The drawing has changed since. Look at it again before you keep it under a name.', { revision: now.revision });
    if (!(await manager.existsBy(SnapshotRow, { jobId, revision }))) await this.snapshot(manager, jobId, revision, now.drawing);
  }

  /** The drawing as a snapshot has it. @throws InputError `input.missing` */
  async at(manager: EntityManager, jobId: string, revision: number): Promise<Drawing> {
    const row = await manager.findOneBy(SnapshotRow, { jobId, revision });
    if (!row) throw new InputError('missing', 'This state of the job is no longer there.');
    return upgradeDrawing((await withTexts(manager, row.records)) as LooseDrawing, row.version);
  }

  private async stale(manager: EntityManager, jobId: string, base: number, revision: number): Promise<StaleError> {
    const mayCatchUp = base < revision && revision - base <= MISSED;
    return new StaleError(`The change was made on revision ${base}; the drawing is at revision ${revision}.`, {
      revision,
      // what was closed meanwhile cannot be caught up with
      missed: mayCatchUp ? (await this.since(manager, jobId, base)).filter((_, __, all) => all.length === revision - base) : [],
    });
  }

  /** Changes made after a revision. @throws InputError `input.missing` */
  async changesSince(jobId: string, revision: number): Promise<LoggedChange[]> {
    await this.makeCurrent(jobId);
    return this.tx.read(async (manager) => {
      await this.load(manager, jobId);
      return this.since(manager, jobId, revision);
    });
  }

  private async since(manager: EntityManager, jobId: string, revision: number, version = DOCUMENT_VERSION): Promise<LoggedChange[]> {
    const rows = await manager.find(ChangeRow, {
      where: { jobId, revision: MoreThan(revision), version },
      order: { revision: 'ASC' },
      take: 5000,
    });
    const out: LoggedChange[] = [];
    for (const row of rows) {
      const change = toLogged(row);
      out.push({ ...change, patch: await withTexts(manager, change.patch) });
    }
    return out;
  }

  private async load(manager: EntityManager, jobId: string): Promise<Living> {
    const job = await manager.findOneBy(JobRow, { id: jobId });
    if (!job) throw new InputError('missing', 'This job does not exist.');
    const known = this.living.get(jobId);
    if (known && known.revision === job.revision) return known;
    const snapshot = await newestSnapshot(manager, jobId);
    if (!snapshot) throw new Error(`Job ${jobId} has no snapshot.`);
    let drawing = upgradeDrawing((await withTexts(manager, snapshot.records)) as LooseDrawing, snapshot.version);
    for (const { patch, revision } of await this.since(manager, jobId, snapshot.revision)) {
      try {
        drawing = applyPatch(drawing, unpack(drawing, patch));
      } catch (error) {
        if (error instanceof StaleError) throw new DamagedLog(revision, drawing);
        throw error;
      }
    }
    const living = { revision: job.revision, drawing };
    this.living.set(jobId, living);
    return living;
  }
}

/** @throws InputError `input.patch` when the change tells of another drawing than the one at its revision */
function unpackOnto({ drawing, revision }: Living, packed: Packed): Patch {
  try {
    return unpack(drawing, packed);
  } catch (error) {
    if (error instanceof StaleError)
      throw new InputError('patch', `The change does not fit the drawing at revision ${revision}. ${error.message}`, error.details);
    throw error;
  }
}
