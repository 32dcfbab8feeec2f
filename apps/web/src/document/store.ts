/** The open job on the page: its drawing, selection and history, commands on it, and its way to the server (`sync.ts`). */
import {
  applyPatch,
  composePatches,
  invertPatch,
  isEmptyPatch,
  pageOf,
  rebasePatch,
  withDescendants,
  type Command,
  type Drawing,
  type ItemId,
  type Patch,
} from '@lorvek/model';
import { nanoid } from 'nanoid';
import { toast } from 'sonner';
import { create } from 'zustand';
import { api, sentenceOf } from '../api/client.ts';
import { CLOSED, type OpenDocument } from './open-document.ts';
import { DocumentSync } from './sync.ts';
import { followDrawing } from '../worker/derived.ts';
import { keep, takeOver } from './waiting-place.ts';

export type { SaveState, SetAside } from './open-document.ts';

export const useDocument = create<OpenDocument>(() => CLOSED);
const { getState: get, setState: set } = useDocument;
// what depends on other items is worked out from the drawing as it stands
useDocument.subscribe(({ drawing }) => followDrawing(drawing));

/** A random id; the prefix says of what. Made without what browsers keep for secure pages only. */
export const newId = (prefix: string): string => `${prefix}-${nanoid(10)}`;

const sync = new DocumentSync({
  store: useDocument,
  server: api,
  place: { keep, takeOver },
  tell: (level, text) => toast[level](text),
  later: (work, ms) => {
    const timer = setTimeout(work, ms);
    return () => clearTimeout(timer);
  },
  newId,
  now: () => new Date(),
});

/** The server says that a job moved on. */
export const noticeRemoteChange = (jobId: string, revision: number): void => sync.notice(jobId, revision);
/** The server's stream of events is there again. */
export const reconnectDocument = (): void => sync.reconnect();
/**
 * Opens a job. What the log has of its history follows by itself, so that the first step back need not wait for it.
 * @throws AppError when the job does not exist or the server is away
 */
export async function openDocument(jobId: string): Promise<void> {
  await sync.open(jobId);
  // a failure is no matter here: the step back that needs it asks again, and says so
  sync.learnLog().catch(() => undefined);
}
export const closeDocument = (): void => sync.close();
/** Makes a change that was set aside again, on the drawing as it stands. */
export const tryAgain = (changeId: string): void => sync.tryAgain(changeId);
export const letGo = (changeId: string): void => sync.letGo(changeId);

window.addEventListener('pagehide', () => sync.sendNow());
window.addEventListener('online', reconnectDocument);
window.addEventListener('beforeunload', (event) => {
  const { pending, save } = get();
  // what is on its way arrives; what waits would only be kept in this browser
  if (pending.length > 0 && save !== 'saving') event.preventDefault();
});

const surviving = (selection: readonly string[], drawing: Drawing): string[] => selection.filter((id) => drawing[id] !== undefined);

/** What changes are called, and what makes several one step. */
export interface ChangeMeta {
  readonly origin: string;
  readonly group?: string;
}

/** Steps that are being gathered into one change. */
interface Gathering {
  readonly before: Pick<OpenDocument, 'drawing' | 'selection'>;
  patch: Patch;
  refused: boolean;
}
let gathering: Gathering | undefined;

/** Runs a command; a refusal is said. @returns whether it ran */
export function dispatch<Args>(command: Command<Args>, args: Args, manner: ChangeMeta): boolean {
  if (gathering?.refused) return false;
  const { drawing, selection } = get();
  const plan = command({ drawing, selection }, args);
  if (!plan.enabled) {
    toast.warning(plan.why);
    if (gathering) gathering.refused = true;
    return false;
  }
  const { patch, selection: next } = plan.run();
  if (gathering) {
    const after = applyPatch(drawing, patch);
    gathering.patch = composePatches(gathering.patch, patch);
    set({ drawing: after, selection: surviving(next, after) });
  } else if (isEmptyPatch(patch)) set({ selection: surviving(next, drawing) });
  else return sync.commit({ kind: 'do', origin: manner.origin, group: manner.group ?? '', patch }, next);
  return true;
}

/**
 * Several commands as one change: taken as a whole, or, when one of them is refused, not at all. What happens in
 * `steps` happens at once, without waiting for anything.
 * @returns whether it was taken
 */
export function asOne(manner: ChangeMeta, steps: () => void): boolean {
  if (gathering) {
    steps();
    return !gathering.refused;
  }
  const { drawing, selection } = get();
  const mine: Gathering = { before: { drawing, selection }, patch: {}, refused: false };
  gathering = mine;
  try {
    steps();
  } catch (error) {
    mine.refused = true;
    throw error;
  } finally {
    gathering = undefined;
    const { selection: chosen } = get();
    set(mine.before);
    if (!mine.refused && !isEmptyPatch(mine.patch))
      mine.refused = !sync.commit({ kind: 'do', origin: manner.origin, group: manner.group ?? '', patch: mine.patch }, chosen);
  }
  return !mine.refused;
}

function step(kind: 'undo' | 'redo'): void {
  const { history, drawing, isClosed } = get();
  const entry = kind === 'undo' ? history.back.at(-1) : history.forward.at(-1);
  if (!entry) {
    if (kind === 'undo' && isClosed)
      toast.info(
        'What was done before was saved by an older version of Lorvek; it cannot be taken back. Named versions still bring it back.',
      );
    return;
  }
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
  sync.commit({ kind, origin: entry.origin, group: entry.group, patch }, get().selection);
  selectTouched(touched);
}

/** After a step back or forward: what it touched is selected, groups as a whole. */
function selectTouched(touched: readonly string[]): void {
  const { drawing } = get();
  const { root } = pageOf(drawing);
  const wanted = new Set(touched);
  const tops = root.filter((id) => wanted.has(id) || withDescendants(drawing, id).some((item) => wanted.has(item.id)));
  if (tops.length > 0 && tops.length <= 200) set({ selection: tops });
}

/** A step within what is known; beyond that the log is asked first. */
function stepOrAsk(kind: 'undo' | 'redo'): void {
  const { history, knowsLog } = get();
  if (history[kind === 'undo' ? 'back' : 'forward'].length > 0 || knowsLog) return step(kind);
  sync
    .learnLog()
    .then(() => step(kind))
    .catch((error: unknown) => toast.error(sentenceOf(error)));
}

export const undo = (): void => stepOrAsk('undo');
export const redo = (): void => stepOrAsk('redo');

/** May there be something to go back or forward to? */
export const mayStep = ({ history, knowsLog, revision }: OpenDocument): { back: boolean; forward: boolean } => ({
  back: history.back.length > 0 || (!knowsLog && revision > 0),
  forward: history.forward.length > 0 || (!knowsLog && revision > 0 && history.back.length === 0),
});

export const select = (selection: readonly ItemId[]): void => set({ selection });
export const enterGroup = (entered: ItemId | undefined): void => set({ entered });
