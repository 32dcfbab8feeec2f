/** What pages are told without asking: runs that moved, jobs that changed, files in the Inbox. */
import { Injectable, type MessageEvent } from '@nestjs/common';
import { Subject, interval, map, merge, of, type Observable } from 'rxjs';
import type { Run } from '@lorvek/model';

export type ShopEvent =
  | { type: 'run'; run: Run }
  | { type: 'job'; jobId: string; revision: number; changeId: string }
  | { type: 'inbox' }
  | { type: 'restored' }
  | { type: 'sending'; orderId: string; share: number };

const KEEP_ALIVE_MS = 20_000;
/** A page whose stream was cut comes back after this. */
const COME_BACK_MS = 800;

@Injectable()
export class EventsService {
  private readonly subject = new Subject<ShopEvent>();

  emit(event: ShopEvent): void {
    this.subject.next(event);
  }

  /** Called when all data have been replaced by a backup's. */
  onRestored(forget: () => void): void {
    this.subject.subscribe((event) => event.type === 'restored' && forget());
  }

  stream(): Observable<MessageEvent> {
    return merge(
      of({ type: 'alive', data: {}, retry: COME_BACK_MS }),
      this.subject.pipe(map((event) => ({ type: event.type, data: event }))),
      interval(KEEP_ALIVE_MS).pipe(map(() => ({ type: 'alive', data: {} }))),
    );
  }
}
