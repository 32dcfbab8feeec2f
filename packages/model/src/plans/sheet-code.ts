/** The short name of a sheet: figures that a camera reads and a person can say, the same for the same work. */
import { formatPath } from '@lorvek/core/geometry';
import type { SheetLine } from './plan-sheet.ts';

/** FNV-1a, 32 bit (G. Fowler, L. C. Noll, K.-P. Vo). */
export function hashOf(text: string, start = 0x811c9dc5): number {
  let hash = start;
  for (let i = 0; i < text.length; i++) hash = Math.imul(hash ^ text.charCodeAt(i), 0x01000193) >>> 0;
  return hash;
}

/** @returns six figures and the sheet's number, such as 402918-1 */
export function codeOf(parts: readonly (string | number)[], lines: readonly SheetLine[], sheet: number): string {
  const hash = lines.reduce((sum, { kind, outline }) => hashOf(`${kind} ${formatPath(outline, 2)}`, sum), hashOf(parts.join(' ')));
  return `${String(hash % 1_000_000).padStart(6, '0')}-${sheet}`;
}
