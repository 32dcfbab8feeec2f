/** Why the disk or the database does not do what it is asked, in words that lead somewhere. */
import { AppError } from '@lorvek/core';

export const STORAGE_FAULTS = ['full', 'read-only', 'damaged', 'locked', 'failing'] as const;
export type StorageFault = (typeof STORAGE_FAULTS)[number];

/** By result codes of SQLite (sqlite.org/rescode.html) and of the operating system (errno). */
const BY_CODE: readonly (readonly [RegExp, StorageFault])[] = [
  [/^(SQLITE_FULL|ENOSPC|EDQUOT)/, 'full'],
  [/^(SQLITE_READONLY|SQLITE_CANTOPEN|SQLITE_PERM|EROFS|EACCES|EPERM)/, 'read-only'],
  [/^(SQLITE_CORRUPT|SQLITE_NOTADB)/, 'damaged'],
  [/^(SQLITE_BUSY|SQLITE_LOCKED)/, 'locked'],
  [/^(SQLITE_IOERR|EIO)/, 'failing'],
];

/** undefined for failures that are not the storage's. */
export function storageFaultOf(error: unknown): StorageFault | undefined {
  const { code, driverError } = (error ?? {}) as { code?: unknown; driverError?: unknown };
  if (error instanceof StorageError) return error.fault;
  const own = typeof code === 'string' ? BY_CODE.find(([pattern]) => pattern.test(code))?.[1] : undefined;
  return own ?? (driverError && driverError !== error ? storageFaultOf(driverError) : undefined);
}

const WORDS: Record<StorageFault, { what: string; remedy: string }> = {
  full: { what: 'The disk of the server is full', remedy: 'Make room on it; saving goes on by itself.' },
  'read-only': { what: 'The data folder of the server cannot be written', remedy: 'Give the server the right to write there.' },
  damaged: { what: 'The database of the server is damaged', remedy: 'Stop the server and bring back the newest backup.' },
  locked: { what: 'Another program holds the database of the server', remedy: 'End that program; saving goes on by itself.' },
  failing: {
    what: 'The disk of the server does not work as it should',
    remedy: 'Look at the disk and its cable, then start the server again.',
  },
};

/** A write or read that the storage refused. `details.since`: when writing began to fail, ISO 8601. */
export class StorageError extends AppError {
  constructor(
    readonly fault: StorageFault,
    since?: string,
  ) {
    const { what, remedy } = WORDS[fault];
    super(`storage.${fault}`, since === undefined ? `${what}.` : `${what}; nothing is saved until that is put right.`, {
      remedy,
      ...(since === undefined ? {} : { since }),
    });
  }
}
