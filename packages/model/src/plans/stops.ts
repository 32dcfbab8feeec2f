/** What forbids sending. */
import type { Finding } from '@lorvek/core/check';

interface Checked {
  readonly whole: readonly Finding[];
  readonly sheets: readonly { readonly findings: readonly Finding[]; readonly itemIds: readonly string[] }[];
}

/** Stops of these sheets, and of the drawing where they concern an item that is on one of them. Each text once. */
export function stopsOf({ whole, sheets }: Checked): Finding[] {
  const going = new Set(sheets.flatMap((sheet) => sheet.itemIds));
  const all = [...sheets.flatMap((sheet) => sheet.findings), ...whole.filter(({ parts }) => parts.some((id) => going.has(id)))];
  const seen = new Set<string>();
  return all.filter(({ level, text }) => level === 'stop' && !seen.has(text) && seen.add(text));
}
