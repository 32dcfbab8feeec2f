/**
 * The order in which items are worked out: one at a time, the newest state of each item only, and what is no longer
 * wanted is not begun. A long one that nobody wants any more is stopped, so that the short ones behind it come at once.
 */
import type { LeafItem } from '@lorvek/model';
import type { Derived } from '@lorvek/model/derive';

export interface QueuePorts {
  /** Works an item out. */
  derive(item: LeafItem): Promise<Derived>;
  /** Ends what is being worked out; its promise is rejected. */
  stop(): void;
  /** Is the item still as it is asked for? */
  isWanted(item: LeafItem, key: string): boolean;
  readonly settled: (key: string, result: Derived | { error: unknown }) => void;
  /** Milliseconds. */
  now(): number;
}

interface Asked {
  readonly item: LeafItem;
  readonly key: string;
}

/** Starting a worker afresh costs about as much, ms. */
const WORTH_STOPPING_MS = 600;

export class DeriveQueue {
  private readonly waiting = new Map<string, Asked>();
  private running: (Asked & { readonly since: number; dropped: boolean }) | undefined;
  private readonly ports: QueuePorts;

  constructor(ports: QueuePorts) {
    this.ports = ports;
  }

  /** Is this state of the item waiting or being worked out? */
  has(key: string): boolean {
    return this.running?.key === key || [...this.waiting.values()].some((asked) => asked.key === key);
  }

  add(item: LeafItem, key: string): void {
    // a newer state of an item takes the older one's place
    this.waiting.set(item.id, { item, key });
    this.mayStop();
    this.next();
  }

  private mayStop(): void {
    const { running } = this;
    if (!running || running.dropped || this.ports.now() - running.since < WORTH_STOPPING_MS) return;
    if (this.ports.isWanted(running.item, running.key)) return;
    running.dropped = true;
    this.ports.stop();
  }

  private next(): void {
    if (this.running) return;
    for (const [id, asked] of this.waiting) {
      this.waiting.delete(id);
      if (this.ports.isWanted(asked.item, asked.key)) return this.run(asked);
    }
  }

  private run(asked: Asked): void {
    const running = { ...asked, since: this.ports.now(), dropped: false };
    this.running = running;
    const done = (result: Derived | { error: unknown }): void => {
      this.running = undefined;
      if (!running.dropped) this.ports.settled(asked.key, result);
      this.next();
    };
    this.ports.derive(asked.item).then(done, (error: unknown) => done({ error }));
  }
}
