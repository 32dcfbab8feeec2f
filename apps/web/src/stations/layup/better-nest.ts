/** Which of two layouts is the better one, also while both are still being found. */
import type { NestAnswer } from '@lorvek/computations';

const missing = ({ leftOut }: NestAnswer): number => leftOut.reduce((sum, { copies }) => sum + copies, 0);
const sheets = ({ placed }: NestAnswer): number => placed.reduce((most, { sheet }) => Math.max(most, sheet + 1), 0);

/** What finds room for more, then what needs fewer sheets, then what is shorter; of equals the one that was there. */
export function betterNest(answer: NestAnswer, than: NestAnswer | undefined): boolean {
  if (!than) return true;
  const order = [
    missing(than) - missing(answer),
    answer.placed.length - than.placed.length,
    sheets(than) - sheets(answer),
    than.usedLengthMm - answer.usedLengthMm,
  ];
  return (order.find((by) => by !== 0) ?? 0) > 0;
}
