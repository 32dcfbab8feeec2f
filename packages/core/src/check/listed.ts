/** Lists of findings that are cut short, and say so: what is not listed is not nothing. */
import type { Finding } from './cut-check.ts';

/**
 * The first of many findings, those that stop the job before all others; the last one listed tells how many there are
 * besides. It is of a kind of its own: what puts one finding right, such as welding its parts, is not for many at once.
 * @param most how many are listed at most, that one included
 * @returns the findings as they are when there are no more
 */
export function listed(found: readonly Finding[], most: number): Finding[] {
  if (found.length <= most) return [...found];
  const isStop = ({ level }: Finding): boolean => level === 'stop';
  const ordered = [...found.filter(isStop), ...found.filter((one) => !isStop(one))];
  const rest = ordered.slice(most - 1);
  const [next] = rest;
  if (!next) return ordered;
  return [
    ...ordered.slice(0, most - 1),
    {
      code: 'not-listed',
      level: next.level,
      text: `${rest.length} more are not listed. They come up as those that are listed are put right.`,
      place: next.place,
      // a stop counts for the sheets that its items are on: all of them are named
      parts: [...new Set(rest.flatMap(({ parts }) => parts))],
    },
  ];
}
