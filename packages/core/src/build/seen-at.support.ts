/** What is seen at a place, told a point at a time by winding numbers: the truth that the rows are held against in tests. */
import { flatten } from '../geometry/flatten.ts';
import { windingNumber } from '../geometry/hit.ts';
import { solidOf, type SeenPart } from './seen-part.ts';

/** The key that is seen at a place; undefined: nothing lies there. */
export function seenAtOf(parts: readonly SeenPart[]): (x: number, y: number) => string | undefined {
  const lines = parts.map(({ outline }) => flatten(solidOf(outline), 0.01));
  return (x, y) => {
    const top = lines.findLastIndex((own) => windingNumber(own, x, y) !== 0);
    return parts[top]?.key;
  };
}
