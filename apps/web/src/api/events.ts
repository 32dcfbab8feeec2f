/** One stream of events from the server for the whole page; reconnects by itself. */
import type { Run } from '@lorvek/model';

export interface JobEvent {
  jobId: string;
  revision: number;
  changeId: string;
}

/** How far the server is with making the files of an order. */
export interface SendingEvent {
  orderId: string;
  share: number;
}

interface Listener {
  run?: (run: Run) => void;
  job?: (event: JobEvent) => void;
  sending?: (event: SendingEvent) => void;
  inbox?: () => void;
  restored?: () => void;
  open?: () => void;
}

const listeners = new Set<Listener>();
let source: EventSource | undefined;
const REOPEN_MS = 1500;

function open(): void {
  source = new EventSource('/api/events');
  source.addEventListener('open', () => listeners.forEach((l) => l.open?.()));
  source.addEventListener('run', (event) => {
    const { run } = JSON.parse((event as MessageEvent<string>).data) as { run: Run };
    listeners.forEach((l) => l.run?.(run));
  });
  source.addEventListener('restored', () => listeners.forEach((l) => l.restored?.()));
  source.addEventListener('error', () => {
    // refused, not broken: the browser gives up, so it is opened afresh
    if (source?.readyState === EventSource.CLOSED) setTimeout(() => listeners.size > 0 && open(), REOPEN_MS);
  });
  source.addEventListener('inbox', () => listeners.forEach((l) => l.inbox?.()));
  source.addEventListener('sending', (event) => {
    const sending = JSON.parse((event as MessageEvent<string>).data) as SendingEvent;
    listeners.forEach((l) => l.sending?.(sending));
  });
  source.addEventListener('job', (event) => {
    const change = JSON.parse((event as MessageEvent<string>).data) as JobEvent;
    listeners.forEach((l) => l.job?.(change));
  });
}

/** @returns a function that stops listening */
export function listen(listener: Listener): () => void {
  listeners.add(listener);
  if (!source) open();
  return () => {
    listeners.delete(listener);
    if (listeners.size === 0) {
      source?.close();
      source = undefined;
    }
  };
}
