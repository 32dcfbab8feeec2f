/** Lists of findings that are cut short, and say so: what is not listed is not nothing. */
import type { Finding } from './cut-check.ts';

/**
 * The first of many findings, those that stop the job before all others; the last one listed tells how many there are
 * besides, as a finding of their kind.
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
      code: next.code,
      level: next.level,
      text: `${rest.length} more are not listed. They come up as those that are listed are put right.`,
      place: next.place,
      parts: [...new Set(rest.flatMap(({ parts }) => parts))].slice(0, 50),
    },
  ];
}
