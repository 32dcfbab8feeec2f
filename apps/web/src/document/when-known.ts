/** Steps that stand on the size of items wait until that is known: a value typed meanwhile is kept, the newest of a kind. */
import { itemOf, leavesOf } from '@lorvek/model';
import { isWorkedOut, useDerivedVersion } from '../worker/derived.ts';
import { useDocument } from './store.ts';

const waiting = new Map<string, () => void>();

const isKnown = (ids: readonly string[]): boolean =>
  leavesOf(useDocument.getState().drawing, ids).every((leaf) => leaf.kind !== 'lettering' || isWorkedOut(leaf));

/**
 * Does a step now, or as soon as all the items are worked out.
 * @param kind of the step: a newer one of the same kind takes its place
 */
export function whenKnown(ids: readonly string[], kind: string, act: () => void): void {
  waiting.get(kind)?.();
  if (isKnown(ids)) return act();
  const stop = useDerivedVersion.subscribe(() => {
    const { drawing } = useDocument.getState();
    if (!ids.every((id) => itemOf(drawing, id))) return end();
    if (!isKnown(ids)) return;
    end();
    act();
  });
  const end = (): void => {
    stop();
    waiting.delete(kind);
  };
  waiting.set(kind, end);
}
