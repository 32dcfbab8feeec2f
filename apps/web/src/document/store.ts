/**
 * The open job on the page: its drawing, selection, history, and the changes on their way to the server.
 * `base` is what the server has confirmed; `drawing` is base with the pending changes on top. A refused change
 * is rebased on what changed meanwhile. Pending changes also lie in the browser's storage until confirmed.
 */
import { AppError } from '@lorvek/core';
import {
  applyPatch,
  composePatches,
  EMPTY_HISTORY,
  historyOf,
  invertPatch,
  isEmptyPatch,
  pageOf,
  rebasePatch,
  remember,
  withDescendants,
  type ChangeKind,
  type Command,
  type Drawing,
  type History,
  type Job,
  type LoggedChange,
  type Patch,
} from '@lorvek/model';
import { toast } from 'sonner';
import { create } from 'zustand';
import { api, sentenceOf } from '../api/client.ts';

export type SaveState = 'saved' | 'saving' | 'offline';

interface Pending {
  changeId: string;
  kind: ChangeKind;
  origin: string;
  group: string;
  patch: Patch;
  /** It has gone out at least once: the server may know it, so nothing more may join it. */
  sent?: boolean;
}

interface OpenDocument {
  job: Job | undefined;
  drawing: Drawing;
  base: Drawing;
  revision: number;
  history: History;
  selection: readonly string[];
  /** Group whose inside is being worked on. */
  entered: string | undefined;
  pending: readonly Pending[];
  save: SaveState;
}

const CLOSED: OpenDocument = {
  job: undefined,
  drawing: {},
  base: {},
  revision: 0,
  history: EMPTY_HISTORY,
  selection: [],
  entered: undefined,
  pending: [],
  save: 'saved',
};

export const useDocument = create<OpenDocument>(() => CLOSED);
const { getState: get, setState: set } = useDocument;

/** A random id; the prefix says of what. */
export const newId = (prefix: string): string => `${prefix}-${crypto.randomUUID().slice(0, 13)}`;

const RETRY_MS = 2000;
const storageKey = (jobId: string): string => `lorvek.pending.${jobId}`;
let inFlight = false;
let retry: ReturnType<typeof setTimeout> | undefined;

/** More records than this do not fit the browser's storage; writing them out only to be refused would hold up the page. */
const MOST_KEPT = 8000;

function keepPending(): void {
  const { job, pending } = get();
  if (!job) return;
  if (pending.reduce((sum, { patch }) => sum + Object.keys(patch).length, 0) > MOST_KEPT) return;
  try {
    if (pending.length === 0) localStorage.removeItem(storageKey(job.id));
    else localStorage.setItem(storageKey(job.id), JSON.stringify(pending));
  } catch {
    // storage is full or forbidden: the changes still lie in memory and go out as soon as the server answers
  }
}

function storedPending(jobId: string): Pending[] {
  try {
    return JSON.parse(localStorage.getItem(storageKey(jobId)) ?? '[]') as Pending[];
  } catch {
    return [];
  }
}

const surviving = (selection: readonly string[], drawing: Drawing): string[] => selection.filter((id) => drawing[id] !== undefined);

/** Changes of more records than this are written out and sent once they have been painted. */
const LARGE_PATCH = 2000;
const AFTER_PAINT_MS = 60;

/** A large change that waits for its painting. */
let unsent: (() => void) | undefined;

/** Sends it now: before the next change, another job, or the end of the page. */
function sendUnsent(): void {
  const send = unsent;
  unsent = undefined;
  send?.();
}

window.addEventListener('pagehide', sendUnsent);

/** Takes a change into the page: drawing, history, queue. */
function commit(change: Pending, selection: readonly string[]): void {
  const state = get();
  const drawing = applyPatch(state.drawing, change.patch);
  const last = state.pending.at(-1);
  const joins = last && !last.sent && last.kind === 'do' && change.kind === 'do' && change.group !== '' && last.group === change.group;
  const pending = joins
    ? [...state.pending.slice(0, -1), { ...last, patch: composePatches(last.patch, change.patch) }]
    : [...state.pending, change];
  set({
    drawing,
    pending: pending.filter((p) => !isEmptyPatch(p.patch)),
    history: remember(state.history, change),
    selection: surviving(selection, drawing),
    save: state.save === 'offline' ? 'offline' : 'saving',
  });
  const send = (): void => {
    keepPending();
    void flush();
  };
  sendUnsent();
  if (Object.keys(change.patch).length <= LARGE_PATCH) return send();
  const timer = setTimeout(() => sendUnsent(), AFTER_PAINT_MS);
  unsent = () => {
    clearTimeout(timer);
    send();
  };
}

/** What changes are called, and what makes several one step. */
export interface Manner {
  readonly origin: string;
  readonly group?: string;
}

/** Runs a command; a refusal is said. @returns whether it ran */
export function dispatch<Args>(command: Command<Args>, args: Args, manner: Manner): boolean {
  const { drawing, selection } = get();
  const plan = command({ drawing, selection }, args);
  if (!plan.enabled) {
    toast.warning(plan.why);
    return false;
  }
  const { patch, selection: next } = plan.run();
  if (isEmptyPatch(patch)) {
    set({ selection: surviving(next, drawing) });
    return true;
  }
  commit({ changeId: newId('change'), kind: 'do', origin: manner.origin, group: manner.group ?? '', patch }, next);
  return true;
}

function step(kind: 'undo' | 'redo'): void {
  const { history, drawing } = get();
  const entry = kind === 'undo' ? history.back.at(-1) : history.forward.at(-1);
  if (!entry) return;
  const wanted = kind === 'undo' ? invertPatch(entry.patch) : entry.patch;
  const { patch, lost } = rebasePatch(drawing, wanted);
  if (lost.length > 0) toast.info('Part of this step was changed elsewhere since; that part is left as it is.');
  if (isEmptyPatch(patch)) {
    set({
      history: kind === 'undo' ? { ...history, back: history.back.slice(0, -1) } : { ...history, forward: history.forward.slice(0, -1) },
    });
    return;
  }
  const touched = Object.keys(patch).filter((id) => patch[id]?.after?.type === 'item');
  commit({ changeId: newId('change'), kind, origin: entry.origin, group: entry.group, patch }, get().selection);
  selectTouched(touched);
}

/** After a step back or forward: what it touched is selected, groups as a whole. */
function selectTouched(touched: readonly string[]): void {
  const { drawing } = get();
  const { root } = pageOf(drawing);
  const tops = root.filter((id) => touched.includes(id) || withDescendants(drawing, id).some((item) => touched.includes(item.id)));
  if (tops.length > 0 && tops.length <= 200) set({ selection: tops });
}

export const undo = (): void => step('undo');
export const redo = (): void => step('redo');
export const select = (selection: readonly string[]): void => set({ selection });
export const enterGroup = (entered: string | undefined): void => set({ entered });

/** Sends what is pending, one change at a time. */
async function flush(): Promise<void> {
  const { job, pending, revision } = get();
  const [next] = pending;
  if (inFlight || !job || !next) return;
  inFlight = true;
  clearTimeout(retry);
  set({ pending: [{ ...next, sent: true }, ...pending.slice(1)] });
  const { changeId, kind, origin, group, patch } = next;
  try {
    const answer = await api.postChange(job.id, { changeId, kind, origin, group, patch, baseRevision: revision });
    if (get().job?.id !== job.id) return;
    const state = get();
    set({
      base: applyPatch(state.base, next.patch),
      revision: answer.revision,
      pending: state.pending.slice(1),
      save: state.pending.length > 1 ? 'saving' : 'saved',
    });
  } catch (error) {
    if (get().job?.id === job.id) await recover(job.id, next, error);
  } finally {
    inFlight = false;
  }
  keepPending();
  if (get().pending.length > 0 && get().save !== 'offline') void flush();
}

async function recover(jobId: string, change: Pending, error: unknown): Promise<void> {
  const code = error instanceof AppError ? error.code : 'offline';
  if (code === 'stale' && (await caughtUp(jobId))) return;
  if (/^(input|limit|geometry)\./.test(code)) {
    const rest = get().pending.filter((p) => p.changeId !== change.changeId);
    replay(get().base, get().revision, rest);
    toast.error(`The server did not take the last change: ${sentenceOf(error)}`);
    return;
  }
  set({ save: 'offline' });
  retry = setTimeout(() => {
    set({ save: 'saving' });
    void flush();
  }, RETRY_MS);
}

/** Puts the pending changes on a newer base. */
function replay(base: Drawing, revision: number, pending: readonly Pending[]): void {
  let drawing = base;
  const kept: Pending[] = [];
  let lost = 0;
  for (const change of pending) {
    const rebased = rebasePatch(drawing, change.patch);
    lost += rebased.lost.length;
    if (isEmptyPatch(rebased.patch)) continue;
    drawing = applyPatch(drawing, rebased.patch);
    kept.push({ ...change, patch: rebased.patch });
  }
  set({
    base,
    drawing,
    revision,
    pending: kept,
    selection: surviving(get().selection, drawing),
    save: kept.length > 0 ? 'saving' : 'saved',
  });
  if (lost > 0)
    toast.warning('Someone else changed the same thing meanwhile. Their version stands; make your change again if it is still wanted.');
}

/** Fetches what changed on the server and puts the pending changes on top, those made while fetching included. */
async function catchUp(jobId: string): Promise<void> {
  const missed = await api.changesSince(jobId, get().revision);
  const { job, base, revision, pending } = get();
  if (job?.id !== jobId) return;
  const news = missed.filter((change) => change.revision > revision);
  const own = new Set(news.map((change) => change.changeId));
  const newest = news.reduce<Drawing>((sum, change) => applyPatch(sum, change.patch), base);
  replay(
    newest,
    news.at(-1)?.revision ?? revision,
    pending.filter((p) => !own.has(p.changeId)),
  );
}

/** @returns false when the server went away meanwhile */
const caughtUp = (jobId: string): Promise<boolean> =>
  catchUp(jobId).then(
    () => true,
    () => false,
  );

/** The server says that a job moved on. Nothing is sent while the page catches up. */
export function noticeRemoteChange(jobId: string, revision: number): void {
  const { job, pending } = get();
  if (job?.id !== jobId || inFlight || pending.length > 0 || revision <= get().revision) return;
  inFlight = true;
  void caughtUp(jobId).then(() => {
    inFlight = false;
    void flush();
  });
}

/** Opens a job. @throws AppError when it does not exist or the server is away */
export async function openDocument(jobId: string): Promise<void> {
  sendUnsent();
  const opened = await api.openJob(jobId);
  const known = new Set(opened.recent.map((change: LoggedChange) => change.changeId));
  const waiting = storedPending(jobId).filter((change) => !known.has(change.changeId));
  set({
    ...CLOSED,
    job: opened.job,
    base: opened.records,
    drawing: opened.records,
    revision: opened.revision,
    history: historyOf(opened.recent),
  });
  if (waiting.length > 0) {
    replay(opened.records, opened.revision, waiting);
    set({ history: waiting.reduce(remember, get().history) });
    keepPending();
    toast.info('Changes that had not reached the server were found on this machine and are being sent.');
    void flush();
  }
}

export function closeDocument(): void {
  sendUnsent();
  clearTimeout(retry);
  set(CLOSED);
}
