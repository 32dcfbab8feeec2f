/** Steps that stand on the size of items wait until that is known: a value typed meanwhile is kept, the newest of a kind. */
import { itemOf, leavesOf } from '@lorvek/model';
import { resultOf, useDerivedVersion } from '../worker/derived.ts';
import { useDocument } from './store.ts';

const waiting = new Map<string, () => void>();

const isKnown = (ids: readonly string[]): boolean =>
  // what cannot be worked out is known too: it is not waited for
  leavesOf(useDocument.getState().drawing, ids).every((leaf) => leaf.kind !== 'lettering' || resultOf(leaf) !== undefined);

/**
 * Does a step now, or as soon as all the items are worked out.
 * @param kind of the step: a newer one of the same kind for the same items takes its place
 */
export function whenKnown(ids: readonly string[], kind: string, act: () => void): void {
  const key = `${kind} ${ids.join(' ')}`;
  waiting.get(key)?.();
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
    waiting.delete(key);
  };
  waiting.set(key, end);
}
