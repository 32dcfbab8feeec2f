/** What the server's refusals mean for a change, and how they are told. */
import { AppError } from '@lorvek/core';

/** A failure of the server's own is tried so often before the change is set aside. */
const MOST_FAILURES = 3;

/** What to do with a change that did not get through. */
export function verdictOf(error: unknown, failures: number): 'rebase' | 'wait' | 'trouble' | 'sign-in' | 'again' | 'aside' {
  const code = error instanceof AppError ? error.code : 'offline';
  const status = error instanceof AppError ? Number(error.details['status'] ?? 0) : 0;
  if (code === 'stale') return 'rebase';
  if (code === 'access.sign-in') return 'sign-in';
  if (code.startsWith('storage.')) return 'trouble';
  if (code === 'offline' || code === 'http.429' || /^http\.50[234]$/.test(code)) return 'wait';
  if (status >= 500 || code.startsWith('http.5') || code === 'internal') return failures + 1 < MOST_FAILURES ? 'again' : 'aside';
  return 'aside';
}

const timeOf = (iso: unknown): string => {
  const at = typeof iso === 'string' ? new Date(iso) : undefined;
  return at && !Number.isNaN(at.getTime()) ? `${String(at.getHours()).padStart(2, '0')}:${String(at.getMinutes()).padStart(2, '0')}` : '';
};

/** In words why nothing is saved: "The disk of the server is full; nothing since 14:02 is saved." */
export function troubleText(error: unknown): string {
  if (!(error instanceof AppError)) return String(error);
  const time = timeOf(error.details['since']);
  return time === '' ? error.message : error.message.replace(/nothing is saved until that is put right/, `nothing since ${time} is saved`);
}
