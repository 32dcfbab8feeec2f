/** A job that is open in tests of the page, as if the server had just handed it over. */
import { EMPTY_HISTORY, type Drawing, type Job } from '@lorvek/model';
import { CLOSED } from './open-document.ts';
import type * as Store from './store.ts';

export function openDrawing(
  { useDocument }: typeof Store,
  drawing: Drawing,
  { id = 'job-1', selection = [] }: { readonly id?: string; readonly selection?: readonly string[] } = {},
): void {
  useDocument.setState({
    ...CLOSED,
    job: { id, name: id, revision: 0 } as Job,
    drawing,
    base: drawing,
    history: EMPTY_HISTORY,
    knowsLog: true,
    selection,
  });
}
