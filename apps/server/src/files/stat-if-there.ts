/** What lies at a path; only what is not there is nothing: a disk that fails, or a folder that may not be read, is told. */
import type { Stats } from 'node:fs';
import { stat } from 'node:fs/promises';

const NOT_THERE = new Set(['ENOENT', 'ENOTDIR']);

/**
 * @param look `lstat` where links must not be followed
 * @throws whatever the operating system says but that nothing is there
 */
export async function statIfThere(path: string, look: (path: string) => Promise<Stats> = stat): Promise<Stats | undefined> {
  try {
    return await look(path);
  } catch (error) {
    if (NOT_THERE.has(String((error as { code?: unknown } | null)?.code))) return undefined;
    throw error;
  }
}
