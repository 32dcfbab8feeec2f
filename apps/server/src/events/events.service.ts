/** What pages are told without asking: runs that moved, jobs that changed, files in the Inbox. */
import { Injectable, type MessageEvent } from '@nestjs/common';
import { Subject, interval, map, merge, type Observable } from 'rxjs';
import type { Run } from '@lorvek/model';

export type ShopEvent = { type: 'run'; run: Run } | { type: 'job'; jobId: string; revision: number; changeId: string } | { type: 'inbox' };

const KEEP_ALIVE_MS = 20_000;

@Injectable()
export class EventsService {
  private readonly subject = new Subject<ShopEvent>();

  emit(event: ShopEvent): void {
    this.subject.next(event);
  }

  stream(): Observable<MessageEvent> {
    return merge(
      this.subject.pipe(map((event) => ({ type: event.type, data: event }))),
      interval(KEEP_ALIVE_MS).pipe(map(() => ({ type: 'alive', data: {} }))),
    );
  }
}
