/**
 * Where changes wait that the server does not have yet: IndexedDB, a place for each tab and job, so that two tabs of
 * one browser do not write over one another, and drawings of any size fit. A tab that opens a job takes over what tabs
 * that are gone left of it; tabs that live are asked first. Where there is no IndexedDB, changes wait in memory only.
 */
import { createStore, del, entries, set } from 'idb-keyval';
import { nanoid } from 'nanoid';
import type { Kept } from './open-document.ts';

const TAB = nanoid(12);
const ANSWER_MS = 200;

interface Place extends Kept {
  readonly jobId: string;
  readonly tab: string;
  readonly at: number;
}

const EMPTY: Kept = { pending: [], aside: [] };
const shelf = (() => {
  try {
    return createStore('lorvek-waiting', 'places');
  } catch {
    return undefined;
  }
})();

const channel = typeof BroadcastChannel === 'undefined' ? undefined : new BroadcastChannel('lorvek-tabs');
const present = new Set<string>();
channel?.addEventListener('message', ({ data }: MessageEvent<{ ask?: string; here?: string }>) => {
  if (data.ask !== undefined && data.ask !== TAB) channel.postMessage({ here: TAB });
  if (data.here !== undefined) present.add(data.here);
});

/** The tabs of this browser that are open now, this one among them. */
async function livingTabs(): Promise<ReadonlySet<string>> {
  present.clear();
  channel?.postMessage({ ask: TAB });
  if (channel) await new Promise((resolve) => setTimeout(resolve, ANSWER_MS));
  return new Set([...present, TAB]);
}

const keyOf = (jobId: string, tab = TAB): string => `${jobId}/${tab}`;

/** What is written next for each job; one write at a time, and only the newest. */
const next = new Map<string, Kept>();
let writing = false;

async function writeAll(): Promise<void> {
  if (writing || !shelf) return;
  writing = true;
  try {
    for (let [entry] = next; entry; [entry] = next) {
      const [jobId, kept] = entry;
      next.delete(jobId);
      const isEmpty = kept.pending.length === 0 && kept.aside.length === 0;
      if (isEmpty) await del(keyOf(jobId), shelf);
      else await set(keyOf(jobId), { ...kept, jobId, tab: TAB, at: Date.now() } satisfies Place, shelf);
    }
  } catch (error) {
    // the browser gives no room: changes wait in memory, and leaving the page asks first
    console.warn('Changes that wait cannot be kept in this browser.', error);
  } finally {
    writing = false;
  }
}

export function keep(jobId: string, kept: Kept): void {
  next.set(jobId, kept);
  void writeAll();
}

export async function takeOver(jobId: string): Promise<Kept> {
  if (!shelf) return EMPTY;
  try {
    const places = (await entries<string, Place>(shelf)).map(([, place]) => place).filter((place) => place.jobId === jobId);
    if (places.length === 0) return EMPTY;
    const living = await livingTabs();
    const left = places.filter(({ tab }) => tab === TAB || !living.has(tab)).sort((a, b) => a.at - b.at);
    for (const { tab } of left) if (tab !== TAB) await del(keyOf(jobId, tab), shelf);
    return { pending: left.flatMap(({ pending }) => pending), aside: left.flatMap(({ aside }) => aside) };
  } catch (error) {
    console.warn('What waits in this browser cannot be read.', error);
    return EMPTY;
  }
}
