/**
 * The order in which items are worked out: the newest state of each item only, and what is no longer wanted is not begun.
 * Some are handed to the worker ahead, so that it never waits for the page. A long one that nobody wants any more is
 * stopped, so that the short ones behind it come at once.
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
/** So many are handed to the worker at a time. */
const MOST_UNDERWAY = 16;

export class DeriveQueue {
  /** By item. */
  private readonly waiting = new Map<string, Asked>();
  /** Handed to the worker, the one that it is at first. */
  private underway: Asked[] = [];
  /** Keys of both, for it is asked for every item in every frame. */
  private readonly keys = new Set<string>();
  private since = 0;
  private readonly ports: QueuePorts;

  constructor(ports: QueuePorts) {
    this.ports = ports;
  }

  /** Is this state of an item waiting or being worked out? */
  has(key: string): boolean {
    return this.keys.has(key);
  }

  add(item: LeafItem, key: string): void {
    // a newer state of an item takes the older one's place
    const older = this.waiting.get(item.id);
    if (older) this.keys.delete(older.key);
    this.waiting.set(item.id, { item, key });
    this.keys.add(key);
    this.mayStop();
    this.next();
  }

  private mayStop(): void {
    const [head, ...behind] = this.underway;
    if (!head || this.ports.now() - this.since < WORTH_STOPPING_MS || this.ports.isWanted(head.item, head.key)) return;
    this.underway = [];
    this.keys.delete(head.key);
    this.ports.stop();
    // what was handed over behind it is asked for again, unless a newer state of it waits
    for (const asked of behind) {
      if (this.waiting.has(asked.item.id)) this.keys.delete(asked.key);
      else this.waiting.set(asked.item.id, { ...asked });
    }
  }

  private next(): void {
    for (const [id, asked] of this.waiting) {
      if (this.underway.length >= MOST_UNDERWAY) return;
      this.waiting.delete(id);
      if (this.ports.isWanted(asked.item, asked.key)) this.run(asked);
      else this.keys.delete(asked.key);
    }
  }

  private run(asked: Asked): void {
    if (this.underway.length === 0) this.since = this.ports.now();
    this.underway.push(asked);
    const done = (result: Derived | { error: unknown }): void => {
      // stopped meanwhile: it is asked for again, or nobody wants it
      if (!this.underway.includes(asked)) return;
      this.underway = this.underway.filter((one) => one !== asked);
      this.since = this.ports.now();
      this.keys.delete(asked.key);
      this.ports.settled(asked.key, result);
      this.next();
    };
    this.ports.derive(asked.item).then(done, (error: unknown) => done({ error }));
  }
}
