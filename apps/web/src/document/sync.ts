/**
 * The open job between page and server. `base` is what the server has confirmed; `drawing` is base with the pending
 * changes on top. Changes go out one at a time, in order. One made on an old revision is rebased on what changed
 * meanwhile; one that the server refuses is set aside where the user can look at it, and what follows goes on; what
 * cannot be sent waits, in memory and in a place that survives the page.
 * Without browser, clock and network of its own: they come with `SyncParts`, so that it can be tried with any of them failing.
 *
 * Law: a change that was made is confirmed, pending, set aside, or its loss was told. Law: with nothing pending,
 * `drawing` is the server's drawing at `revision`.
 */
import {
  applyPatch,
  composePatches,
  historyOf,
  isEmptyPatch,
  pack,
  rebasePatch,
  remember,
  stepsOf,
  unpack,
  unpackLoosely,
  type Drawing,
  type OpenJob,
  type Packed,
  type Patch,
} from '@lorvek/model';
import type { StoreApi } from 'zustand';
import { CLOSED, type KeptChange, type OpenDocument, type PendingChange, type SaveState, type SyncParts } from './open-document.ts';
import { troubleText, verdictOf } from './refusals.ts';

const RETRY_MS = 2000;
/** Changes of more records than this are written out and sent once they have been painted. */
const LARGE_PATCH = 2000;
const AFTER_PAINT_MS = 60;

const surviving = (selection: readonly string[], drawing: Drawing): string[] => selection.filter((id) => drawing[id] !== undefined);

export class DocumentSync {
  private readonly packedOf = new WeakMap<Patch, Packed>();
  /** Changes made here since the job was opened: the log's copies of them are not taken twice. */
  private own = new Set<string>();
  private busy = false;
  private newest = 0;
  private callOff: (() => void) | undefined;
  private unsent: (() => void) | undefined;
  private learning: Promise<void> | undefined;

  constructor(private readonly parts: SyncParts) {}

  private get = (): OpenDocument => this.parts.store.getState();
  private set: StoreApi<OpenDocument>['setState'] = (next) => this.parts.store.setState(next);

  private readonly packed = (patch: Patch): Packed => {
    let known = this.packedOf.get(patch);
    if (!known) this.packedOf.set(patch, (known = pack(patch)));
    return known;
  };

  private keep(): void {
    const { job, pending, aside } = this.get();
    if (!job) return;
    this.parts.place.keep(job.id, { pending: pending.map((change) => ({ ...change, patch: this.packed(change.patch) })), aside });
  }

  private readonly saveState = (pending: readonly PendingChange[]): Pick<OpenDocument, 'save' | 'trouble'> =>
    pending.length > 0 ? { save: 'saving', trouble: undefined } : { save: 'saved', trouble: undefined };

  /** Writes down and sends what waits for its painting. */
  sendNow(): void {
    const send = this.unsent;
    this.unsent = undefined;
    send?.();
  }

  /** Makes a change; one in a job that can be looked at only is refused, and that is said. @returns was it made? */
  commit(made: Omit<PendingChange, 'changeId'>, selection: readonly string[]): boolean {
    const state = this.get();
    if (state.save === 'read-only') {
      this.parts.tell('warning', state.trouble ?? '');
      return false;
    }
    const change: PendingChange = { ...made, changeId: this.parts.newId('change') };
    const drawing = applyPatch(state.drawing, change.patch);
    const last = state.pending.at(-1);
    const joins = last && !last.sent && last.kind === 'do' && change.kind === 'do' && change.group !== '' && last.group === change.group;
    const pending = joins
      ? [...state.pending.slice(0, -1), { ...last, patch: composePatches(last.patch, change.patch) }]
      : [...state.pending, change];
    this.own.add(change.changeId);
    const left = pending.filter((p) => !isEmptyPatch(p.patch));
    this.set({
      drawing,
      pending: left,
      history: remember(state.history, change),
      selection: surviving(selection, drawing),
      // what waits goes on waiting; a step that took back one not yet sent leaves nothing to save
      ...(state.save === 'saved' || left.length === 0 ? this.saveState(left) : {}),
    });
    const send = (): void => {
      this.keep();
      // what waits is asked for from time to time, not with each change
      if (this.get().save === 'saving') void this.flush();
    };
    this.sendNow();
    if (Object.keys(change.patch).length <= LARGE_PATCH) {
      send();
      return true;
    }
    const off = this.parts.later(() => this.sendNow(), AFTER_PAINT_MS);
    this.unsent = () => {
      off();
      send();
    };
    return true;
  }

  /** Sends what is pending, one change at a time. */
  private async flush(): Promise<void> {
    const { job, pending, revision } = this.get();
    const [next] = pending;
    if (this.busy || !job || !next) return;
    this.busy = true;
    this.callOff?.();
    this.set({ pending: [{ ...next, sent: true }, ...pending.slice(1)] });
    const { changeId, kind, origin, group, patch } = next;
    try {
      const answer = await this.parts.server.postChange(job.id, {
        changeId,
        kind,
        origin,
        group,
        patch: this.packed(patch),
        baseRevision: revision,
      });
      if (this.get().job?.id === job.id) await this.confirmed(job.id, changeId, answer.revision);
    } catch (error) {
      if (this.get().job?.id === job.id) await this.recover(job.id, changeId, error);
    } finally {
      this.busy = false;
    }
    if (this.get().job?.id !== job.id) return;
    this.keep();
    this.goOn();
  }

  private goOn(): void {
    const { save, pending, job, revision } = this.get();
    if (pending.length > 0) {
      if (save === 'saving') void this.flush();
    } else if (job && this.newest > revision) void this.follow(job.id);
  }

  private async confirmed(jobId: string, changeId: string, revision: number): Promise<void> {
    const state = this.get();
    const change = state.pending.find((p) => p.changeId === changeId);
    if (!change) return;
    const pending = state.pending.filter((p) => p !== change);
    if (revision === state.revision + 1 && !change.altered) {
      this.set({ base: applyPatch(state.base, change.patch), revision, pending, ...this.saveState(pending) });
      return;
    }
    // the server may have had it before, as it was then: it is in the base already, or comes with what was missed
    if (revision <= state.revision) this.replay(state.base, state.revision, pending);
    else if (!(await this.caughtUp(jobId))) this.wait('offline', undefined);
  }

  private wait(save: SaveState, trouble: string | undefined): void {
    this.set({ save, trouble });
    this.callOff?.();
    if (save !== 'signed-out') this.callOff = this.parts.later(() => this.resume(), RETRY_MS);
  }

  private resume(): void {
    // what the screen says of it stays until the server has answered otherwise
    if (this.get().pending.length > 0) void this.flush();
  }

  private async recover(jobId: string, changeId: string, error: unknown): Promise<void> {
    const change = this.get().pending.find((p) => p.changeId === changeId);
    if (!change) return;
    const verdict = verdictOf(error, change.failures ?? 0);
    switch (verdict) {
      case 'rebase':
        if (await this.caughtUp(jobId)) return;
        return this.wait('offline', undefined);
      case 'sign-in':
        return this.wait('signed-out', undefined);
      case 'trouble':
        return this.wait('trouble', troubleText(error));
      case 'again':
        this.set({ pending: this.get().pending.map((p) => (p === change ? { ...p, failures: (p.failures ?? 0) + 1 } : p)) });
        return this.wait('offline', undefined);
      case 'wait':
        return this.wait('offline', undefined);
      case 'aside':
        return this.setAside(change, error instanceof Error ? error.message : String(error));
    }
  }

  private setAside(change: PendingChange, reason: string): void {
    const { changeId, origin, patch } = change;
    const { base, revision, pending, aside } = this.get();
    this.set({ aside: [...aside, { changeId, origin, at: this.parts.now().toISOString(), reason, patch: this.packed(patch) }] });
    this.replay(
      base,
      revision,
      pending.filter((p) => p.changeId !== changeId),
    );
    this.parts.tell('error', `The server did not take a change: ${reason} It is set aside; what you do from here on is saved.`);
  }

  /** Puts the pending changes on a newer base. */
  private replay(base: Drawing, revision: number, pending: readonly PendingChange[]): void {
    let drawing = base;
    const kept: PendingChange[] = [];
    let lost = 0;
    for (const change of pending) {
      const rebased = rebasePatch(drawing, change.patch);
      lost += rebased.lost.length;
      if (isEmptyPatch(rebased.patch)) continue;
      drawing = applyPatch(drawing, rebased.patch);
      kept.push(rebased.patch === change.patch ? change : { ...change, patch: rebased.patch, ...(change.sent ? { altered: true } : {}) });
    }
    this.set({ base, drawing, revision, pending: kept, selection: surviving(this.get().selection, drawing), ...this.saveState(kept) });
    if (lost > 0)
      this.parts.tell(
        'warning',
        'Someone else changed the same thing meanwhile. Their version stands; make your change again if it is still wanted.',
      );
  }

  /** Fetches what changed on the server and puts the pending changes on top, those made while fetching included. */
  private async catchUp(jobId: string): Promise<void> {
    const missed = await this.parts.server.changesSince(jobId, this.get().revision);
    const { job, base, revision, pending } = this.get();
    if (job?.id !== jobId) return;
    const news = missed.filter((change) => change.revision > revision);
    const known = new Set(news.map((change) => change.changeId));
    const rest = pending.filter((p) => !known.has(p.changeId));
    let newer = base;
    try {
      for (const { patch } of news) newer = applyPatch(newer, unpack(newer, patch));
    } catch {
      // what this page has is not what the server had: the whole drawing is fetched
      const whole = await this.parts.server.openJob(jobId);
      if (this.get().job?.id !== jobId) return;
      return this.replay(
        whole.records,
        whole.revision,
        this.get().pending.filter((p) => !known.has(p.changeId)),
      );
    }
    this.replay(newer, news.at(-1)?.revision ?? revision, rest);
  }

  /** @returns false when the server went away meanwhile */
  private readonly caughtUp = (jobId: string): Promise<boolean> =>
    this.catchUp(jobId).then(
      () => true,
      () => false,
    );

  /** Catches up with nothing of our this.own under way. */
  private async follow(jobId: string): Promise<void> {
    if (this.busy) return;
    this.busy = true;
    const done = await this.caughtUp(jobId);
    this.busy = false;
    if (this.get().job?.id !== jobId) return;
    if (done) this.goOn();
    else if (this.get().pending.length === 0) this.callOff = this.parts.later(() => void this.follow(jobId), RETRY_MS);
  }

  /** The server says that a job moved on. */
  notice(jobId: string, revision: number): void {
    if (this.get().job?.id !== jobId || this.get().save === 'read-only') return;
    this.newest = Math.max(this.newest, revision);
    if (!this.busy && this.get().pending.length === 0 && this.newest > this.get().revision) void this.follow(jobId);
  }

  /** The server's stream of events is there again: what was missed meanwhile is fetched, what waits is sent. */
  reconnect(): void {
    const { job, pending, save } = this.get();
    if (!job || save === 'read-only') return;
    if (pending.length > 0) this.resume();
    else void this.follow(job.id);
  }

  async open(jobId: string): Promise<void> {
    this.sendNow();
    const [opened, left] = await Promise.all([this.parts.server.openJob(jobId), this.parts.place.takeOver(jobId)]);
    this.callOff?.();
    this.own = new Set();
    this.newest = opened.revision;
    this.set({ ...CLOSED, job: opened.job, base: opened.records, drawing: opened.records, revision: opened.revision, aside: left.aside });
    if (opened.readOnly !== null) this.onlyLook(opened.readOnly, left.pending);
    else this.takeUp(left.pending, opened);
    this.keep();
    if (opened.note) this.parts.tell('warning', opened.note);
    if (this.get().pending.length > 0) {
      this.parts.tell('info', 'Changes that had not reached the server were found on this machine and are being sent.');
      void this.flush();
    }
  }

  /** Nothing is changed; what waited is set aside, so that it is not lost. */
  private onlyLook(why: string, waiting: readonly KeptChange[]): void {
    const at = this.parts.now().toISOString();
    const aside = waiting.map(({ changeId, origin, patch }) => ({ changeId, origin, at, reason: why, patch }));
    this.set(({ aside: before }) => ({ save: 'read-only', trouble: why, knowsLog: true, aside: [...before, ...aside] }));
  }

  /** Changes that a page which is gone left, on the drawing as it is now. One that the server has already comes out as nothing. */
  private takeUp(changes: readonly KeptChange[], { records, revision }: OpenJob): void {
    let drawing = records;
    let lost = 0;
    for (const kept of changes) {
      const rebased = rebasePatch(drawing, unpackLoosely(drawing, kept.patch));
      lost += rebased.lost.length;
      if (isEmptyPatch(rebased.patch)) continue;
      // whether it had gone out already is not known: what the server says counts
      const change: PendingChange = { ...kept, patch: rebased.patch, altered: true };
      drawing = applyPatch(drawing, rebased.patch);
      this.own.add(change.changeId);
      this.set(({ pending, history }) => ({ pending: [...pending, change], history: remember(history, change) }));
    }
    this.set({ drawing, base: records, revision, ...this.saveState(this.get().pending) });
    if (lost > 0)
      this.parts.tell('warning', 'Part of what had not reached the server was changed elsewhere since; that part is left as it is.');
  }

  /** Fetches what the log has of the history, once. */
  learnLog(): Promise<void> {
    this.learning ??= this.askLog().finally(() => {
      this.learning = undefined;
    });
    return this.learning;
  }

  private async askLog(): Promise<void> {
    const { job, base, revision, knowsLog } = this.get();
    if (!job || knowsLog) return;
    const { changes, texts, closed } = await this.parts.server.history(job.id, revision);
    if (this.get().job?.id !== job.id || this.get().knowsLog) return;
    const logged = historyOf(stepsOf(base, changes, texts).filter(({ changeId }) => !this.own.has(changeId)));
    const { back, forward } = this.get().history;
    const isFresh = back.length === 0 && forward.length === 0;
    this.set({
      knowsLog: true,
      isClosed: closed,
      history: { back: [...logged.back, ...back], forward: isFresh ? logged.forward : forward },
    });
  }

  /** Makes a change that was set aside again, on the drawing as it stands. */
  tryAgain(changeId: string): void {
    const { aside, drawing, selection } = this.get();
    const change = aside.find((entry) => entry.changeId === changeId);
    if (!change) return;
    const { patch, lost } = rebasePatch(drawing, unpackLoosely(drawing, change.patch));
    if (lost.length > 0) this.parts.tell('warning', 'Part of this change does not fit the drawing as it stands; that part is left out.');
    if (isEmptyPatch(patch) || this.commit({ kind: 'do', origin: change.origin, group: '', patch }, selection)) this.letGo(changeId);
  }

  letGo(changeId: string): void {
    this.set(({ aside }) => ({ aside: aside.filter((entry) => entry.changeId !== changeId) }));
    this.keep();
  }

  close(): void {
    this.sendNow();
    this.callOff?.();
    this.set(CLOSED);
  }
}
