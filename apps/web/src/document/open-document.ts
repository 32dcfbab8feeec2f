/** The open job on the page, what is kept of it where the page may be gone, and what its way to the server needs (`sync.ts`). */
import {
  EMPTY_HISTORY,
  type ChangeKind,
  type Drawing,
  type History,
  type ItemId,
  type Job,
  type JobHistory,
  type LoggedChange,
  type OpenJob,
  type Packed,
  type Patch,
  type PostChange,
} from '@lorvek/model';
import type { StoreApi } from 'zustand';

/** saved; on its way; no answer; the server cannot write; nobody is signed in; the job can be looked at only. */
export type SaveState = 'saved' | 'saving' | 'offline' | 'trouble' | 'signed-out' | 'read-only';

export interface PendingChange {
  readonly changeId: string;
  readonly kind: ChangeKind;
  readonly origin: string;
  readonly group: string;
  readonly patch: Patch;
  /** It has gone out at least once: the server may know it, so nothing more may join it. */
  readonly sent?: boolean;
  /** It was rebased after it had gone out: what the server has under its id may be what it was before. */
  readonly altered?: boolean;
  /** How often the server failed at it. */
  readonly failures?: number;
}

/** A change that the server refused. */
export interface SetAside {
  readonly changeId: string;
  readonly origin: string;
  readonly at: string;
  readonly reason: string;
  readonly patch: Packed;
}

/** A pending change as it is kept: the drawing it applies to is at hand when it is taken up. */
export interface KeptChange extends Omit<PendingChange, 'patch'> {
  readonly patch: Packed;
}

export interface Kept {
  readonly pending: readonly KeptChange[];
  readonly aside: readonly SetAside[];
}

export interface OpenDocument {
  readonly job: Job | undefined;
  readonly drawing: Drawing;
  readonly base: Drawing;
  readonly revision: number;
  readonly history: History;
  /** Is what the server's log has of the history in `history`? It is asked for when somebody goes back that far. */
  readonly knowsLog: boolean;
  /** Steps before the history were made by another version of the program and cannot be taken back. */
  readonly isClosed: boolean;
  readonly selection: readonly ItemId[];
  /** Group whose inside is being worked on. */
  readonly entered: ItemId | undefined;
  readonly pending: readonly PendingChange[];
  readonly aside: readonly SetAside[];
  readonly save: SaveState;
  /** Why nothing is saved, with the time since when; why nothing can be changed. */
  readonly trouble: string | undefined;
}

export const CLOSED: OpenDocument = {
  job: undefined,
  drawing: {},
  base: {},
  revision: 0,
  history: EMPTY_HISTORY,
  knowsLog: false,
  isClosed: false,
  selection: [],
  entered: undefined,
  pending: [],
  aside: [],
  save: 'saved',
  trouble: undefined,
};

export interface SyncParts {
  readonly store: StoreApi<OpenDocument>;
  readonly server: {
    openJob(id: string): Promise<OpenJob>;
    postChange(id: string, change: PostChange): Promise<{ revision: number }>;
    changesSince(id: string, revision: number): Promise<LoggedChange[]>;
    history(id: string, upTo: number): Promise<JobHistory>;
  };
  /** Where what waits is kept. */
  readonly place: {
    keep(jobId: string, kept: Kept): void;
    /** What pages that are gone left of this job, and from now on ours. */
    takeOver(jobId: string): Promise<Kept>;
  };
  readonly tell: (level: 'info' | 'warning' | 'error', text: string) => void;
  /** @returns a function that calls it off */
  readonly later: (work: () => void, ms: number) => () => void;
  readonly newId: (prefix: string) => string;
  readonly now: () => Date;
}
